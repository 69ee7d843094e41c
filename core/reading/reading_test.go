package reading_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pointer"
	"vividporch/core/reading"
)

// tip is how The Tin tells of a coin.
const tip = `{"kind":"coin","no":"c-17","from":{"id":88,"called":"Limpet Lena"},"coin":{"pence":1250,"of":"gbp"},"says":"for the anemone","at":1905098400}`

func tips() reading.Reading {
	return reading.Reading{Name: "coins", Doors: []string{"tin"}, Makes: "porch.support.tipped", If: []reading.Condition{{At: "/kind", How: reading.Is, Is: "coin"}},
		Take: map[string]reading.Take{"person.id": {At: "/from/id"}, "person.name": {At: "/from/called"}, "amount": {At: "/coin/pence", Cents: true}, "currency": {At: "/coin/of"}, "message": {At: "/says"}, "time": {At: "/at"}}}
}

func read(t *testing.T, body string) any {
	t.Helper()
	v, err := pointer.Read([]byte(body))
	if err != nil {
		t.Fatal(err)
	}
	return v
}

func TestACoinInTheTinIsATip(t *testing.T) {
	got := reading.Understand([]reading.Reading{tips()}, "tin", "tin", read(t, tip))
	if len(got) != 1 || got[0].Fault != nil {
		t.Fatalf("%+v", got)
	}
	d := got[0].Data.(*happening.Tipped)
	if d.Person.Key() != "tin:88" || d.Person.Name != "Limpet Lena" || d.Person.Nick || d.Amount != "12.50" || d.Currency != "GBP" || d.Message != "for the anemone" || !got[0].Time.Equal(time.Unix(1905098400, 0)) {
		t.Errorf("%+v at %s", d, got[0].Time)
	}
	if other := reading.Understand([]reading.Reading{tips()}, "other", "tin", read(t, tip)); len(other) != 0 {
		t.Errorf("a reading reads at its own doors alone: %+v", other)
	}
}

func TestWhoGoesByANameAloneIsVouchedForByNobody(t *testing.T) {
	r := tips()
	delete(r.Take, "person.id")
	got := r.Read("tin", read(t, tip))
	if d, ok := got.Data.(*happening.Tipped); !ok || d.Person.ID != "@limpet lena" || !d.Person.Nick {
		t.Errorf("%+v", got)
	}
	delete(r.Take, "person.name")
	if got = r.Read("tin", read(t, tip)); got.Fault == nil || !strings.HasPrefix(got.Fault.Field, "data.person") {
		t.Errorf("of nobody: %+v", got)
	}
	r.Take["person.name"] = reading.Take{At: "/from/nobody", Is: "somebody"}
	if got = r.Read("tin", read(t, tip)); got.Fault != nil || got.Data.(*happening.Tipped).Person.Name != "somebody" {
		t.Errorf("with a word for nobody: %+v", got)
	}
}

func TestNobodyGetsARoleAndNoReadingTellsOfChatOrStreams(t *testing.T) {
	for _, kind := range reading.Makes() {
		if strings.HasPrefix(kind, "porch.chat.") || strings.HasPrefix(kind, "porch.stream.") || strings.HasSuffix(kind, "banned") || strings.HasSuffix(kind, "timedout") || event.IsOwn(kind) {
			t.Errorf("%s can be made", kind)
		}
		for _, f := range reading.Fields(kind) {
			if strings.Contains(f.Name, "role") || strings.Contains(f.Name, "platform") {
				t.Errorf("%s takes %s", kind, f.Name)
			}
		}
	}
	if !slices.Contains(reading.Makes(), "porch.support.tipped") || !slices.Contains(reading.Makes(), happening.OtherType) {
		t.Errorf("made are %v", reading.Makes())
	}
	r := tips()
	r.Makes, r.Take["person.roles"] = "porch.chat.said", reading.Take{Is: "streamer"}
	var at []string
	r.Check(func(field, _, _ string) { at = append(at, field) })
	if !slices.Contains(at, "makes") || !slices.Contains(at, "take.person.roles") {
		t.Errorf("faults at %v", at)
	}
}

