package api_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/spec"
)

func get(t *testing.T, c *http.Client, url string) string {
	t.Helper()
	res, err := c.Get(url)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil || res.StatusCode != 200 {
		t.Fatalf("%s: %d %s %v", url, res.StatusCode, body, err)
	}
	return string(body)
}

func TestACrewIsMadePastedSentOutAndTakenAwayAgain(t *testing.T) {
	b, lena := known(t)
	var crew spec.Crew
	if s := b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Salt & Lantern Club"}, &crew); s != 200 || crew.ID != "salt-lantern-club" || crew.Initials == "" || crew.Emblem == "" {
		t.Fatalf("%d %+v", s, crew)
	}
	paste := spec.PastedList{Platform: "quayside", Text: "@Limpet_Lena, limpet_lena\nhttps://fernlight.example/whelk_parade; tidepool_hours"}
	var got spec.Understood
	if s := b.Do("POST", "/api/book/crews/salt-lantern-club/list", paste, &got); s != 200 || got.Known != 1 || got.Fresh != 1 || got.Left != 2 {
		t.Fatalf("%d %+v", s, got)
	}
	var crews spec.Crews
	if b.Do("GET", "/api/book/crews", nil, &crews); crews.Crews[0].People != 0 {
		t.Error("reading a list put somebody in")
	}
	paste.Take = true
	b.Do("POST", "/api/book/crews/salt-lantern-club/list", paste, &got)
	b.Do("GET", "/api/book/crews", nil, &crews)
	if crews.Crews[0].People != 2 || len(crews.Combinations) != 1 || crews.Combinations[0].Count != 2 {
		t.Errorf("%+v", crews)
	}
	out := get(t, b.Client, b.Server.URL+"/api/book/crews/salt-lantern-club/list")
	if !strings.Contains(out, "limpet_lena") || !strings.Contains(out, "whelk_parade") || strings.Contains(out, "tidepool_hours") {
		t.Errorf("the list goes out as %q", out)
	}
	var gone spec.BookEdited
	if s := b.Do("DELETE", "/api/book/crews/salt-lantern-club", nil, &gone); s != 200 {
		t.Fatal(s)
	}
	if b.Do("GET", "/api/book/crews", nil, &crews); len(crews.Crews) != 0 {
		t.Errorf("%+v", crews.Crews)
	}
	if s := b.Do("PUT", "/api/book/crews", crew, nil); s != 200 {
		t.Fatal(s)
	}
	if s := b.Do("POST", "/api/book/undo", spec.BookUndo{Seq: gone.Seq}, nil); s != 200 {
		t.Fatal(s)
	}
	var sheet spec.BookSheet
	b.Do("GET", fmt.Sprintf("/api/book/people/%d", lena), nil, &sheet)
	if b.Do("GET", "/api/book/crews", nil, &crews); len(crews.Crews) != 1 || crews.Crews[0].People != 2 || len(sheet.Row.Crews) != 1 {
		t.Errorf("taken back: %+v, hers %v", crews.Crews, sheet.Row.Crews)
	}
}

func TestTwoMembersChangeACrewAndNeitherTakesTheOthersBack(t *testing.T) {
	b, _ := known(t)
	var made, crew spec.Crew
	b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Quiet Moths"}, &made)
	if s := b.Do("PATCH", "/api/book/crews/quiet-moths", spec.CrewChange{Name: " Quietest Moths "}, nil); s != 200 {
		t.Fatal(s)
	}
	if s := b.Do("PATCH", "/api/book/crews/quiet-moths", spec.CrewChange{Emblem: event.Emblems[3]}, &crew); s != 200 || crew.Name != "Quietest Moths" || crew.Emblem != event.Emblems[3] || crew.Initials != made.Initials {
		t.Errorf("%d %+v", s, crew)
	}
	var p spec.Problem
	if s := b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Quiet moths"}, &p); s != 409 || !strings.Contains(p.Title, "Quietest Moths") {
		t.Errorf("a second one of the name: %d %+v", s, p)
	}
	b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Lantern Row"}, nil)
	for _, name := range []string{"quietest moths", "Quiet Moths"} { // as it is called, and as it was when it was made
		if s := b.Do("PATCH", "/api/book/crews/lantern-row", spec.CrewChange{Name: name}, &p); s != 409 || !strings.Contains(p.Title, "Quietest Moths") {
			t.Errorf("another one called %s: %d %+v", name, s, p)
		}
	}
	if s := b.Do("PATCH", "/api/book/crews/lantern-row", spec.CrewChange{Name: "Lantern row"}, &crew); s != 200 || crew.Name != "Lantern row" {
		t.Errorf("it cannot be spelled otherwise: %d %+v", s, crew)
	}
	b.Do("DELETE", "/api/book/crews/lantern-row", nil, nil)
	b.Do("DELETE", "/api/book/crews/quiet-moths", nil, nil)
	if s := b.Do("PATCH", "/api/book/crews/quiet-moths", spec.CrewChange{Name: "Loud Moths"}, nil); s != 404 {
		t.Errorf("a crew that is no more was changed: %d", s)
	}
	var crews spec.Crews
	if b.Do("GET", "/api/book/crews", nil, &crews); len(crews.Crews) != 0 {
		t.Errorf("it came back: %+v", crews.Crews)
	}
}

