package store_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/demo"
	"vividporch/demo/world"
	"vividporch/formats"
	"vividporch/formats/row"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/forget"
	"vividporch/store/imports"
	"vividporch/store/log"
	"vividporch/store/record"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

// book is a guest book under test: it gives events their numbers and people theirs.
type book struct {
	t       *testing.T
	s       *store.Store
	channel int64
	seq     int64
	person  int64
	known   map[string]bool
	k       record.Reckoning
}

func open(t *testing.T, s *store.Store, name string) *book {
	t.Helper()
	id, err := s.Channel(t.Context(), name)
	if err != nil {
		t.Fatal(err)
	}
	return &book{t: t, s: s, channel: id, known: map[string]bool{}, k: reckoning(6)}
}

// happens logs events with the stream they fall in and what was decided about them.
func (b *book) happens(entries ...log.Entry) {
	b.t.Helper()
	batch := &log.Batch{Fresh: map[string]int64{}, Unsettled: map[string]bool{}, Claims: map[string]string{}, Reckoning: b.k}
	for i := range entries {
		b.seq++
		e := &entries[i].Event
		e.Seq = b.seq
		if e.ID == "" {
			e.ID = fmt.Sprint("e", b.seq)
		}
		if e.Logged.IsZero() {
			e.Logged = dusk
		}
		if who := e.Who(); who != nil && !event.IsOwn(e.Type) {
			batch.Unsettled[who.Key()] = true
			if !b.known[who.Key()] {
				m, claims, err := b.s.Book.Known(b.t.Context(), b.channel, []event.Person{*who}, 99)
				if err != nil {
					b.t.Fatal(err)
				}
				if k := m[who.Key()]; k != nil {
					batch.Fresh[who.Key()], batch.Claims[who.Key()] = k.Person, claims[who.Key()]
				} else {
					b.person++
					batch.Fresh[who.Key()] = b.person
				}
				b.known[who.Key()] = true
			}
		}
	}
	batch.Entries = entries
	if err := b.s.Commit(b.t.Context(), b.channel, batch); err != nil {
		b.t.Fatal(err)
	}
}

func entry(data event.Data, at time.Time, stream int) log.Entry {
	return log.Entry{Stream: stream, Event: event.Event{Door: "chat", Source: "#r", Type: data.Type(), Time: at, Data: data}}
}

func line(id, login string, at time.Time, stream int) log.Entry {
	d := &happening.ChatSaid{Text: "what a tide"}
	d.Person = event.Person{Platform: "quayside", ID: id, Login: login}
	return entry(d, at, stream)
}

// row is somebody as they stand in the book's table.
func (b *book) row(id int64) find.Row {
	b.t.Helper()
	page, err := b.s.Find.People(b.t.Context(), b.channel, find.Query{Limit: 500})
	if err != nil {
		b.t.Fatal(err)
	}
	for _, r := range page.Rows {
		if r.ID == id {
			return r
		}
	}
	return find.Row{}
}

// everything writes the whole book down, so that two can be compared.
func (b *book) everything() string {
	b.t.Helper()
	var out bytes.Buffer
	for _, q := range []string{
		`SELECT json_agg(to_jsonb(p) - 'created' ORDER BY id) FROM people p WHERE channel = $1`,
		`SELECT json_agg(to_jsonb(a) - 'channel' - 'person' ORDER BY key) FROM accounts a WHERE channel = $1`,
		`SELECT json_agg(to_jsonb(a) - 'channel' ORDER BY key, login, name) FROM account_logins a WHERE channel = $1`,
		`SELECT json_agg(to_jsonb(v) - 'channel' ORDER BY key, stream) FROM visits v WHERE channel = $1`,
		`SELECT json_agg(to_jsonb(f) - 'channel' ORDER BY person) FROM finds f WHERE channel = $1`,
		`SELECT json_agg(to_jsonb(t) - 'channel' ORDER BY person) FROM tallies t WHERE channel = $1 AND lines > 0`,
	} {
		var raw []byte
		if err := b.s.SQL.QueryRow(q, b.channel).Scan(&raw); err != nil {
			b.t.Fatal(err)
		}
		out.Write(raw)
		out.WriteByte('\n')
	}
	return strings.ReplaceAll(out.String(), fmt.Sprintf(`"channel": %d`, b.channel), "")
}

func opened(stream int) time.Time { return reckoning(6).Past[stream-1].Opened }

// someEvening is a mix of what can happen to four people over six streams.
func someEvening(r *rand.Rand) []log.Entry {
	var out []log.Entry
	for i := range 40 {
		stream := 1 + r.IntN(6)
		at := opened(stream).Add(time.Duration(r.IntN(100)) * time.Minute)
		id := fmt.Sprint("p", r.IntN(4))
		login := id + []string{"", "_new", "_newer"}[min(2, stream/3)]
		switch e := line(id, login, at, stream); i % 8 {
		case 5:
			d := &happening.PersonFollowed{}
			d.Person = event.Person{Platform: "quayside", ID: id, Login: login}
			out = append(out, entry(d, at, stream))
		case 6:
			d := &happening.RaidCame{Viewers: int64(r.IntN(50))}
			d.Person = event.Person{Platform: "quayside", ID: id, Login: login, Roles: []event.Role{event.VIP}}
			out = append(out, entry(d, at, stream))
		case 7:
			d := &happening.Tipped{Amount: "2.50", Currency: "EUR"}
			d.Person = event.Person{Platform: "quayside", ID: id, Login: login}
			out = append(out, entry(d, at, stream))
		default:
			out = append(out, e)
		}
	}
	return out
}

