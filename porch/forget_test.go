package porch_test

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
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/porchtest"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/log"
)

// mark stands in everything that is about the marked person and nowhere else.
const mark = "zqmark"

var marked = event.Person{Platform: "quayside", ID: mark + "-77", Login: mark + "_login", Name: "Zqmark Name", Roles: []event.Role{event.Follower}}

// fill puts the marked person and marked texts into every field of an event.
func fill(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		if v.IsNil() {
			v.Set(reflect.New(v.Type().Elem()))
		}
		fill(v.Elem())
	case reflect.Struct:
		if v.Type() == reflect.TypeFor[event.Person]() {
			v.Set(reflect.ValueOf(marked))
			return
		}
		if v.Type() == reflect.TypeFor[time.Time]() {
			return
		}
		for i := range v.NumField() {
			f, name := v.Field(i), v.Type().Field(i).Name
			switch {
			case !v.Type().Field(i).IsExported() && !v.Type().Field(i).Anonymous:
			case name == "Platform":
				f.SetString("quayside")
			case name == "Amount" && f.Kind() == reflect.String:
				f.SetString("12.50")
			case name == "Currency":
				f.SetString("EUR")
			case slices.Contains([]string{"Tier", "Item", "Reward", "Campaign", "Place", "Act", "Effect"}, name) || name == "To" && f.Kind() == reflect.String:
				f.SetString("a lamp") // what it was; the name of nobody
			case v.Type().Field(i).Anonymous && !f.CanSet(): // the part that most happenings share
				fillInner(v)
			default:
				fill(f)
			}
		}
	case reflect.String:
		v.SetString(mark + " text")
	case reflect.Int64, reflect.Int:
		v.SetInt(3)
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		fill(v.Index(0))
	case reflect.Map:
		v.Set(reflect.MakeMap(v.Type()))
		v.SetMapIndex(reflect.ValueOf(mark+" key"), reflect.ValueOf(mark+" value"))
	}
}

// fillInner names the person of an event whose shared part cannot be set from outside.
func fillInner(v reflect.Value) {
	if w, ok := v.Addr().Interface().(interface{ Who() *event.Person }); ok {
		*w.Who() = marked
	}
}

// tables dumps every row of every table as text.
func tables(t *testing.T, s *store.Store) map[string][]string {
	t.Helper()
	rows, err := s.SQL.Query("SELECT table_name FROM information_schema.tables WHERE table_schema = 'public' AND table_type = 'BASE TABLE'")
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for rows.Next() {
		var n string
		rows.Scan(&n)
		names = append(names, n)
	}
	rows.Close()
	out := map[string][]string{}
	for _, n := range names {
		rows, err := s.SQL.Query("SELECT row_to_json(t)::text FROM " + n + " t")
		if err != nil {
			t.Fatal(n, err)
		}
		for rows.Next() {
			var row string
			rows.Scan(&row)
			out[n] = append(out[n], row)
		}
		rows.Close()
	}
	if len(out["events"]) == 0 || len(out["decisions"]) == 0 || len(out["people"]) == 0 {
		t.Fatalf("tables are missing: %d", len(out))
	}
	return out
}

// plainly is a state without the order in which its JSON stands.
func plainly(t *testing.T, s *house.State) (v any) {
	t.Helper()
	raw, err := json.Marshal(s)
	if err != nil || json.Unmarshal(raw, &v) != nil {
		t.Fatal(err)
	}
	return v
}

func leftIn(text string) bool { return strings.Contains(strings.ToLower(text), mark) }

