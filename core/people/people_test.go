package people_test

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// everyThirdDay are n past streams, the last one three days ago.
func everyThirdDay(n int) []attendance.Past {
	var out []attendance.Past
	for i := range n {
		at := dusk.AddDate(0, 0, -3*(n-i))
		out = append(out, attendance.Past{Number: i + 1, Opened: at, Closed: at.Add(2 * time.Hour)})
	}
	return out
}

func attended(past []attendance.Past, numbers ...int) *people.Known {
	k := &people.Known{Attended: len(numbers), Recent: numbers}
	for _, n := range numbers {
		at := past[n-1].Opened.Add(time.Hour)
		k.LastSeen = &at
	}
	return k
}

func TestEveryStandingSaysWhy(t *testing.T) {
	past := everyThirdDay(12)
	for _, c := range []struct {
		name string
		k    *people.Known
		past []attendance.Past
		want people.Standing
		why  string
	}{
		{"nobody knows them", nil, past, people.Newcomer, "no earlier stream with a visit"},
		{"seen but never at a stream", &people.Known{}, past, people.Newcomer, "no earlier stream"},
		{"once before", attended(past, 12), past, people.Returning, "1 earlier stream, 1 of the last 10 streams; 6 make a regular"},
		{"five of the last ten", attended(past, 1, 2, 4, 6, 8, 10, 12), past, people.Returning, "7 earlier streams, 5 of the last 10"},
		{"six of the last ten", attended(past, 3, 4, 6, 8, 10, 12), past, people.Regular, "6 of the last 10 streams; missed"},
		{"all there were", attended(past, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12), past, people.Regular, "missed none"},
		{"a young channel still asks for six", attended(past[:5], 1, 2, 3, 4, 5), past[:5], people.Returning, "5 of the last 5 streams"},
		{"six of a young channel's six", attended(past, 7, 8, 9, 10, 11, 12), past[6:], people.Regular, "6 of the last 6"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, why := people.DefaultRules.Standing(c.k, c.past, dusk, time.UTC)
			if got != c.want || !strings.Contains(why, c.why) {
				t.Errorf("%s (%s), want %s (%s)", got, why, c.want, c.why)
			}
		})
	}
}

func TestWhoMissedAMonthIsLongAwayUnlessTheChannelPausedItself(t *testing.T) {
	past := everyThirdDay(20)
	faded := attended(past, 1, 2, 3, 4, 5, 6, 7, 8)
	if got, why := people.DefaultRules.Standing(faded, past, dusk, time.UTC); got != people.LongAway || !strings.Contains(why, "12 streams missed since") {
		t.Errorf("%s (%s)", got, why)
	}
	if got, _ := people.DefaultRules.Standing(attended(past, 1, 2), past, dusk, time.UTC); got != people.Returning {
		t.Errorf("two visits make nobody long away: %s", got)
	}
	keen := attended(past, 15, 16, 17, 18, 19, 20)
	if got, why := people.DefaultRules.Standing(keen, past, dusk.AddDate(0, 2, 0), time.UTC); got != people.Regular {
		t.Errorf("after two months without a stream: %s (%s)", got, why)
	}
	strict := people.Rules{RegularAttended: 9, AwayDays: 10}.Or(people.DefaultRules)
	if got, _ := strict.Standing(attended(past, 14, 15, 16), past, dusk, time.UTC); got != people.LongAway {
		t.Errorf("with ten days as the rule: %s", got)
	}
}

func TestTheMissedDaysAreNamed(t *testing.T) {
	past := everyThirdDay(10)
	_, why := people.DefaultRules.Standing(attended(past, 1, 3, 5, 6, 7, 8, 10), past, dusk, time.UTC)
	if why != fmt.Sprintf("7 of the last 10 streams; missed %s, %s, %s", past[1].Opened.Format("2 January"), past[3].Opened.Format("2 January"), past[8].Opened.Format("2 January")) {
		t.Error(why)
	}
}

