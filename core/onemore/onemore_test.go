// Package onemore_test makes a house with one more of everything: a happening, an output
// and a room, of one file each. Nothing else of the house is opened for them.
package onemore_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
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
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/prose"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
	"vividporch/core/who"
)

func init() {
	happening.Add(tideTurned)
	output.Add(bell)
	house.Rooms = append(house.Rooms, sluice)
}

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// sluiceHouse thanks whoever sees a high tide turn, rings the bell, and tells it again.
func sluiceHouse(t *testing.T) *housefile.Settings {
	t.Helper()
	s := housetest.Base()
	s.Pace.GapSeconds = 0
	s.Rooms = map[string]json.RawMessage{"sluice": json.RawMessage(`{"againSeconds": 90}`)}
	high := 300.0
	s.Courtesy = []courtesy.Courtesy{
		{ID: "high-tide", On: true, When: "porch.tide.turned", Slot: happening.Thanks, Measure: &who.Measure{Of: "height", AtLeast: &high}, Do: []output.Output{
			{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{name} saw it turn at {height}"}}, {ID: "bell", Do: &Bell{Fitting: "player", Times: 2}}}},
		{ID: "any-tide", On: true, When: "porch.tide.turned", Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"The tide has turned"}}}},
	}
	return s
}

func plan(t *testing.T, s *housefile.Settings) *room.Plan {
	t.Helper()
	p, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	return p
}

// evening is a house being lived, with all that was decided.
type evening struct {
	s    *house.State
	p    *room.Plan
	now  time.Time
	n    int
	log  []event.Event
	made [][]hall.Decision
}

func begin(t *testing.T) *evening {
	e := &evening{s: house.NewState(), p: plan(t, sluiceHouse(t)), now: dusk}
	e.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}}, nil)
	return e
}

func (e *evening) happens(data event.Data, known *people.Known) []hall.Decision {
	e.n++
	ev := event.Event{Seq: e.s.Seq + 1, Door: "inbox", Source: "test", ID: fmt.Sprint("e", e.n), Type: data.Type(), Time: e.now, Logged: e.now, Data: data}
	ds := house.Step(e.s, &ev, known, e.p)
	e.log, e.made = append(e.log, ev), append(e.made, ds)
	return ds
}

func (e *evening) wait(d time.Duration) (ds []hall.Decision) {
	for until := e.now.Add(d); ; {
		at, due := e.s.Wake(e.p)
		if !due || at.After(until) {
			e.now = until
			return ds
		}
		ev, more, ok := house.Advance(e.s, at, e.p)
		if !ok {
			return ds
		}
		e.log, e.made, ds = append(e.log, ev), append(e.made, more), append(ds, more...)
	}
}

func turned(login string, height int64) *TideTurned {
	return &TideTurned{Person: event.Person{Platform: "quayside", ID: login, Login: login}, Height: height}
}

func of(ds []hall.Decision, kind hall.Kind) (out []hall.Decision) {
	return slices.DeleteFunc(slices.Clone(ds), func(d hall.Decision) bool { return d.Kind != kind })
}

func remembered(s *house.State) *memory { return room.Remembered[memory](s.Rooms, "sluice") }

func TestOneMoreHappeningIsMeasuredThankedAndKnownByItsWords(t *testing.T) {
	e := begin(t)
	said := of(e.happens(turned("limpet_lena", 310), nil), hall.Say)
	if len(said) != 2 || said[0].Text != "limpet_lena saw it turn at 310" || said[1].Text != "The tide has turned" {
		t.Errorf("%+v", said)
	}
	if low := of(e.happens(turned("mossy_mare", 120), nil), hall.Say); len(low) != 1 {
		t.Errorf("a low tide is thanked for: %+v", low)
	}
	if got := e.s.Largest["porch.tide.turned/height/"].Ever; got != 310 {
		t.Errorf("the highest was %v", got)
	}
	var b strings.Builder
	for _, part := range prose.Sentence(e.p.Settings.Courtesy[0], who.Names{}) {
		b.WriteString(part.Text)
	}
	if b.String() != "Thank for a turn of the tide of 300 or more height" || prose.Lane(e.p.Settings.Courtesy[0]) != string(happening.Happens) {
		t.Error(b.String())
	}
	if _, err := happening.Kinds.Parse([]byte(`{"specversion":"1.0","id":"1","source":"s","type":"porch.tide.turned","data":{"person":{"platform":"quayside","id":"1"},"height":-1}}`)); err == nil || !strings.Contains(err.Error(), "data.height") {
		t.Errorf("a height below the ground is taken: %v", err)
	}
}

