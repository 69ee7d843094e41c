package porch

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
	"vividporch/core/house/housetest"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/store/log"
	"vividporch/store/storetest"
)

func TestACommandFindsWhomItNamesInTheGuestBook(t *testing.T) {
	h := bare(t, storetest.Open(t), func(c *Config) {
		s := housetest.Base()
		for i := range s.Profiles {
			s.Profiles[i].Lookup = nil
		}
		say := func(id, when string, slot happening.Slot, o output.Output) courtesy.Courtesy {
			o.ID = "o"
			return courtesy.Courtesy{ID: id, On: true, When: when, Slot: slot, OffLine: true, Do: []output.Output{o}}
		}
		so := say("so", happening.Command, happening.Answer, output.Output{Do: &output.ShoutOut{}})
		so.Asks = []string{"!so"}
		s.Courtesy = []courtesy.Courtesy{so, say("shouts", happening.Arrival, happening.ShoutOut, output.Output{Do: &output.Say{}, Alternatives: []string{"Go and see {name}, who came {streams, plural, other {# times}}"}})}
		c.Defaults = asJSON(t, s)
	})
	send := func(login, id, text string) []hall.Decision {
		d := &happening.ChatSaid{Text: text}
		d.Person = event.Person{Platform: "quayside", ID: id, Login: login, Name: login}
		ev := event.Event{Door: "quayside", Source: "s", ID: id + text, Type: d.Type(), Data: d}
		rs, err := h.Submit(t.Context(), []event.Event{ev})
		if err != nil {
			t.Fatal(err)
		}
		return rs[0].Decisions
	}
	open := func() {
		for _, act := range []string{"opened", "closed"} {
			if _, err := h.Hand(t.Context(), &event.StreamDeclared{Act: act}); err != nil {
				t.Fatal(err)
			}
			if act == "opened" {
				send("kelpwright", "7", "evening "+time.Now().String())
				send("kelp_katja", "8", "evening "+time.Now().String())
			}
		}
	}
	open() // then nobody is here any more, and both stand in the book
	var said []hall.Decision
	for _, text := range []string{"!so Kelpwright", "!so @kelp_katja", "!so kelp"} {
		for _, d := range send("pebble_june", "9", text) {
			if (d.Kind == hall.Planned || d.Kind == hall.Say) && (d.Courtesy != "shouts" || d.Person != "quayside:9") { // who asks arrives, too
				said = append(said, d)
			}
		}
	}
	if len(said) == 3 && said[1].Person == "quayside:8" { // a login with a sign in it is no word
		said = slices.Delete(said, 1, 2)
	}
	if len(said) != 2 || said[0].Courtesy != "shouts" || said[0].Person != "quayside:7" || !strings.Contains(said[0].Text, "kelpwright, who came 2 times") {
		t.Fatalf("%+v", said)
	}
	if said[1].Output != "unclear" || !strings.Contains(said[1].Text, "kelpwright") || !strings.Contains(said[1].Text, "kelp_katja") {
		t.Errorf("%q", said[1].Text)
	}
}

func TestACommandKnowsWhatWasSetByHandSinceTheyArrived(t *testing.T) {
	h := bare(t, storetest.Open(t), func(c *Config) {
		s := housetest.Base()
		s.Courtesy = []courtesy.Courtesy{{ID: "lamp", On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{"!lamp"}, OffLine: true, Who: who.Who{Trusted: true},
			Do: []output.Output{{ID: "o", Do: &output.Say{}, Alternatives: []string{"The lamp is lit, {name}."}}}}}
		c.Defaults = asJSON(t, s)
	})
	send := func(text string) []hall.Decision {
		d := &happening.ChatSaid{Text: text}
		d.Person = event.Person{Platform: "quayside", ID: "9", Login: "pebble_june"}
		rs, err := h.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: text, Type: d.Type(), Data: d}})
		if err != nil {
			t.Fatal(err)
		}
		return rs[0].Decisions
	}
	says := func(ds []hall.Decision) string {
		for _, d := range ds {
			if d.Kind == hall.Planned || d.Kind == hall.Say {
				return d.Text
			}
		}
		return ""
	}
	send("evening")
	if got := says(send("!lamp, if you would")); got != "" {
		t.Fatalf("nobody trusts her yet: %q", got)
	}
	if got := says(send("!lamp")); got != "" {
		t.Fatalf("nobody trusts her yet: %q", got)
	}
	k, err := h.Known(t.Context(), "quayside:9")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.Desk.Edit(t.Context(), &event.BookEdited{Persons: []int64{k.Person}, Edit: event.Edit{Set: event.Hand{Trusted: new(true), SayAs: new("June")}}}); err != nil {
		t.Fatal(err)
	}
	if got := says(send("!lamp please")); got != "The lamp is lit, June." {
		t.Errorf("trusted since, and answered %q", got)
	}
}