// A person who caused every event there is, and was named in others', asks to be
// forgotten: nothing of them is left in any table, in what the Porch shows, or in what
// can be taken out.
func TestForgettingLeavesNothingAnywhere(t *testing.T) {
	b := porchtest.Launch(t, quick, func(s *housefile.Settings) {
		say := func(id, when, text string) courtesy.Courtesy {
			return courtesy.Courtesy{ID: id, On: true, When: when, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{text}},
				{ID: "later", Do: &output.Say{}, DelaySeconds: 3000, Alternatives: []string{text}}, {ID: "card", Do: &output.Card{}, Alternatives: []string{text}},
				{ID: "post", Do: &output.Relay{Place: "boathouse-news"}, Alternatives: []string{text}}, {ID: "lamp", Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2a541"}},
				{ID: "again", Do: &output.Raise{Event: "told." + id, Fields: map[string]string{"who": "{name}"}}}}}
		}
		s.Courtesy = append(s.Courtesy, say("all-follows", "porch.person.followed", "{name} follows"), say("all-gifts", "porch.support.gifted", "{name} gave{hasTo, select, yes { to {to}} other {}}"))
	})
	goLive(b)
	q := b.Street.Platforms["quayside"]
	said := func(p event.Person, text string) event.Event {
		d := &happening.ChatSaid{Text: text}
		d.Person = p
		return event.Event{Door: "quayside", Source: "s", ID: fmt.Sprint("said", len(p.ID)+len(text)), Type: d.Type(), Data: d}
	}
	lena := event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena", Name: "Limpet Lena"}
	var evs []event.Event
	evs = append(evs, said(lena, "hello all"), said(marked, "hello "+mark), said(marked, "!kept"))
	outside, own := happening.Kinds.Types()
	for i, kind := range outside {
		if kind == "porch.stream.closed" || kind == "porch.stream.opened" || kind == "porch.stream.changed" || kind == "porch.stream.viewers" { // about nobody
			continue
		}
		d := happening.Kinds.Fresh(kind)
		fill(reflect.ValueOf(d))
		ev := event.Event{Door: "quayside", Source: "s", ID: fmt.Sprint("every", i), Type: kind, Data: d}
		raw, _ := json.Marshal(d)
		ev.Raw = append(raw[:len(raw)-1], `,"unknown":{"deep":["`+mark+`"]},"huge":1e999}`...) // what a sender adds
		ev.Ext = json.RawMessage(`{"subject":"` + mark + `","traceparent":"00-4bf9"}`)
		evs = append(evs, ev)
	}
	gift := &happening.Gifted{Count: 1, To: []event.Person{marked}}
	gift.Person = lena
	ban := &happening.PersonTimedOut{Seconds: 60, By: marked.Login}
	ban.Person = event.Person{Platform: "quayside", ID: "5", Login: "gull"}
	evs = append(evs, event.Event{Door: "quayside", Source: "s", ID: "gift", Type: gift.Type(), Data: gift, Ext: json.RawMessage(`{"subject":"a gift"}`)}, event.Event{Door: "quayside", Source: "s", ID: "ban", Type: ban.Type(), Data: ban})
	if _, err := b.House.Submit(t.Context(), evs); err != nil {
		t.Fatal(err)
	}
	k, err := b.House.Known(t.Context(), marked.Key())
	if err != nil || k == nil {
		t.Fatal(k, err)
	}
	text := mark + " note"
	for _, d := range []event.Data{&event.DeskAsked{Act: "shoutout", Person: marked}, &event.DeskAsked{Act: "greet", Person: marked}, &event.DeskAsked{Act: "thank", Person: marked},
		&event.DeskAsked{Act: "try", Courtesy: "all-follows", Person: marked},
		&event.DeskActed{Act: "give VIP", Platform: "quayside", Login: marked.Login}, &event.BookEdited{Persons: []int64{k.Person}, Edit: event.Edit{Set: event.Hand{Note: &text, SayAs: &text}, AddTags: []string{text}}},
		&event.WaitingDone{Item: "raid/porch.raid.came/" + marked.Key()}} {
		if _, err := b.House.Hand(t.Context(), d); err != nil {
			t.Fatal(d.Type(), err)
		}
	}
	for _, kind := range own { // what the house logs of itself about them
		switch kind {
		case "porch.lookup.answered", "porch.speech.refused", "porch.act.refused", "porch.act.done", "porch.relay.failed":
			d := happening.Kinds.Fresh(kind)
			fill(reflect.ValueOf(d))
			raw, _ := json.Marshal(d)
			raw = bytes.ReplaceAll(raw, []byte(`"account":"`+mark+` text"`), []byte(`"account":"`+marked.Key()+`"`))
			raw = bytes.ReplaceAll(raw, []byte(`"about":["`+mark+` text"]`), []byte(`"about":["`+marked.Key()+`"]`))
			raw = bytes.ReplaceAll(raw, []byte(`"line":"`+mark+` text"`), []byte(`"line":"17.all-follows.chat"`))
			raw = bytes.ReplaceAll(raw, []byte(`"login":"`+mark+` text"`), []byte(`"login":"`+marked.Login+`"`))
			if json.Unmarshal(raw, d) != nil {
				t.Fatal(kind)
			}
			if _, err := b.House.Submit(t.Context(), []event.Event{{Door: "house", Source: "house", ID: "of-" + kind, Type: kind, Data: d}}); err != nil {
				t.Fatal(err)
			}
		}
	}
	q.Chat.Say(standin.Viewer{ID: "5", Login: "tidewrack"}, "and on")
	b.Until("everything has come to rest", func() bool {
		u, _ := b.Store.Log.Unsaid(t.Context(), b.House.ID)
		n, _ := b.Store.Log.Undone(t.Context(), b.House.ID)
		return len(u) == 0 && len(n) == 0 && b.House.Backlog() == 0
	})
	before := 0
	for _, rows := range tables(t, b.Store) {
		for _, row := range rows {
			if leftIn(row) {
				before++
			}
		}
	}
	if before < 40 {
		t.Fatalf("only %d rows knew them: the test has lost its teeth", before)
	}
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", k.Person); err != nil {
		t.Fatal(err)
	}
	for table, rows := range tables(t, b.Store) {
		for _, row := range rows {
			if leftIn(row) {
				t.Errorf("%s still holds %s", table, row)
			}
		}
	}
	b.SignIn()
	for _, path := range []string{"/api/porch", "/api/book/export?format=csv", "/api/book/export?format=jsonl", "/api/book/export?format=vcf"} {
		var out json.RawMessage
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		body := new(bytes.Buffer)
		body.ReadFrom(res.Body)
		res.Body.Close()
		if res.StatusCode != 200 || leftIn(body.String()) {
			t.Errorf("%s: %d %s %s", path, res.StatusCode, out, body)
		}
	}
	// The blanked log brings the house back as it is, whatever version of the state it starts from.
	evolved := house.NewState()
	if err := b.Store.Log.Since(t.Context(), b.House.ID, 0, 0, func(en log.Entry) error { evolved.Evolve(&en.Event, en.Decisions); return nil }); err != nil {
		t.Fatal(err)
	}
	var living json.RawMessage
	if err := b.Store.SQL.QueryRow("SELECT state FROM snapshots WHERE channel = $1 ORDER BY seq DESC LIMIT 1", b.House.ID).Scan(&living); err != nil {
		t.Fatal(err)
	}
	from, _, ok := house.RestoreState(living)
	if !ok {
		t.Fatal("the snapshot is not read back")
	}
	if err := b.Store.Log.Since(t.Context(), b.House.ID, from.Seq, 0, func(en log.Entry) error { from.Evolve(&en.Event, en.Decisions); return nil }); err != nil {
		t.Fatal(err)
	}
	if got, want := plainly(t, evolved), plainly(t, from); !reflect.DeepEqual(got, want) {
		t.Errorf("evolved\n%v\nlived\n%v", got, want)
	}
}
