package pace_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/pace"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func after(s float64) time.Time { return dusk.Add(time.Duration(s * float64(time.Second))) }

func line(id string, due float64, change ...func(*pace.Line)) pace.Line {
	l := pace.Line{ID: id, Platform: "quayside", Name: id, Text: "hello " + id, Made: dusk, Due: after(due), Priority: pace.GeneralGreeting}
	for _, f := range change {
		f(&l)
	}
	return l
}

func join(l *pace.Line)                        { l.Join = true }
func expires(s float64) func(*pace.Line)       { return func(l *pace.Line) { l.Expires = after(s) } }
func ranks(p pace.Priority) func(l *pace.Line) { return func(l *pace.Line) { l.Priority = p } }
func asks(until float64) func(l *pace.Line) {
	return func(l *pace.Line) { l.Ask, l.AskEnds = "ask-1", after(until) }
}
func on(platform string) func(l *pace.Line) { return func(l *pace.Line) { l.Platform = platform } }

// live lets a queue run from wake to wake and tells what left when.
func live(q *pace.Queue, r pace.Rules, until float64) []string {
	var out []string
	for {
		at, ok := q.Wake(false, r)
		if !ok || at.After(after(until)) {
			return out
		}
		for _, o := range q.Release(nil, at, false, r) {
			what := o.Lines[0].ID
			if o.Joined {
				what = fmt.Sprint(len(o.Lines), " joined")
			}
			if o.Drop != "" {
				what = "dropped " + what
			} else {
				q.Left(o.Platform, at, o.Joined, 1)
			}
			for _, l := range o.Lines {
				q.Remove(l.ID, o.Platform)
			}
			out = append(out, fmt.Sprintf("%s %s", at.Sub(dusk), what))
		}
	}
}

func want(t *testing.T, got []string, want ...string) {
	t.Helper()
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("got  %v\nwant %v", got, want)
	}
}

func TestALineWaitsForItsDelayAndTheGap(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("lena", 4), line("bo", 4), line("maud", 20)}}
	want(t, live(q, pace.Rules{Gap: 3 * time.Second}, 60), "4s lena", "7s bo", "20s maud")
}

func TestUrgentLinesGoAheadOfThoseWaiting(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("lena", 1), line("bo", 1), line("raid", 2, ranks(pace.Thanks)), line("shout", 2, ranks(pace.ShoutOut))}}
	want(t, live(q, pace.Rules{Gap: 5 * time.Second}, 60), "1s lena", "6s raid", "11s shout", "16s bo")
}

func TestPlatformsDoNotWaitForEachOther(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("lena", 1), line("pip", 1, on("fernlight"))}}
	want(t, live(q, pace.Rules{Gap: 30 * time.Second}, 60), "1s pip", "1s lena")
}

func TestALineIsGivenUpWhenItHasWaitedTooLong(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("lena", 0), line("bo", 0, expires(8))}}
	want(t, live(q, pace.Rules{Gap: 10 * time.Second}, 60), "0s lena", "8s dropped bo")
}

func TestThreeWaitingGreetingsBecomeOneAndTheNextOnesRest(t *testing.T) {
	r := pace.Rules{Gap: 3 * time.Second, JoinAt: 3, JoinEvery: 12 * time.Second}
	two := &pace.Queue{Lines: []pace.Line{line("a", 4, join), line("b", 5, join)}}
	want(t, live(two, r, 60), "4s a", "7s b")
	many := &pace.Queue{Lines: []pace.Line{line("a", 4, join), line("b", 5, join), line("c", 6, join), line("own", 4, ranks(pace.OwnGreeting))}}
	got := live(many, r, 8)
	many.Lines = append(many.Lines, line("d", 9, join))
	want(t, append(got, live(many, r, 60)...), "4s own", "7s 3 joined", "19s d")
}

