package api_test

import (
	"fmt"
	"math/rand/v2"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
)

// rehearsed begins a rehearsal and waits for what comes of it.
func rehearsed(t *testing.T, b *porchtest.Boat, w spec.RehearsalWanted) (id string, state spec.RehearsalState) {
	t.Helper()
	var begun spec.RehearsalBegun
	if s := b.Do("POST", "/api/rehearsal", w, &begun); s != 200 {
		t.Fatalf("%d for %+v", s, w)
	}
	b.Until("the rehearsal is over", func() bool {
		return b.Do("GET", "/api/rehearsal/jobs/"+begun.ID, nil, &state) == 200 && state.Over
	})
	return begun.ID, state
}

var force, draft = spec.SideWanted{Kind: "force"}, spec.SideWanted{Kind: "draft"}

func without(id string) spec.SideWanted {
	return spec.SideWanted{Kind: "draft", Changes: spec.DraftChanges{Switches: map[string]bool{id: false}}}
}

// allSaid waits until nothing waits that the end of the stream would find unsaid: what tells of
// the stream then counts the same whenever it is lived.
func allSaid(b *porchtest.Boat) {
	b.T.Helper()
	b.Until("nothing is coming up", func() bool { return len(b.Porch().Coming) == 0 })
}

// evening is a recorded stream of people who say hello.
func evening(t *testing.T, people int) *porchtest.Boat {
	t.Helper()
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Pace.GapSeconds, s.Pace.JoinAt = 0.01, 0 })
	b.SignIn()
	c := &crowd{Boat: b, r: rand.New(rand.NewPCG(1, 1))}
	c.hand(&event.StreamDeclared{Act: "opened", Title: "Low water", Member: "Odalys Brine"})
	for i := range people {
		d := &happening.ChatSaid{Text: "good evening"}
		d.Person = limpet("quayside", i)
		c.happens(d)
	}
	b.Until("they are greeted", func() bool { return b.Porch().Live.House >= people })
	allSaid(b)
	c.hand(&event.StreamDeclared{Act: "closed", Member: "Odalys Brine"})
	return b
}

func TestADraftIsComparedOnARecordedStreamKeptAndAChangeBreaksIt(t *testing.T) {
	b := evening(t, 6)
	_, same := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: force, Below: draft})
	if same.Problem != "" || len(same.Result.Differences) != 0 || same.Result.Above.Greeted != 6 {
		t.Fatalf("%q, %d differences, %d greeted", same.Problem, len(same.Result.Differences), same.Result.Above.Greeted)
	}
	_, was := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: spec.SideWanted{Kind: "said"}, Below: force})
	for _, d := range was.Result.Differences {
		if (d.Kind == "sooner" || d.Kind == "later") && d.Seconds < 10 { // a busy machine woke the living house late
			continue
		}
		t.Errorf("as it was said, and under the same settings: %s %s: %s (%+v, %+v)", d.Kind, d.Label, d.Why, d.Above, d.Below)
	}
	id, got := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: force, Below: without("greet-newcomer")})
	if got.Result.Counts["only above"] != 6 || got.Result.Below.Greeted != 0 || got.Result.Below.SilentOf != 6 {
		t.Fatalf("%v, %d greeted", got.Result.Counts, got.Result.Below.Greeted)
	}
	d := got.Result.Differences[0]
	for _, o := range got.Result.Differences[1:] {
		// What a stream's end tells may name the house's share, by chance.
		if o.Above.Courtesy != "greet-newcomer" && (o.Above.Courtesy != "evening-to-the-lamp-log" || o.Kind != "words") {
			t.Errorf("%s %s: %s", o.Kind, o.Label, o.Why)
		}
	}
	if d.Why != "is switched off in the one below" || d.Label != "Greet a newcomer" {
		t.Errorf("%s: %s", d.Label, d.Why)
	}
	var m spec.LivedMoment
	if s := b.Do("GET", "/api/rehearsal/jobs/"+id+"/moment?at="+url.QueryEscape(d.At.Format("2006-01-02T15:04:05.999999999Z07:00")), nil, &m); s != 200 || !slices.ContainsFunc(m.Rows, func(r spec.MomentRow) bool { return r.Difference > 0 && r.Elsewhere == d.Why }) {
		t.Errorf("%d %+v", s, m)
	}
	if s := b.Do("PUT", "/api/rehearsal/evenings/Low%20water", spec.EveningIn{Stream: 1, Keep: true, AsNow: true}, nil); s != 204 {
		t.Fatal(s)
	}
	var all spec.Rehearsals
	goes := func(well int) {
		t.Helper()
		b.Until(fmt.Sprint(well, " goes well"), func() bool {
			all = spec.Rehearsals{}
			return b.Do("GET", "/api/rehearsal", nil, &all) == 200 && !all.Kept.Running && all.Kept.Kept == 1 && all.Kept.Well == well
		})
	}
	goes(1)
	// Only when the kept ones hold: they would not.
	var p spec.Problem
	if s := b.Do("POST", "/api/rehearsal/enact", spec.Enacting{Changes: without("greet-newcomer").Changes, Kept: true}, &p); s != 409 || !strings.Contains(p.Detail, "Low water") {
		t.Errorf("%d %+v", s, p)
	}
	goes(1)
	if s := b.Do("POST", "/api/rehearsal/enact", spec.Enacting{Changes: without("greet-newcomer").Changes}, nil); s != 200 {
		t.Fatal(s)
	}
	goes(0)
	if w := all.Written[0].Went; w.Otherwise != len(got.Result.Differences) {
		t.Errorf("%+v, compared: %d", w, len(got.Result.Differences))
	}
	if s := b.Do("POST", "/api/rehearsal/evenings/Low%20water/should", nil, nil); s != 204 {
		t.Fatal(s)
	}
	goes(1)
	// It copies nobody, and whoever is forgotten does not break it.
	k, err := b.House.Known(t.Context(), limpet("quayside", 2).Key())
	if err != nil || k == nil {
		t.Fatal(err, k)
	}
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", k.Person); err != nil {
		t.Fatal(err)
	}
	var kept string
	if err := b.Store.SQL.QueryRow("SELECT string_agg(e::text, ' ') FROM evenings e").Scan(&kept); err != nil || strings.Contains(kept, "limpet") {
		t.Errorf("%v %s", err, kept)
	}
	b.Do("POST", "/api/rehearsal/evenings/Low%20water/should", nil, nil)
	goes(1)
}