func TestTheOrderInWhichThingsBecomeKnownDoesNotChangeTheRecord(t *testing.T) {
	s := storetest.Open(t)
	for seed := range uint64(6) {
		r := rand.New(rand.NewPCG(seed, 1))
		evs := someEvening(r)
		// Whose number is whose depends on who comes first; so everybody speaks once before.
		var first []log.Entry
		for i := range 4 {
			first = append(first, line(fmt.Sprint("p", i), fmt.Sprint("p", i), opened(1).Add(-time.Hour), 0))
		}
		a, b := open(t, s, fmt.Sprint("in-order-", seed)), open(t, s, fmt.Sprint("shuffled-", seed))
		a.happens(slices.Clone(first)...)
		b.happens(slices.Clone(first)...)
		for i, e := range evs {
			evs[i].Event.ID = fmt.Sprint("same-", i)
			_ = e
		}
		sorted := slices.Clone(evs)
		slices.SortStableFunc(sorted, func(x, y log.Entry) int { return x.Event.Time.Compare(y.Event.Time) })
		for part := range slices.Chunk(sorted, 7) {
			a.happens(slices.Clone(part)...)
		}
		r.Shuffle(len(evs), func(i, j int) { evs[i], evs[j] = evs[j], evs[i] })
		for part := range slices.Chunk(evs, 5) {
			b.happens(slices.Clone(part)...)
		}
		// The number of the raid somebody came with is a number of the log.
		for _, x := range []*book{a, b} {
			s.SQL.Exec("UPDATE people SET with_raid = CASE WHEN with_raid > 0 THEN 1 ELSE 0 END WHERE channel = $1", x.channel)
		}
		if x, y := a.everything(), b.everything(); x != y {
			t.Fatalf("seed %d: in order\n%s\nshuffled\n%s", seed, x, y)
		}
		for id := int64(1); id <= 4; id++ {
			if row := a.row(id); row.Attended > 6 {
				t.Errorf("attended %d of 6 streams", row.Attended)
			}
		}
	}
}

// does logs a member's act on the book.
func (b *book) does(d event.Data) int64 {
	b.t.Helper()
	b.happens(log.Entry{Event: event.Event{Door: "desk", Source: "desk", Type: d.Type(), Time: dusk, Logged: dusk, Data: d}})
	return b.seq
}

func word(s string) *string { return &s }

func TestMergingAndPartingLeavesBothAsTheyWere(t *testing.T) {
	b := open(t, storetest.Open(t), "merge")
	r := rand.New(rand.NewPCG(7, 7))
	for part := range slices.Chunk(someEvening(r), 9) {
		b.happens(part...)
	}
	b.does(&event.BookEdited{Persons: []int64{1}, Edit: event.Edit{Set: event.Hand{SayAs: word("kelp-right")}, AddTags: []string{"prints"}, AddCrews: []string{"lantern-row"}}})
	b.does(&event.BookEdited{Persons: []int64{2}, Edit: event.Edit{Set: event.Hand{Note: word("asks about lenses"), SayAs: word("Lena")}, AddTags: []string{"tea"}}})
	before := b.everything()
	one, two := b.row(1), b.row(2)
	b.does(&event.BookMerged{Kept: 1, Gone: 2})
	merged := b.row(1)
	if b.row(2).ID != 0 {
		t.Error("the merged record still stands in the table")
	}
	both := attendance.Mask{At: one.MaskAt, Bits: uint64(one.MaskBits)}
	want := 0
	for n := 1; n <= 6; n++ {
		if both.Has(n) || (attendance.Mask{At: two.MaskAt, Bits: uint64(two.MaskBits)}).Has(n) {
			want++
		}
	}
	if merged.Attended != want || merged.SayAs != "kelp-right" || !slices.Equal(merged.Tags, []string{"prints", "tea"}) {
		t.Errorf("merged: attended %d, want %d; %q %v", merged.Attended, want, merged.SayAs, merged.Tags)
	}
	b.does(&event.BookParted{Part: 2})
	if after := b.everything(); after != before {
		t.Errorf("before\n%s\nafter\n%s", before, after)
	}
}

func TestAfterPartingEachAccountTakesWhatHappenedToIt(t *testing.T) {
	b := open(t, storetest.Open(t), "part")
	b.happens(line("a", "kelpwright", opened(1), 1), line("b", "kelp_wright", opened(2), 2), line("c", "third", opened(3), 3))
	b.does(&event.BookMerged{Kept: 1, Gone: 2})
	b.does(&event.BookMerged{Kept: 3, Gone: 1}) // a record that holds another is merged itself
	b.happens(line("b", "kelp_wright", opened(4), 4), line("a", "kelpwright", opened(5), 5), line("b", "kelp_wright", opened(5), 5))
	b.does(&event.BookEdited{Persons: []int64{3}, Edit: event.Edit{Set: event.Hand{Note: word("one and the same")}}})
	if r := b.row(3); r.Attended != 5 {
		t.Errorf("together they were at %d streams", r.Attended)
	}
	b.does(&event.BookParted{Part: 2})
	if x, y := b.row(2), b.row(3); x.Attended != 3 || y.Attended != 3 || x.Name != "kelp_wright" {
		t.Errorf("the second has %d as %s, the others %d", x.Attended, x.Name, y.Attended)
	}
	b.does(&event.BookParted{Part: 1})
	if x, y := b.row(1), b.row(3); x.Attended != 2 || y.Attended != 1 {
		t.Errorf("%d and %d", x.Attended, y.Attended)
	}
	sheet, err := b.s.Find.Sheet(t.Context(), b.channel, 3, &b.k)
	if err != nil || people.Text(sheet.Hand.Note) != "one and the same" {
		t.Errorf("the later note stays with the kept record: %v", err)
	}
}