func TestValuesAreReadAsTheyWereMeantOrSaidToBeWrong(t *testing.T) {
	for _, c := range []struct{ field, take, want string }{ // want: the field, or of a fault what it says
		{"amount", `5`, "5"}, {"amount", `"5,00"`, "5.00"}, {"amount", `5.0000`, "5.0000"}, {"amount", `1e400`, "must be an amount"}, {"amount", `"£5"`, "must be an amount"}, {"amount", `-5`, "must be an amount"},
		{"amount", `[5]`, "a list or an object"}, {"amount", `true`, "must be an amount"}, {"amount", `99999999999999`, "is no amount"},
		{"cents", `5`, "0.05"}, {"cents", `0`, "0.00"}, {"cents", `"1250"`, "12.50"}, {"cents", `12.5`, "whole number"}, {"cents", `12.00`, "0.12"},
		{"count", `3`, "3"}, {"count", `3.0`, "3"}, {"count", `"3"`, "3"}, {"count", `3.5`, "whole number"}, {"count", `9223372036854775808`, "whole number"}, {"count", `{}`, "a list or an object"}, {"count", `0`, "1 or more"},
		{"time", `"2031-05-14T19:02:00Z"`, "2031-05-14T19:02:00Z"}, {"time", `1936551720`, "2031-05-14T19:02:00Z"}, {"time", `1936551720000`, "2031-05-14T19:02:00Z"}, {"time", `"yesterday"`, "must be a time"}, {"time", `1e300`, "must be a time"},
		{"fields.n", `12345678901234567890`, `"12345678901234567890"`}, {"fields.n", `12.5`, `12.5`}, {"fields.n", `false`, `false`}, {"fields.n", `"a\u0000b"`, `"ab"`},
	} {
		r := reading.Reading{Name: "r", Makes: "porch.support.tipped", Take: map[string]reading.Take{"person.id": {Is: "1"}, "amount": {Is: "1"}, "currency": {Is: "EUR"}}}
		switch c.field {
		case "cents":
			r.Take["amount"] = reading.Take{At: "/v", Cents: true}
		case "count":
			r.Makes, r.Take = "porch.support.gifted", map[string]reading.Take{"person.id": {Is: "1"}, "count": {At: "/v"}}
		case "fields.n":
			r.Makes, r.Take = happening.OtherType, map[string]reading.Take{"name": {Is: "tide.turned"}, "fields.n": {At: "/v"}}
		default:
			r.Take[c.field] = reading.Take{At: "/v"}
		}
		got := r.Read("tin", read(t, `{"v":`+c.take+`}`))
		is := ""
		switch d := got.Data.(type) {
		case nil:
			is = got.Fault.Error()
		case *happening.Tipped:
			if is = d.Amount; c.field == "time" {
				is = got.Time.Format(time.RFC3339)
			}
		case *happening.Gifted:
			is = fmt.Sprint(d.Count)
		case *happening.Other:
			raw, _ := json.Marshal(d.Fields["n"])
			is = string(raw)
		}
		if got.Fault == nil && is != c.want || got.Fault != nil && !strings.Contains(is, c.want) {
			t.Errorf("%s of %s: %s, want %s", c.field, c.take, is, c.want)
		}
	}
}

// random makes a message of a few keys, as deep as it may be.
func random(r *rand.Rand, deep int) any {
	switch n := r.IntN(9); {
	case deep == 0 || n < 4:
		return []any{nil, true, "coin", "raffle", "", json.Number("5"), json.Number("9223372036854775808"), json.Number("0.10")}[r.IntN(8)]
	case n < 7:
		out := map[string]any{}
		for range r.IntN(4) {
			out[[]string{"kind", "from", "a/b", "~", "", "0"}[r.IntN(6)]] = random(r, deep-1)
		}
		return out
	}
	var out []any
	for range r.IntN(3) {
		out = append(out, random(r, deep-1))
	}
	return out
}

func randomPointer(r *rand.Rand) string {
	at := ""
	for range r.IntN(4) {
		at = pointer.Step(at, []string{"kind", "from", "a/b", "~", "", "0", "1"}[r.IntN(7)])
	}
	return at
}