func TestAWrittenEveningIsKeptByNameAndHeldToWhatIsExpected(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	line := func(id, at, kind, data string) string {
		return fmt.Sprintf(`{"specversion":"1.0","id":%q,"source":"written","type":%q,"time":"2031-05-14T19:%s:00Z","data":%s}`, id, kind, at, data)
	}
	script := strings.Join([]string{line("a", "00", "porch.stream.opened", `{"platform":"quayside","title":"Low water"}`),
		line("b", "01", "porch.chat.said", `{"person":{"platform":"quayside","id":"n1","login":"sandhopper9"},"text":"hello","messageId":"m"}`)}, "\n")
	if s := b.Do("PUT", "/api/rehearsal/evenings/A%20quiet%20Tuesday", spec.EveningIn{Script: script}, nil); s != 204 {
		t.Fatal(s)
	}
	_, got := rehearsed(t, b, spec.RehearsalWanted{Evening: "A quiet Tuesday", Above: force, Below: without("greet-newcomer")})
	if got.Problem != "" || got.Result.Above.Greeted != 1 || got.Result.Below.Greeted != 0 {
		t.Fatalf("%q %+v", got.Problem, got.Result.Counts)
	}
	seen := func() time.Time {
		var w spec.WrittenEvening
		b.Do("GET", "/api/rehearsal/evenings/A%20quiet%20Tuesday", nil, &w)
		return w.At
	}
	keep := spec.EveningIn{Script: script, Was: "A quiet Tuesday", Seen: seen(), Keep: true, Expected: spec.Expected{Said: []spec.ExpectedLine{{Courtesy: "greet-newcomer"}}, Unsaid: []spec.ExpectedLine{{Courtesy: "greet-regular"}}}}
	if s := b.Do("PUT", "/api/rehearsal/evenings/A%20quiet%20Tuesday", keep, nil); s != 204 {
		t.Fatal(s)
	}
	var all spec.Rehearsals
	b.Until("it is lived", func() bool {
		all = spec.Rehearsals{}
		return b.Do("GET", "/api/rehearsal", nil, &all) == 200 && !all.Kept.Running && all.Kept.Well == 1
	})
	keep.Expected.Unsaid[0].Courtesy, keep.Seen = "greet-newcomer", seen()
	if s := b.Do("PUT", "/api/rehearsal/evenings/A%20quiet%20Tuesday", keep, nil); s != 204 {
		t.Fatal(s)
	}
	b.Until("it is missed", func() bool {
		all = spec.Rehearsals{}
		return b.Do("GET", "/api/rehearsal", nil, &all) == 200 && !all.Kept.Running && len(all.Written[0].Went.Missed) == 1
	})
	if says := all.Written[0].Went.Missed[0]; !strings.HasPrefix(says, "was said, and must not be: greet-newcomer") {
		t.Error(says)
	}
	for want, in := range map[string]spec.EveningIn{
		"before the line above it": {Script: script + "\n" + line("c", "00", "porch.chat.said", `{"person":{"platform":"quayside","id":"n1"},"text":"late"}`)},
		"line 1":                   {Script: "not a line"},
		"is missing; name":         {},
		"is empty; say what must":  {Script: script, Keep: true},
		"is out of range":          {Dials: spec.Dials{Minutes: 9000}, Keep: true, AsNow: true},
	} {
		var p spec.Problem
		if s := b.Do("PUT", "/api/rehearsal/evenings/Wrong", in, &p); s != 422 || !strings.Contains(p.Detail, want) {
			t.Errorf("%d %q, wanted %q", s, p.Detail, want)
		}
	}
	if s := b.Do("DELETE", "/api/rehearsal/evenings/A%20quiet%20Tuesday", nil, nil); s != 204 {
		t.Error(s)
	}
}

