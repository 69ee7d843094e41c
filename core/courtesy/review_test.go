package courtesy_test

import (
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/who"
)

var wednesday = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func thanks(id string, m *who.Measure, who who.Who) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: "porch.raid.came", Slot: happening.Thanks, Measure: m, Who: who, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Thanks"}}}}
}

func TestTheReviewFindsWhatCanNeverHappen(t *testing.T) {
	band := func(low, high float64) *who.Measure { return &who.Measure{AtLeast: &low, UpTo: &high} }
	least := func(low float64) *who.Measure { return &who.Measure{AtLeast: &low} }
	for _, c := range []struct {
		name, never, why string
		list             []courtesy.Courtesy
	}{
		{"the second of two alike", "b", "a is always closer", []courtesy.Courtesy{greet("a", who.Who{}), greet("b", who.Who{})}},
		{"two that are for different people", "", "", []courtesy.Courtesy{greet("a", who.Who{Standing: people.Newcomer}), greet("b", who.Who{Standing: people.Regular})}},
		{"a general one under all four standings", "general", "is always closer", []courtesy.Courtesy{greet("general", who.Who{}), greet("n", who.Who{Standing: people.Newcomer}),
			greet("r", who.Who{Standing: people.Returning}), greet("g", who.Who{Standing: people.Regular}), greet("l", who.Who{Standing: people.LongAway})}},
		{"a general one under three of them", "", "", []courtesy.Courtesy{greet("general", who.Who{}), greet("n", who.Who{Standing: people.Newcomer}),
			greet("r", who.Who{Standing: people.Returning}), greet("g", who.Who{Standing: people.Regular})}},
		{"a band within a closer one of the same people", "", "", []courtesy.Courtesy{thanks("all", least(5), who.Who{}), thanks("some", band(5, 20), who.Who{})}},
		{"a wide band that narrower ones take whole", "wide", "is always closer", []courtesy.Courtesy{thanks("low", band(5, 9), who.Who{}), thanks("high", band(10, 20), who.Who{}), thanks("wide", band(5, 20), who.Who{})}},
		{"who is and is not", "odd", "nobody can be all of that", []courtesy.Courtesy{greet("odd", who.Who{Tag: "owl", Not: []who.Who{{Tag: "owl"}}})}},
		{"weekdays that the other leaves open", "", "", []courtesy.Courtesy{greet("a", who.Who{Days: []string{"Friday"}}), greet("b", who.Who{})}},
		{"a general one behind a platform each", "general", "is always closer", []courtesy.Courtesy{greet("general", who.Who{}), greet("q", who.Who{Platform: "quayside"}), greet("f", who.Who{Platform: "fernlight"})}},
		{"a crew's in season", "", "", []courtesy.Courtesy{greet("season", who.Who{Crews: &who.Crews{Of: []string{"moths"}}, Since: "2032-01-01", Until: "2032-02-01", Hours: &who.Hours{From: "02:00", To: "03:00"}}), greet("b", who.Who{})}},
		{"a crew under a combination", "", "", []courtesy.Courtesy{greet("both", who.Who{Crews: &who.Crews{Of: []string{"moths", "row"}}}), greet("one", who.Who{Crews: &who.Crews{Of: []string{"moths"}}})}},
		{"what runs beside", "", "", []courtesy.Courtesy{greet("a", who.Who{}), func() courtesy.Courtesy { c := greet("b", who.Who{}); c.Also = true; return c }()}},
		{"what is switched off", "", "", []courtesy.Courtesy{greet("a", who.Who{}), func() courtesy.Courtesy { c := greet("b", who.Who{}); c.On = false; return c }()}},
	} {
		var never []courtesy.Finding
		for _, f := range load(t, c.list...).Review(wednesday, []string{"quayside", "fernlight"}) {
			if f.Kind == "never" {
				never = append(never, f)
			}
		}
		switch {
		case c.never == "" && len(never) > 0:
			t.Errorf("%s: %+v", c.name, never)
		case c.never != "" && (len(never) != 1 || never[0].Courtesy != c.never || !strings.Contains(never[0].What, c.why) || never[0].Remedy == ""):
			t.Errorf("%s: want %s, got %+v", c.name, c.never, never)
		}
	}
}

func TestTheReviewFindsNumbersThatNobodyThanksFor(t *testing.T) {
	low, high, most := 5.0, 20.0, 60.0
	found := load(t, thanks("few", &who.Measure{AtLeast: &low, UpTo: &high}, who.Who{}), thanks("many", &who.Measure{AtLeast: &most}, who.Who{})).Review(wednesday, nil)
	var gaps []string
	for _, f := range found {
		if f.Kind == "gap" {
			gaps = append(gaps, f.What)
		}
	}
	if strings.Join(gaps, "; ") != "nobody in particular is thanked for 1 to 4 viewers; nobody in particular is thanked for 21 to 59 viewers" {
		t.Errorf("%q", gaps)
	}
	if found = load(t, thanks("few", &who.Measure{AtLeast: &low, UpTo: &high}, who.Who{}), thanks("else", &who.Measure{}, who.Who{})).Review(wednesday, nil); len(found) != 0 {
		t.Errorf("%+v", found)
	}
}
