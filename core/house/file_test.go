package house_test

import (
	"encoding/json"
	"maps"
	"math/rand/v2"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
)

func file(t *testing.T, v any) *house.Incoming {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	in, err := house.ReadFile(raw)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

func TestAHouseFileThatWentOutComesInUnchanged(t *testing.T) {
	all := []*house.Settings{settings(t)}
	for seed := range uint64(60) {
		all = append(all, housetest.Random(rand.New(rand.NewPCG(seed, 31))))
	}
	for i, s := range all {
		in := file(t, s)
		for _, whole := range []bool{true, false} {
			got, err := in.Onto(s, in.Usual(s.Channel), whole, true)
			if err != nil {
				t.Fatalf("house %d: %v", i, err)
			}
			if diff, _ := house.Compare(s, got); len(diff) > 0 {
				t.Errorf("house %d, whole %v: %+v", i, whole, diff)
			}
		}
	}
}

func TestAnotherChannelsFileBringsItsWordsAndNotItsDoors(t *testing.T) {
	theirs := settings(t)
	theirs.Channel, theirs.Zone = "pine_marten_hours", "Europe/Oslo"
	theirs.Doors[0].Address = "irc.elsewhere.example:6697"
	theirs.Courtesy = theirs.Courtesy[:2]
	theirs.Courtesy[1].Do[0].Alternatives = []string{"Welcome to pine_marten_hours, {name}; not pine_marten_hours_2"}
	ours := settings(t)
	got, err := file(t, theirs).Onto(ours, file(t, theirs).Usual(ours.Channel), false, true)
	if err != nil {
		t.Fatal(err)
	}
	if got.Channel != ours.Channel || got.Zone != ours.Zone || got.Doors[0].Address != ours.Doors[0].Address || len(got.Courtesy) != len(ours.Courtesy) {
		t.Errorf("it took over more than its words: %s %s %s %d", got.Channel, got.Zone, got.Doors[0].Address, len(got.Courtesy))
	}
	if w := got.Courtesy[1].Do[0].Alternatives[0]; w != "Welcome to tidepool_hours, {name}; not pine_marten_hours_2" {
		t.Errorf("%q", w)
	}
	diff, _ := house.Compare(ours, got)
	if len(diff) != 1 || diff[0].At != "courtesies.greet-newcomer.do.chat.alternatives" || !strings.Contains(diff[0].After, "tidepool_hours") {
		t.Errorf("%+v", diff)
	}
}

func TestOneCrewsCourtesiesTravelWithThePlacesTheyNeed(t *testing.T) {
	s := settings(t)
	moths := says("moths", courtesy.Arrival, courtesy.Greeting, courtesy.Who{Any: []courtesy.Who{{Tag: "x"}, {Crews: &courtesy.Crews{Of: []string{"quiet-moths"}}}}}, nil, "{name}")
	moths.Do = append(moths.Do, courtesy.Output{ID: "post", Kind: courtesy.Relay, Place: "boathouse-news", Alternatives: []string{"{name} is in"}})
	s.Courtesy = append(s.Courtesy, moths)
	ids := house.OfCrew(s, "quiet-moths")
	in := file(t, house.Part(s, ids))
	if strings.Join(in.Holds(), " ") != "places courtesies" || in.Channel() != "tidepool_hours" || len(ids) != 1 {
		t.Fatalf("%v %v", in.Holds(), ids)
	}
	bare := settings(t)
	bare.Places, bare.Courtesy = nil, bare.Courtesy[1:3]
	got, err := in.Onto(bare, in.Usual("elsewhere"), false, false)
	if err != nil {
		t.Fatal(err)
	}
	if _, faults := house.Ready(got, 1); len(faults) > 0 || len(got.Courtesy) != 3 || len(got.Places) != 1 {
		t.Errorf("%v, %d courtesies", faults, len(got.Courtesy))
	}
}

func TestAPartTakesAlongTheFittingsFillInsAndEventsItUses(t *testing.T) {
	s := settings(t)
	s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "tide", On: true, When: "porch.other", Who: courtesy.Who{Fields: map[string]string{"event": "tide.turned"}}, Do: []courtesy.Output{
		{ID: "chat", Kind: courtesy.Say, Alternatives: []string{"{hasLastFollowers, select, yes {{lastFollowers}} other {}} {dice}"}},
		{ID: "lamp", Kind: courtesy.Lamp, Fitting: "bench-lamp", Colour: "#7fb7b2"}}})
	in := file(t, house.Part(s, []string{"tide"}))
	if got := strings.Join(in.Holds(), " "); got != "courtesies fittings fillIns own" {
		t.Fatal(got)
	}
	bare := settings(t)
	bare.Courtesy, bare.Fittings, bare.FillIns, bare.Own = nil, nil, nil, nil
	got, err := in.Onto(bare, in.Holds(), false, false)
	if err != nil {
		t.Fatal(err)
	}
	if _, faults := house.Ready(got, 1); len(faults) > 0 || len(got.Fittings) != 1 || len(got.FillIns) != 2 || len(got.Own) != 1 {
		t.Errorf("%v %d fittings, %d fill-ins, %d events", faults, len(got.Fittings), len(got.FillIns), len(got.Own))
	}
	// A fill-in of that name that is there already gives way to the one that comes in.
	here := settings(t)
	here.FillIns[0].To = 6
	got, err = in.Onto(here, in.Holds(), false, false)
	if err != nil || got.FillIns[0].To != 20 || len(got.FillIns) != len(here.FillIns) {
		t.Errorf("%+v %v", got.FillIns, err)
	}
}

