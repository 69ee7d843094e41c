package courtesy_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/prose"
	"vividporch/core/spoken"
	"vividporch/core/who"
)

// The house of the table: what a streamer with two crews and a few friends set.
func porch() []courtesy.Courtesy {
	crews := func(in string, of ...string) who.Who {
		return who.Who{Crews: &who.Crews{Of: of, In: in}}
	}
	silent := greet("silent", who.Who{Account: "quayside:shy"})
	silent.Do = nil
	off := greet("off", who.Who{Account: "quayside:off"})
	off.On = false
	return []courtesy.Courtesy{
		greet("anyone", who.Who{}),
		greet("newcomer", who.Who{Standing: people.Newcomer}),
		greet("regular", who.Who{Standing: people.Regular}),
		greet("regular-thursday", who.Who{Standing: people.Regular, Days: []string{"Thursday"}}),
		greet("late-hours", who.Who{Hours: &who.Hours{From: "22:00", To: "02:00"}}),
		greet("fernlight", who.Who{Platform: "fernlight"}),
		greet("vip", who.Who{Role: event.VIP}),
		greet("fellow", who.Who{Mark: people.Fellow}),
		greet("potters", who.Who{Tag: "potters"}),
		greet("trusted", who.Who{Trusted: true, Attended: 30}),
		greet("moths", crews("", "quiet-moths")),
		greet("row", crews("", "lantern-row")),
		greet("moths-and-row", crews("all", "quiet-moths", "lantern-row")),
		greet("all-three", crews("all", "quiet-moths", "lantern-row", "low-water-league")),
		greet("one-of-guilds", crews("one", "guild-a", "guild-b")),
		greet("either-guest", who.Who{Any: []who.Who{{Account: "quayside:guest"}, {Tag: "guest"}}}),
		greet("season", who.Who{Tag: "carol", Since: "2026-12-01", Until: "2026-12-26"}),
		greet("mods-not-potters", who.Who{Role: event.Moderator, Not: []who.Who{{Tag: "potters"}}}),
		greet("vip-and-hundred", who.Who{All: []who.Who{{Role: event.VIP}, {Attended: 100}}}),
		greet("lena", who.Who{Account: "quayside:8841"}),
		silent, off,
	}
}

