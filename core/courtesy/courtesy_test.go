package courtesy_test

import (
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/prose"
	"vividporch/core/who"
)

func n(v float64) *float64 { return &v }

func words() []output.Output {
	return []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"hello {name}"}}}
}

func greet(id string, w who.Who) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: happening.Arrival, Who: w, Slot: happening.Greeting, Do: words()}
}

func thank(id string, m *who.Measure) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: "porch.raid.came", Measure: m, Slot: happening.Thanks, Do: words()}
}

func load(t *testing.T, list ...courtesy.Courtesy) *courtesy.Set {
	t.Helper()
	set, faults := courtesy.Load(list, courtesy.World{})
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	return set
}

func TestTheMostSpecificGreetingWins(t *testing.T) {
	lena := event.Person{Platform: "quayside", ID: "8841", Roles: []event.Role{event.VIP}}
	set := load(t, greet("anyone", who.Who{}), greet("returning", who.Who{Standing: people.Returning}), greet("vip", who.Who{Role: event.VIP}),
		greet("vip-returning", who.Who{Role: event.VIP, Standing: people.Returning}), greet("lena", who.Who{Account: "quayside:8841"}))
	for _, c := range []struct {
		who  event.Person
		s    people.Standing
		want string
	}{
		{lena, people.Returning, "lena"},
		{event.Person{Platform: "quayside", ID: "2", Roles: []event.Role{event.VIP}}, people.Returning, "vip-returning"},
		{event.Person{Platform: "quayside", ID: "2", Roles: []event.Role{event.VIP}}, people.Newcomer, "vip"},
		{event.Person{Platform: "quayside", ID: "3"}, people.Returning, "returning"},
		{event.Person{Platform: "quayside", ID: "3"}, people.Newcomer, "anyone"},
	} {
		won, ladder := set.Winner(who.Cause{When: happening.Arrival, Person: c.who, Standing: c.s, Live: true}, happening.Greeting)
		if won == nil || won.ID != c.want {
			t.Errorf("%s %s: %v won, want %s", c.who.Key(), c.s, won, c.want)
		}
		winners := 0
		for _, r := range ladder {
			if r.Won {
				winners++
			}
			if r.Why == "" {
				t.Errorf("the ladder is silent about %s", r.Courtesy)
			}
		}
		rungs := 4 // what is one other person's own is no rung of theirs
		if c.who.ID == lena.ID {
			rungs = 5
		}
		if winners != 1 || len(ladder) != rungs {
			t.Errorf("%d winners among %d rungs", winners, len(ladder))
		}
	}
}

func TestBandsOfARaidGoByTheirMeasure(t *testing.T) {
	set := load(t, thank("other", &who.Measure{}), thank("five-up", &who.Measure{AtLeast: n(5)}), thank("fifty-up", &who.Measure{AtLeast: n(50)}),
		thank("ten-to-twenty", &who.Measure{AtLeast: n(10), UpTo: n(20)}), thank("exactly-fifteen", &who.Measure{Exactly: n(15)}))
	for v, want := range map[float64]string{0: "other", 4: "other", 5: "five-up", 9: "five-up", 10: "ten-to-twenty", 15: "exactly-fifteen", 20: "ten-to-twenty", 21: "five-up", 50: "fifty-up", 5000: "fifty-up"} {
		won, _ := set.Winner(who.Cause{When: "porch.raid.came", Quantities: []who.Quantity{{Of: "viewers", N: v}}, Live: true}, happening.Thanks)
		if won == nil || won.ID != want {
			t.Errorf("a raid of %g went to %v, want %s", v, won, want)
		}
	}
}

func TestAGreetingThatIsOffLeavesTheSpecialOnesWorking(t *testing.T) {
	off := greet("anyone", who.Who{})
	off.On = false
	set := load(t, off, greet("lena", who.Who{Account: "quayside:8841"}))
	if won, _ := set.Winner(who.Cause{When: happening.Arrival, Person: event.Person{Platform: "quayside", ID: "8841"}, Live: true}, happening.Greeting); won == nil || won.ID != "lena" {
		t.Errorf("%v won", won)
	}
	won, ladder := set.Winner(who.Cause{When: happening.Arrival, Person: event.Person{Platform: "quayside", ID: "1"}, Live: true}, happening.Greeting)
	if won != nil || !strings.Contains(ladder[0].Why, "switched off") {
		t.Errorf("%v won; %v", won, ladder)
	}
}