// Property: a message is understood by exactly the readings for its door whose conditions hold,
// each once and in order, and what is made of it is whole or has a fault with a field.
func TestAMessageIsUnderstoodByExactlyTheReadingsThatHold(t *testing.T) {
	for seed := range uint64(4000) {
		r := rand.New(rand.NewPCG(seed, 6))
		var list []reading.Reading
		for i := range r.IntN(6) {
			x := reading.Reading{Name: fmt.Sprint("r", i), Doors: [][]string{{"tin"}, {"other"}, nil, {"other", "tin"}}[r.IntN(4)], Makes: reading.Makes()[r.IntN(len(reading.Makes()))], Take: map[string]reading.Take{}}
			for range r.IntN(3) {
				x.If = append(x.If, reading.Condition{At: randomPointer(r), How: reading.Hows[r.IntN(len(reading.Hows))], Is: []string{"coin", "5", "", "true"}[r.IntN(4)]})
			}
			for _, f := range reading.Fields(x.Makes) {
				if r.IntN(3) > 0 {
					x.Take[f.Name] = reading.Take{At: randomPointer(r), Is: []string{"", "5"}[r.IntN(2)], Cents: f.Kind == reading.Amount && r.IntN(2) == 0}
				}
			}
			x.Check(func(at, what, remedy string) { t.Fatalf("seed %d: %s %s", seed, at, what) })
			list = append(list, x)
		}
		message := random(r, 4)
		raw, _ := json.Marshal(message)
		message, err := pointer.Read(raw)
		if err != nil {
			t.Fatal(err)
		}
		var want, got []string
		for _, x := range list {
			all := slices.Contains(x.Doors, "tin")
			for _, c := range x.If {
				all = all && holds(c, message)
			}
			if all {
				want = append(want, x.Name)
			}
		}
		for _, u := range reading.Understand(list, "tin", "tin", message) {
			got = append(got, u.Reading)
			switch {
			case (u.Fault == nil) == (u.Data == nil) || u.Fault != nil && (u.Fault.Field == "" || u.Fault.Remedy == ""):
				t.Fatalf("seed %d: neither whole nor at fault: %+v", seed, u)
			case u.Data != nil && u.Data.Validate() != nil:
				t.Fatalf("seed %d: %s cannot stand: %v", seed, u.Data.Type(), u.Data.Validate())
			}
			if u.Data == nil {
				continue
			}
			ev := event.Event{Data: u.Data}
			if who := ev.Who(); who != nil && (who.Platform != "tin" || len(who.Roles) > 0) {
				t.Fatalf("seed %d: %+v", seed, who)
			}
		}
		if !slices.Equal(got, want) {
			t.Fatalf("seed %d: understood by %v, want %v, of %s", seed, got, want, raw)
		}
	}
}

// holds says in other words than the package's own when a condition holds.
func holds(c reading.Condition, message any) bool {
	v, ok := pointer.Get(message, c.At)
	raw, _ := json.Marshal(v)
	text := strings.Trim(string(raw), `"`)
	isText := ok && !strings.HasPrefix(string(raw), "{") && !strings.HasPrefix(string(raw), "[") && string(raw) != "null"
	switch c.How {
	case reading.IsThere:
		return ok && string(raw) != "null"
	case reading.IsNotThere:
		return !ok || string(raw) == "null"
	case reading.Is:
		return isText && text == c.Is
	case reading.IsNot:
		return !(isText && text == c.Is)
	}
	return isText && strings.Contains(strings.ToLower(text), c.Is)
}

// FuzzAMessage: whatever is sent, reading it ends, and ends in a happening or a fault.
func FuzzAMessage(f *testing.F) {
	for _, body := range []string{tip, `{}`, `[[[[]]]]`, `{"kind":"coin","kind":"raffle"}`, `{"kind":"coin","coin":{"pence":1e400}}`, `"coin"`, `{"kind":"coin","from":{"id":"\ud800"}}`} {
		f.Add([]byte(body))
	}
	f.Fuzz(func(t *testing.T, body []byte) {
		message, err := pointer.Read(body)
		if err != nil {
			return
		}
		for _, u := range reading.Understand([]reading.Reading{tips()}, "tin", "tin", message) {
			if (u.Fault == nil) == (u.Data == nil) {
				t.Errorf("%+v", u)
			}
			if u.Data != nil {
				raw, err := json.Marshal(u.Data)
				if err != nil {
					t.Fatal(err)
				}
				if _, err := happening.Kinds.ParseData(u.Data.Type(), raw); err != nil {
					t.Errorf("%s cannot be read back: %v", raw, err)
				}
			}
		}
	})
}