func TestAnEditIsTakenBackOnEveryoneItChanged(t *testing.T) {
	b := open(t, storetest.Open(t), "undo")
	b.happens(line("a", "one", opened(1), 1), line("b", "two", opened(1), 1))
	b.does(&event.BookEdited{Persons: []int64{2}, Edit: event.Edit{AddTags: []string{"tea"}}})
	n := b.does(&event.BookEdited{Persons: []int64{1, 2}, Edit: event.Edit{AddTags: []string{"tea", "kelp"}}})
	b.does(&event.BookEdited{Persons: []int64{0}, Undoes: n})
	if x, y := b.row(1), b.row(2); len(x.Tags) != 0 || !slices.Equal(y.Tags, []string{"tea"}) {
		t.Errorf("%v %v", x.Tags, y.Tags)
	}
}

func TestARenamedAccountIsTheSamePersonAndAReusedLoginIsAnother(t *testing.T) {
	b := open(t, storetest.Open(t), "names")
	b.happens(line("8841", "limpet_lena", opened(1), 1))
	d := &happening.PersonRenamed{Was: "limpet_lena"}
	d.Person = event.Person{Platform: "quayside", ID: "8841", Login: "lena_of_the_limpets"}
	b.happens(entry(d, opened(2), 0))
	b.happens(line("9999", "limpet_lena", opened(3), 3)) // the platform gave the login away
	known, _, err := b.s.Book.Known(t.Context(), b.channel, accounts("8841", "9999"), 7)
	if err != nil || known["quayside:8841"].Attended != 1 || known["quayside:9999"].Person == known["quayside:8841"].Person {
		t.Errorf("%+v %+v %v", known["quayside:8841"], known["quayside:9999"], err)
	}
	for _, text := range []string{"lena_of", "limpet_lena"} {
		page, err := b.s.Find.People(t.Context(), b.channel, find.Query{Filter: find.Filter{Text: text}})
		if err != nil || !slices.ContainsFunc(page.Rows, func(r find.Row) bool { return r.ID == 1 }) {
			t.Errorf("%s does not find her: %v", text, err)
		}
	}
}

// people seeds the sample world.
func sampleWorld(t *testing.T, s *store.Store, name string) *book {
	t.Helper()
	b := open(t, s, name)
	file, err := rehearsal.ReadBook(bytes.NewReader(demo.People))
	if err != nil {
		t.Fatal(err)
	}
	streams, cards := world.Moved(file, 0)
	b.k = record.Reckoning{Rules: people.DefaultRules, Now: world.Opening, Zone: time.UTC}
	if err := s.Imports.Seed(t.Context(), b.channel, imports.Head{Streams: streams, Crews: file.Crews}, cards, &b.k); err != nil {
		t.Fatal(err)
	}
	for _, p := range streams {
		b.k.Past = attendance.Add(b.k.Past, p)
	}
	return b
}

func (b *book) export(format string) []byte {
	b.t.Helper()
	var out bytes.Buffer
	if err := formats.Export(b.t.Context(), &out, format, b.s.Find, b.channel, nil, &housefile.Settings{Zone: "UTC", Seed: "x"}); err != nil {
		b.t.Fatal(err)
	}
	return out.Bytes()
}

func (b *book) stage(format string, file []byte) (*tables.Import, imports.Counts) {
	b.t.Helper()
	src, err := formats.Open(bytes.NewReader(file), format, formats.Options{Platform: "quayside", Zone: time.UTC})
	if err != nil {
		b.t.Fatal(err)
	}
	im, err := b.s.Imports.Stage(b.t.Context(), b.channel, "Odalys Brine", "file."+format, &imports.Head{Streams: src.Streams, Crews: src.Crews}, src.Next)
	if err != nil {
		b.t.Fatal(err)
	}
	var n imports.Counts
	if err := json.Unmarshal(im.Counts, &n); err != nil {
		b.t.Fatal(err)
	}
	return im, n
}

func TestBringingAnExportInAgainChangesNothing(t *testing.T) {
	s := storetest.Open(t)
	b := sampleWorld(t, s, "export")
	for _, format := range []string{"csv", "vcf", "jsonl"} {
		file := b.export(format)
		im, n := b.stage(format, file)
		if n != (imports.Counts{Unchanged: 260}) {
			rows, _ := s.Imports.Rows(t.Context(), im.ID, imports.Changed, 0, 2)
			refused, _ := s.Imports.Rows(t.Context(), im.ID, imports.Refused, 0, 2)
			t.Errorf("%s: %+v; %s; %+v", format, n, rowsOf(rows), refused)
		}
		if again := b.export(format); !bytes.Equal(again, file) {
			t.Errorf("%s comes out differently the second time", format)
		}
	}
	// And on an empty channel a people file brings the whole book back.
	c := open(t, s, "elsewhere")
	im, n := c.stage("jsonl", b.export("jsonl"))
	if n.New != 260 || n.Streams != 60 || n.Crews != 3 || n.Refused != 0 {
		t.Fatalf("%+v", n)
	}
	done, err := s.Imports.Apply(t.Context(), c.channel, im.ID, &b.k)
	if err != nil || len(done.Past) != 20 || done.Past[19].Number != 60 {
		t.Fatalf("%+v %v", done, err)
	}
	if x, y := b.export("csv"), c.export("csv"); !bytes.Equal(x, y) {
		t.Errorf("the book is another one:\n%.400s\n%.400s", x, y)
	}
}

