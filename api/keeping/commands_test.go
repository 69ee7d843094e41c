package keeping_test

import (
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"

	"vividporch/core/who"
	"vividporch/porchtest"
	"vividporch/spec"
)

func get(t *testing.T, b *porchtest.Boat, client *http.Client, path string) (int, http.Header, string) {
	t.Helper()
	res, err := client.Get(b.Server.URL + path)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, res.Header, string(raw)
}

func answers(b *porchtest.Boat, text string) func() bool {
	return func() bool { return slices.Contains(b.Said("quayside"), text) }
}

func TestThreeHundredCommandsComeInWithTheReasonForEachThatCannotAndAreTakenBackAsOne(t *testing.T) {
	b := house(t)
	var list strings.Builder
	list.WriteString("names,answer,rest seconds\n")
	for i := range 260 {
		fmt.Fprintf(&list, "pool%d,Pool %d is by the jetty,\n", i, i)
	}
	for i := range 40 {
		fmt.Fprintf(&list, "POOL%d,another,\n", i)
	}
	var looked spec.CommandsLooked
	if s := b.Do("POST", "/api/commands/look", spec.CommandsFile{Text: list.String()}, &looked); s != 200 || len(looked.Rows) != 300 {
		t.Fatalf("%d, %d rows", s, len(looked.Rows))
	}
	refused := 0
	for _, r := range looked.Rows {
		if r.Becomes == spec.CommandRowBecomesRefused {
			refused++
			if !strings.Contains(r.Why, "before this already") {
				t.Errorf("row %d: %q", r.Row, r.Why)
			}
		}
	}
	before := len(settings(b).Courtesy)
	var taken spec.CommandsTaken
	if s := b.Do("POST", "/api/commands/take", spec.CommandsFile{Text: list.String(), Without: []int{2}}, &taken); s != 200 || taken.Taken != 259 || taken.Refused != 40 || refused != 40 {
		t.Fatalf("%d %+v, %d refused at the look", s, taken, refused)
	}
	chat(b, "61", "brine_witch", "!pool259")
	b.Until("one of them answers", answers(b, "Pool 259 is by the jetty"))
	chat(b, "61", "brine_witch", "!pool0")
	if s := b.Do("POST", "/api/settings/undo", map[string]any{"version": taken.Version}, nil); s != 200 || len(settings(b).Courtesy) != before {
		t.Errorf("%d: %d courtesies, %d before", s, len(settings(b).Courtesy), before)
	}
	if slices.Contains(b.Said("quayside"), "Pool 0 is by the jetty") {
		t.Error("a row that was left out came in")
	}
}

func TestCommandsThatAreGivenAwayComeBackAsTheyWere(t *testing.T) {
	b := house(t)
	b.Do("POST", "/api/commands/take", spec.CommandsFile{Text: "depth  Three metres, $(user)\nmoths  $(weather here) tonight"}, nil)
	chat(b, "62", "gull_and_ladder", "!moths")
	chat(b, "62", "gull_and_ladder", "!depth")
	b.Until("the other's blank is ours", answers(b, "Three metres, gull_and_ladder"))
	for _, format := range []string{"csv", "json"} {
		t.Run(format, func(t *testing.T) {
			status, head, file := get(t, b, b.Client, "/api/commands?format="+format)
			if status != 200 || !strings.Contains(head.Get("Content-Disposition"), "commands."+format) {
				t.Fatalf("%d %v", status, head)
			}
			var looked spec.CommandsLooked
			b.Do("POST", "/api/commands/look", spec.CommandsFile{Text: file}, &looked)
			if len(looked.Rows) < 2 {
				t.Fatalf("%s", file)
			}
			for _, r := range looked.Rows {
				if r.Becomes != spec.CommandRowBecomesSame {
					t.Errorf("%s is %s: %s", r.Name, r.Becomes, r.Why)
				}
			}
		})
	}
	for _, said := range b.Said("quayside") {
		if strings.Contains(said, "weather") {
			t.Errorf("said %q", said)
		}
	}
	for _, text := range []string{"", "just_a_word", "[{]"} {
		if s := b.Do("POST", "/api/commands/take", spec.CommandsFile{Text: text}, nil); s == 200 && text != "just_a_word" {
			t.Errorf("%q is taken", text)
		}
	}
}

