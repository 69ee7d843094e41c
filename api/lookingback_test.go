package api_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/log"
)

// crowd is a channel without doors of chat that lives streams as fast as it can.
type crowd struct {
	*porchtest.Boat
	r *rand.Rand
	n int
}

func (c *crowd) happens(d event.Data) {
	c.T.Helper()
	c.n++
	ev := event.Event{Door: "quayside", Source: "evening", ID: fmt.Sprint("e", c.n), Type: d.Type(), Data: d}
	if said, ok := d.(*happening.ChatSaid); ok {
		said.MessageID = ev.ID
	}
	rs, err := c.House.Submit(context.Background(), []event.Event{ev})
	if err != nil || rs[0].Aside != "" {
		c.T.Fatal(err, rs)
	}
}

func (c *crowd) hand(d event.Data) {
	c.T.Helper()
	if _, err := c.House.Hand(context.Background(), d); err != nil {
		c.T.Fatal(err)
	}
}

func limpet(platform string, n int) event.Person {
	return event.Person{Platform: platform, ID: fmt.Sprint(n), Login: fmt.Sprintf("limpet%d", n)}
}

// stream is one, with so many things that happen, from people up to a number.
func (c *crowd) stream(title string, things, people int) {
	c.T.Helper()
	c.hand(&event.StreamDeclared{Act: "opened", Title: title, Member: "Odalys Brine"})
	for range things {
		p := limpet([]string{"quayside", "fernlight"}[c.r.IntN(2)], c.r.IntN(people))
		switch c.r.IntN(14) {
		case 0:
			d := &happening.PersonFollowed{}
			d.Person = p
			c.happens(d)
		case 1:
			d := &happening.Tipped{Amount: "3.50", Currency: "EUR"}
			d.Person = p
			c.happens(d)
		case 2:
			d := &happening.RaidCame{Viewers: int64(1 + c.r.IntN(90))}
			d.Person = p
			c.happens(d)
		case 3:
			d := &happening.RaidWent{Viewers: int64(1 + c.r.IntN(20))}
			d.Person = p
			c.happens(d)
		case 4:
			c.hand(&happening.BookmarkSet{Member: "Odalys Brine", Label: "brittle star"})
		case 5:
			d := &happening.ChatRemoved{MessageID: "e1"}
			d.Person = p
			c.happens(d)
		default:
			d := &happening.ChatSaid{Text: []string{"hello", "what a tide", "!schedule", "is that a worm?"}[c.r.IntN(4)]}
			d.Person = p
			c.happens(d)
		}
	}
	c.hand(&event.StreamDeclared{Act: "closed", Member: "Odalys Brine"})
}

func quiet(s *housefile.Settings) { // what is said comes back from the network before the stream is over
	s.Pace.GapSeconds, s.Pace.JoinAt, s.Pace.WaitSeconds = 0, 0, 0.001
	for i := range s.Courtesy {
		s.Courtesy[i].On = false
	}
}

func figureOf(lb *spec.LookBack, name string) float64 {
	for _, f := range lb.Figures {
		if f.Name == name {
			return f.Value
		}
	}
	return -1
}