func TestOfTwoWhoMakeACrewOfOneNameAtOnceTheSecondIsTold(t *testing.T) {
	b, _ := known(t)
	answers := make(chan int, 8)
	for i := range cap(answers) {
		go func() {
			answers <- b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Quiet Moths", Initials: fmt.Sprint(i)}, nil)
		}()
	}
	made := 0
	for range cap(answers) {
		if <-answers == 200 {
			made++
		}
	}
	if made != 1 {
		t.Errorf("%d were told that they made it", made)
	}
}

func TestTheBookGoesOutInEveryFormatAndComesInUnchanged(t *testing.T) {
	b, lena := known(t)
	b.Do("POST", "/api/book/edit", spec.BookEdit{Persons: []int64{lena}, Set: map[string]any{"birthday": "14 May", "note": "=2+3 brings \"tea\""}, AddTags: []string{"tea"}}, nil)
	if !b.Porch().Live.On { // also while a stream is on
		b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
		says(b, "8841", "limpet_lena", "and tonight again")
		b.Until("she is here", func() bool { return len(b.Porch().Guests) > 0 })
	}
	for format, holds := range map[string]string{"csv": "'=2+3", "vcf": "BDAY:--0514", "jsonl": `"quayside"`} {
		file := get(t, b.Client, b.Server.URL+"/api/book/export?format="+format)
		if !strings.Contains(file, "limpet_lena") || !strings.Contains(file, holds) {
			t.Errorf("%s lacks %s:\n%s", format, holds, file)
		}
		req, err := http.NewRequest("POST", b.Server.URL+"/api/book/imports?format="+format, strings.NewReader(file))
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("X-Porch-Token", b.Token)
		res, err := b.Client.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		var im spec.Import
		err = json.NewDecoder(res.Body).Decode(&im)
		res.Body.Close()
		if err != nil || res.StatusCode != 200 || im.New != 0 || im.Changed != 0 || im.Refused != 0 || im.Unchanged != 1 {
			t.Errorf("%s comes in with changes: %d %+v %v\n%s", format, res.StatusCode, im, err, file)
		}
	}
	var list spec.Imports
	if s := b.Do("GET", "/api/book/imports", nil, &list); s != 200 || len(list.Imports) != 3 {
		t.Errorf("%d, %d imports", s, len(list.Imports))
	}
}

func TestEverythingKeptIsOneFileAndForgettingLeavesNothingOfIt(t *testing.T) {
	b, lena := known(t)
	b.Do("POST", "/api/book/edit", spec.BookEdit{Persons: []int64{lena}, Set: map[string]any{"note": "brings tea"}}, nil)
	kept := get(t, b.Client, fmt.Sprintf("%s/api/book/people/%d/kept", b.Server.URL, lena))
	for _, part := range []string{"limpet_lena", "brings tea", "hello"} {
		if !strings.Contains(kept, part) {
			t.Errorf("the file lacks %q", part)
		}
	}
	if s := b.Do("POST", fmt.Sprintf("/api/book/people/%d/forget", lena), nil, nil); s != 200 {
		t.Fatal(s)
	}
	b.Until("she is gone", func() bool { return b.Do("GET", fmt.Sprintf("/api/book/people/%d", lena), nil, nil) == 404 })
	var page spec.BookPage
	if b.Do("GET", "/api/book/people?text=limpet", nil, &page); len(page.Rows) != 0 {
		t.Errorf("found still: %+v", page.Rows)
	}
}