func TestOneMoreOutputIsCheckedToldAndKeptInTheFile(t *testing.T) {
	e := begin(t)
	rung := of(e.happens(turned("limpet_lena", 310), nil), "bell")
	if len(rung) != 1 || rung[0].Platform != "player" || !strings.Contains(string(rung[0].Body), `"times":2`) || strings.Contains(string(rung[0].Body), "fitting") {
		t.Fatalf("%+v", rung)
	}
	raw, err := json.Marshal(e.p.Settings)
	if err != nil {
		t.Fatal(err)
	}
	again, err := housefile.ReadSettings(raw)
	if err != nil || !reflect.DeepEqual(again.Courtesy, e.p.Settings.Courtesy) {
		t.Errorf("%v: %s", err, raw)
	}
	bad := sluiceHouse(t)
	bad.Courtesy[0].Do[1].Do = &Bell{Fitting: "player", Times: 40}
	if _, faults := house.Ready(bad, 2); len(faults) != 1 || faults[0].At != "do.1.times" {
		t.Errorf("%v", faults)
	}
}

func TestOneMoreRoomReadsItsSectionRemembersAndIsWoken(t *testing.T) {
	e := begin(t)
	e.happens(turned("limpet_lena", 310), nil)
	if m := remembered(e.s); m.Seen["quayside:limpet_lena"] != 1 || m.Ever != 1 || !m.Again.Equal(dusk.Add(90*time.Second)) {
		t.Fatalf("%+v", m)
	}
	if said := of(e.wait(2*time.Minute), hall.Say); len(said) == 0 || said[0].Text != "The tide has turned" {
		t.Errorf("it is not told again: %+v", said)
	}
	if at, due := e.s.Wake(e.p); due && at.Before(e.now.Add(time.Hour)) {
		t.Errorf("and again at %s", at)
	}
	bad := sluiceHouse(t)
	bad.Rooms["sluice"] = json.RawMessage(`{"againSeconds": 90, "colour": "red"}`)
	if _, faults := house.Ready(bad, 2); len(faults) != 1 || faults[0].At != "rooms.sluice" {
		t.Errorf("%v", faults)
	}
	if loose := house.Loosely(bad, 2); len(loose.Left) != 1 || len(loose.Settings.Courtesy) != 2 {
		t.Errorf("one section that cannot be read takes more with it: %+v", loose.Left)
	}
}