func TestTheOrderDecidesOnlyATie(t *testing.T) {
	set := load(t, greet("first", who.Who{Standing: people.Newcomer}), greet("second", who.Who{Standing: people.Newcomer}))
	won, ladder := set.Winner(who.Cause{When: happening.Arrival, Standing: people.Newcomer, Live: true}, happening.Greeting)
	if won.ID != "first" || !strings.Contains(ladder[1].Why, "the order you set decides") {
		t.Errorf("%s won; %v", won.ID, ladder)
	}
}

func TestFaultsAreNamedWithTheirPlace(t *testing.T) {
	bad := greet("bad", who.Who{Role: "king"})
	bad.Do[0].Alternatives = []string{"fine {name}", "oh {nam}"}
	bad.Do = append(bad.Do, output.Output{ID: "post", Do: &output.Relay{Place: "nowhere"}, Alternatives: []string{"x"}})
	_, faults := courtesy.Load([]courtesy.Courtesy{bad, bad, {ID: "when", When: "never", Slot: "hat"}}, courtesy.World{})
	got := map[string]bool{}
	for _, f := range faults {
		got[f.At] = true
	}
	for _, at := range []string{"who.role", "do.0.alternatives.1", "do.1.place", "id", "when", "slot"} {
		if !got[at] {
			t.Errorf("nothing is said about %s in %v", at, faults)
		}
	}
}

func TestASentenceSaysWhatACourtesyDoes(t *testing.T) {
	silent := thank("s", &who.Measure{UpTo: n(4)})
	silent.Do = nil
	for want, c := range map[string]courtesy.Courtesy{
		"Greet a newcomer":                       greet("g", who.Who{Standing: people.Newcomer}),
		"Thank a raid of 60 or more":             thank("t", &who.Measure{AtLeast: n(60)}),
		"Pass over a raid of up to 4 in silence": silent,
	} {
		var b strings.Builder
		for _, p := range prose.Sentence(c, who.Names{}) {
			b.WriteString(p.Text)
		}
		if b.String() != want {
			t.Errorf("%q, want %q", b.String(), want)
		}
	}
}

func TestEveryWhenIsOfferedOnce(t *testing.T) {
	seen := map[string]bool{}
	for _, w := range happening.Whens() {
		if seen[w.Type] || w.Words == "" || len(w.Slots) == 0 {
			t.Errorf("%+v", w)
		}
		seen[w.Type] = true
		c := courtesy.Courtesy{ID: "x", On: true, When: w.Type, Slot: w.Slots[0]}
		switch w.Type {
		case happening.Command:
			c.Asks = []string{"!tides"}
		case happening.Timer, happening.Lull:
			c.Timer = &courtesy.Timer{Minutes: 20}
		}
		if _, faults := courtesy.Load([]courtesy.Courtesy{c}, courtesy.World{}); len(faults) > 0 {
			t.Error(faults)
		}
		for _, of := range w.NumberNames() {
			c.Measure = &who.Measure{Of: of, AtLeast: n(1), Currency: map[bool]string{true: "EUR"}[of == "amount"]}
			if _, faults := courtesy.Load([]courtesy.Courtesy{c}, courtesy.World{}); len(faults) > 0 {
				t.Error(faults)
			}
		}
	}
	if len(seen) != 56 {
		t.Errorf("%d causes", len(seen))
	}
}

func TestWhatIsPutAwayIsNotMet(t *testing.T) {
	away := greet("lena", who.Who{Account: "quayside:8841"})
	away.Away = true
	set := load(t, away, greet("anyone", who.Who{}))
	won, ladder := set.Winner(who.Cause{When: happening.Arrival, Person: event.Person{Platform: "quayside", ID: "8841"}, Live: true}, happening.Greeting)
	if won.ID != "anyone" || len(ladder) != 1 {
		t.Errorf("%s won; %v", won.ID, ladder)
	}
}
