package courtesy_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

func names(fs []wording.FillIn) []string {
	var out []string
	for _, f := range fs {
		out = append(out, f.Name)
	}
	return out
}

func TestOfferedAreTheWhensTheEventsAndTheChannelsOwnFillInsEachOnce(t *testing.T) {
	w := courtesy.World{FillIns: []wording.FillIn{{Name: "dice", Kind: wording.Number}, {Name: "name", Kind: wording.Number}},
		Events: map[string][]wording.FillIn{"tide.turned": {{Name: "height", Kind: wording.Number, Optional: true}, {Name: "dice", Kind: wording.Text}}, "bell.rung": {{Name: "tone"}}}}
	asked := func(events ...string) courtesy.Courtesy {
		c := courtesy.Courtesy{When: "porch.other"}
		for _, e := range events {
			c.Who.Any = append(c.Who.Any, who.Who{Fields: map[string]string{"event": e}})
		}
		return c
	}
	for _, c := range []struct {
		of        courtesy.Courtesy
		has, lack string
	}{
		{courtesy.Courtesy{When: happening.Arrival}, "dice name streams channel", "height tone viewers"},
		{asked(), "event dice", "height tone"},
		{asked("Tide.Turned"), "event height dice", "tone"},
		{asked("tide.turned", "bell.rung"), "height tone", "viewers"},
		{courtesy.Courtesy{When: happening.Hand}, "asker meant dice", "streams"},
		{courtesy.Courtesy{When: happening.Command}, "name asker meant rest link", "tier"},
	} {
		got := names(w.Offers(c.of))
		for _, f := range strings.Fields(c.has) {
			if n := len(got) - len(slices.DeleteFunc(slices.Clone(got), func(g string) bool { return g == f })); n != 1 {
				t.Errorf("%s offers {%s} %d times: %v", c.of.When, f, n, got)
			}
		}
		for _, f := range strings.Fields(c.lack) {
			if slices.Contains(got, f) {
				t.Errorf("%s offers {%s}", c.of.When, f)
			}
		}
	}
}

func TestEveryOutputSaysInAFewWordsWhatItDoes(t *testing.T) {
	called := who.Names{Place: func(s string) string { return "the " + s }, Fitting: func(s string) string { return "the " + s }}
	for want, o := range map[string]output.Output{
		"say in chat":                 {Do: &output.Say{}},
		"say in chat as the streamer": {Do: &output.Say{As: "streamer"}},
		"shout them out":              {Do: &output.ShoutOut{}},
		"show a card":                 {Do: &output.Card{}},
		"play bell.ogg":               {Do: &output.Sound{Media: "bell.ogg"}},
		"show the film tide.webm":     {Do: &output.Film{Media: "tide.webm"}},
		"speak":                       {Do: &output.Speak{}},
		"light the lamp":              {Do: &output.Lamp{Fitting: "lamp"}},
		"go to Bench":                 {Do: &output.Scene{Scene: "Bench"}},
		"post to the news":            {Do: &output.Relay{Place: "news"}},
		"advert break":                {Do: &output.Platform{Act: output.AdvertBreak}},
		"raise tide.turned":           {Do: &output.Raise{Event: "tide.turned"}},
	} {
		if got := o.Does(called); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

func TestWhatCanBeTakenBackAndWhatIsAboutSomebody(t *testing.T) {
	gone, person := 0, 0
	for _, a := range output.Acts() {
		if !a.Undoable() {
			gone++
		}
		if a.OfPerson() {
			person++
		}
	}
	if gone != 5 || person != 6 {
		t.Errorf("%d of %d acts cannot be taken back, %d are about somebody", gone, len(output.Acts()), person)
	}
}

func TestABurstNeedsWordsForSeveralAndBounds(t *testing.T) {
	for want, b := range map[string]courtesy.Burst{"joined: are missing": {Seconds: 5, At: 3}, "burst: is out of range": {Seconds: 0.5, At: 3}, "2 to 100": {Seconds: 5, At: 1}} {
		c := courtesy.Courtesy{ID: "f", On: true, When: "porch.person.followed", Slot: happening.Thanks, Burst: &b,
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"hm"}}, {ID: "raise", Do: &output.Raise{Event: "x"}}}}
		_, faults := courtesy.Load([]courtesy.Courtesy{c}, courtesy.World{})
		found := false
		for _, f := range faults {
			found = found || strings.Contains(f.Error(), want)
		}
		if !found {
			t.Errorf("want %q, got %v", want, faults)
		}
	}
}

func TestTwoOutputsOfOneNameAreRefused(t *testing.T) {
	o := output.Output{ID: "chat", Do: &output.Say{}, Alternatives: []string{"hm"}}
	_, faults := courtesy.Load([]courtesy.Courtesy{{ID: "f", On: true, When: happening.Arrival, Do: []output.Output{o, o}}}, courtesy.World{})
	if len(faults) != 1 || faults[0].At != "do.1.id" {
		t.Errorf("%v", faults)
	}
}