func TestWhoGetsWhichGreeting(t *testing.T) {
	set := load(t, porch()...)
	thursday := time.Date(2026, 11, 26, 20, 30, 0, 0, time.UTC)
	type ask = who.Cause
	of := func(id string) event.Person { return event.Person{Platform: "quayside", ID: id} }
	in := func(crews ...string) *people.Known { return &people.Known{Crews: crews} }
	vip := event.Person{Platform: "quayside", ID: "v", Roles: []event.Role{event.VIP}}
	mod := event.Person{Platform: "quayside", ID: "m", Roles: []event.Role{event.Moderator}}
	for question, c := range map[string]struct {
		ask
		want string
	}{
		"somebody I know nothing else of":                 {ask{Person: of("1"), Standing: people.Returning}, "anyone"},
		"somebody on their first evening":                 {ask{Person: of("1"), Standing: people.Newcomer}, "newcomer"},
		"a regular on a Thursday":                         {ask{Person: of("1"), Standing: people.Regular}, "regular-thursday"},
		"a regular on a Friday":                           {ask{Person: of("1"), Standing: people.Regular, At: thursday.AddDate(0, 0, 1)}, "regular"},
		"someone at eleven at night":                      {ask{Person: of("1"), Standing: people.Returning, At: thursday.Add(150 * time.Minute)}, "late-hours"},
		"someone at one in the night, over midnight":      {ask{Person: of("1"), Standing: people.Returning, At: thursday.Add(270 * time.Minute)}, "late-hours"},
		"someone at two, when the window has just ended":  {ask{Person: of("1"), Standing: people.Returning, At: thursday.Add(330 * time.Minute)}, "anyone"},
		"a newcomer at eleven: the standing is closer":    {ask{Person: of("1"), Standing: people.Newcomer, At: thursday.Add(150 * time.Minute)}, "newcomer"},
		"someone on the other platform":                   {ask{Person: event.Person{Platform: "fernlight", ID: "1"}, Standing: people.Returning}, "fernlight"},
		"a newcomer on the other platform":                {ask{Person: event.Person{Platform: "fernlight", ID: "1"}, Standing: people.Newcomer}, "newcomer"},
		"a VIP":                                           {ask{Person: vip, Standing: people.Returning}, "vip"},
		"a VIP who is new":                                {ask{Person: vip, Standing: people.Newcomer}, "vip"},
		"a VIP who is a regular":                          {ask{Person: vip, Standing: people.Regular}, "vip"},
		"a VIP with a hundred evenings":                   {ask{Person: vip, Standing: people.Regular, Known: &people.Known{Attended: 99}}, "vip-and-hundred"},
		"a VIP with ninety-nine":                          {ask{Person: vip, Standing: people.Regular, Known: &people.Known{Attended: 98}}, "vip"},
		"a fellow streamer":                               {ask{Person: of("1"), Marks: []people.Mark{people.Fellow}}, "fellow"},
		"a VIP who streams: two that tie, in my order":    {ask{Person: vip, Marks: []people.Mark{people.Fellow}}, "vip"},
		"one I tagged as a potter":                        {ask{Person: of("1"), Known: &people.Known{Tags: []string{"Potters"}}}, "potters"},
		"a trusted one of long standing":                  {ask{Person: of("1"), Known: &people.Known{Trusted: true, Attended: 29}}, "trusted"},
		"a trusted one who is still quite new":            {ask{Person: of("1"), Standing: people.Returning, Known: &people.Known{Trusted: true, Attended: 28}}, "anyone"},
		"a trusted VIP of long standing: more conditions": {ask{Person: vip, Known: &people.Known{Trusted: true, Attended: 40}}, "trusted"},
		"one of the Quiet Moths":                          {ask{Person: of("1"), Known: in("quiet-moths")}, "moths"},
		"one of Lantern Row":                              {ask{Person: of("1"), Known: in("lantern-row")}, "row"},
		"one in both crews":                               {ask{Person: of("1"), Known: in("lantern-row", "quiet-moths")}, "moths-and-row"},
		"one in all three":                                {ask{Person: of("1"), Known: in("lantern-row", "low-water-league", "quiet-moths")}, "all-three"},
		"one in two of which one has no words":            {ask{Person: of("1"), Known: in("low-water-league", "quiet-moths")}, "moths"},
		"one in the league alone, which has no words":     {ask{Person: of("1"), Standing: people.Returning, Known: in("low-water-league")}, "anyone"},
		"a crew member who is a VIP: the crew is closer":  {ask{Person: vip, Known: in("quiet-moths")}, "moths"},
		"a crew member who streams":                       {ask{Person: of("1"), Known: in("quiet-moths"), Marks: []people.Mark{people.Fellow}}, "moths"},
		"one in exactly one of the guilds":                {ask{Person: of("1"), Known: in("guild-b")}, "one-of-guilds"},
		"one in both guilds is not in exactly one":        {ask{Person: of("1"), Standing: people.Returning, Known: in("guild-a", "guild-b")}, "anyone"},
		"one in a guild and in the Moths: a combination":  {ask{Person: of("1"), Known: in("guild-a", "quiet-moths")}, "one-of-guilds"},
		"my guest by name, before any crew":               {ask{Person: of("guest"), Known: in("lantern-row", "low-water-league", "quiet-moths")}, "either-guest"},
		"one tagged as guest is only that":                {ask{Person: of("2"), Known: &people.Known{Tags: []string{"guest"}, Crews: []string{"quiet-moths"}}}, "moths"},
		"one tagged as guest and in no crew":              {ask{Person: of("2"), Known: &people.Known{Tags: []string{"guest"}}}, "either-guest"},
		"a carol singer in December":                      {ask{Person: of("1"), Known: &people.Known{Tags: []string{"carol"}}, At: thursday.AddDate(0, 0, 10)}, "season"},
		"a carol singer before the season":                {ask{Person: of("1"), Standing: people.Returning, Known: &people.Known{Tags: []string{"carol"}}}, "anyone"},
		"a carol singer on its last day":                  {ask{Person: of("1"), Known: &people.Known{Tags: []string{"carol"}}, At: thursday.AddDate(0, 0, 30)}, "season"},
		"a carol singer after it":                         {ask{Person: of("1"), Standing: people.Returning, Known: &people.Known{Tags: []string{"carol"}}, At: thursday.AddDate(0, 0, 31)}, "anyone"},
		"a moderator":                                     {ask{Person: mod, Standing: people.Returning}, "mods-not-potters"},
		"a moderator who is a potter: left out by name":   {ask{Person: mod, Known: &people.Known{Tags: []string{"potters"}}}, "potters"},
		"Lena": {ask{Person: of("8841"), Standing: people.Regular, Known: in("quiet-moths")}, "lena"},
		"Lena on her second account, which I merged":             {ask{Person: event.Person{Platform: "fernlight", ID: "f-1"}, Known: &people.Known{Accounts: []string{"fernlight:f-1", "quayside:8841"}}}, "lena"},
		"a stranger with the same number on the other platform":  {ask{Person: event.Person{Platform: "fernlight", ID: "8841"}, Standing: people.Returning}, "fernlight"},
		"the shy one who wants none: their silence is the words": {ask{Person: of("shy"), Standing: people.Regular}, "silent"},
		"one whose own greeting is off gets the general one":     {ask{Person: of("off"), Standing: people.Returning}, "anyone"},
	} {
		c.When, c.Live = happening.Arrival, true
		if c.At.IsZero() {
			c.At = thursday
		}
		won, ladder := set.Winner(c.ask, happening.Greeting)
		got := "nobody"
		if won != nil {
			got = won.ID
		}
		if got != c.want {
			t.Errorf("%s: %s won, want %s\n%v", question, got, c.want, ladder)
		}
	}
}

