package house_test

import (
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
)

func finds(t *testing.T, found []courtesy.Finding, kind, id, part string) {
	t.Helper()
	for _, f := range found {
		if f.Kind == kind && f.Courtesy == id && strings.Contains(f.What, part) && f.Remedy != "" {
			return
		}
	}
	t.Errorf("nothing %s about %s says %q: %+v", kind, id, part, found)
}

func TestTheReviewNamesTheSwitchRightOrDoorThatStopsACourtesy(t *testing.T) {
	e := begin(t, stage, func(s *housefile.Settings) {
		s.Courtesy[1].On = false
		s.Emotes = []housefile.Emote{{Word: "tidepoolWave", Platforms: []string{"quayside"}}}
		s.Courtesy = append(s.Courtesy, says("wave", "porch.person.followed", happening.Free, who.Who{}, nil, "tidepoolWave {name}!"),
			says("crew", "porch.person.followed", happening.Free, who.Who{Crews: &who.Crews{Of: []string{"gone-crew"}}}, nil, "hm"),
			says("long", "porch.person.followed", happening.Free, who.Who{}, nil, strings.Repeat("so many words ", 26)+"{name} {name}"))
	}, does("show", "porch.person.followed", happening.Free, output.Output{Do: &output.Card{Media: "limpet.png"}, Alternatives: []string{"{name}"}},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}}, output.Output{Do: &output.Platform{Act: output.SlowChat}}))
	shelf := house.Shelf{Media: func(string) bool { return false }, Crew: func(string) bool { return false }}
	e.happens(&event.DoorChanged{Name: "quayside-chat", Platform: "quayside", State: "open", Account: "porchlamp", MaySpeak: false, Reason: "the account is not confirmed"})
	e.happens(&event.DoorChanged{Name: "fernlight-chat", Platform: "fernlight", State: "closed", Reason: "no such host"})
	e.happens(&event.RelayFailed{RelayOutcome: event.RelayOutcome{Line: "1.x", Place: "boathouse-news", Reason: "the place does not answer"}})
	e.happens(&event.ActRefused{ActOutcome: event.ActOutcome{Line: "2.x", To: "bench-lamp", Effect: "lamp", Reason: "the power is off"}})
	e.happens(&event.Hushed{On: true})
	found := house.Review(e.s, e.plan, shelf)
	finds(t, found, "stopped", "", "hush is on")
	finds(t, found, "stopped", "greet-newcomer", "is switched off")
	finds(t, found, "stopped", "greet-returning", "may not speak on Quayside: the account is not confirmed")
	finds(t, found, "stopped", "greet-returning", "the door to Fernlight is closed: no such host")
	finds(t, found, "stopped", "announce-opening", "the place boathouse-news does not take posts: the place does not answer")
	finds(t, found, "stopped", "show", "refused the last time: the power is off")
	finds(t, found, "stopped", "show", "slow chat on Fernlight: no door of Fernlight says")
	finds(t, found, "missing", "show", "limpet.png is not on the shelf")
	finds(t, found, "missing", "crew", "gone-crew")
	finds(t, found, "letters", "wave", "tidepoolWave prints as letters on Fernlight")
	finds(t, found, "long", "long", "bytes; Fernlight takes 400")
}

func TestTheStartingSetHasNothingWorthALook(t *testing.T) {
	e := begin(t)
	for _, f := range house.Review(e.s, e.plan, house.Shelf{}) {
		if f.What != "is switched off" {
			t.Errorf("%+v", f)
		}
	}
}

func TestADryRunTellsWhatWouldHappenAndChangesNothing(t *testing.T) {
	e := begin(t, stage, does("tip", "porch.support.tipped", happening.Thanks,
		output.Output{Do: &output.Say{}, Alternatives: []string{"{name} gave {hasAmount, select, yes {{amount}} other {something}}"}, DelaySeconds: 3},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}},
		output.Output{Do: &output.Sound{Media: "bell.ogg", Fitting: "bell"}, Measure: &who.Measure{Of: "amount", Currency: "EUR", AtLeast: num(50)}}))
	e.happens(on("quayside"))
	before := len(e.s.Queue.Lines)
	got := house.Climb(e.s, e.plan, "porch.support.tipped", happening.Thanks, viewer("mossy_mare"), nil, &who.Quantity{Of: "amount", Currency: "EUR", N: 5}, "")
	if len(got.Does) != 3 || got.Does[0].Text != "mossy_mare gave 5.00 EUR" || got.Does[0].After != 3 || got.Does[1].Kind != "lamp" || got.Does[2].Kind != hall.Refuse || !strings.Contains(got.Does[2].Because[0], "is for 50 or more EUR") {
		t.Errorf("%+v", got.Does)
	}
	if len(e.s.Queue.Lines) != before || len(e.of("lamp")) != 0 {
		t.Error("the dry run was not dry")
	}
}

func TestALinkThatTouchesAStopIsPointedOut(t *testing.T) {
	raid := func(id, words string) func(*housefile.Settings) {
		return adds(says(id, "porch.raid.came", happening.Free, who.Who{}, nil, words))
	}
	e := begin(t, raid("glued", "Go and see {name}{hasLink, select, yes { at {link}} other {}}{hasCategory, select, yes {, last at {category}} other {}}"),
		raid("stopped", "See {name}{hasLink, select, yes { at {link}} other {}}."), raid("bracketed", "{name}{hasLink, select, yes { ({link})} other {}}"),
		raid("free", "{name}{hasLink, select, yes {: {link} } other {}}!"))
	var got []string
	for _, f := range house.Review(e.s, e.plan, house.Shelf{}) {
		if f.Kind == "link" {
			got = append(got, f.Courtesy)
		}
	}
	if strings.Join(got, " ") != "glued stopped bracketed" {
		t.Errorf("%v", got) // none of the starting set among them
	}
}