func TestTheNetworksLimitHoldsWhateverIsHurried(t *testing.T) {
	r := pace.Rules{Limits: map[string]pace.Limit{"quayside": {Lines: 2, Window: 30 * time.Second}}}
	hurry := func(l *pace.Line) { l.Hurried = true }
	q := &pace.Queue{Lines: []pace.Line{line("a", 0, hurry), line("b", 0, hurry), line("c", 0, hurry)}}
	want(t, live(q, r, 60), "0s a", "0s b", "30s c")
}

func TestALineWaitsForItsAnswerButNotForEver(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("raid", 0, asks(2))}}
	want(t, live(q, pace.Rules{}, 60), "2s raid")
}

func TestUnderHushOnlyHandsAreLetThrough(t *testing.T) {
	q := &pace.Queue{Lines: []pace.Line{line("lena", 0), line("hand", 0, ranks(pace.ByHand))}}
	out := q.Release(nil, after(1), true, pace.Rules{})
	if len(out) != 1 || out[0].Lines[0].ID != "hand" {
		t.Errorf("under hush %+v leaves", out)
	}
	q.Remove("hand", "")
	if at, ok := q.Wake(true, pace.Rules{}); ok {
		t.Errorf("woken at %s for a line that is held", at)
	}
}

func TestTheCountdownIsWhatReallyHappens(t *testing.T) {
	r := pace.Rules{Gap: 3 * time.Second, JoinAt: 3, JoinEvery: 12 * time.Second}
	q := &pace.Queue{Lines: []pace.Line{line("a", 4, join), line("b", 4, join), line("raid", 5, ranks(pace.Thanks)), line("shout", 13, ranks(pace.ShoutOut))}}
	leaves := q.LeavesAt(false, r)
	for _, s := range live(q, r, 60) {
		var at, id string
		fmt.Sscan(s, &at, &id)
		if got := leaves[id+"@quayside"].Sub(dusk).String(); got != at {
			t.Errorf("%s was to leave at %s and left at %s", id, got, at)
		}
	}
}

func TestNamesAreListedUpToSixAndTheRestCounted(t *testing.T) {
	var ls []pace.Line
	for i, wants := range []string{"a", "a and b", "a, b and c", "a, b, c and d", "a, b, c, d and e", "a, b, c, d, e and f", "a, b, c, d, e, f", "a, b, c, d, e, f"} {
		ls = append(ls, pace.Line{Name: string(rune('a' + i))})
		names, more := pace.Names(ls, 6)
		if names != wants || more != max(0, i-5) {
			t.Errorf("%d people: %q and %d more", i+1, names, more)
		}
	}
}

func burst(name string, at int) func(*pace.Line) {
	return func(l *pace.Line) { l.Burst, l.BurstAt, l.Person = name, at, "quayside:"+l.ID }
}

func effect(kind string) func(*pace.Line) {
	return func(l *pace.Line) { l.Effect, l.Platform = kind, "overlay" }
}

func TestABurstLeavesAsOneFromTheNumberSetOnAndAloneBelowIt(t *testing.T) {
	for n, want := range map[int]int{1: 1, 2: 2, 3: 1, 40: 1} { // lines waiting → times something leaves
		q := pace.Queue{}
		for i := range n {
			l := line(fmt.Sprint("f", i), 6, burst("follow/chat", 3))
			l.Due = q.Window(nil, l.Burst, l.Platform, after(6+float64(i)))
			if !l.Due.Equal(after(6)) {
				t.Fatalf("the window of line %d ends at %s", i, l.Due)
			}
			q.Lines = append(q.Lines, l)
		}
		out := q.Release(nil, after(6), false, pace.Rules{JoinAt: 2})
		if len(out) != want || out[0].Joined != (n >= 3) {
			t.Errorf("%d wait: %d left, joined %v", n, len(out), out[0].Joined)
		}
		if joins := q.Joins(false, pace.Rules{JoinAt: 2}); len(joins) != map[bool]int{true: n, false: 0}[n >= 3] {
			t.Errorf("%d wait: %d are said to join", n, len(joins))
		}
	}
}