func rowsOf(rows []tables.ImportRow) string {
	var out []string
	for _, r := range rows {
		out = append(out, r.Name+": "+string(r.Changes))
	}
	return strings.Join(out, "\n")
}

func TestAnImportShowsWhatItWouldDoDoesItAndCanBeTakenBack(t *testing.T) {
	s := storetest.Open(t)
	b := sampleWorld(t, s, "import")
	before := b.everything()
	file := "login;birthday;follows since;tags;crew\n" +
		"kelpwright;9 March;2020-01-02;loves prints;Driftwood\n" + // changed
		"@sandhopper9;;;;\n" + // unchanged
		"new_ned;--02-29;2030-04-01;;Lantern Row\n" + // new
		"second_sid;31 June;;;\n" + // no such day
		"new_ned;;;;\n" + // named twice
		";;;nobody;\n" + // nobody
		"=cmd|'/c calc'!A1;;;;\n"
	im, n := b.stage("csv", []byte(file))
	if n != (imports.Counts{New: 2, Changed: 1, Unchanged: 1, Refused: 3, Crews: 1}) {
		t.Fatalf("%+v", n)
	}
	if b.everything() != before {
		t.Fatal("a preview changed the book")
	}
	refused, _ := s.Imports.Rows(t.Context(), im.ID, imports.Refused, 0, 10)
	for i, says := range map[int]string{0: "31 June", 1: "row 4 names this account already", 2: "login"} {
		if !strings.Contains(refused[i].Why, says) {
			t.Errorf("row %d is refused with %q", refused[i].Row, refused[i].Why)
		}
	}
	if _, err := s.Imports.Apply(t.Context(), b.channel, im.ID, &b.k); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Imports.Apply(t.Context(), b.channel, im.ID, &b.k); !errors.Is(err, imports.ErrDone) {
		t.Errorf("taken in twice: %v", err)
	}
	page, err := s.Find.People(t.Context(), b.channel, find.Query{Filter: find.Filter{Text: "kelpwright", Crew: "driftwood"}})
	if err != nil || len(page.Rows) != 1 || page.Rows[0].BirthMonth != 3 || page.Rows[0].Followed.Year() != 2020 || !slices.Contains(page.Rows[0].Tags, "loves prints") {
		t.Fatalf("%+v %v", page.Rows, err)
	}
	if out := string(b.export("csv")); !strings.Contains(out, "'=cmd|'/c calc'!A1") || strings.Contains(out, "\n=cmd") {
		t.Error("a cell that a spreadsheet would run went out as it is")
	}
	if _, err := s.Imports.TakeBack(t.Context(), b.channel, im.ID, &b.k); err != nil {
		t.Fatal(err)
	}
	if after := b.everything(); after != before {
		t.Errorf("taken back, the book is\n%.600s\nand was\n%.600s", after, before)
	}
}

func TestWhoIsKnownByLoginOnlyIsNoNewcomer(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "first-evening")
	log := "[2031-03-05 19:02:11] <limpet_lena> hello\n2031-03-05 19:30 Kelpwright: evening\nnot a line\n" +
		"2031-03-12T19:00:00Z limpet_lena: and again\n" + `{"time":"2031-03-12T19:05:00Z","user":"sandhopper9","message":"hi"}` + "\n"
	im, n := b.stage("chatlog", []byte(log))
	if n.New != 3 || n.Streams != 2 {
		t.Fatalf("%+v", n)
	}
	done, err := s.Imports.Apply(t.Context(), b.channel, im.ID, &b.k)
	if err != nil {
		t.Fatal(err)
	}
	b.k.Past = nil
	for _, p := range done.Past {
		b.k.Past = attendance.Add(b.k.Past, attendance.Past(p))
	}
	lena := event.Person{Platform: "quayside", ID: "8841", Login: "Limpet_Lena"}
	known, claims, err := s.Book.Known(t.Context(), b.channel, []event.Person{lena}, 3)
	if err != nil || known["quayside:8841"] == nil || known["quayside:8841"].Attended != 2 || claims["quayside:8841"] != "quayside:@limpet_lena" {
		t.Fatalf("%+v %v %v", known["quayside:8841"], claims, err)
	}
	b.person = 50
	b.happens(line("8841", "Limpet_Lena", dusk, 3))
	again, claims, err := s.Book.Known(t.Context(), b.channel, []event.Person{lena, {Platform: "quayside", ID: "7777", Login: "limpet_lena"}}, 4)
	if err != nil || again["quayside:8841"].Person != known["quayside:8841"].Person || again["quayside:8841"].Attended != 3 || len(claims) != 0 || again["quayside:7777"] != nil {
		t.Errorf("once claimed, a login belongs to its account: %+v %v", again, claims)
	}
}