func TestMeasuresDecideBetweenEqualWhos(t *testing.T) {
	tip := func(id string, m who.Measure) courtesy.Courtesy {
		m.Of, m.Currency = "amount", "EUR"
		return courtesy.Courtesy{ID: id, On: true, When: "porch.support.tipped", Slot: happening.Thanks, Measure: &m, Do: words()}
	}
	set := load(t, tip("any", who.Measure{}), tip("five", who.Measure{AtLeast: n(5)}), tip("fifty", who.Measure{AtLeast: n(50)}),
		tip("band", who.Measure{AtLeast: n(10), UpTo: n(19.99)}), tip("twelve-fifty", who.Measure{Exactly: n(12.5)}),
		tip("tonight", who.Measure{Largest: "tonight"}), tip("ever", who.Measure{Largest: "ever"}))
	for question, c := range map[string]struct {
		q    who.Quantity
		want string
	}{
		"a tip in another currency is nobody's": {who.Quantity{Of: "amount", Currency: "SEK", N: 70, Tonight: 100, Ever: 100}, ""},
		"a small tip":                           {who.Quantity{Of: "amount", Currency: "EUR", N: 4.99, Tonight: 100, Ever: 100}, "any"},
		"five":                                  {who.Quantity{Of: "amount", Currency: "EUR", N: 5, Tonight: 100, Ever: 100}, "five"},
		"twelve: in the band":                   {who.Quantity{Of: "amount", Currency: "EUR", N: 12, Tonight: 100, Ever: 100}, "band"},
		"twelve fifty: exactly":                 {who.Quantity{Of: "amount", Currency: "EUR", N: 12.5, Tonight: 1, Ever: 1}, "twelve-fifty"},
		"twenty: past the band":                 {who.Quantity{Of: "amount", Currency: "EUR", N: 20, Tonight: 100, Ever: 100}, "five"},
		"sixty":                                 {who.Quantity{Of: "amount", Currency: "EUR", N: 60, Tonight: 100, Ever: 100}, "fifty"},
		"the largest of the evening":            {who.Quantity{Of: "amount", Currency: "EUR", N: 60, Tonight: 59, Ever: 100}, "tonight"},
		"as large as the largest is not larger": {who.Quantity{Of: "amount", Currency: "EUR", N: 60, Tonight: 60, Ever: 60}, "fifty"},
		"the largest ever, which is tonight's of course": {who.Quantity{Of: "amount", Currency: "EUR", N: 101, Tonight: 59, Ever: 100}, "ever"},
		"the largest of the evening, though in the band": {who.Quantity{Of: "amount", Currency: "EUR", N: 12, Tonight: 3, Ever: 100}, "tonight"},
		"the first of the evening is its largest":        {who.Quantity{Of: "amount", Currency: "EUR", N: 2, Ever: 100}, "tonight"},
	} {
		won, ladder := set.Winner(who.Cause{When: "porch.support.tipped", Live: true, Quantities: []who.Quantity{c.q}}, happening.Thanks)
		if got := id(won); got != c.want {
			t.Errorf("%s: %q won, want %q\n%v", question, got, c.want, ladder)
		}
	}
}

