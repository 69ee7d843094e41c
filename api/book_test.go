package api_test

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

// known launches a house that has met somebody and returns their number.
func known(t *testing.T) (*porchtest.Boat, int64) {
	t.Helper()
	b := porchtest.Launch(t)
	b.SignIn()
	b.Street.Platforms["quayside"].Chat.Say(standin.Viewer{ID: "8841", Login: "limpet_lena", Name: "Limpet Lena"}, "hello")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	var a spec.BookAccount
	if s := b.Do("GET", "/api/book/accounts/quayside:8841", nil, &a); s != 200 {
		t.Fatal(s)
	}
	return b, a.Person
}

func TestBadInputToTheGuestBookNamesFieldAndRemedy(t *testing.T) {
	b, lena := known(t)
	edit := func(set map[string]any) spec.BookEdit { return spec.BookEdit{Persons: []int64{lena}, Set: set} }
	for _, c := range []struct {
		path   string
		in     any
		status int
		field  string
	}{
		{"/api/book/edit", edit(map[string]any{"birthday": "31 June"}), 422, "birthday"},
		{"/api/book/edit", edit(map[string]any{"zone": "the coast"}), 422, "zone"},
		{"/api/book/edit", edit(map[string]any{"note": strings.Repeat("n", 5000)}), 422, "note"},
		{"/api/book/edit", edit(map[string]any{"trusted": "perhaps"}), 422, "trusted"},
		{"/api/book/edit", edit(map[string]any{"shoeSize": "39"}), 422, "shoeSize"},
		{"/api/book/edit", spec.BookEdit{Persons: []int64{lena}, AddRoles: []string{"king"}}, 422, "roles"},
		{"/api/book/edit", spec.BookEdit{AddTags: []string{"tea"}}, 422, "persons"},
		{"/api/book/merge", spec.BookMerge{Kept: lena, Gone: lena}, 422, "gone"},
		{"/api/book/merge", spec.BookMerge{Kept: lena, Gone: 999}, 404, ""},
		{"/api/book/part", spec.BookPart{Record: lena}, 404, ""},
		{"/api/book/imports/77", spec.ImportAct{Act: "apply"}, 404, ""},
		{"/api/book/imports/77", map[string]string{"act": "burn"}, 422, "act"},
	} {
		var p spec.Problem
		if s := b.Do("POST", c.path, c.in, &p); s != c.status || p.Field != c.field || p.Title == "" || c.field != "" && p.Remedy == "" {
			t.Errorf("%s %v: %d %+v", c.path, c.in, s, p)
		}
	}
	var p spec.Problem
	for path, status := range map[string]int{"/api/book/people/999": 404, "/api/book/accounts/quayside:nobody": 404, "/api/book/export?format=odt": 422, "/api/book/people/999/kept": 404} {
		if s := b.Do("GET", path, nil, &p); s != status {
			t.Errorf("%s: %d", path, s)
		}
	}
	if s := b.Do("PUT", "/api/book/crews", spec.Crew{Name: " ", Emblem: "anchor"}, &p); s != 422 {
		t.Errorf("a crew without a name: %d", s)
	}
	req, _ := http.NewRequest("POST", b.Server.URL+"/api/book/imports?format=csv", strings.NewReader("colour,size\nred,7\n"))
	req.Header.Set("X-Porch-Token", b.Token)
	res, err := b.Client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if body, _ := io.ReadAll(res.Body); res.StatusCode != 422 || !strings.Contains(string(body), "first row names no column") {
		t.Errorf("%d %s", res.StatusCode, body)
	}
	if res, err := http.Get(b.Server.URL + "/kept/NOSUCHLINK"); err != nil || res.StatusCode != http.StatusGone {
		t.Errorf("a link nobody gave out: %v %v", res.StatusCode, err)
	}
}

func TestASheetTellsTheWholeStory(t *testing.T) {
	b, lena := known(t)
	var done spec.BookEdited
	if s := b.Do("POST", "/api/book/edit", spec.BookEdit{Persons: []int64{lena}, Set: map[string]any{"sayAs": "Lena", "birthday": "14 May", "trusted": true}, AddTags: []string{"tea"}}, &done); s != 200 || done.What == "" {
		t.Fatalf("%d %+v", s, done)
	}
	var sheet spec.BookSheet
	if s := b.Do("GET", fmt.Sprintf("/api/book/people/%d", lena), nil, &sheet); s != 200 || sheet.Hand.SayAs != "Lena" || sheet.Birthday != "14 May" || !sheet.Hand.Trusted || sheet.Row.Standing != "newcomer" || sheet.Why == "" {
		t.Errorf("%d %+v", s, sheet)
	}
	var story spec.Story
	if s := b.Do("GET", fmt.Sprintf("/api/book/people/%d/story", lena), nil, &story); s != 200 || len(story.Moments) == 0 || story.Moments[0].Kind != "changed" || story.Moments[0].Member != "Odalys Brine" {
		t.Errorf("%d %+v", s, story)
	}
	if s := b.Do("POST", "/api/book/undo", spec.BookUndo{Seq: done.Seq}, &done); s != 200 {
		t.Fatal(s)
	}
	var again spec.BookSheet
	if b.Do("GET", fmt.Sprintf("/api/book/people/%d", lena), nil, &again); again.Hand.SayAs != "" || again.Birthday != "" || len(again.Row.Tags) != 0 || again.Hand.Trusted {
		t.Errorf("taken back: %+v", again.Hand)
	}
	var page spec.BookPage
	if s := b.Do("GET", "/api/book/people?text=limpt", nil, &page); s != 200 || len(page.Rows) != 1 || page.Rows[0].Person != lena {
		t.Errorf("%d %+v", s, page)
	}
}
