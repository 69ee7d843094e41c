package house_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/trouble"
	"vividporch/core/who"
	"vividporch/core/wordlist"
)

// guarding has members do something about trouble now and then, and people say what makes some.
func guarding(l *lived, d event.Data, door string) (event.Data, string) {
	switch l.r.IntN(5) {
	case 0:
		var held []string
		for _, h := range guard.HeldNow(l.s.Rooms) {
			held = append(held, h.ID)
		}
		hand := housetest.Guarding(l.r, held)
		if x, ok := hand.(*event.HeldDecided); ok {
			if h, known := guard.HeldBy(l.s.Rooms, x.Held); known {
				x.Person = h.Said.Person
			}
		}
		return hand, "desk"
	case 1:
		said := &happening.ChatSaid{MessageID: fmt.Sprint("m", len(l.log)), Text: []string{"LOOK AT THAT DOG IN THE POOL", "see shells.example", "d0g", "hello", ":limpet:", "🦀🦀🦀🦀🦀🦀🦀🦀🦀", "is it moving?"}[l.r.IntN(7)]}
		said.Person = housetest.Somebody(l.r)
		return said, "quayside"
	case 2:
		if l.r.IntN(3) == 0 {
			held := &happening.ChatHeld{Text: "what the platform holds", MessageID: fmt.Sprint("h", len(l.log))}
			held.Person = housetest.Somebody(l.r)
			return held, "quayside"
		}
	}
	return d, door
}

// rules are those of a house, everything else as it is.
func rules(list ...trouble.Rule) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Doors = slices.DeleteFunc(s.Doors, func(d housefile.Door) bool { return d.As != "" })
		for i := range list {
			list[i].On = true
			if list[i].ID == "" {
				list[i].ID = string(list[i].Kind())
			}
		}
		s.Guard.Rules = list
	}
}

func capitals(then ...trouble.Step) trouble.Rule {
	return trouble.Rule{Do: &trouble.Capitals{Percent: 70, From: 8}, Then: then}
}

// loud is a line of capitals, with an id of its own.
func loud(login, id string) *happening.ChatSaid {
	c := line(login, "WHAT WAS THAT OVER THERE")
	c.MessageID = id
	return c
}

// asked is what the platforms were asked for, in order.
func (e *evening) askedFor() (out []string) {
	for _, d := range e.of(hall.Kind(output.KindPlatform)) {
		deed := output.DeedOf(d.Body)
		s := string(deed.Act)
		if deed.Message != "" {
			s += " " + deed.Message
		}
		if deed.Act == output.TimeOut {
			s += fmt.Sprintf(" %s %g", deed.Login, deed.Seconds)
		}
		if deed.Off {
			s += " off"
		}
		out = append(out, s)
	}
	return out
}

// to are the lines said to people.
func (e *evening) to() (n int) {
	for _, d := range e.said() {
		if d.Person != "" {
			n++
		}
	}
	return n
}

func TestWhatFollowsGrowsWithEachTimeAndIsNoArrival(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.Warn}, trouble.Step{Act: trouble.Remove}, trouble.Step{Act: trouble.TimeOut, Seconds: 60})))
	e.happens(on("quayside"))
	e.happens(loud("mossy_mare", "m1")) // told: the line stays what it is
	if told := e.of(guard.Tell); len(told) != 1 || !strings.Contains(told[0].Text, "mossy_mare") || !strings.Contains(told[0].Text, "100 % capitals") {
		t.Errorf("%+v", told)
	}
	if n := len(e.of(hall.Arrive)); n != 1 {
		t.Fatalf("%d arrive", n)
	}
	e.happens(loud("kelpwright", "m2"))
	e.happens(loud("kelpwright", "m3"))
	e.happens(loud("mossy_mare", "m4"))
	e.happens(loud("mossy_mare", "m5"))
	if got, want := strings.Join(e.askedFor(), ", "), "delete line m3, delete line m4, delete line m5, time-out mossy_mare 60"; got != want {
		t.Errorf("asked for %s, want %s", got, want)
	}
	if tonight, held := guard.Tonight(e.s.Rooms); tonight != (guard.Tally{Warned: 2, Removed: 2, TimedOut: 1}) || held != 0 {
		t.Errorf("%+v, %d held", tonight, held)
	}
	e.happens(loud("wrack_wren", "m6"))
	before := len(e.of(hall.Arrive))
	e.happens(line("wrack_wren", "sorry")) // only now, were the first one taken out
	if len(e.of(hall.Arrive)) != before {
		t.Error("somebody who was told arrives twice")
	}
}