func TestBurstsOfDifferentKindsGreetingsAndPlatformsDoNotMix(t *testing.T) {
	q := pace.Queue{Lines: []pace.Line{line("a", 0, burst("follow/chat", 2)), line("b", 0, burst("tip/chat", 2)), line("c", 0, join), line("d", 0, burst("follow/chat", 2), on("fernlight")),
		line("e", 0, burst("follow/chat", 2), effect("card")), line("f", 0, burst("follow/chat", 2), effect("sound"))}}
	for _, o := range q.Release(nil, dusk, false, pace.Rules{JoinAt: 2}) {
		if o.Joined {
			t.Errorf("%d lines became one", len(o.Lines))
		}
	}
}

func TestWhatIsNoLineOfChatWaitsForItsDelayAndForHushAlone(t *testing.T) {
	q := pace.Queue{Gates: map[string]*pace.Gate{}}
	r := pace.Rules{Gap: time.Minute, Limits: map[string]pace.Limit{"overlay": {Lines: 1, Window: time.Hour}}}
	q.Lines = []pace.Line{line("card", 0, effect("card")), line("another", 0, effect("card")), line("later", 5, effect("lamp"))}
	if out := q.Release(nil, dusk, false, r); len(out) != 2 {
		t.Errorf("%d left at once", len(out))
	}
	if at, ok := (&pace.Queue{Lines: q.Lines[2:]}).Wake(false, r); !ok || !at.Equal(after(5)) {
		t.Errorf("the lamp is lit at %s", at)
	}
	record := line("post", 0, effect("relay"))
	record.Record = true
	q.Lines = append(q.Lines, record)
	if out := q.Release(nil, after(9), true, r); len(out) != 1 || out[0].Lines[0].ID != "post" {
		t.Errorf("hush let %d through", len(out))
	}
	if !q.MayLeave(&q.Lines[0], dusk, r) {
		t.Error("a card minds the gap between lines of chat")
	}
}

func TestNobodyIsNamedTwiceInALineForSeveral(t *testing.T) {
	a, b := line("lena", 0), line("mare", 0)
	a.Person, b.Person = "quayside:1", "quayside:2"
	if names, more := pace.Names([]pace.Line{a, b, a, a}, 6); names != "lena and mare" || more != 0 {
		t.Errorf("%q and %d more", names, more)
	}
	if names, more := pace.Names([]pace.Line{a, b, a}, 1); names != "lena" || more != 1 {
		t.Errorf("%q and %d more", names, more)
	}
}

func TestALineThatTheNetworkTakesAsSeveralCountsAsSeveral(t *testing.T) {
	long := func(l *pace.Line) { l.Text = strings.Repeat("low water ", 12) } // 120 bytes: three pieces of at most 50
	r := pace.Rules{Limits: map[string]pace.Limit{"quayside": {Lines: 4, Window: 30 * time.Second, Bytes: 50}}}
	if n := r.Limits["quayside"].Pieces(line("a", 0, long).Text); n != 3 {
		t.Fatalf("%d pieces", n)
	}
	q := &pace.Queue{Lines: []pace.Line{line("a", 0, long), line("b", 1), line("c", 2), line("d", 3, long)}}
	leaves := q.LeavesAt(false, r)
	for id, at := range map[string]float64{"a": 0, "b": 1, "c": 30, "d": 31} {
		if got := leaves[id+"@quayside"]; !got.Equal(after(at)) {
			t.Errorf("%s leaves at %s, want %s", id, got.Sub(dusk), after(at).Sub(dusk))
		}
	}
	var left []string
	for {
		at, ok := q.Wake(false, r)
		if !ok {
			break
		}
		for _, o := range q.Release(nil, at, false, r) {
			q.Left(o.Platform, at, o.Joined, r.Limits["quayside"].Pieces(o.Lines[0].Text))
			q.Remove(o.Lines[0].ID, o.Platform)
			left = append(left, at.Sub(dusk).String()+" "+o.Lines[0].ID)
		}
	}
	want(t, left, "0s a", "1s b", "30s c", "31s d")
	if len(r.Limits) > 0 && (pace.Limit{Lines: 2, Bytes: 10}).Pieces(strings.Repeat("x", 95)) < 10 {
		t.Error("a word longer than a line is cut, too")
	}
}