func TestStandingsAreToldOnceWhenTheyChange(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "settle")
	for n := 1; n <= 6; n++ {
		b.k.Past = reckoning(6).Past[:n-1]
		b.happens(line("a", "limpet_lena", opened(n).Add(time.Minute), n))
		if n == 3 {
			b.happens(line("b", "once_ova", opened(n).Add(time.Minute), n))
		}
	}
	b.k = reckoning(6)
	gained, lost, err := s.Book.Settle(t.Context(), b.channel, &b.k)
	if err != nil || len(gained) != 1 || gained[0].Name != "limpet_lena" || !strings.Contains(gained[0].Why, "6 of the last 6") || len(lost) != 0 {
		t.Fatalf("%+v %+v %v", gained, lost, err)
	}
	if gained, _, _ := s.Book.Settle(t.Context(), b.channel, &b.k); len(gained) != 0 {
		t.Errorf("told twice: %+v", gained)
	}
	b.k.Past = append(b.k.Past, attendance.Past{Number: 7, Opened: dusk, Closed: dusk.Add(time.Hour)})
	for n := 8; n <= 12; n++ {
		b.k.Past = attendance.Add(b.k.Past, attendance.Past{Number: n, Opened: dusk.AddDate(0, 0, n), Closed: dusk.AddDate(0, 0, n).Add(time.Hour)})
	}
	if _, lost, _ := s.Book.Settle(t.Context(), b.channel, &b.k); len(lost) != 1 || lost[0].Name != "limpet_lena" {
		t.Errorf("no longer regular: %+v", lost)
	}
	rows, err := s.Find.People(t.Context(), b.channel, find.Query{Filter: find.Filter{Lost: true}})
	if err != nil || len(rows.Rows) != 1 {
		t.Errorf("those who lost it are listed: %+v %v", rows, err)
	}
}

func TestNewcomersOfARaidAndWhoOfThemReturned(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "newcomers")
	streams, raids, err := b.s.Find.Newcomers(t.Context(), b.channel, 40)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range raids {
		switch {
		case r.Stream == 48 && (r.Newcomers < 14 || r.Returned < 7 || r.Of != 5), r.Stream == 46 && r.Viewers == 80 && (r.Newcomers < 16 || r.Returned > 1), r.Stream == 57 && r.Of != 3:
			t.Errorf("%+v", r)
		}
	}
	for _, c := range streams {
		if c.Of != min(5, 60-c.Stream) || c.Returned > c.Newcomers {
			t.Errorf("%+v", c)
		}
	}
}

func TestTheBookIsFoundAndTurnedPageByPage(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "pages")
	for _, sort := range []find.Sort{find.ByName, find.BySeen, find.ByAttended, find.ByLines} {
		seen := map[int64]bool{}
		q, before := find.Query{Sort: sort, Limit: 17}, find.Row{}
		for {
			page, err := b.s.Find.People(t.Context(), b.channel, q)
			if err != nil {
				t.Fatal(err)
			}
			for _, r := range page.Rows {
				if seen[r.ID] {
					t.Fatalf("by %s: %s stands on two pages", sort, r.Name)
				}
				seen[r.ID] = true
				if before.ID != 0 && (sort == find.ByName && r.SortName < before.SortName || sort == find.BySeen && r.LastSeen.After(*before.LastSeen) || sort == find.ByAttended && r.Attended > before.Attended || sort == find.ByLines && r.Lines > before.Lines) {
					t.Errorf("by %s: %s after %s", sort, r.Name, before.Name)
				}
				before = r
			}
			if q.After = page.Next; q.After == "" {
				break
			}
		}
		if len(seen) != 260 {
			t.Errorf("by %s: %d people", sort, len(seen))
		}
	}
	named := func(f find.Filter) (names []string) {
		page, err := b.s.Find.People(t.Context(), b.channel, find.Query{Filter: f})
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range page.Rows {
			names = append(names, r.Name)
		}
		return names
	}
	for text, want := range map[string]string{"ke": "kelpwright", "kelpwrigt": "kelpwright", "kelp_wright": "kelpwright", "tide tables": "Limpet Lena", "prints on": "kelpwright", "LENA": "Limpet Lena", "skerries and": "The Tide Keeper of the Outer Skerries and All Their Pools", "hernon": "night_heron_cam"} {
		if got := named(find.Filter{Text: text}); !slices.Contains(got, want) {
			t.Errorf("%q finds %v, not %s", text, got, want)
		}
	}
	if got := named(find.Filter{Text: "zzzzqq"}); len(got) != 0 {
		t.Errorf("nonsense finds %v", got)
	}
	if got := named(find.Filter{Crew: "low-water-league", Mark: "fellow streamer", From: 5, Birthday: true}); !slices.Contains(got, "kelpwright") || slices.Contains(got, "Foreshore Fen") {
		t.Errorf("conditions combine to %v", got)
	}
	for i, f := range []find.Filter{{Standing: "regular"}, {Role: "moderator"}, {Platform: "fernlight"}, {Tag: "tea"}, {Trusted: true}, {LeaveBe: true}, {Raid: -1}, {Stream: 46}, {Since: &dusk}, {Until: &dusk}} {
		n, more, err := b.s.Find.CountPeople(t.Context(), b.channel, f)
		if got := named(f); err != nil || more || len(got) != min(100, n) {
			t.Errorf("filter %d: counted %d, listed %d, %v", i, n, len(got), err)
		}
	}
	page, err := b.s.Find.People(t.Context(), b.channel, find.Query{Sort: find.ByName, At: "m", Limit: 1})
	if err != nil || !strings.HasPrefix(page.Rows[0].SortName, "m") && page.Rows[0].Name[0] < 'm' {
		t.Errorf("the jump to m lands at %+v %v", page.Rows, err)
	}
}

