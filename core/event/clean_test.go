package event_test

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"vividporch/core/event"
	"vividporch/core/happening"
)

func TestWhatNoLogCouldKeepIsTakenOutOfAnEvent(t *testing.T) {
	ev, err := happening.Kinds.Parse([]byte(cloud("porch.support.gifted", `{"person":{"platform":"quayside","id":"8841","name":"Li\u0000mpet","login":"li\u0000m"},"count":2,"tier":"oar\u0000","to":[{"platform":"quayside","id":"2","name":"Bo\u0000"}]}`)))
	if err != nil {
		t.Fatal(err)
	}
	ev.Clean()
	g := ev.Data.(*happening.Gifted)
	if g.Person.Name != "Limpet" || g.Person.Login != "lim" || g.Tier != "oar" || g.To[0].Name != "Bo" {
		t.Errorf("%+v", g)
	}
	if raw, _ := ev.DataJSON(); strings.Contains(string(raw), `\u0000`) || !json.Valid(raw) {
		t.Errorf("%s", raw)
	}
	other := event.Event{ID: "a\x00b", Data: &happening.Other{Name: "x\x00", Fields: map[string]any{"k\x00": "v\x00", "n": 2.5, "ok": true}}}
	other.Clean()
	o := other.Data.(*happening.Other)
	if other.ID != "ab" || o.Name != "x" || o.Fields["k"] != "v" || o.Fields["n"] != 2.5 || len(o.Fields) != 3 {
		t.Errorf("%q %+v", other.ID, o)
	}
	line := event.Event{Data: &happening.ChatSaid{Text: "caf\xe9 \x00 and on"}}
	line.Clean()
	if s := line.Data.(*happening.ChatSaid).Text; s != "caf\uFFFD  and on" || !utf8.ValidString(s) {
		t.Errorf("%q", s)
	}
	edit := "Le\x00na"
	by := event.Event{Data: &event.BookEdited{Persons: []int64{1}, Edit: event.Edit{Set: event.Hand{SayAs: &edit, Tags: []string{"t\x00ea"}}}}}
	by.Clean()
	if s := by.Data.(*event.BookEdited).Edit.Set; *s.SayAs != "Lena" || s.Tags[0] != "tea" {
		t.Errorf("%q %q", *s.SayAs, s.Tags)
	}
}

func TestANameBeyondAllMeasureIsCutBetweenCharacters(t *testing.T) {
	said := &happening.ChatSaid{Text: "hi"}
	said.Person = event.Person{Platform: "quayside", ID: "1", Name: strings.Repeat("🐚", 1000)}
	ev := event.Event{Data: said}
	ev.Clean()
	long := &happening.ChatSaid{Text: "hi"}
	long.Person = event.Person{Platform: "quayside", ID: strings.Repeat("9", 5000) + "a"}
	other := &happening.ChatSaid{Text: "hi"}
	other.Person = event.Person{Platform: "quayside", ID: strings.Repeat("9", 5000) + "b"}
	for _, d := range []*happening.ChatSaid{long, other} {
		e := event.Event{ID: d.Person.ID, Data: d}
		e.Clean()
		again := e
		if again.Clean(); len(e.ID) > 200 || len(d.Person.ID) > 200 || again.ID != e.ID {
			t.Errorf("%d and %d bytes", len(e.ID), len(d.Person.ID))
		}
	}
	if long.Person.Key() == other.Person.Key() {
		t.Error("two accounts became one")
	}
	if n := said.Person.Name; len(n) > event.NameMost || len(n) < event.NameMost-4 || !utf8.ValidString(n) {
		t.Errorf("%d bytes", len(n))
	}
}

