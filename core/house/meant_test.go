package house_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
)

// asked is a house with commands that do something to people: "!so" shouts out, "!vip"
// gives a badge, "!hug" only says something.
func asked(s *housefile.Settings) {
	stage(s)
	command := func(word string, o output.Output) {
		o.ID = "o"
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: word, On: true, When: happening.Command, Asks: []string{"!" + word}, Slot: happening.Answer, Do: []output.Output{o}})
	}
	command("so", output.Output{Do: &output.ShoutOut{}})
	command("vip", output.Output{Do: &output.Platform{Act: output.GiveVIP}})
	command("hug", output.Output{Do: &output.Say{}, Alternatives: []string{"{name} hugs {hasMeant, select, yes {{meant}} other {the room}}"}})
}

// named lets a line happen with whom of the guest book its name may mean.
func (e *evening) named(data *happening.ChatSaid, of ...people.Named) []hall.Decision {
	e.n++
	ev := event.Event{Seq: e.s.Seq + 1, Door: "test", Source: "test", ID: "named-" + data.Text + data.Person.ID, Type: data.Type(), Time: e.now, Logged: e.now, Data: data}
	return e.keep(ev, house.Step(e.s, &ev, nil, e.plan, of...))
}

func onFern(login, name string) event.Person {
	return event.Person{Platform: "fernlight", ID: "f-" + login, Login: login, Name: name}
}

func shoutOuts(e *evening) (to []string) {
	for _, d := range e.said() {
		if strings.HasPrefix(d.Courtesy, "shout-out") {
			to = append(to, d.Person)
		}
	}
	return to
}

func TestACommandIsAboutWhomItNames(t *testing.T) {
	e := begin(t, asked)
	e.happens(on("quayside"))
	e.happens(line("kelpwright", "evening"))
	e.happens(line("pebble_june", "evening"))
	for _, text := range []string{"!so kelpwright", "!so @KELPWRIGHT", "!so @kelpwright, thanks", "!so Ｋｅｌｐwright"} {
		e.happens(line("pebble_june", text))
		e.after(time.Minute)
	}
	if got := shoutOuts(e); len(got) != 4 || slices.ContainsFunc(got, func(k string) bool { return k != "quayside:id-kelpwright" }) {
		t.Errorf("shouted out: %v", got)
	}
	for _, d := range e.said() {
		if strings.HasPrefix(d.Courtesy, "shout-out") && !strings.Contains(d.Text, "kelpwright") {
			t.Errorf("said %q", d.Text)
		}
	}
	e.happens(line("pebble_june", "!vip kelpwright"))
	if acts := e.of(hall.Kind(output.KindPlatform)); len(acts) != 1 || acts[0].Person != "quayside:id-kelpwright" || tells[*output.Deed](t, acts[0]).Login != "kelpwright" || read(t, acts[0]).Person != "quayside:id-kelpwright" {
		t.Errorf("%+v", acts)
	}
	e.happens(line("pebble_june", "!so")) // without a name: whoever asked
	e.after(time.Minute)
	if got := shoutOuts(e); len(got) != 5 || got[4] != "quayside:id-pebble_june" {
		t.Errorf("shouted out: %v", got)
	}
	e.happens(line("pebble_june", "!hug kelpwright"))
	e.happens(line("pebble_june", "!hug @somebody_else"))
	e.happens(line("pebble_june", "!hug everybody"))
	e.after(time.Minute)
	var hugs []string
	for _, d := range e.wantSaid(3, "hug") {
		hugs = append(hugs, d.Text)
	}
	if want := "pebble_june hugs kelpwright|pebble_june hugs somebody_else|pebble_june hugs the room"; strings.Join(hugs, "|") != want {
		t.Errorf("%v", hugs)
	}
}