func id(r *courtesy.Ready) string {
	if r == nil {
		return ""
	}
	return r.ID
}

// some makes courtesies and causes out of few values, so that they often meet.
type some struct{ *rand.Rand }

func (r some) one(deep int) who.Who {
	var w who.Who
	pick := func(one int) bool { return r.IntN(one) == 0 }
	if pick(4) {
		w.Standing = people.Standings[r.IntN(4)]
	}
	if pick(5) {
		w.Role = event.VIP
	}
	if pick(5) {
		w.Tag = "potters"
	}
	if pick(4) {
		w.Crews = &who.Crews{Of: []string{"a", "b", "c"}[:1+r.IntN(3)], In: []string{"", "one", "any"}[r.IntN(3)]}
	}
	if pick(6) {
		w.Account = fmt.Sprintf("quayside:%d", r.IntN(3))
	}
	if pick(6) {
		w.Platform = []string{"quayside", "fernlight"}[r.IntN(2)]
	}
	if deep > 0 && pick(3) {
		w.Any = []who.Who{r.one(deep - 1), r.one(deep - 1)}
	}
	if deep > 0 && pick(4) {
		w.Not = []who.Who{r.one(0)}
	}
	return w
}

func (r some) cause() who.Cause {
	c := who.Cause{When: happening.Arrival, Live: true, Standing: people.Standings[r.IntN(4)], Known: &people.Known{},
		Person: event.Person{Platform: []string{"quayside", "fernlight"}[r.IntN(2)], ID: fmt.Sprint(r.IntN(3))}}
	if r.IntN(2) == 0 {
		c.Person.Roles = []event.Role{event.VIP}
	}
	if r.IntN(2) == 0 {
		c.Known.Tags = []string{"potters"}
	}
	for _, crew := range []string{"a", "b", "c"} {
		if r.IntN(2) == 0 {
			c.Known.Crews = append(c.Known.Crews, crew)
		}
	}
	return c
}

func TestExactlyOneWinsWhoeverElseThereIs(t *testing.T) {
	r := some{rand.New(rand.NewPCG(7, 11))}
	for range 3000 {
		var list []courtesy.Courtesy
		for i := range 2 + r.IntN(7) {
			list = append(list, greet(fmt.Sprint("c", i), r.one(2)))
		}
		set := load(t, list...)
		c := r.cause()
		won, ladder := set.Winner(c, happening.Greeting)
		winners, fit := 0, 0
		for _, g := range ladder {
			if g.Won {
				winners++
			}
		}
		for _, k := range set.For(c) {
			if ok, _ := k.Fits(c); ok {
				fit++
			}
		}
		if fit > 0 != (won != nil) || winners > 1 || winners == 1 != (won != nil) {
			t.Fatalf("%d fit, %d won", fit, winners)
		}
		// What does not fit changes nothing, wherever it stands.
		more := append([]courtesy.Courtesy{}, list...)
		other := greet("other", who.Who{Platform: "elsewhere"})
		at := r.IntN(len(more) + 1)
		more = append(more[:at], append([]courtesy.Courtesy{other}, more[at:]...)...)
		if again, _ := load(t, more...).Winner(c, happening.Greeting); id(again) != id(won) {
			t.Fatalf("a courtesy for nobody changed the winner from %s to %s", id(won), id(again))
		}
		// Turned round, another may win only where the ladder said that the order decided, and only one that could tie.
		turned := make([]courtesy.Courtesy, 0, len(list))
		for i := len(list) - 1; i >= 0; i-- {
			turned = append(turned, list[i])
		}
		if again, _ := load(t, turned...).Winner(c, happening.Greeting); id(again) != id(won) {
			said := false
			for _, g := range ladder {
				said = said || g.Courtesy == id(again) && strings.Contains(g.Why, "the order you set decides")
			}
			found := false
			for _, tie := range set.Ties(1000) {
				found = found || tie.First == id(won) && tie.Second == id(again) || tie.First == id(again) && tie.Second == id(won)
			}
			if !said || !found {
				t.Fatalf("the order decided between %s and %s; the ladder said so: %v, and it was pointed out: %v", id(won), id(again), said, found)
			}
		}
	}
}