func TestTwoMembersLoseNoEveningToEachOther(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	const here = "/api/rehearsal/evenings/"
	write := func(name, title string, of spec.EveningIn) int {
		t.Helper()
		of.Script = fmt.Sprintf(`{"specversion":"1.0","id":"a","source":"written","type":"porch.stream.opened","time":"2031-05-14T19:00:00Z","data":{"platform":"quayside","title":%q}}`, title)
		return b.Do("PUT", here+url.PathEscape(name), of, nil)
	}
	read := func(name string) (w spec.WrittenEvening) {
		t.Helper()
		if s := b.Do("GET", here+url.PathEscape(name), nil, &w); s != 200 {
			t.Fatalf("%q: %d", name, s)
		}
		return w
	}
	titled := func(name, title string) {
		t.Helper()
		if w := read(name); !strings.Contains(w.Script, title) {
			t.Errorf("%q is %s, not %q", name, w.Script, title)
		}
	}
	if s := write("Spring tide", "Odalys's", spec.EveningIn{}); s != 204 {
		t.Fatal(s)
	}
	if s := write("Spring tide", "the co-host's", spec.EveningIn{}); s != 409 {
		t.Errorf("a new one of the same name: %d", s)
	}
	titled("Spring tide", "Odalys's")
	seen := spec.EveningIn{Was: "Spring tide", Seen: read("Spring tide").At}
	if s := write("Spring tide", "Odalys's second", seen); s != 204 {
		t.Fatal(s)
	}
	if s := write("Spring tide", "of the first", seen); s != 409 {
		t.Errorf("one that was changed meanwhile: %d", s)
	}
	if s := write("Spring tide, mine", "of the first", seen); s != 204 {
		t.Errorf("the same under another name: %d", s)
	}
	titled("Spring tide", "Odalys's second")
	titled("Spring tide, mine", "of the first")
	now := spec.EveningIn{Was: "Spring tide", Seen: read("Spring tide").At}
	if s := write("Spring tide, mine", "over the other", now); s != 409 {
		t.Errorf("renamed to what another has: %d", s)
	}
	if s := write("Neap tide", "Odalys's third", now); s != 204 {
		t.Errorf("renamed: %d", s)
	}
	titled("Neap tide", "Odalys's third")
	if s := b.Do("GET", here+"Spring%20tide", nil, nil); s != 404 {
		t.Errorf("renamed, it is there by its old name too: %d", s)
	}
	// What is taken away comes back, until its name is another's.
	for _, step := range []struct {
		do, at string
		want   int
	}{{"DELETE", "", 204}, {"GET", "", 404}, {"POST", "/should", 404}, {"POST", "/back", 204}, {"GET", "", 200}, {"POST", "/back", 404}, {"DELETE", "", 204}} {
		if s := b.Do(step.do, here+"Neap%20tide"+step.at, nil, nil); s != step.want {
			t.Errorf("%s %s: %d, not %d", step.do, step.at, s, step.want)
		}
	}
	if s := write("Neap tide", "a new one", spec.EveningIn{}); s != 204 {
		t.Fatal(s)
	}
	if s := b.Do("POST", here+"Neap%20tide/back", nil, nil); s != 404 {
		t.Errorf("brought back over another: %d", s)
	}
	titled("Neap tide", "a new one")
}

