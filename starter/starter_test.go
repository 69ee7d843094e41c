package starter_test

import (
	"bytes"
	"regexp"
	"strings"
	"testing"

	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/formats/media"
	"vividporch/starter"
)

func begin(t *testing.T) (*housefile.Settings, []byte) {
	t.Helper()
	raw, err := starter.House("new-house", "a seed")
	if err != nil {
		t.Fatal(err)
	}
	s, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	return s, raw
}

func TestTheStarterSetIsReadyAsItIs(t *testing.T) {
	s, _ := begin(t)
	p, faults := house.Ready(s, 1)
	for _, f := range faults {
		t.Error(f.Error())
	}
	for _, f := range house.Review(house.NewState(), p, house.Shelf{}) {
		if f.Kind == "stopped" { // it is in nobody's chat yet
			continue
		}
		t.Errorf("%s: %s; %s", f.Courtesy, f.What, f.Remedy)
	}
	if s.Channel != "new-house" || s.Seed != "a seed" {
		t.Errorf("%s, %s", s.Channel, s.Seed)
	}
}

// The sample world stays in demo/: a new house names nobody and nowhere.
func TestTheStarterSetNamesNobodyAndNowhere(t *testing.T) {
	_, raw := begin(t)
	for _, word := range []string{"tidepool", "odalys", "quayside", "fernlight", "boathouse", "skerry", "limpet", "kelp", "tide", "microscope", "anemone", "jetty", "ashore"} {
		if bytes.Contains(bytes.ToLower(raw), []byte(word)) {
			t.Errorf("it says %q", word)
		}
	}
	if at := regexp.MustCompile(`https?://[^"]*`).Find(raw); at != nil {
		t.Errorf("it leads to %s", at)
	}
}

func TestSensibleCourtesiesAreOnAndTheRestIsThereButOff(t *testing.T) {
	s, _ := begin(t)
	on := map[string]bool{}
	for _, c := range s.Courtesy {
		on[c.ID] = c.On
	}
	for id, want := range map[string]bool{"greet-newcomer": true, "greet-regular": true, "thank-follow": true, "thank-raid": true, "announce-opening": true,
		"shout-out-whoever-streams": false, "answer-hello": false, "good-night": false} {
		if is, there := on[id]; !there || is != want {
			t.Errorf("%s: there %v, on %v", id, there, is)
		}
	}
	for _, c := range s.Courtesy {
		for _, o := range c.Do {
			if o.Worded() && len(o.Alternatives) < 3 {
				t.Errorf("%s has %d alternatives for %s", c.ID, len(o.Alternatives), o.ID)
			}
			for _, a := range o.Alternatives {
				if strings.Contains(strings.ToLower(a), "new-house") {
					t.Errorf("%s says the channel's name instead of its fill-in: %s", c.ID, a)
				}
			}
		}
	}
}

func TestANewHouseHasSomethingToShow(t *testing.T) {
	files, err := starter.Shelf.ReadDir("shelf")
	if err != nil {
		t.Fatal(err)
	}
	have := map[media.Kind]int{}
	for _, f := range files {
		data, err := starter.Shelf.ReadFile("shelf/" + f.Name())
		if err != nil {
			t.Fatal(err)
		}
		info, err := media.Read(data)
		if err != nil || media.CheckName(f.Name()) != nil {
			t.Errorf("%s: %v", f.Name(), err)
		}
		if info.Kind == media.Sound && (info.Seconds < 0.3 || info.Seconds > 3) || info.Kind == media.Film && (info.Seconds < 1 || info.Seconds > 4 || info.Width != 320) {
			t.Errorf("%s: %+v", f.Name(), info)
		}
		have[info.Kind]++
	}
	if have[media.Picture] != 12 || have[media.Sound] != 8 || have[media.Film] != 2 {
		t.Errorf("%v", have)
	}
}