func TestWhatCanTieIsPointedOutAndNothingElse(t *testing.T) {
	set := load(t, greet("vip", who.Who{Role: event.VIP}), greet("fellow", who.Who{Mark: people.Fellow}),
		greet("new", who.Who{Standing: people.Newcomer}), greet("regular", who.Who{Standing: people.Regular}),
		greet("mon", who.Who{Tag: "a", Days: []string{"Monday"}}), greet("tue", who.Who{Tag: "a", Days: []string{"Tuesday"}}),
		thank("small", &who.Measure{AtLeast: n(1), UpTo: n(9)}), thank("large", &who.Measure{AtLeast: n(10), UpTo: n(99)}), thank("over", &who.Measure{AtLeast: n(90), UpTo: n(200)}))
	var got []string
	for _, tie := range set.Ties(10) {
		got = append(got, tie.First+"+"+tie.Second)
	}
	if strings.Join(got, " ") != "vip+fellow large+over" {
		t.Errorf("%v", got)
	}
}

func TestTheNumberLineShowsGapsAndOverlaps(t *testing.T) {
	set := load(t, thank("five-up", &who.Measure{AtLeast: n(5)}), thank("twenty-to-forty", &who.Measure{AtLeast: n(20), UpTo: n(40)}))
	var got []string
	for _, s := range set.Line(who.Cause{When: "porch.raid.came", Live: true}, happening.Thanks, "viewers", "") {
		to := "…"
		if s.To != nil {
			to = fmt.Sprint(*s.To)
		}
		got = append(got, fmt.Sprintf("%g–%s %s%v", s.From, to, s.Courtesy, s.Under))
	}
	if want := "0–4 [] 5–19 five-up[] 20–40 twenty-to-forty[five-up] 41–… five-up[]"; strings.Join(got, " ") != want {
		t.Errorf("%v, want %s", got, want)
	}
}

func TestWhatCannotBeMeantIsRefusedWithItsPlace(t *testing.T) {
	bad := greet("bad", who.Who{Days: []string{"Someday"}, Hours: &who.Hours{From: "7", To: "09:00"}, Since: "2026-13-01",
		Any: []who.Who{{Crews: &who.Crews{In: "most"}}, {Standing: "friend"}}, Not: []who.Who{{Since: "2026-02-02", Until: "2026-02-01"}}})
	bad.Measure = &who.Measure{Of: "amount", Exactly: n(1), AtLeast: n(2)}
	_, faults := courtesy.Load([]courtesy.Courtesy{bad}, courtesy.World{})
	got := map[string]bool{}
	for _, f := range faults {
		got[f.At] = true
	}
	for _, at := range []string{"who.days", "who.hours.from", "who.since", "who.any.0.crews.of", "who.any.0.crews.in", "who.any.1.standing", "who.not.0.until", "measure", "measure.currency", "measure.of"} {
		if !got[at] {
			t.Errorf("nothing is said about %s in %v", at, faults)
		}
	}
}

func TestConditionsReadAsASentence(t *testing.T) {
	for want, w := range map[string]who.Who{
		"Greet anyone in both quiet-moths and lantern-row":                        {Crews: &who.Crews{Of: []string{"quiet-moths", "lantern-row"}}},
		"Greet anyone in exactly one of a and b":                                  {Crews: &who.Crews{Of: []string{"a", "b"}, In: "one"}},
		"Greet a regular who is a moderator tagged potters on Thursday":           {Standing: people.Regular, Role: event.Moderator, Tag: "potters", Days: []string{"Thursday"}},
		"Greet a VIP or anyone tagged guest":                                      {Any: []who.Who{{Role: event.VIP}, {Tag: "guest"}}},
		"Greet a newcomer on Fernlight but not anyone in quiet-moths":             {Standing: people.Newcomer, Platform: "fernlight", Not: []who.Who{{Crews: &who.Crews{Of: []string{"quiet-moths"}}}}},
		"Greet anyone who is trusted with 30 streams or more from 18:00 to 20:00": {Trusted: true, Attended: 30, Hours: &who.Hours{From: "18:00", To: "20:00"}},
	} {
		var b strings.Builder
		for _, p := range prose.Sentence(greet("x", w), who.Names{}) {
			b.WriteString(p.Text)
		}
		if b.String() != want {
			t.Errorf("%q, want %q", b.String(), want)
		}
	}
}