func TestTheBookIsSortedByLinesAndSupportASearchToo(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "orders")
	counts := func(q find.Query) (names []string, rows map[string]find.Row) {
		t.Helper()
		page, err := b.s.Find.People(t.Context(), b.channel, q)
		if err != nil {
			t.Fatal(err)
		}
		rows = map[string]find.Row{}
		for _, r := range page.Rows {
			names, rows[r.Name] = append(names, r.Name), r
		}
		return names, rows
	}
	var id int64
	if err := b.s.SQL.QueryRow(`SELECT person FROM accounts WHERE channel = $1 AND login = 'limpet_lena'`, b.channel).Scan(&id); err != nil {
		t.Fatal(err)
	}
	b.known["quayside:8841"] = true
	was := b.row(id)
	gift := &happening.Gifted{Count: 3}
	gift.Person = event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena", Name: "Limpet Lena"}
	b.seq = 100
	for range 40 { // nothing about them is new but further lines
		b.happens(line("8841", "limpet_lena", dusk, 61))
	}
	for i := range 2 {
		b.happens(log.Entry{Event: event.Event{Door: "quayside", Source: "s", ID: fmt.Sprint("gift", i), Type: gift.Type(), Time: dusk, Logged: dusk, Data: gift}, Stream: 61})
	}
	names, rows := counts(find.Query{Sort: find.BySupport})
	lena := b.row(id)
	if len(names) == 0 {
		t.Error("nobody stands there by support")
	}
	if lena.Support != was.Support+2 || lena.Lines != was.Lines+40 {
		t.Errorf("%d times and %d lines, from %d and %d", lena.Support, lena.Lines, was.Support, was.Lines)
	}
	for i := 1; i < len(names); i++ {
		if rows[names[i]].Support > rows[names[i-1]].Support || rows[names[i]].Support == 0 {
			t.Errorf("by support: %s stands behind %s", names[i], names[i-1])
		}
	}
	// Worked out anew from what is kept, they are the same.
	if err := b.s.Book.Refresh(t.Context(), b.channel, &b.k, []int64{lena.ID}); err != nil {
		t.Fatal(err)
	}
	if again := b.row(id); again.Lines != lena.Lines || again.Support != lena.Support {
		t.Errorf("worked out anew: %+v, not %+v", again, lena)
	}
	// A search has the closest first, and any order that is asked for; page by page nobody twice.
	closest, _ := counts(find.Query{Filter: find.Filter{Text: "fern"}})
	sorted, by := counts(find.Query{Filter: find.Filter{Text: "fern"}, Sort: find.ByLines})
	if len(sorted) != len(closest) || len(sorted) < 3 || slices.Equal(sorted, closest) {
		t.Errorf("%v and %v", sorted, closest)
	}
	for i := 1; i < len(sorted); i++ {
		if by[sorted[i]].Lines > by[sorted[i-1]].Lines {
			t.Errorf("a search by lines: %s stands behind %s", sorted[i], sorted[i-1])
		}
	}
	var paged []string
	q := find.Query{Filter: find.Filter{Text: "fern"}, Sort: find.ByLines, Limit: 2}
	for {
		page, err := b.s.Find.People(t.Context(), b.channel, q)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range page.Rows {
			paged = append(paged, r.Name)
		}
		if q.After = page.Next; q.After == "" {
			break
		}
	}
	if !slices.Equal(paged, sorted) {
		t.Errorf("page by page %v, at once %v", paged, sorted)
	}
}

func TestTwoAccountsOfOnePersonAreSuggestedOnce(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "pairs")
	pairs, err := b.s.Find.Pairs(t.Context(), b.channel, 50)
	i := slices.IndexFunc(pairs, func(p find.Pair) bool { return p.A.Login == "driftprint" && p.B.Login == "drift.print" })
	if err != nil || i < 0 || !strings.Contains(strings.Join(pairs[i].Because, "; "), "the same login but for signs") {
		t.Fatalf("%+v %v", pairs, err)
	}
	if err := b.s.Find.RefusePair(t.Context(), b.channel, pairs[i].B.Person, pairs[i].A.Person); err != nil {
		t.Fatal(err)
	}
	again, _ := b.s.Find.Pairs(t.Context(), b.channel, 50)
	if slices.ContainsFunc(again, func(p find.Pair) bool { return p.A.Login == "driftprint" }) {
		t.Error("suggested again although they are two people")
	}
}