// The figures of look backs are those that a script counts which knows the contract of events
// alone, through a merge.
func TestLookBacksAreWhatAScriptCountsOverTheLog(t *testing.T) {
	b := porchtest.Launch(t, quiet)
	b.SignIn()
	c := &crowd{Boat: b, r: rand.New(rand.NewPCG(3, 1))}
	for i := range 4 {
		c.stream(fmt.Sprint("Stream ", i+1), 90, 12+4*i)
	}
	var a, z *int64
	for i, platform := range []string{"quayside", "fernlight"} {
		k, err := b.House.Known(t.Context(), limpet(platform, 3).Key())
		if err != nil || k == nil {
			t.Fatal(err, k)
		}
		if i == 0 {
			a = &k.Person
		} else {
			z = &k.Person
		}
	}
	if err := b.House.Desk.Merge(t.Context(), "Odalys Brine", *a, *z); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "log.jsonl")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	enc := json.NewEncoder(f)
	if err := b.Store.Log.Since(t.Context(), b.House.ID, 0, 0, func(en log.Entry) error { return enc.Encode(en.Event) }); err != nil {
		t.Fatal(err)
	}
	f.Close()
	out, err := exec.Command("python3", "testdata/count_log.py", file).Output()
	if err != nil {
		t.Fatalf("%v %s", err, out)
	}
	var counted []map[string]float64
	if err := json.Unmarshal(out, &counted); err != nil || len(counted) != 4 {
		t.Fatalf("%v %s", err, out)
	}
	for i, want := range counted {
		var lb spec.LookBack
		if s := b.Do("GET", fmt.Sprintf("/api/lookback/of/%d", i+1), nil, &lb); s != 200 {
			t.Fatal(s)
		}
		got := map[string]float64{"people": figureOf(&lb, "people"), "new": figureOf(&lb, "new"), "lines": figureOf(&lb, "lines"), "brought": figureOf(&lb, "raids brought"), "took": figureOf(&lb, "our raid took"),
			"given": figureOf(&lb, "given"), "bookmarks": float64(len(lb.Bookmarks)), "house": 0, "taken out": 0}
		for _, n := range lb.House {
			got["house"] += float64(n)
		}
		for _, p := range lb.Peace {
			if p.Why == "lines taken out" {
				got["taken out"] = float64(p.Count)
			}
		}
		if fmt.Sprint(got) != fmt.Sprint(want) {
			t.Errorf("stream %d:\nby the look back %v\nby the script    %v", i+1, got, want)
		}
		if want["people"] < 8 || want["lines"] < 30 || want["given"] < 2 {
			t.Errorf("stream %d is too small to tell: %v", i+1, want)
		}
	}
	var last spec.LookBack
	b.Do("GET", "/api/lookback/of/4", nil, &last)
	for _, f := range last.Figures {
		if f.Name == "lines" && (f.Usual.Of != 3 || f.Usual.Least > f.Usual.Middle || f.Usual.Middle > f.Usual.Most) {
			t.Errorf("usual: %+v", f.Usual)
		}
	}
	if len(last.Unanswered) != 1 || last.Unanswered[0].Why != "!schedule" {
		t.Errorf("asked in vain: %+v", last.Unanswered)
	}
	for text, want := range map[string]int{"stream 2": 1, "limpet3": 4, strings.ToLower(last.Opened.Format("January")): 4, "no such thing": 0} {
		var found spec.LookBacks
		if s := b.Do("GET", "/api/lookback?text="+url.QueryEscape(text), nil, &found); s != 200 || len(found.Streams) != want || found.Total != want {
			t.Errorf("%q: %d, %d streams of %d, wanted %d", text, s, len(found.Streams), found.Total, want)
		}
	}
	var behind spec.Behind
	if s := b.Do("GET", "/api/lookback/of/4/behind?of=new", nil, &behind); s != 200 || float64(len(behind.People)) != figureOf(&last, "new") {
		t.Errorf("%d: %d people behind %v new ones", s, len(behind.People), figureOf(&last, "new"))
	}
	if s := b.Do("GET", "/api/lookback/of/4/behind?of=the%20weather", nil, nil); s != 422 {
		t.Errorf("what nothing is behind is answered with %d", s)
	}
	if s := b.Do("GET", "/api/lookback/of/99", nil, nil); s != 404 {
		t.Errorf("a stream that never was is answered with %d", s)
	}
}