func TestWordingsBeyondAllMeasureAreRefusedAtTheirPlace(t *testing.T) {
	deep := strings.Repeat("{n, plural, other {", 60) + "#" + strings.Repeat("}}", 60)
	for what, src := range map[string]string{"keep to 8000": strings.Repeat("low water ", 2000), "nested too deeply": deep, "closing brace is missing": "{n, plural, other {x}", "without an opening one": "x}}"} {
		c := greet("c", who.Who{})
		c.Do[0].Alternatives = []string{"fine", src}
		_, faults := courtesy.Load([]courtesy.Courtesy{c}, courtesy.World{})
		said := ""
		for _, f := range faults {
			said += f.Error()
			if f.At != "do.0.alternatives.1" || f.Problem == nil || f.Problem.From > len(src) || f.Problem.To > len(src) {
				t.Errorf("%s: not at its place: %+v", what, f)
			}
		}
		if len(faults) != 1 || !strings.Contains(said, what) && !(what == "closing brace is missing" && strings.Contains(said, "not closed")) {
			t.Errorf("%s: %s", what, said)
		}
	}
}

func TestCommandsTieOnlyOverAWordTheyShare(t *testing.T) {
	command := func(id string, asks ...string) courtesy.Courtesy {
		return courtesy.Courtesy{ID: id, On: true, When: happening.Command, Slot: happening.Answer, Asks: asks, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{id}}}}
	}
	ties := load(t, command("tides", "!tides"), command("moon", "!moon"), command("sea", "!sea", "!Tides")).Ties(10)
	if len(ties) != 1 || ties[0].First != "tides" || ties[0].Second != "sea" || !strings.Contains(ties[0].Why, "both are asked by !tides") {
		t.Errorf("%+v", ties)
	}
}

func TestARoleIsWhatItSaysOrThoseAboveByChoice(t *testing.T) {
	one := func(roles ...event.Role) who.Cause {
		return who.Cause{When: happening.Command, Live: true, Heard: spoken.Heard{Signed: "!lamp"}, Person: event.Person{Platform: "quayside", ID: "1", Roles: roles}}
	}
	command := func(id string, w who.Who, only bool) courtesy.Courtesy {
		return courtesy.Courtesy{ID: id, On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{"!lamp"}, Who: w, Only: only,
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{id}}}}
	}
	may := func(roles ...event.Role) map[event.Role]bool {
		m := map[event.Role]bool{}
		for _, r := range roles {
			m[r] = true
		}
		return m
	}
	for name, c := range map[string]struct {
		w    who.Who
		only bool
		may  map[event.Role]bool
	}{
		"moderators only":         {who.Who{Role: event.Moderator}, true, may(event.Moderator)},
		"moderators":              {who.Who{Role: event.Moderator}, false, may(event.Moderator, event.CoHost, event.Streamer)},
		"co-hosts or above, only": {who.Who{Role: event.CoHost, OrAbove: true}, true, may(event.CoHost, event.Streamer)},
		"subscribers or above":    {who.Who{Role: event.Subscriber, OrAbove: true}, true, may(event.Subscriber, event.VIP, event.Moderator, event.CoHost, event.Streamer)},
		"a set":                   {who.Who{Any: []who.Who{{Role: event.VIP}, {Tag: "row"}}}, false, may(event.VIP, event.Moderator, event.CoHost, event.Streamer)},
		"one person":              {who.Who{Account: "quayside:2"}, false, may(event.Moderator, event.CoHost, event.Streamer)},
		"nobody":                  {who.Who{Nobody: true}, false, may(event.Moderator, event.CoHost, event.Streamer)},
		"nobody, only":            {who.Who{Nobody: true}, true, may()},
		"subscribers on Sundays":  {who.Who{Role: event.Subscriber, Days: []string{"Sunday"}}, false, may()},
		"all but moderators":      {who.Who{Not: []who.Who{{Role: event.Moderator}}}, true, may(event.CoHost, event.Streamer, event.VIP, event.Subscriber, event.Follower, "captain")},
	} {
		set := load(t, command("lamp", c.w, c.only))
		for _, role := range []event.Role{event.Streamer, event.CoHost, event.Moderator, event.VIP, event.Subscriber, event.Follower, "captain"} {
			if won, ladder := set.Winner(one(role), happening.Answer); (won != nil) != c.may[role] {
				t.Errorf("%s: a %s may ask: %v (%+v)", name, role, won != nil, ladder)
			}
		}
	}
}
