package housetest

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
)

// Dusk is when evenings begin.
var Dusk = time.Date(2026, 11, 26, 19, 0, 0, 0, time.UTC)

// Evening is one that a test lives step by step, on air: what it raises is lived too, and the house's edge answers at once.
type Evening struct {
	T     *testing.T
	S     *house.State
	Plan  *room.Plan
	Now   time.Time
	Log   []Logged
	Lines []string // that the house said
	Mute  bool     // the edge does not answer

	Known map[string]*people.Known // what the guest book tells of people, by login

	n   int
	ids map[string]bool
}

// Logged is an event with what was decided about it, and when by the house's clock.
type Logged struct {
	Event     event.Event
	Decisions []hall.Decision
	At        time.Time
}

// Says is a courtesy that says something at a happening.
func Says(when, text string) courtesy.Courtesy {
	return courtesy.Courtesy{ID: strings.ReplaceAll(strings.TrimPrefix(when, "porch."), ".", "-"), When: when, On: true,
		Do: []output.Output{{ID: "say", Do: &output.Say{}, Alternatives: []string{text}}}}
}

// Asked is a command of a name that does something.
func Asked(name string, does ...output.Output) courtesy.Courtesy {
	for i := range does {
		if does[i].ID == "" {
			does[i].ID = fmt.Sprint("o", i)
		}
	}
	return courtesy.Courtesy{ID: name, When: happening.Command, Slot: happening.Answer, Asks: []string{name}, On: true, OffLine: true, Do: does}
}

// Begin begins an evening in a house of these settings.
func Begin(t *testing.T, s *housefile.Settings) *Evening {
	t.Helper()
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	e := &Evening{T: t, S: house.NewState(), Plan: plan, Now: Dusk, Known: map[string]*people.Known{}, ids: map[string]bool{}}
	e.Happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	return e
}

// Lives lives an event, of somebody whom the guest book knows so.
func (e *Evening) Lives(ev event.Event, k *people.Known) []hall.Decision {
	e.n++
	ev.Seq = e.S.Seq + 1
	if ev.ID == "" {
		ev.ID = fmt.Sprint("ev-", e.n)
	}
	if e.ids[ev.Door+" "+ev.ID] { // the log takes each once
		e.T.Fatalf("two events are called %s", ev.ID)
	}
	e.ids[ev.Door+" "+ev.ID] = true
	ev.Type = ev.Data.Type()
	ev.Clean() // as at the door
	ev.Stamp(e.Now)
	ds := house.Step(e.S, &ev, k, e.Plan)
	e.lived(ev, ds)
	return ds
}

func (e *Evening) lived(ev event.Event, ds []hall.Decision) {
	e.Log = append(e.Log, Logged{ev, ds, e.S.Clock})
	for _, d := range ds {
		if d.Kind == hall.Say {
			e.Lines = append(e.Lines, d.Text)
		}
	}
	for _, r := range room.Raised(e.Plan, &ev, ds) {
		var k *people.Known
		if who := r.Who(); who != nil {
			k = e.S.KnownHere(who.Key())
		}
		e.Lives(r, k)
	}
	for i := range ds {
		if d := draw.Rehearsed(&ds[i], "edge", nil); d != nil && !e.Mute {
			e.Lives(event.Event{Door: "house", Source: "house", Data: d}, nil)
		}
	}
}

// Happens has something happen, or a member do something.
func (e *Evening) Happens(d event.Data) []hall.Decision {
	e.T.Helper()
	if err := d.Validate(); err != nil {
		e.T.Fatal(err)
	}
	var k *people.Known
	if who := (&event.Event{Data: d}).Who(); who != nil {
		k = e.Known[who.Login]
	}
	return e.Lives(event.Event{Door: "desk", Source: "desk", Data: d}, k)
}

// After lets time pass.
func (e *Evening) After(d time.Duration) {
	e.T.Helper()
	end := e.Now.Add(d)
	for n := 0; ; n++ {
		at, due := e.S.Wake(e.Plan)
		if !due || at.After(end) {
			break
		}
		if at.After(e.Now) {
			e.Now = at
		}
		if n > 5000 {
			e.T.Fatal("wakes have no end")
		}
		ev, ds, ok := house.Advance(e.S, e.Now, e.Plan)
		if !ok {
			e.T.Fatalf("woken at %s for nothing", at)
		}
		e.lived(ev, ds)
	}
	e.Now = end
}

// Chat is lines of chat, a second apart: "who: what", "who@platform: what".
func (e *Evening) Chat(lines ...string) {
	e.T.Helper()
	for _, l := range lines {
		login, text, _ := strings.Cut(l, ": ")
		c := &happening.ChatSaid{Text: text}
		c.Person = Viewer(login)
		e.After(time.Second)
		e.Happens(c)
	}
}

// Viewer is somebody: "limpet_lena", "lena_elsewhere@fernlight".
func Viewer(login string) event.Person {
	platform := "quayside"
	if name, on, ok := strings.Cut(login, "@"); ok {
		login, platform = name, on
	}
	return event.Person{Platform: platform, ID: "id-" + login, Login: login, Name: login}
}

// Heard fails the test unless the house said something like that.
func (e *Evening) Heard(want string) {
	e.T.Helper()
	for _, s := range e.Lines {
		if strings.Contains(s, want) {
			return
		}
	}
	e.T.Errorf("nothing said like %q: %q", want, e.Lines)
}

// Restarted kills the house and brings it back from its snapshot.
func (e *Evening) Restarted() {
	e.T.Helper()
	raw, err := json.Marshal(e.S)
	if err != nil {
		e.T.Fatal(err)
	}
	s, anew, ok := house.RestoreState(raw)
	if !ok || len(anew) > 0 {
		e.T.Fatalf("a snapshot is not read back: %v", anew)
	}
	e.S = s
}

// Refused is why the last thing asked for was not done, or "".
func Refused(ds []hall.Decision) string {
	for _, d := range ds {
		if d.Kind == hall.Refuse {
			return d.Because[0]
		}
	}
	return ""
}
