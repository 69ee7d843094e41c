package commands_test

import (
	"bytes"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/wording"
	"vividporch/formats/commands"
)

func TestAPastedListComesInHoweverItIsWritten(t *testing.T) {
	rows, err := commands.Read([]byte("!tides High at nine\n\n!lens - Forty times\nrules: Be kind\nseal\tOn the rocks\n!how => don't panic\n!bare\n/ban all\n"))
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, r := range rows {
		got = append(got, fmt.Sprintf("%d %s|%s|%s", r.N, strings.Join(r.Command.Names, " "), r.Command.Answer, r.Why))
	}
	want := []string{"1 !tides|High at nine|", "3 !lens|Forty times|", "4 rules|Be kind|", "5 seal|On the rocks|", "6 !how|don''t panic|", "7 ||has no answer: write the name, a blank and the answer"}
	if !reflect.DeepEqual(got[:6], want) || !strings.Contains(got[6], "platforms keep for themselves") {
		t.Errorf("%q", got)
	}
}

func TestBlanksOfAnotherAssistantAreShownWithWhatTheyMightBeAndNeverSaidRaw(t *testing.T) {
	for answer, want := range map[string]struct {
		becomes string
		off     bool
	}{
		"Hi $(user)!":              {"Hi {name}!", false},
		"Hi ${sender}, {1}":        {"Hi {name}, {hasFirst, select, yes {{first}} other {}}", false},
		"%user% asked {{count}}":   {"{name} asked {times}", false},
		"$target waves":            {"{hasMeant, select, yes {{meant}} other {}} waves", false},
		"{fetched x}":              {"'{'fetched x'}'", true},
		"$(weather Lisbon) today":  {"$(weather Lisbon) today", true},
		"It's {user}'s turn":       {"It''s {name}''s turn", false},
		"costs 5$ or <3":           {"costs 5$ or <3", false},
		"a } brace and { another":  {"a '}' brace and '{' another", false},
		"a <user> and a [smile]":   {"a {name} and a [smile]", false},
		"plain, 100% sure of it %": {"plain, 100% sure of it %", false},
	} {
		t.Run(answer, func(t *testing.T) {
			rows, err := commands.Read([]byte("!x " + answer))
			if err != nil {
				t.Fatal(err)
			}
			c := rows[0].Command
			if c.Answer != want.becomes || c.Off != want.off {
				t.Errorf("%q, off %v, %+v", c.Answer, c.Off, rows[0].Blanks)
			}
			w, err := wording.Parse(c.Answer)
			if err != nil {
				t.Fatal(err)
			}
			if said := w.Render(wording.Args{"name": wording.Name("mossy_mare"), "times": wording.Num(3)}); strings.Contains(said, "''") {
				t.Errorf("it would say %q", said)
			}
		})
	}
}

func TestWhatIsWrittenIsReadAgainAsItWas(t *testing.T) {
	list := []commands.Command{
		{Names: []string{"tides", "?ebb"}, Words: []string{"low tide", "when is it low"}, Answer: "High at {upTime}, {name}; “so”", Who: "vip", Rest: 30, Person: 2.5, Group: "Tides", Tells: "When the tide turns"},
		{Names: []string{"calc"}, Answer: "=1+1", Off: true},
		{Names: []string{"quote"}, Answer: "'tis {hasRest, select, yes {{rest}} other {nothing}}, \"said\"\nso"},
		{Names: []string{"said"}, Answer: "By timers alone", Who: "nobody"},
		{Names: []string{"many"}, Answer: "One", More: []string{"=two, \"or\" {name}", "three"}},
	}
	for name, write := range map[string]func(*bytes.Buffer) error{"CSV": func(b *bytes.Buffer) error { return commands.CSV(b, list) }, "JSON": func(b *bytes.Buffer) error { return commands.JSON(b, list) }} {
		t.Run(name, func(t *testing.T) {
			var b bytes.Buffer
			if err := write(&b); err != nil {
				t.Fatal(err)
			}
			rows, err := commands.Read(b.Bytes())
			if err != nil {
				t.Fatal(err)
			}
			for i, r := range rows {
				if r.Why != "" || !reflect.DeepEqual(r.Command, list[i]) {
					t.Errorf("%+v\nwas %+v: %s", r.Command, list[i], r.Why)
				}
				c := r.Command.Courtesy()
				if again, ok := commands.Of(&c); !ok || !reflect.DeepEqual(again, list[i]) {
					t.Errorf("as a courtesy it is %+v", again)
				}
			}
		})
	}
	if _, ok := commands.Of(&courtesy.Courtesy{When: "arrival"}); ok {
		t.Error("a greeting is no command")
	}
}

func TestEachRowThatCannotBeTakenSaysWhyAndTheOthersComeIn(t *testing.T) {
	rows, err := commands.Read([]byte("command;response;cooldown;permission\n!a;yes;5;everyone\n!b;;5;everyone\n;no name;5;\n!c;x;soon;\n!d;x;5;admiral\n!e;x;999999;moderators\n!f;x;5;Moderators\n"))
	if err != nil {
		t.Fatal(err)
	}
	for i, why := range []string{"", "has no answer", "has no name", "is no number of seconds", "says nobody who may ask", "longer than a day", ""} {
		if got := rows[i].Why; (why == "") != (got == "") || !strings.Contains(got, why) {
			t.Errorf("row %d: %q, want %q", rows[i].N, got, why)
		}
	}
	for _, raw := range []string{"", "  \n ", "[]", "{", "names,answer\n", "\xff\xfe!"} {
		if _, err := commands.Read([]byte(raw)); err == nil {
			t.Errorf("%q is taken", raw)
		}
	}
}

func FuzzAnyFileIsReadOrRefused(f *testing.F) {
	f.Add([]byte("!a $(user) {x} 'y'"))
	f.Add([]byte("names,answer\na,\"b\"\n"))
	f.Add([]byte(`[{"names":["a"],"answer":"{name}"}]`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		rows, err := commands.Read(raw)
		if err != nil {
			return
		}
		for _, r := range rows {
			if r.Why != "" {
				continue
			}
			if _, err := wording.Parse(r.Command.Answer); err != nil {
				t.Errorf("%q became %q, which is no wording: %v", raw, r.Command.Answer, err)
			}
		}
	})
}
