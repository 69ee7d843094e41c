package who

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/occasion"
	"vividporch/core/people"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// some makes up a flat who that asks a few things.
func some(r *rand.Rand) (w Who) {
	for range 1 + r.IntN(2) {
		switch r.IntN(11) {
		case 0:
			w.Standing = people.Standings[r.IntN(len(people.Standings))]
		case 1:
			w.Platform = []string{"quayside", "fernlight"}[r.IntN(2)]
		case 2:
			w.Role, w.OrAbove = []event.Role{event.Subscriber, event.VIP, event.Moderator}[r.IntN(3)], r.IntN(2) == 0
		case 3:
			w.Tag = []string{"printmaker", "Moths"}[r.IntN(2)]
		case 4:
			w.Trusted = true
		case 5:
			w.Attended = 1 + r.IntN(6)
		case 6:
			w.Crews = &Crews{Of: []string{"low-water-league", "lantern-row"}[r.IntN(2):], In: []string{"", "any", "one"}[r.IntN(3)]}
		case 7:
			w.Days = []string{[]string{"Wednesday", "Friday"}[r.IntN(2)]}
		case 8:
			w.Mark = []people.Mark{people.Fellow, people.Raider}[r.IntN(2)]
		case 10:
			w.Date = &Date{Of: occasion.Kinds()[r.IntN(3)], When: []string{Today, Belated, Within}[r.IntN(3)]}
			if w.Date.When == Within {
				w.Date.Days = 1 + r.IntN(30)
			}
		case 9:
			w.Account = []string{"quayside:8841", "fernlight:7"}[r.IntN(2)]
		}
	}
	return w
}

// tangled makes up a who with others inside.
func tangled(r *rand.Rand, deep int) Who {
	w := some(r)
	for range deep {
		switch r.IntN(4) {
		case 0:
			w.All = append(w.All, tangled(r, deep-1))
		case 1:
			w.Any = append(w.Any, tangled(r, deep-1), some(r))
		case 2:
			w.Not = append(w.Not, tangled(r, deep-1))
		}
	}
	return w
}

// somebody makes up whoever caused something.
func somebody(r *rand.Rand) *Cause {
	c := &Cause{At: dusk.AddDate(0, 0, r.IntN(3)), Standing: people.Standings[r.IntN(len(people.Standings))], Known: &people.Known{Trusted: r.IntN(2) == 0, Attended: r.IntN(6)}}
	c.Person = event.Person{Platform: []string{"quayside", "fernlight"}[r.IntN(2)], ID: []string{"8841", "7", "12"}[r.IntN(3)]}
	c.Known.Accounts = []string{c.Person.Key()}
	for _, role := range []event.Role{event.Subscriber, event.VIP, event.Moderator} {
		if r.IntN(3) == 0 {
			c.Person.Roles = append(c.Person.Roles, role)
		}
	}
	for _, tag := range []string{"Printmaker", "moths"} {
		if r.IntN(2) == 0 {
			c.Known.Tags = append(c.Known.Tags, tag)
		}
	}
	for _, crew := range []string{"low-water-league", "lantern-row"} {
		if r.IntN(2) == 0 {
			c.Known.Crews = append(c.Known.Crews, crew)
		}
	}
	c.Dates = &Dates{}
	for _, list := range []*[]occasion.Occasion{&c.Dates.Today, &c.Dates.Belated, &c.Dates.Coming} {
		if r.IntN(2) == 0 {
			*list = append(*list, occasion.Occasion{Kind: occasion.Kinds()[r.IntN(3)], Years: r.IntN(4), Days: r.IntN(40)})
		}
	}
	for _, m := range []people.Mark{people.Fellow, people.Raider} {
		if r.IntN(2) == 0 {
			c.Marks = append(c.Marks, m)
		}
	}
	return c
}

func fits(w *Who, c *Cause) bool {
	_, misfit := w.Match(c)
	return misfit == ""
}

func TestAWhoHoldsWhereOneOfItsBranchesDoes(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 41))
	held := 0
	for range 20_000 {
		w, c := tangled(r, r.IntN(3)), somebody(r)
		branches := w.Branches()
		if len(branches) >= mostBranches {
			continue
		}
		any := slices.ContainsFunc(branches, func(b Who) bool { return fits(&b, c) })
		if got := fits(&w, c); got != any {
			t.Fatalf("%+v holds %v for %+v, one of its branches %v", w, got, c, any)
		} else if got {
			held++
		}
	}
	if held < 500 {
		t.Errorf("only %d held", held)
	}
}

func TestWhosThatStandApartNeverHoldAtOnce(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 42))
	apart, together := 0, 0
	for range 20_000 {
		a, b, c := some(r), some(r), somebody(r)
		both := fits(&a, c) && fits(&b, c)
		switch {
		case a.Apart(&b) != b.Apart(&a):
			t.Fatalf("%+v and %+v are apart one way only", a, b)
		case a.Apart(&b) && both:
			t.Fatalf("%+v and %+v are apart, and both hold for %+v", a, b, c)
		case a.Apart(&b):
			apart++
		case both:
			together++
		}
	}
	if apart < 500 || together < 300 {
		t.Errorf("%d apart, %d held at once", apart, together)
	}
}

func TestWhoeverIsMadeToFitDoes(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 43))
	for range 5_000 {
		w := some(r)
		c := &Cause{At: dusk, Standing: people.Newcomer, Known: &people.Known{}, Person: event.Person{Platform: "quayside", ID: "0"}}
		if w.Account != "" && w.Platform != "" && w.Account[:len(w.Platform)] != w.Platform {
			continue // nobody is
		}
		w.Days = nil // which day of the week it is, is for whoever looks for a moment
		w.Embody(c)
		if _, misfit := w.Match(c); misfit != "" {
			t.Fatalf("%+v is embodied as %+v, and %s", w, c, misfit)
		}
	}
}

func TestTheCloserWhoComesFirstWhicheverIsAskedFirst(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 44))
	for range 20_000 {
		c := somebody(r)
		var held []Held
		for len(held) < 3 {
			w := tangled(r, 1)
			if h, misfit := w.Match(c); misfit == "" {
				if at := w.Closest(); h.Close > at {
					t.Fatalf("%+v came closer than it can: %d, %d", w, h.Close, at)
				}
				held = append(held, h)
			} else if r.IntN(20) == 0 {
				c = somebody(r)
			}
		}
		first := func(a, b Held) int { d, _ := a.Compare(b); return d }
		a, b, d := held[0], held[1], held[2]
		if first(a, b) != -first(b, a) || first(a, b) > 0 && first(b, d) > 0 && first(a, d) <= 0 {
			t.Fatalf("%+v %+v %+v have no order", a, b, d)
		}
	}
}
