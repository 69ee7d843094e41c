package calendar_test

import (
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
)

// quay is a house whose streams and lines a test makes.
type quay struct {
	*porchtest.Boat
	n int
}

func launch(t *testing.T, change ...func(*housefile.Settings)) *quay {
	b := porchtest.Launch(t, append(change, func(s *housefile.Settings) { s.Pace.GapSeconds, s.Pace.PersonSeconds = 0, 0 })...)
	b.SignIn()
	return &quay{Boat: b}
}

func (b *quay) happens(d event.Data) {
	b.T.Helper()
	b.n++
	ev := event.Event{Door: "quayside", Source: "s", ID: fmt.Sprint("e", b.n), Type: d.Type(), Data: d}
	if rs, err := b.House.Submit(b.T.Context(), []event.Event{ev}); err != nil || rs[0].Aside != "" {
		b.T.Fatal(err, rs)
	}
}

func (b *quay) says(login, text string, roles ...event.Role) {
	b.T.Helper()
	d := &happening.ChatSaid{Text: text, MessageID: fmt.Sprint("m", b.n)}
	d.Person = event.Person{Platform: "quayside", ID: "id-" + login, Login: login, Name: login, Roles: roles}
	b.happens(d)
}

func (b *quay) dates() (out spec.Dates) {
	b.T.Helper()
	if s := b.Do("GET", "/api/dates?all=true", nil, &out); s != 200 {
		b.T.Fatal(s)
	}
	return out
}

// of is what is listed of somebody.
func of(list []spec.DateEntry, name string) *spec.DateEntry {
	for i := range list {
		if list[i].Name == name {
			return &list[i]
		}
	}
	return nil
}

// on is a day so many days from today, as one writes it.
func (b *quay) on(days int) string {
	now := b.House.Reckoning()
	return now.Now.In(now.Zone).AddDate(0, 0, days).Format("2 January")
}

func (b *quay) edit(name string, set map[string]any) {
	b.T.Helper()
	var who spec.BookAccount
	if s := b.Do("GET", "/api/book/accounts/quayside:id-"+name, nil, &who); s != 200 {
		b.T.Fatal(s)
	}
	if s := b.Do("POST", "/api/book/edit", spec.BookEdit{Persons: []int64{who.Person}, Set: set}, nil); s != 200 {
		b.T.Fatal(s)
	}
}

func TestABirthdaySetInChatStandsInTheBookAndIsListed(t *testing.T) {
	b := launch(t)
	b.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	b.says("limpet_lena", "!mybirthday "+b.on(3))
	b.says("wrack_wren", "!mybirthday "+b.on(0))
	b.says("saltpan_pip", "!mybirthday "+b.on(-2))
	b.says("mossy_mare", "!mybirthday 31/02")
	d := b.dates()
	if e := of(d.Coming, "limpet_lena"); e == nil || e.Days != 3 || e.Kind != spec.DateKindBirthday || e.Chance != "new" || e.Hidden {
		t.Errorf("ahead: %+v", e)
	}
	if e := of(d.Missed, "saltpan_pip"); e == nil || e.Days != -2 || e.Left != 6 {
		t.Errorf("missed: %+v", e)
	}
	if of(d.Coming, "mossy_mare") != nil {
		t.Error("a day that is none is listed")
	}
	b.Until("wrack_wren's is celebrated", func() bool { e := of(b.dates().Entries, "wrack_wren"); return e != nil && e.Kept && !e.Since.IsZero() })

	// By hand: what was missed is celebrated once.
	for range 2 {
		b.Do("POST", "/api/desk/ask", spec.AskCourtesy{Act: "celebrate", Account: "quayside:id-saltpan_pip"}, nil)
	}
	b.Until("the missed one is celebrated", func() bool { return of(b.dates().Missed, "saltpan_pip") == nil })
	n := 0
	for _, said := range b.Said("quayside") {
		if strings.Contains(said, "saltpan_pip") && (strings.Contains(strings.ToLower(said), "happy birthday")) {
			n++
		}
	}
	if n != 1 {
		t.Errorf("celebrated %d times: %q", n, b.Said("quayside"))
	}

	// A restart later nobody is celebrated again, and a forgetting takes the day along.
	b.Stop()
	b.House = b.Another()
	b.InChat()
	b.says("wrack_wren", "!birthday")
	b.says("limpet_lena", "!forget")
	if e := of(b.dates().Entries, "wrack_wren"); e == nil || !e.Kept {
		t.Errorf("after a restart: %+v", e)
	}
}

func TestWhatSomebodyHidesNobodyIsTold(t *testing.T) {
	b := launch(t)
	b.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	b.says("limpet_lena", "!mybirthday "+b.on(0))
	b.says("kelpwright", "!mybirthday "+b.on(9))
	b.says("limpet_lena", "!hidebirthday")
	b.says("kelpwright", "!birthday limpet_lena")
	b.Until("kelpwright is answered", func() bool {
		return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "No birthday of limpet_lena")
	})
	if e := of(b.dates().Entries, "limpet_lena"); e == nil || !e.Hidden {
		t.Errorf("members see it, marked: %+v", e)
	}
	address := b.feed()
	_, doc, _ := b.get(address, "")
	if strings.Contains(doc, "limpet_lena") || !strings.Contains(doc, "Birthday: kelpwright") {
		t.Errorf("the calendar:\n%s", doc)
	}
}

// feed makes an address for the calendar.
func (b *quay) feed() string {
	b.T.Helper()
	var made spec.DatesFeedMade
	if s := b.Do("POST", "/api/dates/feed", nil, &made); s != 200 {
		b.T.Fatal(s)
	}
	return b.Server.URL + strings.TrimPrefix(made.Address, b.Server.URL)
}