func TestTheNeverListTakesNamesAsTheyAreTyped(t *testing.T) {
	never := people.MakeNeverList([]string{" @Boathouse_Bell ", "quayside:77", "", "PLAIN"})
	for _, c := range []struct {
		p      event.Person
		k      *people.Known
		listed bool
	}{
		{event.Person{Platform: "fernlight", ID: "1", Login: "boathouse_bell"}, nil, true},
		{event.Person{Platform: "quayside", ID: "77", Login: "anything"}, nil, true},
		{event.Person{Platform: "mynet", ID: "plain"}, nil, true},
		{event.Person{Platform: "fernlight", ID: "77", Login: "limpet_lena"}, nil, false},
		{event.Person{Platform: "fernlight", ID: "78", Login: "limpet_lena"}, &people.Known{LeaveBe: true}, true},
		{event.Person{Platform: "quayside", ID: "1", Login: "odalys", Roles: []event.Role{event.Streamer}}, nil, true},
	} {
		if why := never.Reason(c.p, c.k); (why != "") != c.listed {
			t.Errorf("%s %s: %q", c.p.Key(), c.p.Login, why)
		}
	}
}

func text(s string) *string { return &s }
func yes(b bool) *bool      { return &b }

func TestAMergedPersonShowsWhatTheKeptRecordLacks(t *testing.T) {
	kept := event.Hand{Note: text(""), Tags: []string{"kelp"}, Trusted: yes(false)}
	other := event.Hand{SayAs: text("kelp-right"), Note: text("asked about lenses"), Tags: []string{"kelp", "prints"}, Trusted: yes(true)}
	u := people.Union(kept, other)
	if people.Text(u.SayAs) != "kelp-right" || people.Text(u.Note) != "" || people.Yes(u.Trusted) || !slices.Equal(u.Tags, []string{"kelp", "prints"}) {
		t.Errorf("%+v", u)
	}
}

// someEdit makes edits out of random bytes.
func someEdit(b []byte) event.Edit {
	var e event.Edit
	words := []string{"", "kelp", "prints", "moths"}
	for i, c := range b {
		w := words[int(c)%len(words)]
		switch (int(c)/4 + i) % 9 {
		case 0:
			e.Set.SayAs = text(w)
		case 1:
			e.Set.Note = text(w)
		case 2:
			e.Set.Trusted = yes(c%2 == 0)
		case 3:
			e.AddTags = append(e.AddTags, w)
		case 4:
			e.DropTags = append(e.DropTags, w)
		case 5:
			e.AddCrews = append(e.AddCrews, "crew-"+w)
		case 6:
			e.DropCrews = append(e.DropCrews, "crew-"+w)
		case 7:
			e.Unset = append(e.Unset, "pronouns")
		case 8:
			e.Set.Pronouns = text(w)
			e.Unset = nil
		}
	}
	return e
}

// plain is a hand as it reads, whatever order its lists are in.
func plain(h event.Hand) string {
	slices.Sort(h.Tags)
	slices.Sort(h.Crews)
	return fmt.Sprint(people.Text(h.SayAs), h.SayAs == nil, people.Text(h.Note), h.Note == nil, people.Text(h.Pronouns), h.Pronouns == nil, people.Yes(h.Trusted), h.Trusted == nil, len(h.Tags), h.Tags, len(h.Crews), h.Crews)
}

func TestAnyEditCanBeTakenBack(t *testing.T) {
	back := func(first, second, change []byte) bool {
		var hands []event.Hand
		for _, b := range [][]byte{first, second} {
			h, _ := people.Apply(someEdit(b), []event.Hand{{}})
			hands = append(hands, h[0])
		}
		before := []string{plain(hands[0]), plain(hands[1])}
		e := someEdit(change)
		next, undo := people.Apply(e, hands)
		for i := range next {
			restored, _ := people.Apply(people.Still(e, undo[i], next[i]), []event.Hand{next[i]})
			if i > 0 { // the fields of the edit touch the kept record only
				restored, _ = people.Apply(undo[i], []event.Hand{next[i]})
			}
			if plain(restored[0]) != before[i] {
				t.Logf("%d: %s, was %s", i, plain(restored[0]), before[i])
				return false
			}
		}
		return true
	}
	if err := quick.Check(back, &quick.Config{MaxCount: 3000}); err != nil {
		t.Error(err)
	}
}

func TestWhatWasChangedAgainSinceStaysWhenAnEditIsTakenBack(t *testing.T) {
	first := event.Edit{Set: event.Hand{SayAs: text("kelp-right"), Note: text("prints on Fridays")}}
	hands, back := people.Apply(first, []event.Hand{{}})
	hands, _ = people.Apply(event.Edit{Set: event.Hand{Note: text("prints on Mondays")}}, hands)
	hands, _ = people.Apply(people.Still(first, back[0], hands[0]), hands)
	if hands[0].SayAs != nil || people.Text(hands[0].Note) != "prints on Mondays" {
		t.Errorf("%+v", hands[0])
	}
}

