package carry_test

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"vividporch/core/carry"
	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
)

func file(t *testing.T, v any) *carry.Incoming {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	in, err := carry.Read(raw)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

func TestAHouseFileThatWentOutComesInUnchanged(t *testing.T) {
	all := []*housefile.Settings{housetest.Demo(t)}
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
			if diff, _ := housefile.Compare(s, got); len(diff) > 0 {
				t.Errorf("house %d, whole %v: %+v", i, whole, diff)
			}
		}
	}
}

func TestAnotherChannelsFileBringsItsWordsAndNotItsDoors(t *testing.T) {
	theirs := housetest.Demo(t)
	theirs.Channel, theirs.Zone = "pine_marten_hours", "Europe/Oslo"
	theirs.Doors[0].Address = "irc.elsewhere.example:6697"
	theirs.Courtesy = theirs.Courtesy[:2]
	theirs.Courtesy[1].Do[0].Alternatives = []string{"Welcome to pine_marten_hours, {name}; not pine_marten_hours_2"}
	ours := housetest.Demo(t)
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
	diff, _ := housefile.Compare(ours, got)
	if len(diff) != 1 || diff[0].At != "courtesies.greet-newcomer.do.chat.alternatives" || !strings.Contains(diff[0].After, "tidepool_hours") {
		t.Errorf("%+v", diff)
	}
}

func TestOneCrewsCourtesiesTravelWithThePlacesTheyNeed(t *testing.T) {
	s := housetest.Demo(t)
	moths := courtesy.Courtesy{ID: "moths", On: true, When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Any: []who.Who{{Tag: "x"}, {Crews: &who.Crews{Of: []string{"quiet-moths"}}}}},
		Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{name}"}}, {ID: "post", Do: &output.Relay{Place: "boathouse-news"}, Alternatives: []string{"{name} is in"}}}}
	s.Courtesy = append(s.Courtesy, moths)
	ids := carry.OfCrew(s, "quiet-moths")
	in := file(t, carry.Part(s, ids))
	if strings.Join(in.Holds(), " ") != "places courtesies" || in.Channel() != "tidepool_hours" || len(ids) != 1 {
		t.Fatalf("%v %v", in.Holds(), ids)
	}
	bare := housetest.Demo(t)
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
	s := housetest.Demo(t)
	s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "tide", On: true, When: "porch.other", Who: who.Who{Fields: map[string]string{"event": "tide.turned"}}, Do: []output.Output{
		{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{hasLastFollowers, select, yes {{lastFollowers}} other {}} {dice}"}},
		{ID: "lamp", Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#7fb7b2"}}}})
	in := file(t, carry.Part(s, []string{"tide"}))
	if got := strings.Join(in.Holds(), " "); got != "courtesies fittings fillIns own" {
		t.Fatal(got)
	}
	bare := housetest.Demo(t)
	bare.Courtesy, bare.Fittings, bare.FillIns, bare.Own = nil, nil, nil, nil
	got, err := in.Onto(bare, in.Holds(), false, false)
	if err != nil {
		t.Fatal(err)
	}
	if _, faults := house.Ready(got, 1); len(faults) > 0 || len(got.Fittings) != 1 || len(got.FillIns) != 2 || len(got.Own) != 1 {
		t.Errorf("%v %d fittings, %d fill-ins, %d events", faults, len(got.Fittings), len(got.FillIns), len(got.Own))
	}
	// A fill-in of that name that is there already gives way to the one that comes in.
	here := housetest.Demo(t)
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
		"turrets: this house knows no such section":    `{"format": 1, "turrets": []}`,
		`unknown field "colour"`:                       `{"format": 1, "courtesies": [{"id": "a", "colour": "red"}]}`,
		"cannot unmarshal string into Go struct field": `{"format": 1, "graceSeconds": "long"}`,
		"at most": `{"format": 1, "seed": "` + strings.Repeat("x", carry.Most) + `"}`,
	} {
		if _, err := carry.Read([]byte(raw)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	in, err := carry.Read([]byte("\xef\xbb\xbf {\"format\": 1, \"courtesies\": [{\"id\": \" greet-newcomer \", \"on\": true, \"when\": \" arrival\", \"slot\": \"greeting\", \"do\": []}]}\n"))
	if err != nil {
		t.Fatal(err)
	}
	got, err := in.Onto(housetest.Demo(t), in.Holds(), false, false)
	if err != nil || got.Courtesy[1].ID != "greet-newcomer" || len(got.Courtesy[1].Do) != 0 {
		t.Errorf("stray spaces: %v", err)
	}
}

func TestEverySettingIsASectionOfTheFileAndNoneIsLostOnTheWay(t *testing.T) {
	of := reflect.TypeFor[housefile.Settings]()
	for i := range of.NumField() {
		name, _, _ := strings.Cut(of.Field(i).Tag.Get("json"), ",")
		if name != "format" && !slices.Contains(housefile.Sections, name) {
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
	stored, err := housefile.ReadStored([]byte(old))
	if err != nil {
		t.Fatal(err)
	}
	read, err := housefile.ReadSettings([]byte(old))
	if err != nil {
		t.Fatal(err)
	}
	in, err := carry.Read([]byte(`{"format": 1, "madeOn": "tidepool_hours", "courtesies": ` + courtesies + `}`))
	if err != nil {
		t.Fatal(err)
	}
	bare := housetest.Demo(t)
	bare.Courtesy = nil
	onto, err := in.Onto(bare, in.Holds(), true, false)
	if err != nil {
		t.Fatal(err)
	}
	for way, s := range map[string]*housefile.Settings{"from the database": stored, "as a file": read, "as a part of one": onto} {
		if s.Format != housefile.Format || len(s.Courtesy) != 4 {
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
	if _, err := carry.Read([]byte(`{"format": 3, "courtesies": [{"id": "a", "staff": true}]}`)); err == nil || !strings.Contains(err.Error(), "staff") {
		t.Errorf("an old word in a new file: %v", err)
	}
	if _, err := carry.Read([]byte(`{"format": 4}`)); err == nil || !strings.Contains(err.Error(), "reads formats 1 to 3") {
		t.Errorf("a format to come: %v", err)
	}
}
