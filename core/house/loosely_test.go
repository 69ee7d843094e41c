package house_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
)

func TestSettingsThatANewerVersionChecksMoreStrictlyKeepTheRestGoing(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*housefile.Settings)
		left  string // what is told to be left out
		stays func(*room.Plan) bool
	}{
		"a courtesy": {func(s *housefile.Settings) { s.Courtesy[0].When = "porch.of.tomorrow" }, "announce-opening when", func(p *room.Plan) bool { return len(p.Set.All()) == 11 }},
		"an output of two": {func(s *housefile.Settings) { s.Courtesy[0].Do[0].Do = &output.Relay{Place: "gone"} }, "announce-opening do.0.place",
			func(p *room.Plan) bool {
				return len(p.Set.All()[0].Outputs) == 1 && p.Set.All()[0].ID == "announce-opening"
			}},
		"the only output": {func(s *housefile.Settings) {
			s.Courtesy[1].Do = s.Courtesy[1].Do[:1]
			s.Courtesy[1].Do[0].Alternatives = []string{"{nobody}"}
		}, "greet-newcomer do.0.alternatives.0",
			func(p *room.Plan) bool { return len(p.Set.All()) == 11 }}, // it would pass newcomers over in silence
		"a place, and who posts there": {func(s *housefile.Settings) { s.Places[0].URL = "nowhere" }, "places.0.url", func(p *room.Plan) bool { return len(p.Settings.Places) == 3 && len(p.Set.All()[0].Outputs) == 1 }},
		"a door":                       {func(s *housefile.Settings) { s.Doors[0].Address = "" }, "doors.0", func(p *room.Plan) bool { return len(p.Settings.Doors) == len(settings(t).Doors)-1 }},
		"the zone":                     {func(s *housefile.Settings) { s.Zone = "Nowhere/At_all" }, "zone", func(p *room.Plan) bool { return p.Zone.String() == "UTC" && len(p.Set.All()) == 12 }},
		"a fill-in that is used":       {func(s *housefile.Settings) { s.FillIns[0].To = 0 }, "fillIns.0", func(p *room.Plan) bool { return len(p.Settings.FillIns) == 3 }},
		"an id that stands twice":      {func(s *housefile.Settings) { s.Courtesy[1].ID = s.Courtesy[0].ID }, "announce-opening id", func(p *room.Plan) bool { return len(p.Set.All()) == 11 }},
		"the pace and privacy":         {func(s *housefile.Settings) { s.Pace.GapSeconds = -1; s.Privacy.KeepDays = -1 }, "privacy.keepDays", func(p *room.Plan) bool { return len(p.Set.All()) == 12 }},
		"nearly everything": {func(s *housefile.Settings) {
			for i := range s.Courtesy {
				s.Courtesy[i].When = "x"
			}
			s.Doors = append(s.Doors, housefile.Door{})
		}, "doors.8.name", func(p *room.Plan) bool { return len(p.Set.All()) == 0 }},
	} {
		t.Run(name, func(t *testing.T) {
			s := settings(t)
			s.Courtesy = s.Courtesy[:12]
			c.spoil(s)
			if _, faults := house.Ready(s, 7); len(faults) == 0 {
				t.Fatal("there is nothing wrong with it")
			}
			p := house.Loosely(s, 7)
			told := []string{}
			for _, f := range p.Left {
				told = append(told, strings.TrimSpace(f.Courtesy+" "+f.At))
			}
			if !slices.Contains(told, c.left) || !c.stays(p) || p.Version != 7 || p.Whole != s {
				t.Errorf("left out: %q; %d courtesies stay", told, len(p.Set.All()))
			}
			if _, faults := house.Ready(s, 8); len(p.NewFaults(faults)) > 0 {
				t.Errorf("what is broken already keeps others from changing something: %v", p.NewFaults(faults))
			}
			more := settings(t)
			more.Courtesy = append(s.Courtesy[:len(s.Courtesy):len(s.Courtesy)], courtesy.Courtesy{ID: "fresh", When: "porch.of.tomorrow"})
			if _, faults := house.Ready(more, 8); name != "nearly everything" && len(p.NewFaults(faults)) == 0 {
				t.Error("a new fault is let through")
			}
		})
	}
}

func TestWordsOfTheHouseThatDoNotHoldAreLeftOutAlone(t *testing.T) {
	s := settings(t)
	s.Unclear = []string{"Whom, {name}?", "Whom, {nobody}?"}
	s.AlsoOn = housefile.AlsoOn{How: "each", Words: []string{"{nothing}"}}
	plan := house.Loosely(s, 3)
	if got := plan.Settings; len(got.Unclear) != 1 || got.AlsoOn.How != "" || len(got.Courtesy) != len(s.Courtesy) {
		t.Errorf("%q, %+v, %d of %d courtesies", got.Unclear, got.AlsoOn, len(got.Courtesy), len(s.Courtesy))
	}
	if len(plan.Left) != 2 {
		t.Errorf("%v", plan.Left)
	}
}