func TestCombinationsOfCrewsAreComputed(t *testing.T) {
	got := people.Combine(map[string][]int64{"league": {1, 2, 3, 3}, "row": {2, 3, 4}, "moths": {3, 5}})
	want := []people.Combination{{Crews: []string{"league", "moths", "row"}, People: []int64{3}}, {Crews: []string{"league", "row"}, People: []int64{2}},
		{Crews: []string{"league"}, People: []int64{1}}, {Crews: []string{"moths"}, People: []int64{5}}, {Crews: []string{"row"}, People: []int64{4}}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%v", got)
	}
}

func TestLikelyPairsComeWithTheirEvidence(t *testing.T) {
	a := people.Half{Person: 1, Platform: "quayside", Login: "kelpwright", Name: "Kelp Wright", Streams: []int{1, 2, 3}}
	for _, c := range []struct {
		b    people.Half
		ok   bool
		says string
	}{
		{people.Half{Person: 2, Platform: "fernlight", Login: "Kelpwright", Streams: []int{4}}, true, "the same login, kelpwright; never both at one stream"},
		{people.Half{Person: 2, Platform: "fernlight", Login: "kelp_wright7", Name: "Kelp Wright", Streams: []int{2, 3}}, true, "but for signs and digits: kelpwright, kelp_wright7; the same name, Kelp Wright; both were at 2 streams"},
		{people.Half{Person: 2, Platform: "fernlight", Login: "kelpwrigth"}, false, ""},
		{people.Half{Person: 2, Platform: "fernlight", Login: "kelpwrite"}, false, ""},
		{people.Half{Person: 2, Platform: "fernlight", Login: "kelpwrght"}, true, "one letter apart"},
		{people.Half{Person: 2, Platform: "quayside", Login: "kelpwright_"}, false, ""},
		{people.Half{Person: 1, Platform: "fernlight", Login: "kelpwright"}, false, ""},
	} {
		because, ok := people.Evidence(a, c.b)
		if ok != c.ok || !strings.Contains(strings.Join(because, "; "), c.says) {
			t.Errorf("%s: %v %v", c.b.Login, ok, because)
		}
	}
}

func TestACardChangesOnlyWhatItSays(t *testing.T) {
	day := dusk.AddDate(-1, 0, 0)
	have := card.Card{Accounts: []card.Account{{Person: event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena"}, Followed: &dusk}},
		Hand: event.Hand{SayAs: text("Lena"), Tags: []string{"kelp"}}, Streams: []int{1, 2}}
	if d := card.Diff(&have, &have); len(d) != 0 {
		t.Errorf("a card against itself: %v", d)
	}
	in := card.Card{Accounts: []card.Account{{Person: event.Person{Login: "@Limpet_Lena"}, Followed: &day, Was: []string{"lena"}}},
		Hand: event.Hand{Note: text("brings tea"), Tags: []string{" prints "}}, Streams: []int{2, 3, 3}}
	if err := in.Fill("quayside"); err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, c := range card.Diff(&have, &in) {
		got = append(got, c.Field+": "+c.Was+" → "+c.Now)
	}
	want := []string{"note:  → brings tea", "tags: kelp → kelp, prints", "streams attended: 2 → 3", "follows since: 14 May 2031 → 14 May 2030", "earlier names:  → lena"}
	if !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
}

func TestACardThatCannotStandNamesItsField(t *testing.T) {
	for field, c := range map[string]card.Card{
		"accounts":   {},
		"platform":   {Accounts: []card.Account{{Person: event.Person{Login: "lena"}}}},
		"login":      {Accounts: []card.Account{{Person: event.Person{Platform: "quayside"}}}},
		"data.zone":  {Accounts: []card.Account{{Person: event.Person{Platform: "quayside", Login: "lena"}}}, Hand: event.Hand{Zone: text("the coast")}},
		"data.sayAs": {Accounts: []card.Account{{Person: event.Person{Platform: "quayside", Login: "lena"}}}, Hand: event.Hand{SayAs: text(strings.Repeat("e", 99))}},
	} {
		err := c.Fill("")
		if f, ok := err.(*event.FieldError); !ok || f.Field != field || f.Remedy == "" {
			t.Errorf("%s: %v", field, err)
		}
	}
}
