package jsonl_test

import (
	"bytes"
	"io"
	"reflect"
	"strings"
	"testing"
	"time"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/rehearsal"
	"vividporch/formats/jsonl"
	"vividporch/formats/row"
)

func read(t *testing.T, file string) (*jsonl.Reader, []row.Row) {
	t.Helper()
	r, err := jsonl.NewReader(strings.NewReader(file), "quayside")
	if err != nil {
		t.Fatal(err)
	}
	var out []row.Row
	for {
		in, err := r.Next()
		if err == io.EOF {
			return r, out
		}
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, in)
	}
}

func TestAPeopleFileThatIsWrittenIsReadAsItWas(t *testing.T) {
	say := "Lena"
	followed := time.Date(2029, 2, 11, 18, 39, 0, 0, time.UTC)
	card := card.Card{Hand: event.Hand{SayAs: &say, Tags: []string{"tea", "<moths> & more"}},
		Accounts: []card.Account{{Person: event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena", Name: "Limpet Lena 🐚"}, Followed: &followed}}}
	var out bytes.Buffer
	w, err := jsonl.NewWriter(&out, rehearsal.Header{Zone: "Europe/Lisbon", Seed: "low water"})
	if err != nil {
		t.Fatal(err)
	}
	for range 2 {
		if err := w.Write(&card); err != nil {
			t.Fatal(err)
		}
	}
	r, list := read(t, out.String())
	if r.Header == nil || r.Header.Zone != "Europe/Lisbon" || len(list) != 2 {
		t.Fatalf("%+v, %d people", r.Header, len(list))
	}
	if !reflect.DeepEqual(list[1].Card, card) || list[1].N != 3 || list[1].Name != "Limpet Lena 🐚" || list[1].Why != "" {
		t.Errorf("%+v", list[1])
	}
}

func TestAFileWithoutAChannelsLineIsReadFromItsFirstPerson(t *testing.T) {
	r, list := read(t, `{"accounts":[{"login":"kelpwright"}]}`)
	if r.Header != nil || len(list) != 1 || list[0].N != 1 || list[0].Card.Accounts[0].Platform != "quayside" {
		t.Errorf("%+v %+v", r.Header, list)
	}
	if r, list := read(t, ""); r.Header != nil || len(list) != 0 {
		t.Errorf("an empty file: %+v %+v", r.Header, list)
	}
}

func TestALineThatCannotBeTakenIsNamedAndTheOthersAre(t *testing.T) {
	_, list := read(t, strings.Join([]string{
		`{"zone":"UTC","seed":"x","streams":[]}`,
		`{"accounts":[{"login":"kelpwright"}]}`,
		``,
		`{"accounts":`,
		`{"accounts":[]}`,
		`{"accounts":[{"login":"` + strings.Repeat("x", 2<<20) + `"}]}`,
		`{"accounts":[{"login":"mossy_mare"}]}`,
	}, "\n"))
	var rows []int
	for _, in := range list {
		rows = append(rows, in.N)
		if fine := in.N == 2 || in.N == 7; fine != (in.Why == "") {
			t.Errorf("row %d: %q", in.N, in.Why)
		}
	}
	if !reflect.DeepEqual(rows, []int{2, 4, 5, 6, 7}) {
		t.Errorf("rows %v", rows)
	}
	if _, err := jsonl.NewReader(strings.NewReader(`{"zone": 7}`), ""); err == nil {
		t.Error("a channel's line of the wrong shape was taken")
	}
}