// get reads an address as somebody who is not signed in.
func (b *quay) get(address, tag string) (status int, body, etag string) {
	b.T.Helper()
	req, _ := http.NewRequest("GET", address, nil)
	req.Header.Set("If-None-Match", tag)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(raw), res.Header.Get("ETag")
}

func TestTheCalendarIsReadByWhoeverHasItsKeyUntilAnotherIsMade(t *testing.T) {
	b := launch(t)
	b.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	b.says("limpet_lena", "!mybirthday 29 February")
	b.Until("it is in the book", func() bool {
		for _, y := range b.dates().Year {
			if y.Name == "limpet_lena" {
				return true
			}
		}
		return false
	})
	first := b.feed()
	s, doc, tag := b.get(first+"&alarm=60", "")
	if s != 200 || tag == "" || !strings.Contains(doc, "RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=-1") || !strings.Contains(doc, "BEGIN:VALARM") {
		t.Fatal(s, tag, doc)
	}
	if s, body, _ := b.get(first+"&alarm=60", tag); s != 304 || body != "" {
		t.Errorf("unchanged: %d %s", s, body)
	}
	b.edit("limpet_lena", map[string]any{"birthday": "1 March"})
	if s, _, other := b.get(first+"&alarm=60", tag); s != 200 || other == tag {
		t.Errorf("changed: %d, tag %s", s, other)
	}
	for query, want := range map[string]int{"&alarm=soon": 400, "&kinds=name-day": 400, "&kinds=first": 200} {
		if s, _, _ := b.get(first+query, ""); s != want {
			t.Errorf("%s: %d", query, s)
		}
	}
	second := b.feed()
	if s, _, _ := b.get(first, ""); s != 404 {
		t.Errorf("the old address: %d", s)
	}
	if s := b.Do("DELETE", "/api/dates/feed", nil, nil); s != 204 {
		t.Error(s)
	}
	if s, _, _ := b.get(second, ""); s != 404 {
		t.Errorf("one that was taken away: %d", s)
	}
	if s, _, _ := b.get(strings.Split(second, "?")[0], ""); s != 404 {
		t.Errorf("without a key: %d", s)
	}
	if b.dates().Feed != (spec.DatesFeed{}) {
		t.Error("the view still tells of an address")
	}
}

func TestAForgettingTakesTheDayOutOfEverything(t *testing.T) {
	b := launch(t)
	b.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	b.says("limpet_lena", "!mybirthday 9 March 1991")
	b.says("mossy_mare", "!mybirthday 9 March 1991") // stays
	b.says("limpet_lena", "!mybirthday 10 March 1991")
	holds := func() (n int) {
		for _, q := range []string{"events", "decisions", "book_changes", "people", "snapshots"} {
			col := map[string]string{"events": "data", "decisions": "body", "book_changes": "edit", "people": "hand", "snapshots": "state"}[q]
			var rows int
			if err := b.Store.SQL.QueryRow("SELECT count(*) FROM " + q + " WHERE " + col + "::text ~ '1991|10 March|03-10'").Scan(&rows); err != nil {
				t.Fatal(err)
			}
			n += rows
		}
		return n
	}
	var who spec.BookAccount
	b.Do("GET", "/api/book/accounts/quayside:id-limpet_lena", nil, &who)
	before := holds()
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", who.Person); err != nil {
		t.Fatal(err)
	}
	var left string
	if err := b.Store.SQL.QueryRow(`SELECT coalesce(string_agg(x, E'\n'), '') FROM (SELECT data::text AS x FROM events UNION ALL SELECT body::text FROM decisions UNION ALL SELECT edit::text || back::text FROM book_changes UNION ALL SELECT hand::text FROM people) t WHERE x ~ '03-10|10 March'`).Scan(&left); err != nil {
		t.Fatal(err)
	}
	if left != "" || before < 4 {
		t.Errorf("of %d, what is left:\n%s", before, left)
	}
	for _, y := range b.dates().Year {
		if y.Name == "limpet_lena" {
			t.Error("is listed still")
		}
	}
	if of := len(b.dates().Year); of == 0 {
		t.Error("nobody is listed any more")
	}
}

func TestTheWeekIsReadFromTheBookAndPostedOnce(t *testing.T) {
	b := launch(t)
	b.happens(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	b.says("limpet_lena", "!mybirthday "+b.on(3))
	b.says("kelpwright", "!mybirthday "+b.on(4))
	b.says("kelpwright", "!hidebirthday")
	week, err := b.House.Calendar.Week(t.Context(), b.House.Reckoning().Now)
	if err != nil || len(week.Days) != 1 || week.Days[0].Person.Name != "limpet_lena" {
		t.Fatalf("%+v %v", week, err)
	}
	told := func() (n int) {
		if err := b.Store.SQL.QueryRow(`SELECT count(*) FROM events WHERE type = 'porch.dates.week'`).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for _, again := range []bool{false, true} { // told by two, or after a restart: its id is that of the week
		rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "house", Source: "house", ID: "week-" + week.From.String(), Type: week.Type(), Data: week}})
		if err != nil || rs[0].Repeat != again {
			t.Fatalf("%+v %v", rs, err)
		}
	}
	b.Until("it is posted", func() bool {
		return strings.Contains(b.posts(), "limpet_lena (birthday)")
	})
	if n := told(); n != 1 {
		t.Errorf("told %d times", n)
	}
}

// posts are what stands at the landings of the community server.
func (b *quay) posts() string {
	b.T.Helper()
	res, err := http.Get("http://" + b.Street.Address() + "/street/state")
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		b.T.Fatal(err)
	}
	return string(raw)
}