func TestTheSameEveningIsTheSameBytesAndEvolvingIsLivingIt(t *testing.T) {
	script := []event.Event{}
	at := func(s int, id string, data event.Data) {
		when := dusk.Add(time.Duration(s) * time.Second)
		script = append(script, event.Event{Door: "inbox", Source: "test", ID: id, Type: data.Type(), Time: when, Data: data})
	}
	at(0, "a", &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	at(10, "b", turned("limpet_lena", 310))
	at(40, "c", turned("mossy_mare", 90))
	at(300, "d", &happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	live := func() string {
		var b bytes.Buffer
		if _, err := rehearsal.Run(plan(t, sluiceHouse(t)), &rehearsal.Book{}, script, func(e rehearsal.Effect) error { return json.NewEncoder(&b).Encode(e) }); err != nil {
			t.Fatal(err)
		}
		return b.String()
	}
	if first, second := live(), live(); first != second || !strings.Contains(first, `"bell"`) {
		t.Errorf("%s\n%s", first, second)
	}
	e := begin(t)
	e.happens(turned("limpet_lena", 310), nil)
	e.wait(3 * time.Minute)
	e.happens(turned("mossy_mare", 90), nil)
	evolved := house.NewState()
	for i := range e.log {
		evolved.Evolve(&e.log[i], e.made[i])
	}
	lived, _ := json.Marshal(e.s)
	if again, _ := json.Marshal(evolved); !bytes.Equal(lived, again) {
		t.Errorf("lived   %s\nevolved %s", lived, again)
	}
}

func TestARoomThatIsNewOrHasChangedShapeCatchesUpAlone(t *testing.T) {
	for name, change := range map[string]func(rooms map[string]json.RawMessage){
		"from before it was there": func(rooms map[string]json.RawMessage) { delete(rooms, "sluice") },
		"in another shape": func(rooms map[string]json.RawMessage) {
			rooms["sluice"] = json.RawMessage(`{"version":1,"memory":[7]}`)
		},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t)
			e.happens(turned("limpet_lena", 310), nil)
			e.wait(3 * time.Minute)
			e.happens(turned("mossy_mare", 90), nil)
			lived, _ := json.Marshal(e.s)
			var snap map[string]json.RawMessage
			var rooms map[string]json.RawMessage
			json.Unmarshal(lived, &snap)
			json.Unmarshal(snap["rooms"], &rooms)
			change(rooms)
			snap["rooms"], _ = json.Marshal(rooms)
			raw, _ := json.Marshal(snap)
			s, anew, ok := house.RestoreState(raw)
			if !ok || !slices.Equal(anew, []string{"sluice"}) {
				t.Fatalf("restored %v, anew %v", ok, anew)
			}
			live := s.CatchUp(anew)
			for i := range e.log {
				live(&e.log[i], e.made[i])
			}
			if again, _ := json.Marshal(s); !bytes.Equal(lived, again) {
				t.Errorf("lived     %s\ncaught up %s", lived, again)
			}
		})
	}
}

func TestADecisionMadeTwiceIsKeptOnce(t *testing.T) {
	e := begin(t)
	ev := event.Event{Seq: 9, ID: "x", Type: "porch.tide.turned", Time: dusk, Logged: dusk, Data: turned("limpet_lena", 1)}
	turn := e.s.Asking(e.p, &ev, nil)
	if !room.Note(turn, "turn", 1, "first") || room.Note(turn, "turn", 2, "second") || len(turn.Decided) != 1 || string(turn.Decided[0].Body) != "1" {
		t.Errorf("%+v", turn.Decided)
	}
}

func TestWhatARoomKeepsIsOfAllAccountsAndGoesWithWhoeverIsForgotten(t *testing.T) {
	e := begin(t)
	known := &people.Known{Person: 4, Accounts: []string{"quayside:limpet_lena", "fernlight:lena"}}
	known.Kept.Keep("fernlight:lena", "sluice", json.RawMessage(`{"seen": 5}`)) // years ago, as the book has it
	e.happens(turned("limpet_lena", 310), known)
	ds := e.happens(turned("limpet_lena", 320), known) // the book has not got the first yet
	if notes := of(ds, hall.Note); len(notes) != 1 || !strings.Contains(notes[0].Because[0], "they saw it 7 times") {
		t.Errorf("%+v", notes)
	}
	if kept := of(ds, hall.Keep); len(kept) != 1 || string(kept[0].Kept) != `{"seen":2}` || kept[0].Person != "quayside:limpet_lena" {
		t.Errorf("%+v", kept)
	}
	e.happens(&event.BookForgotten{Person: 4, Keys: known.Accounts, Names: []string{"limpet_lena"}}, nil)
	if raw, _ := json.Marshal(e.s); strings.Contains(string(raw), "limpet_lena") || strings.Contains(string(raw), `"seen"`) {
		t.Errorf("what is left of them: %s", raw)
	}
}