// Whoever is forgotten is counted in old look backs, and named in none: neither on the page nor in
// a file to keep. What came late is counted.
func TestTheForgottenAreCountedAndNotNamedAndWhatCameLateIsCounted(t *testing.T) {
	b := porchtest.Launch(t, quiet)
	b.SignIn()
	c := &crowd{Boat: b, r: rand.New(rand.NewPCG(5, 1))}
	c.stream("Low water", 60, 9)
	read := func() (lb spec.LookBack, all string) {
		t.Helper()
		if s := b.Do("GET", "/api/lookback/of/1", nil, &lb); s != 200 {
			t.Fatal(s)
		}
		raw, _ := json.Marshal(lb)
		all = string(raw)
		for _, path := range []string{"/api/lookback/of/1/behind?of=people", "/api/lookback/of/1/behind?of=silent", "/api/lookback/of/1/file?format=html", "/api/lookback/of/1/file?format=csv"} {
			res, err := b.Client.Get(b.Server.URL + path)
			if err != nil {
				t.Fatal(err)
			}
			text, _ := io.ReadAll(res.Body)
			res.Body.Close()
			if res.StatusCode != 200 {
				t.Fatalf("%s: %d %s", path, res.StatusCode, text)
			}
			all += string(text)
		}
		return lb, all
	}
	before, all := read()
	if !strings.Contains(all, "limpet4") {
		t.Fatal("limpet4 was not there")
	}
	for _, platform := range []string{"quayside", "fernlight"} {
		if k, _ := b.House.Known(t.Context(), limpet(platform, 4).Key()); k != nil {
			if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", k.Person); err != nil {
				t.Fatal(err)
			}
		}
	}
	after, all := read()
	if strings.Contains(all, "limpet4") {
		t.Error("limpet4 is still named")
	}
	for _, name := range []string{"people", "new", "lines", "given"} {
		if figureOf(&before, name) != figureOf(&after, name) {
			t.Errorf("%s: %v, and after somebody was forgotten %v", name, figureOf(&before, name), figureOf(&after, name))
		}
	}
	late := &happening.ChatSaid{Text: "!whelks"}
	late.Person, late.MessageID = limpet("quayside", 77), "late"
	ev := event.Event{Door: "quayside", Source: "evening", ID: "late", Type: late.Type(), Data: late, Time: before.Opened.Add(before.Closed.Sub(before.Opened) / 2)}
	if _, err := b.House.Submit(t.Context(), []event.Event{ev}); err != nil {
		t.Fatal(err)
	}
	b.Until("what came late is counted", func() bool {
		lb, _ := read()
		return figureOf(&lb, "people") == figureOf(&before, "people")+1 && figureOf(&lb, "lines") == figureOf(&before, "lines")+1
	})
}

func TestAStreamIsKnownByWhatItWasCalledLast(t *testing.T) {
	b := porchtest.Launch(t, quiet)
	b.SignIn()
	c := &crowd{Boat: b, r: rand.New(rand.NewPCG(5, 1))}
	called := func(title string) {
		d := &happening.StreamChanged{}
		d.Platform, d.Title = "quayside", title
		c.happens(d)
	}
	c.hand(&event.StreamDeclared{Act: "opened", Title: "Low water", Member: "Odalys Brine"})
	called("Brittle stars")
	called("") // nothing was said of the title
	c.hand(&event.StreamDeclared{Act: "closed", Member: "Odalys Brine"})
	called("Between the tides") // of no stream
	var lived spec.Rehearsals
	if s := b.Do("GET", "/api/rehearsal", nil, &lived); s != 200 || len(lived.Recorded) != 1 || lived.Recorded[0].Title != "Brittle stars" {
		t.Errorf("%d %+v", s, lived.Recorded)
	}
	for text, n := range map[string]int{"brittle": 1, "low water": 0, "between": 0} {
		var found spec.LookBacks
		if s := b.Do("GET", "/api/lookback?text="+url.QueryEscape(text), nil, &found); s != 200 || len(found.Streams) != n || n == 1 && found.Streams[0].Title != "Brittle stars" {
			t.Errorf("%q: %d %+v", text, s, found.Streams)
		}
	}
}