func TestWhatViewersCanAskIsShownToWhoeverComes(t *testing.T) {
	b := house(t)
	b.Do("POST", "/api/commands/take", spec.CommandsFile{Text: `[{"names":["depth"],"answer":"Three metres","group":"The pool","tells":"How deep it is <b>"},{"names":["hidden"],"answer":"x","who":"nobody"},{"names":["gone"],"answer":"x","off":true}]`}, nil)
	at := func(n float64) *float64 { return &n }
	list := settings(b).Courtesy
	for i := range list {
		if list[i].ID == "thank-tip" {
			tip := list[i]
			tip.ID, tip.Tells = "tip-red", "the lamp turns red"
			tip.Measure = measure(at(5), "EUR")
			list = append(list, tip)
			break
		}
	}
	if s, body := section(b, "courtesies", list); s != 200 {
		t.Fatalf("%d %v", s, body)
	}
	for _, path := range []string{"/asks", "/asks/tidepool_hours", "/asks/TIDEPOOL_HOURS"} {
		status, head, page := get(t, b, http.DefaultClient, path)
		if status != 200 || !strings.Contains(head.Get("Content-Type"), "text/html") || !strings.HasPrefix(head.Get("Content-Security-Policy"), "default-src 'none'; style-src") {
			t.Fatalf("%s: %d %v", path, status, head)
		}
		for _, want := range []string{"!depth", "How deep it is &lt;b&gt;", "The pool", "!creature", "5 EUR", "the lamp turns red", "About you"} {
			if !strings.Contains(page, want) {
				t.Errorf("%s does not hold %q", path, want)
			}
		}
		for _, not := range []string{"hidden", "!gone", "<script", "src=", "href="} {
			if strings.Contains(page, not) {
				t.Errorf("%s holds %q", path, not)
			}
		}
	}
	if status, _, _ := get(t, b, http.DefaultClient, "/asks/another_channel"); status != 404 {
		t.Errorf("%d", status)
	}
	chat(b, "63", "pool_pike", "!depth")
	b.Until("it answers", answers(b, "Three metres"))
	var list2 spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &list2)
	at2 := slices.IndexFunc(list2.Courtesies, func(c spec.CourtesyView) bool { return c.ID == "depth" })
	if at2 < 0 || list2.Courtesies[at2].Asked.Tonight+int(list2.Courtesies[at2].Asked.Times) == 0 {
		t.Fatalf("it was not counted: %+v", list2.Courtesies[max(0, at2)].Asked)
	}
	var d spec.Deed
	if s := b.Do("PUT", "/api/courtesies/depth/times", spec.Times{Times: 7}, &d); s != 200 || !d.Done {
		t.Errorf("%d %+v", s, d)
	}
	if s := b.Do("PUT", "/api/courtesies/nowhere/times", spec.Times{Times: 7}, nil); s != 404 {
		t.Errorf("%d", s)
	}
	var held spec.WordsHeld
	b.Do("POST", "/api/courtesies/words", spec.Words{Asks: []string{"!DEPTH", "/ban", "free"}}, &held)
	if len(held.Clashes) != 2 || held.Clashes[0].At != "asks.1" || held.Clashes[1].At != "asks.0" || !slices.Equal(held.Clashes[1].With, []string{"depth"}) {
		t.Errorf("%+v", held.Clashes)
	}
}

func measure(atLeast *float64, currency string) *who.Measure {
	return &who.Measure{AtLeast: atLeast, Currency: currency}
}