func TestAHeldLineIsNothingUntilItIsAllowedAndThenWhatItWas(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.Hold})))
	e.happens(on("quayside"))
	e.happens(loud("mossy_mare", "m1"))
	if len(e.of(hall.Arrive)) != 0 || e.to() != 0 || len(e.s.Waiting) != 1 || e.s.Waiting[0].Kind != "held" || e.s.Waiting[0].Text != "WHAT WAS THAT OVER THERE" {
		t.Fatalf("%d arrive, %d said, waiting %+v", len(e.of(hall.Arrive)), e.to(), e.s.Waiting)
	}
	id := guard.HeldNow(e.s.Rooms)[0].ID
	e.after(5 * time.Minute)
	e.happens(&event.HeldDecided{Held: id, Allow: true, Person: viewer("mossy_mare")})
	e.after(time.Minute)
	if len(e.of(hall.Arrive)) != 1 || e.to() == 0 || len(e.s.Waiting) != 0 {
		t.Errorf("%d arrive, %d said, waiting %+v", len(e.of(hall.Arrive)), e.to(), e.s.Waiting)
	}
	greetings := e.to()
	e.happens(&event.HeldDecided{Held: id, Allow: true, Person: viewer("mossy_mare")}) // by two members at once
	e.happens(line("mossy_mare", "thank you"))
	e.after(time.Minute)
	if len(e.of(hall.Arrive)) != 1 || e.to() != greetings {
		t.Errorf("%d arrive, %d said after %d", len(e.of(hall.Arrive)), e.to(), greetings)
	}
	e.wantReason("is decided already")
}

// A platform that can holds the line back, so that nobody sees it; what it lets through then comes as a line once more, and is not
// looked at again.
func TestALineThatItsPlatformHoldsBackComesOnceMoreAndIsNotHeldAgain(t *testing.T) {
	holds := func(s *housefile.Settings) {
		for i := range s.Profiles {
			s.Profiles[i].Acts.Holds = true
		}
	}
	for name, c := range map[string]struct {
		decide  func(*evening, string)
		asked   string
		arrives int
	}{
		"allowed": {func(e *evening, id string) {
			e.happens(&event.HeldDecided{Held: id, Allow: true, Person: viewer("mossy_mare")})
		}, "hold line m1, allow line m1", 1},
		"lapsed":  {func(e *evening, _ string) { e.after(10*time.Minute + time.Second) }, "hold line m1, allow line m1", 0},
		"refused": {func(e *evening, id string) { e.happens(&event.HeldDecided{Held: id, Person: viewer("mossy_mare")}) }, "hold line m1, refuse line m1", -1},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, rules(capitals(trouble.Step{Act: trouble.Hold})), holds)
			e.happens(on("quayside"))
			e.happens(loud("mossy_mare", "m1"))
			c.decide(e, guard.HeldNow(e.s.Rooms)[0].ID)
			if got := strings.Join(e.askedFor(), ", "); got != c.asked || len(e.of(hall.Arrive)) != 0 {
				t.Errorf("asked for %s, %d arrive", got, len(e.of(hall.Arrive)))
			}
			if c.arrives < 0 {
				return
			}
			e.happens(loud("mossy_mare", "m2")) // as the platform lets it through
			if n := len(e.of(hall.Arrive)); n != c.arrives || len(guard.HeldNow(e.s.Rooms)) != 0 {
				t.Errorf("%d arrive, %d held", n, len(guard.HeldNow(e.s.Rooms)))
			}
			e.after(3 * time.Minute)
			e.happens(loud("mossy_mare", "m3")) // another time is another time
			if n := len(guard.HeldNow(e.s.Rooms)); n != 1 {
				t.Errorf("%d held", n)
			}
		})
	}
}