func TestWhatCannotBeRehearsedSaysWhy(t *testing.T) {
	b := evening(t, 2)
	dials := spec.Dials{Seed: 4, Minutes: 60, PeopleMinute: 1, NewShare: 0.5, LinesMinute: 10, RaidOf: 50, RaidAt: 20}
	_, one := rehearsed(t, b, spec.RehearsalWanted{Dials: dials, Above: force, Below: draft})
	_, two := rehearsed(t, b, spec.RehearsalWanted{Dials: dials, Above: force, Below: draft})
	if one.Result.Above.Lines < 10 || one.Result.Above.Lines != two.Result.Above.Lines || len(one.Result.Differences) > 0 {
		t.Errorf("the same seed: %d and %d lines, %d differences", one.Result.Above.Lines, two.Result.Above.Lines, len(one.Result.Differences))
	}
	for want, w := range map[string]spec.RehearsalWanted{
		"That stream is not in the log": {Stream: 40, Above: force, Below: draft},
	} {
		if _, got := rehearsed(t, b, w); !strings.HasPrefix(got.Problem, want) {
			t.Errorf("%q, wanted %q", got.Problem, want)
		}
	}
	for want, w := range map[string]spec.RehearsalWanted{
		"above.kind: is as it was said": {Dials: dials, Above: spec.SideWanted{Kind: "said"}, Below: force},
		"below.version: 99 is none":     {Stream: 1, Above: force, Below: spec.SideWanted{Kind: "version", Version: 99}},
		"below.file: ":                  {Stream: 1, Above: force, Below: spec.SideWanted{Kind: "file", File: "{"}},
		"changes.switches.nobody":       {Stream: 1, Above: force, Below: without("nobody")},
		"stream: is missing":            {Above: force, Below: force},
	} {
		var p spec.Problem
		if s := b.Do("POST", "/api/rehearsal", w, &p); s != 422 || !strings.HasPrefix(p.Field+": "+p.Detail, want) && !strings.Contains(p.Detail, want) && !strings.HasPrefix(p.Field, want) {
			t.Errorf("%d %q %q, wanted %q", s, p.Field, p.Detail, want)
		}
	}
	// An older house file is read.
	if _, got := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: force, Below: spec.SideWanted{Kind: "file", File: `{"format":1,"channel":"tidepool_hours","courtesies":[]}`}}); got.Problem != "" {
		t.Error(got.Problem, got.Faults)
	}
	// What was said is not kept any more: it says that it cannot.
	if _, err := b.Store.SQL.Exec("UPDATE channels SET blanked = (SELECT max(seq) FROM events)"); err != nil {
		t.Fatal(err)
	}
	if _, got := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: force, Below: draft}); !strings.HasPrefix(got.Problem, "What was said in that stream is not kept any more") {
		t.Error(got.Problem)
	}
	if s := b.Do("PUT", "/api/rehearsal/evenings/Gone", spec.EveningIn{Stream: 1, Keep: true, AsNow: true}, nil); s != 204 {
		t.Error(s)
	}
	var all spec.Rehearsals
	b.Until("a kept evening that cannot be lived says so", func() bool {
		all = spec.Rehearsals{}
		return b.Do("GET", "/api/rehearsal", nil, &all) == 200 && len(all.Written) == 1 && all.Written[0].Went.Why != ""
	})
	if s := b.Do("POST", "/api/rehearsal/enact", spec.Enacting{Changes: without("greet-newcomer").Changes, Kept: true}, nil); s != 200 || all.Kept.Kept != 0 {
		t.Errorf("what cannot be lived holds a change up: %d, %+v", s, all.Kept)
	}
	if s := b.Do("GET", "/api/rehearsal/jobs/none", nil, nil); s != 404 {
		t.Error(s)
	}
}