func TestANameIsLookedForHereThenInTheBookAndOnTheLinesOwnPlatformFirst(t *testing.T) {
	known := &people.Known{Person: 7, SayAs: "Marrow", Accounts: []string{"quayside:id-marsh_watch", "fernlight:f-marsh"}}
	book := []people.Named{{Person: onFern("marsh", "Marsh"), Known: known}, {Person: viewer("marsh_watch"), Known: known}}
	e := begin(t, asked)
	e.happens(on("quayside"))
	e.happens(line("pebble_june", "evening"))
	kelp := &happening.ChatSaid{Text: "evening"}
	kelp.Person = onFern("kelpwright", "Kelpwright")
	e.happens(kelp)
	e.named(line("pebble_june", "!so kelpwright")) // only on the other platform
	e.happens(line("kelpwright", "evening"))
	e.named(line("pebble_june", "!so kelpwright "))
	e.named(line("pebble_june", "!so marrow"), book...) // as the house says it, of the book
	e.named(line("pebble_june", "!so MARSH"), book...)
	e.after(5 * time.Minute)
	if got := shoutOuts(e); strings.Join(got, " ") != "fernlight:f-kelpwright quayside:id-kelpwright quayside:id-marsh_watch fernlight:f-marsh" {
		t.Errorf("shouted out: %v", got)
	}
	e.named(line("pebble_june", "!vip marsh"), book...)
	if acts := e.of(hall.Kind(output.KindPlatform)); len(acts) != 0 {
		t.Errorf("Fernlight has no door that acts here: %+v", acts)
	}
	e.wantReason("no door of Fernlight")
}

func TestWhoIsNotSureToBeMeantHasNothingDone(t *testing.T) {
	e := begin(t, asked, func(s *housefile.Settings) {
		for i := range s.Profiles {
			s.Profiles[i].Lookup = nil
		}
	})
	e.happens(on("quayside"))
	e.happens(line("pebble_june", "evening"))
	twins := []people.Named{{Person: event.Person{Platform: "quayside", ID: "1", Login: "kelp_a", Name: "Kelp"}, Known: &people.Known{Person: 1}},
		{Person: event.Person{Platform: "quayside", ID: "2", Login: "kelp_b", Name: "KELP"}, Known: &people.Known{Person: 2}}}
	e.named(line("pebble_june", "!so kelp"), twins...)
	e.named(line("pebble_june", "!vip kеlp_a"), twins...) // a Cyrillic letter only looks like it
	e.named(line("pebble_june", "!so kel"), twins...)
	e.after(time.Minute)
	if got := shoutOuts(e); len(got)+len(e.of(hall.Kind(output.KindPlatform))) != 0 {
		t.Errorf("done to %v", got)
	}
	var texts []string
	for _, d := range e.said() {
		if d.Output == "unclear" {
			texts = append(texts, d.Text)
		}
	}
	if len(texts) != 3 || texts[0] != "Whom do you mean, pebble_june? I know Kelp or KELP." || texts[1] != "Whom do you mean, pebble_june?" || !strings.Contains(texts[2], "I know Kelp") {
		t.Errorf("%q", texts)
	}
}

func TestWhomNobodyKnowsThePlatformIsAskedFor(t *testing.T) {
	e := begin(t, asked)
	e.happens(on("quayside"))
	e.happens(line("pebble_june", "evening"))
	e.after(time.Minute)
	before := len(e.of(hall.Ask))
	e.happens(line("pebble_june", "!so night_heron_cam"))
	e.happens(line("pebble_june", "!so nobody_at_all"))
	e.happens(line("pebble_june", "!so too_late"))
	asks := e.of(hall.Ask)[before:]
	if len(asks) != 3 || asks[0].About == nil || asks[0].About.Login != "night_heron_cam" || asks[0].Person != "" {
		t.Fatalf("%+v", asks)
	}
	raw := e.snapshot()
	e.restore(raw) // and a restart between
	e.happens(&event.LookupAnswered{Ask: asks[0].Line, Found: true, ID: "88", Login: "night_heron_cam", Name: "Night Heron", Link: "https://quayside.example/night_heron_cam", Category: "Reedbed at dusk"})
	e.happens(&event.LookupAnswered{Ask: asks[1].Line})
	e.after(time.Minute)
	if got := shoutOuts(e); len(got) != 1 || got[0] != "quayside:88" {
		t.Fatalf("shouted out: %v", got)
	}
	if got := e.wantSaid(1, "shout-out"); !strings.Contains(got[0].Text, "Night Heron") || !strings.Contains(got[0].Text, "Reedbed at dusk") || got[0].EventID == "" {
		t.Errorf("said %q", got[0].Text)
	}
	unclear := 0
	for _, d := range e.said() {
		if d.Output == "unclear" {
			unclear++
		}
	}
	if unclear != 2 || len(e.s.Questions) != 0 {
		t.Errorf("asked back %d times; %+v wait", unclear, e.s.Questions)
	}
	e.happens(&event.LookupAnswered{Ask: asks[2].Line, Found: true, ID: "89", Login: "too_late"}) // after two seconds
	e.after(time.Minute)
	if got := shoutOuts(e); len(got) != 1 {
		t.Errorf("shouted out: %v", got)
	}
}