func TestWhatSomebodyAskedForIsGoneWithThemThoughItWasDoneToAnother(t *testing.T) {
	st := storetest.Open(t)
	h := bare(t, st, func(c *Config) {
		s := housetest.Base()
		do := func(id string, o output.Output) courtesy.Courtesy {
			o.ID = "o"
			return courtesy.Courtesy{ID: id, On: true, When: happening.Command, Slot: happening.Answer, OffLine: true, Asks: []string{"!" + id}, Do: []output.Output{o}}
		}
		s.Courtesy = []courtesy.Courtesy{
			do("honour", output.Output{Do: &output.Platform{Act: output.GiveVIP}}), // this house's platform does not answer
			do("so", output.Output{Do: &output.ShoutOut{}, DelaySeconds: 600}),
			{ID: "shouts", On: true, When: happening.RaidCameType, Slot: happening.ShoutOut, OffLine: true, Do: []output.Output{{ID: "o", Do: &output.Say{}, Alternatives: []string{"Go and see {name}."}}}},
		}
		c.Defaults = asJSON(t, s)
	})
	say := func(login, id, text string) {
		t.Helper()
		d := &happening.ChatSaid{Text: text}
		d.Person = event.Person{Platform: "quayside", ID: id, Login: login, Name: login}
		if _, err := h.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: id + text, Type: d.Type(), Data: d}}); err != nil {
			t.Fatal(err)
		}
	}
	of := func() (coming, waiting int) {
		t.Helper()
		p, err := h.Porch(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range p.Coming {
			if c.Name == "kelpwright" {
				coming++
			}
		}
		for _, w := range p.Waiting {
			if w.Kind == "act" {
				waiting++
			}
		}
		return coming, waiting
	}
	say("kelpwright", "7", "evening")
	say("pebble_june", "9", "!so kelpwright")
	say("pebble_june", "9", "!honour kelpwright")
	end := time.Now().Add(20 * time.Second)
	for coming, waiting := of(); coming != 1 || waiting != 1; coming, waiting = of() {
		if time.Now().After(end) {
			t.Fatalf("%d coming up and %d waiting", coming, waiting)
		}
		time.Sleep(5 * time.Millisecond)
	}
	june, err := h.Known(t.Context(), "quayside:9")
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Desk.Forget(t.Context(), "Odalys Brine", june.Person); err != nil {
		t.Fatal(err)
	}
	if coming, waiting := of(); coming != 0 || waiting != 0 {
		t.Errorf("%d coming up and %d waiting that she asked for", coming, waiting)
	}
	kept, _, err := st.Log.LastSnapshot(t.Context(), h.ID)
	if err != nil {
		t.Fatal(err)
	}
	evolved := house.NewState()
	for _, s := range []*house.State{evolved, kept} {
		if err := st.Log.Since(t.Context(), h.ID, s.Seq, 0, func(en log.Entry) error { s.Evolve(&en.Event, en.Decisions); return nil }); err != nil {
			t.Fatal(err)
		}
	}
	if a, b := string(asJSON(t, evolved)), string(asJSON(t, kept)); a != b {
		t.Errorf("the log that a forgetting blanked evolves to\n%s\nand was lived to\n%s", a, b)
	}
}