func TestThePlansOfTheBookUseIndexes(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "plans")
	for _, q := range []string{
		`INSERT INTO people (channel, id, root, created, listed, name, sort_name, standing, last_seen, first_seen, attended, followed, fellow, first_stream)
			SELECT $1, g, g, now(), true, 'p' || md5(g::text), 'p' || md5(g::text), CASE WHEN g % 50 = 0 THEN 'regular' ELSE 'returning' END, now() - g * interval '1 minute', now() - g * interval '2 minutes', g % 60, now(), false, g % 60 FROM generate_series(1, 20000) g`,
		`INSERT INTO accounts (channel, key, person, home, platform, id, login, name, first_seen, last_seen) SELECT $1, 'quayside:' || g, g, g, 'quayside', g, 'p' || md5(g::text), '', now(), now() FROM generate_series(1, 20000) g`,
		`INSERT INTO finds (channel, person, text) SELECT $1, g, 'p' || md5(g::text) FROM generate_series(1, 20000) g`,
	} {
		if _, err := s.SQL.Exec(q, b.channel); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.SQL.Exec("INSERT INTO find_words (channel, word, person) SELECT channel, text, person FROM finds WHERE channel = $1", b.channel); err != nil {
		t.Fatal(err)
	}
	if _, err := s.SQL.Exec("ANALYZE people, accounts, finds, find_words"); err != nil {
		t.Fatal(err)
	}
	conn, err := s.SQL.Conn(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	// On so few people a scan is quick; that it is never needed is what counts.
	if _, err := conn.ExecContext(t.Context(), "SET enable_seqscan = off"); err != nil {
		t.Fatal(err)
	}
	for name, q := range map[string]find.Query{"by name": {Sort: find.ByName}, "by last seen": {Sort: find.BySeen}, "by attendance": {Sort: find.ByAttended}, "by follow": {Sort: find.ByFollow}, "by lines": {Sort: find.ByLines}, "by support": {Sort: find.BySupport},
		"a later page": {Sort: find.ByName, After: "77:p5"}, "a standing": {Sort: find.BySeen, Filter: find.Filter{Standing: "regular"}}, "two letters": {Filter: find.Filter{Text: "pa"}}, "a search": {Filter: find.Filter{Text: "pabc"}}} {
		sqls, args := s.Find.Plans(b.channel, q)
		for i := range sqls {
			rows, err := conn.QueryContext(t.Context(), "EXPLAIN "+sqls[i], args[i]...)
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			var plan []string
			for rows.Next() {
				var l string
				rows.Scan(&l)
				plan = append(plan, l)
			}
			rows.Close()
			if p := strings.Join(plan, "\n"); strings.Contains(p, "Seq Scan") || !strings.Contains(p, "Index") {
				t.Errorf("%s reads a whole table:\n%s", name, p)
			}
		}
	}
}

func TestNothingTellsWhoWasForgotten(t *testing.T) {
	s := storetest.Open(t)
	b := sampleWorld(t, s, "forget")
	var key string
	var person int64
	if err := s.SQL.QueryRow(`SELECT key, person FROM accounts WHERE channel = $1 AND login = 'limpet_lena'`, b.channel).Scan(&key, &person); err != nil {
		t.Fatal(err)
	}
	b.known[key] = true
	b.seq = 100
	said := line("8841", "limpet_lena", dusk, 61)
	said.Decisions = []hall.Decision{{Kind: hall.Arrive, Output: "arrival", Person: key, Name: "Limpet Lena", Because: []string{"8 earlier streams"}},
		{Kind: hall.Say, Courtesy: "greet", Output: "chat", Line: "101.greet.chat", Platform: "quayside", Text: "There you are, Limpet Lena.", Person: key, Name: "Limpet Lena", Because: []string{"is a regular"}}}
	b.happens(said)
	b.does(&event.SpeechSaid{SpeechOutcome: event.SpeechOutcome{Line: "101.greet.chat", Platform: "quayside", Text: "There you are, Limpet Lena."}})
	b.does(&event.BookEdited{Persons: []int64{person}, Edit: event.Edit{Set: event.Hand{Note: word("Lena likes limpets")}}})
	kept, err := s.Privacy.Everything(t.Context(), b.channel, person)
	if err != nil || len(kept.Said) != 1 || len(kept.ToThem) != 1 || len(kept.Visits) < 40 || people.Text(kept.Card.Note) != "Lena likes limpets" {
		t.Fatalf("what is kept: %+v %v", kept, err)
	}
	var visits int
	count := func() (n int) {
		s.SQL.QueryRow(`SELECT count(*) FROM visits WHERE channel = $1`, b.channel).Scan(&n)
		return n
	}
	visits = count()
	erased := &event.BookForgotten{Person: person, Keys: []string{key}}
	b.happens(log.Entry{Event: event.Event{Door: "desk", Source: "desk", Type: erased.Type(), Time: dusk, Logged: dusk, Data: erased}})
	tables, err := s.DB.Migrator().GetTables()
	if err != nil {
		t.Fatal(err)
	}
	for _, table := range tables {
		rows, err := s.SQL.Query(`SELECT t::text FROM "` + table + `" t`)
		if err != nil {
			t.Fatal(err)
		}
		for rows.Next() {
			var text string
			rows.Scan(&text)
			if low := strings.ToLower(text); strings.Contains(low, "lena") || strings.Contains(low, "8841") {
				t.Errorf("%s still tells: %.300s", table, text)
			}
		}
		rows.Close()
	}
	if n := count(); n != visits {
		t.Errorf("counts of past streams went too: %d of %d visits", n, visits)
	}
	if gone, err := forget.IsForgotten(t.Context(), s.SQL, b.channel, []string{key, "quayside:8102"}); err != nil || !gone[key] || gone["quayside:8102"] {
		t.Errorf("%v %v", gone, err)
	}
	if im, n := b.stage("csv", []byte("platform,id,login\nquayside,8841,limpet_lena\n")); n.Refused != 1 {
		t.Errorf("a file brings her back: %+v %v", n, im.ID)
	}
	if err := s.Privacy.Remember(t.Context(), b.channel, key); err != nil {
		t.Fatal(err)
	}
	if gone, _ := forget.IsForgotten(t.Context(), s.SQL, b.channel, []string{key}); gone[key] {
		t.Error("she asked to be remembered")
	}
}

func TestOneWhoIsTheSameAsSomebodyForgottenCanBeForgottenToo(t *testing.T) {
	s := storetest.Open(t)
	for name, kept := range map[string]int64{"into the forgotten one": 1, "the forgotten one into theirs": 2} {
		t.Run(name, func(t *testing.T) {
			b := open(t, s, name)
			b.happens(line("a", "lena", dusk, 1), line("b", "lena_too", dusk, 1))
			ids := map[string]int64{}
			for _, key := range []string{"quayside:a", "quayside:b"} {
				var n int64
				if err := s.SQL.QueryRow("SELECT person FROM accounts WHERE channel = $1 AND key = $2", b.channel, key).Scan(&n); err != nil {
					t.Fatal(err)
				}
				ids[key] = n
			}
			first, second := ids["quayside:a"], ids["quayside:b"]
			b.does(&event.BookForgotten{Person: first, Keys: []string{"quayside:a"}})
			if kept == 1 {
				b.does(&event.BookMerged{Kept: first, Gone: second})
			} else {
				b.does(&event.BookMerged{Kept: second, Gone: first})
			}
			b.does(&event.BookForgotten{Person: second, Keys: []string{"quayside:b"}})
			var accounts, named int
			if err := s.SQL.QueryRow("SELECT count(DISTINCT key), count(*) FILTER (WHERE login <> '' OR id NOT LIKE '~%') FROM accounts WHERE channel = $1", b.channel).Scan(&accounts, &named); err != nil || accounts != 2 || named != 0 {
				t.Errorf("%d accounts, %d of them still told, %v", accounts, named, err)
			}
		})
	}
}

func TestOldChatIsTakenOutOfTheLog(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "retention")
	old, fresh := line("a", "lena", dusk.AddDate(0, 0, -61), 1), line("a", "lena", dusk, 2)
	old.Event.Logged, fresh.Event.Logged = dusk.AddDate(0, 0, -61), dusk
	b.happens(old, fresh)
	for more := true; more; {
		var err error
		if more, err = s.Privacy.BlankOldChat(t.Context(), b.channel, dusk.AddDate(0, 0, -60)); err != nil {
			t.Fatal(err)
		}
	}
	var texts []string
	if err := s.Log.Since(t.Context(), b.channel, 0, 0, func(en log.Entry) error {
		texts = append(texts, en.Event.Data.(*happening.ChatSaid).Text)
		return nil
	}); err != nil || !slices.Equal(texts, []string{"", "what a tide"}) {
		t.Errorf("%q %v", texts, err)
	}
}