func TestAHeldLineThatNobodyDecidesLapsesAndOneThatIsRemovedIsTakenOut(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.Hold})))
	e.happens(on("quayside"))
	e.happens(loud("mossy_mare", "m1"))
	e.happens(loud("kelpwright", "m2"))
	e.happens(&event.HeldDecided{Held: guard.HeldNow(e.s.Rooms)[1].ID, Person: viewer("kelpwright")})
	e.after(10*time.Minute + time.Second)
	if got := strings.Join(e.askedFor(), ", "); got != "delete line m2" || len(e.s.Waiting) != 0 || e.to() != 0 || len(e.of(hall.Arrive)) != 0 {
		t.Errorf("asked for %q, waiting %+v, %d said", got, e.s.Waiting, e.to())
	}
	e.wantReason("nobody decided in time")
	e.happens(line("mossy_mare", "hello all")) // their first line that counts
	if len(e.of(hall.Arrive)) != 1 {
		t.Error("they never arrive")
	}
}

func TestNobodyIsPunishedTwiceForOneLine(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.Hold})))
	e.happens(on("quayside"))
	e.happens(loud("mossy_mare", "m1"))
	id := guard.HeldNow(e.s.Rooms)[0].ID
	removed := &happening.ChatRemoved{MessageID: "m1", By: "grebe_watch"} // a moderator was first
	removed.Person = viewer("mossy_mare")
	e.happens(removed)
	if len(guard.HeldNow(e.s.Rooms)) != 0 || len(e.s.Waiting) != 0 {
		t.Errorf("it still waits: %+v", e.s.Waiting)
	}
	e.happens(&event.HeldDecided{Held: id, Person: viewer("mossy_mare")})
	if got := e.askedFor(); len(got) != 0 {
		t.Errorf("asked for %v", got)
	}
}

func TestWhomNobodyLooksAt(t *testing.T) {
	spare := capitals(trouble.Step{Act: trouble.Remove})
	spare.Not = []string{trouble.VIPs, trouble.Regulars}
	for name, c := range map[string]struct {
		roles  []event.Role
		known  *people.Known
		change func(*evening)
		spared bool
	}{
		"a viewer":      {nil, nil, nil, false},
		"a moderator":   {[]event.Role{event.Moderator}, nil, nil, true},
		"the streamer":  {[]event.Role{event.Streamer}, nil, nil, true},
		"a VIP":         {[]event.Role{event.VIP}, nil, nil, true},
		"a subscriber":  {[]event.Role{event.Subscriber}, nil, nil, false},
		"a trusted one": {nil, &people.Known{Person: 7, Trusted: true}, nil, true},
		"one permitted": {nil, nil, func(e *evening) { e.happens(&event.Permitted{Person: viewer("mossy_mare"), Seconds: 300}) }, true},
		"no longer": {nil, nil, func(e *evening) {
			e.happens(&event.Permitted{Person: viewer("mossy_mare"), Seconds: 300})
			e.after(301 * time.Second)
		}, false},
		"taken back": {nil, nil, func(e *evening) {
			e.happens(&event.Permitted{Person: viewer("mossy_mare"), Seconds: 300})
			e.happens(&event.Permitted{Person: viewer("mossy_mare")})
		}, false},
		"another's": {nil, nil, func(e *evening) { e.happens(&event.Permitted{Person: viewer("kelpwright"), Seconds: 300}) }, false},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, rules(spare))
			e.happens(on("quayside"))
			if c.change != nil {
				c.change(e)
			}
			said := loud("mossy_mare", "m1")
			said.Person.Roles = c.roles
			e.happens(said, c.known)
			if got := len(e.askedFor()) == 0; got != c.spared {
				t.Errorf("spared: %v, asked for %v", got, e.askedFor())
			}
		})
	}
}

func TestAModeratorPermitsSomebodyByACommand(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.Remove})), func(s *housefile.Settings) {
		does("permit", happening.Command, happening.Answer, output.Output{Do: &output.Permit{Seconds: 60}})(s)
		c := &s.Courtesy[len(s.Courtesy)-1]
		c.Asks, c.Who = []string{"permit"}, who.Who{Role: event.Moderator}
	})
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "is it moving?"))
	asks := line("grebe", "!permit mossy_mare")
	asks.Person.Roles = []event.Role{event.Moderator}
	e.lived(e.happens(asks))
	e.happens(loud("mossy_mare", "m1"))
	if got := e.askedFor(); len(got) != 0 {
		t.Errorf("asked for %v", got)
	}
	e.happens(loud("grebe_two", "m2")) // whoever asked permitted somebody else
	e.after(61 * time.Second)
	e.happens(loud("mossy_mare", "m3"))
	if got := strings.Join(e.askedFor(), ", "); got != "delete line m2, delete line m3" {
		t.Errorf("asked for %v", got)
	}
}

