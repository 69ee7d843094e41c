package prose_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/prose"
	"vividporch/core/who"
)

func TestEveryNewCourtesyIsOffAndReadyForItsWhenAndSlot(t *testing.T) {
	var list []courtesy.Courtesy
	for _, w := range happening.Whens() {
		for _, slot := range w.Slots {
			c := prose.New(list, w.Type, slot)
			if c.On || len(c.Do[0].Alternatives) < 3 {
				t.Errorf("%s, %s: %+v", w.Type, slot, c)
			}
			list = append(list, c)
		}
	}
	if _, faults := courtesy.Load(list, courtesy.World{}); len(faults) > 0 {
		t.Errorf("they cannot come into force together: %v", faults)
	}
}

func TestWhateverCanHappenCanBePostedAtAPlaceInWordsToBeginWith(t *testing.T) {
	var list []courtesy.Courtesy
	for _, w := range happening.Whens() {
		if w.Type == happening.Command || w.Type == happening.Hand {
			continue
		}
		var id, again string
		list, id = prose.RelayedAt(list, w.Type, "lamp-log")
		n := len(list)
		at := slices.IndexFunc(list, func(c courtesy.Courtesy) bool { return c.ID == id })
		posts, _ := list[at].Do[0].Do.(*output.Relay)
		if posts == nil || posts.Place != "lamp-log" || !list[at].On {
			t.Errorf("%s: %+v", w.Type, list[at])
			continue
		}
		posts.Paused, list[at].On = true, false
		if list, again = prose.RelayedAt(list, w.Type, "lamp-log"); len(list) != n || again != id || !list[at].On || list[at].Do[0].Do.(*output.Relay).Paused {
			t.Errorf("%s a second time: %d courtesies, %s: %+v", w.Type, len(list)-n, again, list[at])
		}
	}
	if _, faults := courtesy.Load(list, courtesy.World{World: output.World{Places: map[string]bool{"lamp-log": true}}}); len(faults) > 0 {
		t.Errorf("they cannot come into force together: %v", faults)
	}
}