func TestCleaningJSONLeavesEveryOtherEscapeAsItIs(t *testing.T) {
	for raw, want := range map[string]string{
		`{"a":"b"}`:                     `{"a":"b"}`,
		`"\u0000"`:                      `""`,
		`"a\u0000\u0000b"`:              `"ab"`,
		`"\\u0000"`:                     `"\\u0000"`,
		`"\\\u0000 \" \u00001 \n"`:      `"\\ \" 1 \n"`,
		`"\u0001 \u00000 \ud83d\ude00"`: `"\u0001 0 \ud83d\ude00"`,
	} {
		if got := string(event.CleanJSON([]byte(raw))); got != want || !json.Valid([]byte(got)) {
			t.Errorf("%s gave %s, want %s", raw, got, want)
		}
	}
}

func TestHalvesOfCharactersAndForeignBytesAreMendedInWhatIsKept(t *testing.T) {
	for in, want := range map[string]string{
		`"Caf` + "\xe9" + `"`:          `"Caf�"`,
		`"\ud83d\ude00"`:               `"\ud83d\ude00"`,
		`"a\ud83d"`:                    `"a\ufffd"`,
		`"\ude00b"`:                    `"\ufffdb"`,
		`"\ud83d\u0000\ude00"`:         `"\ufffd\ufffd"`,
		`"\\ud83d"`:                    `"\\ud83d"`,
		`{"\u0000k":["\\\u0000","x"]}`: `{"k":["\\","x"]}`,
		`{"n":1e999}`:                  `{"n":1e999}`,
	} {
		if got := string(event.CleanJSON([]byte(in))); got != want {
			t.Errorf("%s becomes %s, not %s", in, got, want)
		}
	}
}

func TestAnIdOfNothingIsRefusedBeforeItIsCleanedToNothing(t *testing.T) {
	_, err := happening.Kinds.Parse([]byte(cloud("porch.person.followed", `{"person":{"platform":"quayside","id":"\u0000"}}`)))
	if err == nil || !strings.Contains(err.Error(), "data.person.id") {
		t.Errorf("%v", err)
	}
	if _, err := happening.Kinds.Parse([]byte(cloud("porch.person.followed", `{"person":{"platform":"quayside","id":"1"},"x":`+strings.Repeat("[", 5000)+strings.Repeat("]", 5000)+`}`))); err == nil {
		t.Error("what no database can take apart is taken")
	}
}

func TestNumbersBeyondAllMeasureAreBoundedAndTheLogIsReadTheSame(t *testing.T) {
	ev, err := happening.Kinds.Parse([]byte(cloud("porch.support.gifted", `{"person":{"platform":"quayside","id":"8841"},"count":9223372036854775807}`)))
	if err != nil {
		t.Fatal(err)
	}
	ev.Clean()
	if n := ev.Data.(*happening.Gifted).Count; n != event.MostNumber {
		t.Errorf("%d gifts", n)
	}
	raw, _ := ev.DataJSON()
	if n := happening.Kinds.Restore(ev.Type, raw).(*happening.Gifted).Count; n != event.MostNumber {
		t.Errorf("%d gifts after a restart", n)
	}
}

func TestWhatIsLoggedIsNeverHeldAgainstTheContractAgain(t *testing.T) {
	if d, ok := happening.Kinds.Restore("porch.lookup.answered", []byte(`{"ask":"","category":"`+strings.Repeat("x", 600)+`"}`)).(*event.LookupAnswered); !ok || len(d.Category) != 600 {
		t.Errorf("%+v", d)
	}
	for kind, raw := range map[string]string{"porch.of.tomorrow": `{}`, "porch.raid.came": `{"viewers":"many"}`} {
		if _, ok := happening.Kinds.Restore(kind, []byte(raw)).(*event.Lost); !ok {
			t.Errorf("%s is read as something", kind)
		}
	}
}

func TestBytesThatAreNoDocumentStayAsTheyAre(t *testing.T) {
	secret := []byte{0, 0xff, 0xc3, '\\', 'u', '0', '0', '0', '0', 200}
	e := event.Event{ID: "s", Data: &event.DrawUnsealed{Draw: "d", Secret: slices.Clone(secret)}}
	e.Clean()
	if got := e.Data.(*event.DrawUnsealed).Secret; !bytes.Equal(got, secret) {
		t.Errorf("%v became %v", secret, got)
	}
}