func TestWhatAPlatformCannotWaitsForAPerson(t *testing.T) {
	e := begin(t, rules(capitals(trouble.Step{Act: trouble.TimeOut, Seconds: 60})), func(s *housefile.Settings) {
		for i := range s.Profiles {
			s.Profiles[i].Acts.Cannot = map[string]string{"time-out": "Quayside sends nobody out"}
		}
	})
	e.happens(on("quayside"))
	e.happens(loud("mossy_mare", "m1"))
	if len(e.askedFor()) != 0 || len(e.s.Waiting) != 1 || !strings.Contains(e.s.Waiting[0].Why, "Quayside sends nobody out") {
		t.Errorf("%v, %+v", e.askedFor(), e.s.Waiting)
	}
}

func TestOneKeyHoldsAFloodOfStrangersOffAndUndoesItself(t *testing.T) {
	e := begin(t, rules())
	e.happens(on("quayside"))
	e.happens(&event.FloodKey{On: true})
	for i := range 20 {
		e.happens(line(fmt.Sprint("stranger", i), "buy my shells"))
	}
	e.after(time.Minute)
	if n := len(guard.HeldNow(e.s.Rooms)); n != 20 || e.to() != 0 || len(e.of(hall.Arrive)) != 0 {
		t.Fatalf("%d held, %d said, %d arrive", n, e.to(), len(e.of(hall.Arrive)))
	}
	e.happens(&event.FloodKey{On: true})                                        // once more: it holds longer, and asks for nothing twice
	if got := strings.Join(e.askedFor(), ", "); got != "slow chat, slow chat" { // on two platforms
		t.Errorf("asked for %s", got)
	}
	e.after(16 * time.Minute) // it undoes itself, and what it held lapsed
	if got := strings.Join(e.askedFor()[2:], ", "); got != "slow chat off, slow chat off" || len(guard.HeldNow(e.s.Rooms)) != 0 {
		t.Errorf("asked for %s, %d held", got, len(guard.HeldNow(e.s.Rooms)))
	}
	e.happens(line("stranger0", "hello"))
	if len(e.of(hall.Arrive)) != 1 {
		t.Error("nobody arrives any more")
	}
	e.happens(&event.FloodKey{On: true})
	e.happens(&event.FloodKey{})
	e.happens(line("another", "hello"))
	if got := len(e.askedFor()); got != 8 || len(e.of(hall.Arrive)) != 2 {
		t.Errorf("asked %d times, %d arrive", got, len(e.of(hall.Arrive)))
	}
	e.happens(&event.FloodKey{})
	e.wantReason("no flood is held off")
}

// What viewers would see of many follows at once gathers, and what a platform would not take out waits for a person.
func TestInAFloodFollowsGatherAndWhatAPlatformRefusesIsSaid(t *testing.T) {
	e := begin(t, stage, rules(capitals(trouble.Step{Act: trouble.Remove})), does("follow", "porch.person.followed", happening.Thanks, output.Output{Do: &output.Sound{Media: "bell.ogg", Fitting: "bell"}}))
	e.happens(on("quayside"))
	e.happens(&event.FloodKey{On: true})
	for i := range 12 {
		e.happens(follows(fmt.Sprint("stranger", i)))
	}
	e.after(time.Minute)
	if n := len(e.of("sound")); n != 1 {
		t.Errorf("%d sounds for a dozen follows in a flood", n)
	}
	e.happens(loud("stranger1", "m1"))
	var asked hall.Decision
	for _, d := range e.of(hall.Kind(output.KindPlatform)) {
		asked = d
	}
	e.happens(&event.ActRefused{ActOutcome: event.ActOutcome{Line: asked.Line, To: asked.Platform, Effect: string(output.KindPlatform), Act: "delete line", Reason: "there is no such line"}})
	if n := len(e.s.Waiting); n == 0 || e.s.Waiting[n-1].Kind != "act" || e.s.Waiting[n-1].Why != "there is no such line" {
		t.Errorf("nobody is told that it was refused: %+v", e.s.Waiting)
	}
}