func TestACopyIsOffHasAnIDOfItsOwnAndItsFillInsWhole(t *testing.T) {
	from := courtesy.Courtesy{ID: "thanks-2", On: true, Away: true, When: "porch.raid.came", Slot: happening.Thanks,
		Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{viewers, plural, one {# more} other {# more}} with {name}!"}}}}
	list := []courtesy.Courtesy{from, {ID: "thanks-3"}}
	c := prose.Copy(list, from)
	if c.ID != "thanks-4" || c.On || c.Away || c.Do[0].Alternatives[0] != from.Do[0].Alternatives[0] {
		t.Errorf("%+v", c)
	}
	c.Do[0].DelaySeconds = 3
	if from.Do[0].DelaySeconds != 0 {
		t.Error("changing the copy changed what it was made from")
	}
}

func greetCrew() courtesy.Courtesy {
	return courtesy.Courtesy{ID: "crew", On: true, When: happening.Arrival, Slot: happening.Greeting, Do: []output.Output{
		{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Evening, {name}.", "{name}!"}, Weights: []int{2, 1}},
		{ID: "card", Do: &output.Card{Second: "of Lantern Row"}, Alternatives: []string{"{name}"}},
	}}
}

func TestAnOutputThatStaysKeepsItsWordsAndANewOneBeginsWithSome(t *testing.T) {
	c := greetCrew()
	rule := c
	rule.Group, rule.Who = "  crews ", who.Who{Trusted: true}
	rule.Do = []output.Output{{ID: "card", Do: &output.Card{Media: "lamp.png"}}, {Do: &output.Say{}, DelaySeconds: 4}, {ID: "chat", Do: &output.Speak{Fitting: "radio"}}}
	got := prose.Composed(c, rule)
	card, said, spoken := got.Do[0], got.Do[1], got.Do[2]
	switch {
	case got.ID != "crew" || !got.On || got.Group != "crews" || !got.Who.Trusted:
		t.Errorf("%+v", got)
	case card.Wordings()["second"] != "of Lantern Row" || card.Media() != "lamp.png" || card.Alternatives[0] != "{name}":
		t.Errorf("the card lost something: %+v", card)
	case said.ID == "" || said.ID == "card" || said.ID == "chat" || said.DelaySeconds != 4 || len(said.Alternatives) < 3:
		t.Errorf("the new line: %+v", said)
	case slices.Contains(spoken.Alternatives, "{name}!"):
		t.Errorf("what is spoken now took the words of what was said: %+v", spoken)
	}
	if c.Do[0].ID != "chat" || len(c.Do) != 2 {
		t.Error("composing changed what is in force")
	}
}

func TestABurstBringsWordsForSeveralAtOnce(t *testing.T) {
	c := prose.New(nil, "porch.person.followed", happening.Thanks)
	rule := c
	rule.Burst = &courtesy.Burst{Seconds: 5, At: 3}
	rule.Do = []output.Output{c.Do[0].Bare(), {Do: &output.Lamp{Fitting: "lantern", Colour: "#ffaa00"}}}
	got := prose.Composed(c, rule)
	if len(got.Do[0].Joined) == 0 || !slices.Equal(got.Do[0].Alternatives, c.Do[0].Alternatives) {
		t.Errorf("%+v", got.Do[0])
	}
	if len(got.Do[1].Alternatives)+len(got.Do[1].Joined) > 0 {
		t.Errorf("a lamp says nothing: %+v", got.Do[1])
	}
	if _, faults := courtesy.Load([]courtesy.Courtesy{got}, courtesy.World{World: output.World{Fittings: map[string]string{"lantern": output.Lights}}}); len(faults) > 0 {
		t.Error(faults)
	}
}

func TestRewordingChangesWordsAloneAndLeavesOutWhatSaysNothing(t *testing.T) {
	c := greetCrew()
	got := c.Reworded([]output.Words{
		{Output: "chat", Alternatives: []string{"Ahoy, {name}."}, Weights: []int{1, 5, 5}, Own: map[string]string{"second": "a line has none", "fields.no": "event"}},
		{Output: "gone", Alternatives: []string{"nobody hears this"}},
		{Output: "card", Alternatives: []string{"{name} of the Row"}, Own: map[string]string{"second": "for {streams} evenings"}},
	})
	chat, card := got.Do[0], got.Do[1]
	if len(got.Do) != 2 || len(chat.Alternatives) != 1 || chat.Weights != nil || len(chat.Wordings()) > 0 {
		t.Errorf("%+v", chat)
	}
	if card.Wordings()["second"] != "for {streams} evenings" {
		t.Errorf("%+v", card)
	}
	if c.Do[0].Alternatives[0] != "Evening, {name}." {
		t.Error("what is in force was changed")
	}
	if kept := c.Reworded([]output.Words{{Output: "chat", Alternatives: []string{"a", "b"}, Weights: []int{1, 3, 9}}}).Do[0].Weights; !slices.Equal(kept, []int{1, 3}) {
		t.Errorf("weights: %v", kept)
	}
}

func TestWordsThatAreBeingWrittenAreCheckedAtTheirPlace(t *testing.T) {
	c := greetCrew()
	c.Do = append(c.Do, output.Output{ID: "tell", Do: &output.Raise{Event: "row.came", Fields: map[string]string{"who": "{name}"}}})
	w := courtesy.World{}
	if faults := w.Faults(c, []output.Words{c.Do[0].Words(), c.Do[1].Words(), c.Do[2].Words()}); len(faults) > 0 {
		t.Fatalf("as they stand they are well: %v", faults)
	}
	faults := w.Faults(c, []output.Words{
		{Output: "chat", Alternatives: []string{"Hello {name}", "Hello {nmae}", "Hello {name"}},
		{Output: "card", Own: map[string]string{"second": "{nobody}"}},
		{Output: "tell", Own: map[string]string{"fields.who": "{viewers}"}},
	})
	var at []string
	for _, f := range faults {
		at = append(at, f.At)
		if f.Remedy == "" {
			t.Errorf("%s has no remedy", f.At)
		}
	}
	slices.Sort(at)
	if want := "card.alternatives card.second.0 chat.alternatives.1 chat.alternatives.2 tell.fields.who.0"; strings.Join(at, " ") != want {
		t.Errorf("have %v, want %s", at, want)
	}
	for _, f := range faults {
		if f.At == "chat.alternatives.1" && f.Source[f.Problem.From:f.Problem.To] != "{nmae}" && f.Source[f.Problem.From:f.Problem.To] != "nmae" {
			t.Errorf("it points at %q", f.Source[f.Problem.From:f.Problem.To])
		}
	}
	// A fault elsewhere in the courtesy is not laid at these words.
	c.Do[1].Do = &output.Card{Seconds: 4000}
	if faults := w.Faults(c, []output.Words{{Output: "chat", Alternatives: []string{"Hello {name}"}}}); len(faults) > 0 {
		t.Error(faults)
	}
}

func TestTheOpeningIsAnnouncedAtAPlaceByOneCourtesyOnce(t *testing.T) {
	opens := func(id string, on bool, places ...string) courtesy.Courtesy {
		c := courtesy.Courtesy{ID: id, When: happening.StreamOpenedType, On: on}
		for _, p := range places {
			c.Do = append(c.Do, output.Output{ID: p, Do: &output.Relay{Place: p}})
		}
		return c
	}
	for name, c := range map[string]struct {
		list []courtesy.Courtesy
		by   string
	}{
		"by the one that is on":             {[]courtesy.Courtesy{opens("off", false), opens("on", true)}, "on"},
		"by one that is off, if all are":    {[]courtesy.Courtesy{opens("off", false)}, "off"},
		"by the one that posts there":       {[]courtesy.Courtesy{opens("on", true), opens("there", false, "news")}, "there"},
		"by a new one, if there is none":    {nil, "opened-2"},
		"not by one that has been put away": {[]courtesy.Courtesy{{ID: "away", When: happening.StreamOpenedType, On: true, Away: true}}, "opened-2"},
	} {
		t.Run(name, func(t *testing.T) {
			list := prose.AnnouncedAt(prose.AnnouncedAt(c.list, "news"), "news")
			posts := 0
			for _, x := range list {
				for _, o := range x.Do {
					if o.Place() == "news" {
						posts++
						if x.ID != c.by || !x.On {
							t.Errorf("%s posts, on %v", x.ID, x.On)
						}
					}
				}
			}
			if posts != 1 {
				t.Errorf("%d posts", posts)
			}
		})
	}
}