func TestAStreamWhoseSettingsChangedInItsMiddleIsLivedWithTheChange(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Pace.GapSeconds, s.Pace.JoinAt = 0.01, 0 })
	b.SignIn()
	c := &crowd{Boat: b, r: rand.New(rand.NewPCG(1, 1))}
	comes := func(n int) {
		d := &happening.ChatSaid{Text: "good evening"}
		d.Person = limpet("quayside", n)
		c.happens(d)
	}
	opened := b.House.Plan().Version
	c.hand(&event.StreamDeclared{Act: "opened", Title: "Low water", Member: "Odalys Brine"})
	comes(0)
	b.Until("the first is greeted", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(text string) bool { return strings.Contains(text, limpet("quayside", 0).Shown()) })
	})
	var off spec.InForce
	if s := b.Do("POST", "/api/courtesies/greet-newcomer/switch", spec.Switch{}, &off); s != 200 {
		t.Fatal(s)
	}
	comes(1)
	b.Until("the second is there", func() bool { return b.Porch().Live.People >= 2 })
	allSaid(b)
	c.hand(&event.StreamDeclared{Act: "closed", Member: "Odalys Brine"})

	then, now := spec.SideWanted{Kind: "version", Version: opened}, force
	_, same := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: spec.SideWanted{Kind: "said"}, Below: then})
	for _, d := range same.Result.Differences {
		if (d.Kind == "sooner" || d.Kind == "later") && d.Seconds < 10 { // a busy machine woke the living house late
			continue
		}
		t.Errorf("under its own settings, with the change in it: %s %s: %s (%+v, %+v)", d.Kind, d.Label, d.Why, d.Above, d.Below)
	}
	if same.Problem != "" || same.Result.Below.Greeted != 1 || same.Result.Below.SilentOf != 1 {
		t.Errorf("%q, %d greeted, %d silent", same.Problem, same.Result.Below.Greeted, same.Result.Below.SilentOf)
	}
	_, all := rehearsed(t, b, spec.RehearsalWanted{Stream: 1, Above: then, Below: now})
	if all.Result.Below.Greeted != 0 || all.Result.Counts["only above"] != 1 {
		t.Errorf("under those in force from its middle on: %d greeted, %v", all.Result.Below.Greeted, all.Result.Counts)
	}
}

func TestAScriptOfTwoHundredThousandLinesIsLivedAndCanBeCalledOff(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	const most = 200_000
	var script strings.Builder
	opens := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	for i := range most {
		fmt.Fprintf(&script, `{"specversion":"1.0","id":"l%d","source":"written","type":"porch.chat.said","time":%q,"data":{"person":{"platform":"quayside","id":"%d"},"text":"what is that one","messageId":"m%d"}}`+"\n",
			i, opens.Add(time.Duration(i)*72*time.Millisecond).Format(time.RFC3339Nano), i%500, i)
	}
	var begun spec.RehearsalBegun
	if s := b.Do("POST", "/api/rehearsal", spec.RehearsalWanted{Script: script.String(), Above: force, Below: force}, &begun); s != 200 {
		t.Fatal(s)
	}
	state := func() (got spec.RehearsalState) {
		b.Do("GET", "/api/rehearsal/jobs/"+begun.ID, nil, &got)
		return got
	}
	b.Until("it is in its middle", func() bool { return state().Part > 0.4 })
	if s := b.Do("DELETE", "/api/rehearsal/jobs/"+begun.ID, nil, nil); s != 204 {
		t.Fatal(s)
	}
	b.Until("it is called off", func() bool { return state().Over })
	if got := state(); got.Problem != "It was called off." || got.Result.Above.Arrived != 0 {
		t.Errorf("%q", got.Problem)
	}
	script.WriteString(`{"specversion":"1.0","id":"more","source":"written","type":"porch.chat.said","time":"2031-05-15T19:00:00Z","data":{"person":{"platform":"quayside","id":"1"},"text":"one more"}}`)
	_, refused := rehearsed(t, b, spec.RehearsalWanted{Script: script.String(), Above: force, Below: force})
	if !strings.Contains(refused.Problem, "has 200001 happenings; at most 200000 are lived") {
		t.Errorf("%q", refused.Problem)
	}
}