func TestABadHouseFileIsRefusedByName(t *testing.T) {
	for want, raw := range map[string]string{
		"this is no house file":                        `[1, 2]`,
		"format: is missing":                           `{"channel": "x"}`,
		"format: is 7":                                 `{"format": 7}`,
		"overlays: this house knows no such section":   `{"format": 1, "overlays": []}`,
		`unknown field "colour"`:                       `{"format": 1, "courtesies": [{"id": "a", "colour": "red"}]}`,
		"cannot unmarshal string into Go struct field": `{"format": 1, "graceSeconds": "long"}`,
		"at most": `{"format": 1, "seed": "` + strings.Repeat("x", house.MostFile) + `"}`,
	} {
		if _, err := house.ReadFile([]byte(raw)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	in, err := house.ReadFile([]byte("\xef\xbb\xbf {\"format\": 1, \"courtesies\": [{\"id\": \" greet-newcomer \", \"on\": true, \"when\": \" arrival\", \"slot\": \"greeting\", \"do\": []}]}\n"))
	if err != nil {
		t.Fatal(err)
	}
	got, err := in.Onto(settings(t), in.Holds(), false, false)
	if err != nil || got.Courtesy[1].ID != "greet-newcomer" || len(got.Courtesy[1].Do) != 0 {
		t.Errorf("stray spaces: %v", err)
	}
}

// spoil changes one value somewhere in a document into something else.
func spoil(r *rand.Rand, v any) any {
	odd := []any{nil, true, -1.0, 1e308, "", " ", "{name", "{streams, plural, one {#} other {#}}", "24:61", "2031-02-30", []any{}, map[string]any{}, "porch.raid.came", "quayside", "\u202e@all"}
	switch v := v.(type) {
	case map[string]any:
		if len(v) > 0 && r.IntN(6) > 0 {
			keys := slices.Sorted(maps.Keys(v))
			k := keys[r.IntN(len(keys))]
			v[k] = spoil(r, v[k])
			return v
		}
	case []any:
		if len(v) > 0 && r.IntN(6) > 0 {
			i := r.IntN(len(v))
			switch r.IntN(8) {
			case 0:
				return append(v, v[i]) // one stands twice
			case 1:
				return slices.Delete(v, i, i+1)
			}
			v[i] = spoil(r, v[i])
			return v
		}
	}
	return odd[r.IntN(len(odd))]
}

func TestASpoiledHouseFileIsRefusedWithItsPlaceOrWorks(t *testing.T) {
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	now, err := house.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	refused, faulty, fine := 0, 0, 0
	for seed := range uint64(1500) {
		r := rand.New(rand.NewPCG(seed, 2))
		var doc any
		if err := json.Unmarshal(raw, &doc); err != nil {
			t.Fatal(err)
		}
		for range 1 + r.IntN(3) {
			doc = spoil(r, doc)
		}
		spoiled, _ := json.Marshal(doc)
		in, err := house.ReadFile(spoiled)
		if err != nil {
			refused++
			if !strings.Contains(err.Error(), ":") && !strings.Contains(err.Error(), "house file") {
				t.Errorf("seed %d: %q names no place", seed, err)
			}
			continue
		}
		next, err := in.Onto(now, in.Holds(), true, false)
		if err != nil {
			refused++
			continue
		}
		plan, faults := house.Ready(next, 1)
		if len(faults) > 0 {
			faulty++
			for _, f := range faults {
				if f.What == "" || f.Remedy == "" {
					t.Errorf("seed %d: %+v", seed, f)
				}
			}
			continue
		}
		fine++
		if fine%10 == 0 { // those that come into force can be lived
			e := &evening{t: t, s: house.NewState(), plan: plan, now: dusk}
			e.happens(on("quayside"))
			e.happens(line("limpet_lena", "hello"))
			e.happens(raid("kelpwright", 37))
			e.after(time.Minute).happens(off("quayside"))
			e.after(time.Hour)
		}
	}
	if refused < 100 || faulty < 100 || fine < 100 {
		t.Errorf("%d refused, %d with faults, %d fine: the spoiling spoils too much or too little", refused, faulty, fine)
	}
}

func TestEverySettingIsASectionOfTheFileAndNoneIsLostOnTheWay(t *testing.T) {
	of := reflect.TypeFor[house.Settings]()
	for i := range of.NumField() {
		name, _, _ := strings.Cut(of.Field(i).Tag.Get("json"), ",")
		if name != "format" && !slices.Contains(house.Sections, name) {
			t.Errorf("%s is no section: a file that holds it is refused", name)
		}
	}
}

func TestARoleOfAnOlderFileIsReadAsOnlyAndTheFileIsLifted(t *testing.T) {
	const courtesies = `[{"id": "mods", "on": true, "when": "command", "slot": "answer", "asks": ["!tide"], "who": {"role": "moderator"}, "do": []},
		{"id": "staffed", "on": true, "when": "command", "slot": "answer", "asks": ["!lamp"], "who": {"role": "vip"}, "staff": true, "do": []},
		{"id": "sundays", "on": true, "when": "command", "slot": "answer", "asks": ["!kelp"], "who": {"days": ["Sunday"]}, "do": []},
		{"id": "greets", "on": true, "when": "arrival", "slot": "greeting", "who": {"role": "moderator"}, "do": []}]`
	old := `{"format": 1, "channel": "tidepool_hours", "zone": "UTC", "seed": "low water", "courtesies": ` + courtesies + `}`
	stored, err := house.ReadStored([]byte(old))
	if err != nil {
		t.Fatal(err)
	}
	read, err := house.ReadSettings([]byte(old))
	if err != nil {
		t.Fatal(err)
	}
	in, err := house.ReadFile([]byte(`{"format": 1, "madeOn": "tidepool_hours", "courtesies": ` + courtesies + `}`))
	if err != nil {
		t.Fatal(err)
	}
	bare := settings(t)
	bare.Courtesy = nil
	onto, err := in.Onto(bare, in.Holds(), true, false)
	if err != nil {
		t.Fatal(err)
	}
	for way, s := range map[string]*house.Settings{"from the database": stored, "as a file": read, "as a part of one": onto} {
		if s.Format != house.Format || len(s.Courtesy) != 4 {
			t.Fatalf("%s: format %d, %d courtesies", way, s.Format, len(s.Courtesy))
		}
		for i, only := range []bool{true, false, false, false} {
			if c := s.Courtesy[i]; c.Only != only {
				t.Errorf("%s: %s only: %v", way, c.ID, c.Only)
			}
		}
		if _, faults := house.Ready(s, 1); len(faults) > 0 {
			t.Errorf("%s: %v", way, faults)
		}
	}
	// In the newest format the old word is none, and a later format is refused by its number.
	if _, err := house.ReadFile([]byte(`{"format": 2, "courtesies": [{"id": "a", "staff": true}]}`)); err == nil || !strings.Contains(err.Error(), "staff") {
		t.Errorf("an old word in a new file: %v", err)
	}
	if _, err := house.ReadFile([]byte(`{"format": 3}`)); err == nil || !strings.Contains(err.Error(), "reads formats 1 and 2") {
		t.Errorf("a format to come: %v", err)
	}
}
