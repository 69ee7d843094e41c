package rehearsal_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
	"vividporch/core/who"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// told is a house that says who it takes somebody for.
func told(t *testing.T) (*housefile.Settings, *room.Plan) {
	t.Helper()
	s := housetest.Base()
	s.Pace.GapSeconds, s.Pace.JoinAt = 0, 0
	for _, doc := range []string{`{"standing":"newcomer"}`, `{"standing":"returning"}`, `{"mark":"fellow streamer"}`} {
		var w who.Who
		json.Unmarshal([]byte(doc), &w)
		id := string(w.Standing) + string(w.Mark)
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: strings.ReplaceAll(id, " ", "-"), On: true, When: happening.Arrival, Slot: happening.Greeting, Who: w,
			Do: []output.Output{{ID: "o", Do: &output.Say{}, Alternatives: []string{"{name}: " + id + " {streams, plural, other {#}}"}}}})
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	return s, plan
}

func book(t *testing.T, text string) *rehearsal.Book {
	t.Helper()
	b, err := rehearsal.ReadBook(strings.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// said rehearses a script and returns what is said.
func said(t *testing.T, plan *room.Plan, b *rehearsal.Book, script ...event.Event) (out []string) {
	t.Helper()
	if _, err := rehearsal.Run(plan, b, script, func(e rehearsal.Effect) error {
		if e.Effect == "say" {
			out = append(out, e.Text)
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	return out
}

func at(after time.Duration, d event.Data) event.Event {
	return event.Event{Door: "script", Source: "script", ID: fmt.Sprint(after, d), Type: d.Type(), Time: dusk.Add(after), Data: d}
}

func open(after time.Duration) event.Event {
	return at(after, &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
}

func closed(after time.Duration) event.Event {
	return at(after, &happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
}

func says(after time.Duration, id, login string) event.Event {
	c := &happening.ChatSaid{Text: "what a tide"}
	c.Person = event.Person{Platform: "quayside", ID: id, Login: login}
	return at(after, c)
}

const header = `{"zone":"UTC","streams":[{"number":1,"opened":"2031-05-01T19:00:00Z","closed":"2031-05-01T21:00:00Z"}]}` + "\n"

func TestABookServesAnyNumberOfRehearsals(t *testing.T) {
	_, plan := told(t)
	b := book(t, header+`{"accounts":[{"platform":"quayside","id":"1","login":"ada"}],"streams":[1]}`)
	script := []event.Event{open(0), says(time.Minute, "1", "ada"), says(2*time.Minute, "2", "bo")}
	first, second := said(t, plan, b, script...), said(t, plan, b, script...)
	if len(first) != 2 || strings.Join(first, "|") != strings.Join(second, "|") {
		t.Errorf("%q, then %q", first, second)
	}
}

func TestWhoIsWhoInARehearsal(t *testing.T) {
	_, plan := told(t)
	hour := time.Hour
	for name, c := range map[string]struct {
		people string
		script []event.Event
		want   string
	}{
		"a second account that comes back is the same person": {`{"accounts":[{"platform":"quayside","id":"1","login":"ada"},{"platform":"quayside","id":"2","login":"ada_too"}]}`,
			[]event.Event{open(0), says(time.Minute, "1", "ada"), closed(hour), open(3 * hour), says(3*hour+time.Minute, "2", "ada_too")}, "ada: newcomer 1|ada_too: returning 2"},
		"a login belongs to the first who comes with it": {`{"accounts":[{"platform":"quayside","login":"ada"}],"streams":[1]}`,
			[]event.Event{open(0), says(time.Minute, "7", "ada"), says(2*time.Minute, "8", "ada")}, "ada: returning 2|ada: newcomer 1"},
		"whoever the platform told of streams": {`{"accounts":[{"platform":"quayside","id":"1","login":"ada"}],"fetched":{"link":"https://quayside.example/ada"}}`,
			[]event.Event{open(0), says(time.Minute, "1", "ada")}, "ada: fellow streamer 1"},
		"a book written while a stream was on": {`{"accounts":[{"platform":"quayside","id":"1","login":"ada"}],"streams":[1,2]}`,
			[]event.Event{open(0), says(time.Minute, "1", "ada")}, "ada: returning 2"},
		"a line that comes late is a visit of its stream": {``,
			[]event.Event{open(0), closed(hour), late(hour+30*time.Minute, says(time.Minute, "3", "cy")), open(3 * hour), says(3*hour+time.Minute, "3", "cy")}, "cy: returning 2"},
	} {
		if got := strings.Join(said(t, plan, book(t, header+c.people), c.script...), "|"); got != c.want {
			t.Errorf("%s: %s, want %s", name, got, c.want)
		}
	}
}

// late is an event of which the house is told at another moment than it happened.
func late(logged time.Duration, ev event.Event) event.Event {
	ev.Logged = dusk.Add(logged)
	return ev
}

func TestWhatMembersChangeInAScriptHolds(t *testing.T) {
	s, plan := told(t)
	b := book(t, header+`{"accounts":[{"platform":"quayside","id":"1","login":"ada"}],"streams":[1]}`)
	name := "Ada of the Row"
	edit := at(time.Minute, &event.BookEdited{Persons: []int64{1}, Edit: event.Edit{Set: event.Hand{SayAs: &name}}})
	if got := said(t, plan, b, open(0), edit, says(2*time.Minute, "1", "ada")); strings.Join(got, "|") != "Ada of the Row: returning 2" {
		t.Errorf("%q", got)
	}
	s.Courtesy = nil
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	change := at(time.Minute, &event.SettingsChanged{Version: 2, Settings: raw})
	if got := said(t, plan, b, open(0), change, says(2*time.Minute, "1", "ada")); len(got) != 0 {
		t.Errorf("%q", got)
	}
	if got := said(t, plan, b, open(0), says(2*time.Minute, "1", "ada")); strings.Join(got, "|") != "ada: returning 2" {
		t.Errorf("the edit is kept over the rehearsal: %q", got)
	}
}

func TestGraceAbsentIsTenMinutesAndNoughtIsNone(t *testing.T) {
	s, _ := told(t)
	for name, c := range map[string]struct {
		grace   *float64
		streams int
	}{"absent": {nil, 1}, "nought": {new(0.0), 2}, "a minute": {new(60.0), 2}} {
		s.Grace = c.grace
		plan, faults := house.Ready(s, 1)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		sum, err := rehearsal.Run(plan, rehearsal.NewBook(), []event.Event{open(0), closed(time.Hour), open(time.Hour + 5*time.Minute)}, func(rehearsal.Effect) error { return nil })
		if err != nil || sum.Streams != c.streams {
			t.Errorf("%s: %d streams, %v", name, sum.Streams, err)
		}
	}
}
