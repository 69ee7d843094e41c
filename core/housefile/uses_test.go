package housefile_test

import (
	"encoding/json"
	"math/rand/v2"
	"os"
	"strings"
	"testing"

	"vividporch/core/carry"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
)

// whole is the sample world's house.
func whole(t *testing.T) *housefile.Settings {
	t.Helper()
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	s, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

const news = "boathouse-news"

// Whatever is renamed or taken away of whatever settings, what was ready stays ready.
func TestNoNameIsLeftBehindInWhateverSettings(t *testing.T) {
	for seed := range uint64(300) {
		r := rand.New(rand.NewPCG(seed, 12))
		s := housetest.Random(r)
		does := map[string]bool{}
		for _, c := range s.Courtesy {
			does[c.ID] = len(c.Do) > 0
		}
		list := map[string]string{"news": "places", "log": "places", "player": "fittings", "lamp": "fittings", "scenes": "fittings", "quayside": "doors"}
		for name, section := range list {
			uses := len(s.Uses(section, name))
			if r.IntN(2) == 0 {
				if err := s.Rename(section, name, name+"-anew"); err != nil {
					t.Fatal(err)
				}
				name += "-anew"
				if n := len(s.Uses(section, name)); n != uses {
					t.Fatalf("seed %d: %s is used by %d courtesies, and was by %d", seed, name, n, uses)
				}
			} else if err := s.TakeAway(section, name); err != nil {
				t.Fatal(err)
			} else if n := len(s.Uses(section, name)); n != 0 {
				t.Fatalf("seed %d: %d courtesies lead to %s, which is gone", seed, n, name)
			}
		}
		_, faults := house.Ready(s, 1)
		for _, f := range faults {
			if !strings.Contains(f.At, ".on.") { // a door was taken away, and its platform with it
				t.Errorf("seed %d: %s", seed, f.Error())
			}
		}
		for _, c := range s.Courtesy {
			if c.On && len(c.Do) == 0 && does[c.ID] {
				t.Errorf("seed %d: %s is on and does nothing any more", seed, c.ID)
			}
		}
	}
}

func TestWhatIsRenamedIsRenamedWhereverItIsUsed(t *testing.T) {
	s := whole(t)
	uses := s.Uses("places", news)
	if err := s.Rename("places", news, "harbour-wall"); err != nil {
		t.Fatal(err)
	}
	if s.Has("places", news) || !s.Has("places", "harbour-wall") || len(s.Uses("places", news)) > 0 {
		t.Error("it still goes by its old name")
	}
	if got := s.Uses("places", "harbour-wall"); len(got) != len(uses) || got[0].Courtesy != uses[0].Courtesy {
		t.Errorf("%v, not %v", got, uses)
	}
	if _, faults := house.Ready(s, 1); len(faults) > 0 {
		t.Errorf("%v", faults)
	}
	for what, err := range map[string]error{
		"is another's":  s.Rename("places", "harbour-wall", s.Doors[0].Name), // a secret is kept by the name alone
		"no \"nobody\"": s.Rename("places", "nobody", "x"),
		"has no names":  s.Rename("courtesies", "x", "y"),
	} {
		if err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%q: %v", what, err)
		}
	}
}

func TestACommandThatAsksForPostsFollowsItsAccount(t *testing.T) {
	s := whole(t)
	if err := s.Rename("places", "skerry", "reef"); err != nil {
		t.Fatal(err)
	}
	if len(s.Uses("places", "reef")) != 1 || len(s.Uses("places", "skerry")) != 0 {
		t.Errorf("%v", s.Uses("places", "reef"))
	}
	if _, faults := house.Ready(s, 1); len(faults) > 0 {
		t.Errorf("%v", faults)
	}
}

func TestWhatIsTakenAwayTakesWhatLeadsThereAlong(t *testing.T) {
	s := whole(t)
	uses := s.Uses("places", news)
	if err := s.TakeAway("places", news); err != nil {
		t.Fatal(err)
	}
	if _, faults := house.Ready(s, 1); len(faults) > 0 {
		t.Errorf("%v", faults)
	}
	for _, u := range uses {
		for _, c := range s.Courtesy {
			if c.ID == u.Courtesy && u.All && c.On {
				t.Errorf("%s is on and does nothing: it would pass people over in silence", c.ID)
			}
		}
	}
	if err := s.TakeAway("places", news); err == nil {
		t.Error("it was taken away twice")
	}
}

func TestASectionIsSetAsAWholeAndReadStrictly(t *testing.T) {
	s := whole(t)
	if err := s.SetSection("zone", json.RawMessage(`"Pacific/Auckland"`)); err != nil || s.Zone != "Pacific/Auckland" {
		t.Errorf("%s %v", s.Zone, err)
	}
	if err := s.SetSection("name", json.RawMessage(`"the kelp house"`)); err != nil || s.Name != "the kelp house" {
		t.Error(err)
	}
	if err := s.SetSection("name", json.RawMessage("null")); err != nil || s.Name != "" {
		t.Errorf("%q %v", s.Name, err)
	}
	for section, value := range map[string]string{"pace": `{"gapSecs": 3}`, "doors": `"none"`, "attic": `{}`} {
		if err := s.SetSection(section, json.RawMessage(value)); err == nil {
			t.Errorf("%s: %s is taken", section, value)
		}
	}
}

func TestAnEmptyHouseTakesAnyFileAsItsOwn(t *testing.T) {
	s := whole(t)
	raw, _ := json.Marshal(s)
	in, err := carry.Read(raw)
	if err != nil {
		t.Fatal(err)
	}
	empty := whole(t)
	empty.Channel, empty.Doors, empty.Places, empty.Courtesy, empty.Zone = housefile.Unnamed, nil, nil, nil, "UTC"
	got, err := in.Onto(empty, in.Usual(empty.Channel), true, true)
	if err != nil {
		t.Fatal(err)
	}
	if diff, err := housefile.Compare(s, got); err != nil || len(diff) > 0 {
		t.Errorf("it is not the house of the file: %.300v %v", diff, err)
	}
}

// Whatever stands in settings: each section goes out to a form and comes back the same.
func TestEverySectionOfWhateverSettingsComesBackTheSame(t *testing.T) {
	for seed := range uint64(120) {
		s := housetest.Random(rand.New(rand.NewPCG(seed, 21)))
		back := s.Clone()
		for _, name := range housefile.Sections {
			value, err := s.Section(name)
			if err != nil {
				t.Fatal(err)
			}
			if err := back.SetSection(name, value); err != nil {
				t.Fatalf("seed %d, %s: %v", seed, name, err)
			}
		}
		if diff, err := housefile.Compare(s, back); err != nil || len(diff) > 0 {
			t.Fatalf("seed %d: %v %v", seed, diff, err)
		}
	}
}