func TestWhatSeveralSayAtOnceIsSeenAndAWordHoweverItIsWritten(t *testing.T) {
	e := begin(t, rules(trouble.Rule{Do: &trouble.Several{People: 3, Seconds: 60, From: 5}, Then: []trouble.Step{{Act: trouble.Hold}}},
		trouble.Rule{Do: &trouble.Words{Words: []wordlist.Word{{Text: "whelk"}}}, Then: []trouble.Step{{Act: trouble.Remove}}}))
	e.happens(on("quayside"))
	for _, login := range []string{"one_limpet", "two_limpets", "three_limpets"} {
		e.happens(line(login, "buy my shells"))
	}
	said := line("four_limpets", "a wh3lk!")
	said.MessageID = "m9"
	e.happens(said)
	if n := len(guard.HeldNow(e.s.Rooms)); n != 1 || strings.Join(e.askedFor(), ", ") != "delete line m9" {
		t.Errorf("%d held, asked for %v", n, e.askedFor())
	}
	e.after(2 * time.Minute)
	e.happens(line("five_limpets", "buy my shells")) // too long after
	if n := len(guard.HeldNow(e.s.Rooms)); n != 1 {
		t.Errorf("%d held", n)
	}
}

// Over random evenings under random rules: what is withheld is nothing else, a held line ends once and one way, nobody is
// punished who is spared or twice for a line, and the log alone brings all of it back.
func TestWhateverIsSaidTheGuardKeepsItsPromises(t *testing.T) {
	touched, held, allowed, removed := 0, 0, 0, 0
	for seed := range uint64(60) {
		open, ended := map[string]bool{}, map[string]int{}
		punished := map[string]int{}
		l := watchedIn(t, housetest.Guarded, seed, 120, func(before *house.State, ev *event.Event, known *people.Known, ds []hall.Decision, plan *room.Plan) {
			for i := range ds {
				d := &ds[i]
				x := guard.TouchOf(d)
				switch {
				case x != nil:
					touched++
					said, _ := ev.Data.(*happening.ChatSaid)
					if said != nil && x.Ours && (said.Person.Is(event.Moderator) || said.Person.Is(event.Streamer) || known != nil && known.Trusted || plan.IsNeighbour(said.Person)) {
						t.Fatalf("seed %d: %s is touched", seed, said.Person.Login)
					}
					if r := plan.Settings.Guard.Rule(x.Rule); r != nil { // what it is touched for is so
						_, again := r.Do.(*trouble.Again)
						_, several := r.Do.(*trouble.Several)
						if !r.On || !again && !several && r.Do.Finds(&trouble.Line{Text: said.Text}, nil) == "" {
							t.Fatalf("seed %d: %q is touched for %s", seed, said.Text, x.Found)
						}
					}
					if x.Withholds() {
						for k := range ds {
							if o := &ds[k]; o.Room != "guard" {
								t.Fatalf("seed %d: %s is withheld, and %s decides %s of it: %v", seed, x.ID, o.Room, o.Kind, o.Because)
							}
						}
					}
					if x.Act == trouble.Hold {
						held++
						open[x.ID] = true
					}
				case d.Kind == guard.Let:
					if !open[d.Line] {
						t.Fatalf("seed %d: %s is let, and was not held", seed, d.Line)
					}
					if ended[d.Line]++; strings.Contains(d.Because[0], "allowed") {
						allowed++
					}
				case d.Room == "guard" && d.Kind == hall.Kind(output.KindPlatform):
					if deed := output.DeedOf(d.Body); deed.Act == output.DeleteLine {
						removed++
						punished[d.Platform+" "+deed.Message]++
					}
				}
			}
		})
		for id, n := range ended {
			if n != 1 {
				t.Errorf("seed %d: %s ended %d times", seed, id, n)
			}
		}
		for id := range open {
			if ended[id] == 0 {
				t.Errorf("seed %d: %s waits for ever", seed, id)
			}
		}
		if n := len(guard.HeldNow(l.s.Rooms)); n > 0 {
			t.Errorf("seed %d: %d wait at the end", seed, n)
		}
		one, _ := l.s.MarshalJSON()
		two, _ := l.again(house.NewState(), l.log).MarshalJSON()
		if string(one) != string(two) {
			t.Errorf("seed %d: the log does not bring it back", seed)
		}
	}
	if touched < 500 || held < 100 || allowed < 20 || removed < 100 {
		t.Errorf("%d touched, %d held, %d allowed, %d removed: too few to tell", touched, held, allowed, removed)
	}
}