func TestAStreamOfRowsIsStagedWithoutKeepingIt(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "many")
	n := 0
	im, err := s.Imports.Stage(context.Background(), b.channel, "", "many", &imports.Head{}, func() (row.Row, error) {
		if n++; n > 2500 {
			return row.Row{}, io.EOF
		}
		in := row.Row{N: n, Card: card.Card{Accounts: []card.Account{{Person: event.Person{Platform: "quayside", Login: fmt.Sprint("many_", n)}}}}}
		return in, in.Card.Fill("")
	})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Imports.Apply(t.Context(), b.channel, im.ID, &b.k); err != nil {
		t.Fatal(err)
	}
	if n, _, _ := s.Find.CountPeople(t.Context(), b.channel, find.Filter{}); n != 2500 {
		t.Errorf("%d people came in", n)
	}
}

func TestWhatARoomKeepsOfAnAccountIsWrittenReadCarriedAndForgotten(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "kept")
	kept := func(b *book, key string) string {
		t.Helper()
		platform, id, _ := strings.Cut(key, ":")
		m, _, err := s.Book.Known(t.Context(), b.channel, []event.Person{{Platform: platform, ID: id}}, 6)
		if err != nil {
			t.Fatal(err)
		}
		if m[key] == nil {
			return ""
		}
		raw, err := json.Marshal(m[key].Kept)
		if err != nil {
			t.Fatal(err)
		}
		return string(raw)
	}
	keeps := func(room, key, what string) hall.Decision {
		return hall.Decision{Kind: hall.Keep, Room: room, Output: room, Line: key, Person: key, Kept: json.RawMessage(what), Because: []string{"because"}}
	}
	lena := line("8841", "limpet_lena", dusk, 0)
	lena.Decisions = []hall.Decision{keeps("days", "quayside:8841", `{"years":[2030]}`), keeps("sluice", "quayside:8841", `{"seen":3}`)}
	b.happens(lena, line("77", "mossy_mare", dusk, 0))
	if got := kept(b, "quayside:8841"); got != `{"quayside:8841":{"days":{"years":[2030]},"sluice":{"seen":3}}}` {
		t.Fatalf("kept of her: %s", got)
	}
	if got := kept(b, "quayside:77"); got != "null" && got != "{}" {
		t.Errorf("kept of somebody else: %s", got)
	}
	// What a room keeps later takes the place of what it kept; another room's stays.
	again := line("8841", "limpet_lena", dusk.Add(time.Minute), 0)
	again.Decisions = []hall.Decision{keeps("days", "quayside:8841", `{"years":[2030,2031]}`)}
	b.happens(again)
	if got := kept(b, "quayside:8841"); got != `{"quayside:8841":{"days":{"years":[2030,2031]},"sluice":{"seen":3}}}` {
		t.Errorf("kept of her: %s", got)
	}
	// It goes out with the people file and comes in elsewhere.
	file := b.export("jsonl")
	other := open(t, s, "kept elsewhere")
	im, n := other.stage("jsonl", file)
	if n.New != 2 {
		t.Fatalf("%+v", n)
	}
	if _, err := s.Imports.Apply(t.Context(), other.channel, im.ID, &other.k); err != nil {
		t.Fatal(err)
	}
	if got := kept(other, "quayside:8841"); got != `{"quayside:8841":{"days":{"years":[2030,2031]},"sluice":{"seen":3}}}` {
		t.Errorf("kept of her elsewhere: %s", got)
	}
	// Whoever is forgotten takes it along.
	erased := &event.BookForgotten{Person: 1, Keys: []string{"quayside:8841"}}
	b.happens(log.Entry{Event: event.Event{Door: "desk", Source: "desk", Type: erased.Type(), Time: dusk, Data: erased}})
	var left int
	if err := s.SQL.QueryRow(`SELECT count(*) FROM accounts WHERE channel = $1 AND kept IS NOT NULL`, b.channel).Scan(&left); err != nil || left != 0 {
		t.Errorf("%d accounts still hold what was kept, %v", left, err)
	}
}
