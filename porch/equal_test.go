package porch

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/formats"
	"vividporch/store"
	"vividporch/store/imports"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/storetest"
)

// stillEvening is a house against a living database, whose time goes on by hand.
type stillEvening struct {
	t      *testing.T
	h      *House
	st     *store.Store
	now    *atomic.Int64 // µs
	script []event.Event
	merged []int64 // records that were merged away
	again  int     // streams that were rehearsed of the log
}

func (e *stillEvening) at() time.Time { return time.UnixMicro(e.now.Load()).UTC() }

// until lives every wake that comes before a moment, each at its own, and then it is that
// moment.
func (e *stillEvening) until(to time.Time) {
	e.t.Helper()
	end := time.Now().Add(20 * time.Second)
	for {
		var at time.Time
		due := false
		if err := e.h.look(e.t.Context(), func(s *house.State) { at, due = s.Wake(e.h.plan.Load()) }); err != nil {
			e.t.Fatal(err)
		}
		if !due || at.After(to) {
			break
		}
		if at = at.Add(time.Microsecond - 1).Truncate(time.Microsecond); at.After(e.at()) {
			e.now.Store(at.UnixMicro())
		}
		if time.Now().After(end) {
			e.t.Fatalf("the house wants to be woken at %s and is not", at)
		}
	}
	e.now.Store(to.UnixMicro())
}

// take brings an event in now.
func (e *stillEvening) take(ev event.Event) {
	e.t.Helper()
	mine := ev
	mine.Logged = e.at()
	if mine.Time.IsZero() {
		mine.Time = mine.Logged
	}
	rs, err := e.h.Submit(e.t.Context(), []event.Event{ev})
	if err != nil {
		e.t.Fatal(err)
	}
	if rs[0].Aside != "" {
		e.t.Fatalf("%s is set aside: %s", ev.Type, rs[0].Aside)
	}
	if !rs[0].Passed && !rs[0].Repeat {
		e.script = append(e.script, mine)
	}
}

// randomBook is a people file of a few of those who are in random evenings.
func randomBook(r *rand.Rand, now time.Time) string {
	var b strings.Builder
	type header struct {
		Zone    string             `json:"zone"`
		Seed    string             `json:"seed"`
		Streams []event.PastStream `json:"streams"`
	}
	h := header{Zone: "Europe/Lisbon", Seed: "low water"}
	for n := 1; n <= 12; n++ {
		opened := now.AddDate(0, 0, 2*n-30)
		h.Streams = append(h.Streams, event.PastStream{Number: n, Opened: opened, Closed: opened.Add(2 * time.Hour)})
	}
	enc := json.NewEncoder(&b)
	_ = enc.Encode(h)
	for n := 1; n <= 9; n++ {
		if r.IntN(3) == 0 {
			continue
		}
		c := card.Card{}
		for i, p := range housetest.Platforms {
			if i > 0 && r.IntN(2) == 0 {
				break
			}
			a := card.Account{Person: event.Person{Platform: p, ID: fmt.Sprint(n), Login: fmt.Sprintf("limpet%d", n)}}
			if r.IntN(4) == 0 {
				a.ID = "" // known by login alone
			}
			if r.IntN(3) == 0 {
				a.Followed = new(h.Streams[r.IntN(12)].Opened)
			}
			c.Accounts = append(c.Accounts, a)
		}
		for k := range h.Streams {
			if r.IntN(3) == 0 {
				c.Streams = append(c.Streams, k+1)
			}
		}
		switch r.IntN(6) {
		case 0:
			c.Crews = []string{"low-water"}
		case 1:
			c.Trusted = new(true)
		case 2:
			c.SayAs = new(fmt.Sprintf("Limpet the %dth", n))
		case 3:
			c.LeaveBe = new(true)
		case 4:
			c.Fetched = &people.Fetched{Link: "https://quayside.example/limpet", Category: "Low water", At: now.Add(-time.Hour)}
		}
		if r.IntN(3) == 0 {
			c.Raids = []card.Raid{{Way: []string{"came", "went"}[r.IntN(2)], Viewers: 7, At: h.Streams[r.IntN(12)].Opened.Add(time.Minute)}}
		}
		_ = enc.Encode(c)
	}
	return b.String()
}

// Every line, card and refusal of an evening lived against a database comes again when
// its people file and its log are rehearsed: whatever the house, the people and the
// hands, over several streams, on two platforms, late or under hush.
func TestARehearsalIsTheLivingHouseLineByLine(t *testing.T) {
	st := storetest.Open(t)
	var first, evenings uint64 = 1, 14
	fmt.Sscan(os.Getenv("PORCH_EVENINGS"), &evenings)
	if fmt.Sscan(os.Getenv("PORCH_EQUAL_SEED"), &first); first > 1 { // one that failed, to see it again
		evenings = 1
	}
	seeds := []uint64{46, 69, 84} // that were not equal once
	for seed := range evenings {
		if !slices.Contains(seeds, first+seed) {
			seeds = append(seeds, first+seed)
		}
	}
	if first > 1 {
		seeds = []uint64{first}
	}
	again := 0 // streams that were rehearsed of the log
	for _, seed := range seeds {
		t.Run(fmt.Sprint("evening ", seed), func(t *testing.T) { again += equalEvening(t, st, seed) })
	}
	if again < len(seeds)/2 {
		t.Errorf("only %d streams of %d evenings were rehearsed of the log", again, len(seeds))
	}
}

func equalEvening(t *testing.T, st *store.Store, seed uint64) (again int) {
	r := rand.New(rand.NewPCG(seed, 23))
	dusk := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	s := housetest.Random(r)
	s.Overlays = nil // which a rehearsal takes to be open, and here nobody has opened any
	s = housetest.Legal(s)
	for i := range s.Profiles { // what a platform tells comes at a moment of its own
		s.Profiles[i].Lookup = nil
	}
	now := &atomic.Int64{}
	now.Store(dusk.UnixMicro())
	e := &stillEvening{t: t, st: st, now: now}
	e.h = bare(t, st, func(c *Config) {
		c.Channel, c.Defaults, c.Still = fmt.Sprint("equal-", seed), asJSON(t, s), true
		c.Clock = func() time.Time { return time.UnixMicro(now.Load()).UTC() }
	})
	ctx := t.Context()
	im, _, err := e.h.Desk.ReadFile(ctx, "Odalys Brine", "people.jsonl", "jsonl", strings.NewReader(randomBook(r, dusk)), formats.Options{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := e.h.Desk.TakeIn(ctx, im.ID, false); err != nil {
		t.Fatal(err)
	}
	if _, err := st.Members.Invite(ctx, e.h.ID, "Fen Osier", members.RoleCoHost); err != nil {
		t.Fatal(err)
	}
	// What the house knows before the evening, as it goes out.
	var file bytes.Buffer
	head, err := st.Find.Heading(ctx, e.h.ID)
	if err != nil {
		t.Fatal(err)
	}
	head.Zone, head.Seed = s.Zone, s.Seed
	enc := json.NewEncoder(&file)
	_ = enc.Encode(head)
	if err := st.Find.Cards(ctx, e.h.ID, nil, func(_ int64, _ string, c *card.Card) error { return enc.Encode(c) }); err != nil {
		t.Fatal(err)
	}
	asked := file.String()
	var begun int64
	if err := e.h.look(ctx, func(s *house.State) { begun = s.Seq }); err != nil {
		t.Fatal(err)
	}
	// The evening.
	for i := range 70 + r.IntN(60) {
		step := time.Duration(r.IntN(9_000)) * time.Millisecond
		if r.IntN(25) == 0 {
			step = time.Duration(r.IntN(900)) * time.Second
		}
		e.until(e.at().Add(step))
		var lines []string
		if err := e.h.look(ctx, func(s *house.State) {
			for _, l := range s.Queue.Lines {
				lines = append(lines, l.ID)
			}
		}); err != nil {
			t.Fatal(err)
		}
		var d event.Data
		door := "quayside"
		switch r.IntN(12) {
		case 0, 1, 2:
			d, door = housetest.Hand(r, lines, s.Courtesy), "desk"
		case 3:
			d, door = e.byHand(r), "desk"
		default:
			d = housetest.Happening(r)
		}
		if c, ok := d.(*happening.ChatSaid); ok && (c.Text == "!forget" || c.Text == "!yes") { // what is forgotten is gone from the log, too
			c.Text = "what a tide"
		}
		if d == nil {
			continue
		}
		if i == 60 {
			e.goesOut() // in the middle of it
			e.counted(seed)
		}
		ev := event.Event{Door: door, Source: door, ID: fmt.Sprint("e", i), Type: d.Type(), Data: d}
		if door != "desk" && r.IntN(10) == 0 {
			ev.Time = e.at().Add(-time.Duration(r.IntN(1200)) * time.Second)
		}
		ev.Clean()
		if d.Validate() != nil {
			continue
		}
		e.take(ev)
	}
	e.until(e.at().Add(20 * time.Minute))
	e.goesOut()
	e.streamsAgain(seed)
	var lived []rehearsal.Effect
	if err := st.Log.Since(ctx, e.h.ID, begun, 0, func(en log.Entry) error {
		for i := range en.Decisions {
			if x, ok := rehearsal.EffectOf(&en.Event, &en.Decisions[i]); ok && !aboutOutcome(&en.Event) {
				lived = append(lived, x)
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	// The same, rehearsed from what went out.
	var script bytes.Buffer
	for i := range e.script {
		raw, err := json.Marshal(e.script[i])
		if err != nil {
			t.Fatal(err)
		}
		script.Write(append(raw, '\n'))
	}
	evs, err := rehearsal.ReadScript(&script)
	if err != nil {
		t.Fatalf("evening %d: the script cannot be read: %v", seed, err)
	}
	book, err := rehearsal.ReadBook(&file)
	if err != nil {
		t.Fatalf("evening %d: the people file cannot be read: %v", seed, err)
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	var rehearsed []string
	sum, err := rehearsal.Run(plan, book, evs, func(x rehearsal.Effect) error {
		rehearsed = append(rehearsed, asLine(t, x))
		return nil
	})
	if err != nil {
		t.Fatalf("evening %d: %v", seed, err)
	}
	lived = slices.DeleteFunc(lived, func(x rehearsal.Effect) bool { return x.At.After(sum.Last) }) // a rehearsal ends the grace time after the last event
	for i := range max(len(lived), len(rehearsed)) {
		a, b := "nothing", "nothing"
		if i < len(lived) {
			a = asLine(t, lived[i])
		}
		if i < len(rehearsed) {
			b = rehearsed[i]
		}
		if a != b {
			if os.Getenv("PORCH_EQUAL_SEED") != "" {
				t.Logf("the people file:\n%s", asked)
				for i := range e.script {
					raw, _ := json.Marshal(e.script[i])
					t.Logf("%s", raw)
				}
			}
			t.Errorf("evening %d, effect %d of %d and %d:\nlived     %s\nrehearsed %s", seed, i, len(lived), len(rehearsed), a, b)
			break
		}
	}
	if len(lived) < 10 && seed%7 == 0 {
		t.Logf("evening %d: only %d effects", seed, len(lived))
	}
	return e.again
}

// goesOut writes the guest book out in every format, and reads that it would change
// nothing when it came in again.
func (e *stillEvening) goesOut() {
	e.t.Helper()
	s := e.h.plan.Load().Settings
	for _, format := range []string{"csv", "vcf", "jsonl"} {
		var file bytes.Buffer
		if err := formats.Export(e.t.Context(), &file, format, e.st.Find, e.h.ID, nil, s); err != nil {
			e.t.Fatal(format, err)
		}
		im, _, err := e.h.Desk.ReadFile(e.t.Context(), "Odalys Brine", "book."+format, format, bytes.NewReader(file.Bytes()), formats.Options{Platform: "quayside"})
		if err != nil {
			e.t.Fatal(format, err)
		}
		var n imports.Counts
		if err := json.Unmarshal(im.Counts, &n); err != nil {
			e.t.Fatal(err)
		}
		if n.New+n.Changed+n.Refused > 0 {
			var told []string
			for _, verdict := range []string{imports.New, imports.Changed, imports.Refused} {
				rows, err := e.st.Imports.Rows(e.t.Context(), im.ID, verdict, 0, 2)
				if err != nil {
					e.t.Fatal(err)
				}
				for _, r := range rows {
					told = append(told, fmt.Sprintf("%s %q: %s %s", verdict, r.Name, r.Changes, r.Why))
				}
			}
			e.t.Errorf("%s comes in with changes: %+v\n%s\n%s", format, n, strings.Join(told, "\n"), file.String())
		}
	}
}

// aboutOutcome reports whether an event only tells what became of something.
func aboutOutcome(ev *event.Event) bool {
	for _, p := range []string{"porch.speech.", "porch.act.", "porch.relay.", "porch.book.settled", "porch.door."} {
		if strings.HasPrefix(ev.Type, p) {
			return true
		}
	}
	return false
}

func asLine(t *testing.T, x rehearsal.Effect) string {
	t.Helper()
	x.At = x.At.UTC()
	raw, err := json.Marshal(x)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// byHand is a change in the guest book, about somebody it knows; nil when it knows nobody.
func (e *stillEvening) byHand(r *rand.Rand) event.Data {
	who := func() *people.Known {
		k, err := e.h.Known(e.t.Context(), housetest.Somebody(r).Key())
		if err != nil {
			e.t.Fatal(err)
		}
		return k
	}
	a, b := who(), who()
	if a == nil {
		return nil
	}
	told := func(d event.Data) event.Data {
		if err := e.h.Desk.TellWhom(e.t.Context(), d); err != nil {
			e.t.Fatal(err)
		}
		return d
	}
	switch r.IntN(7) {
	case 0:
		return told(&event.BookEdited{Persons: []int64{a.Person}, Edit: event.Edit{Set: event.Hand{SayAs: new("Said so"), LeaveBe: new(r.IntN(4) == 0)}}})
	case 1:
		return told(&event.BookEdited{Persons: []int64{a.Person}, Edit: event.Edit{Set: event.Hand{Trusted: new(true)}, AddCrews: []string{"low-water"}}})
	case 2:
		return &event.BookLinked{Of: "Fen Osier", Account: a.Accounts[0], Role: event.CoHost}
	case 3, 4:
		if b == nil || b.Person == a.Person {
			return nil
		}
		roots, err := e.st.Book.Roots(e.t.Context(), e.h.ID, a.Person, b.Person)
		if err != nil {
			e.t.Fatal(err)
		}
		e.merged = append(e.merged, roots[b.Person])
		return told(&event.BookMerged{Kept: roots[a.Person], Gone: roots[b.Person]})
	case 5:
		if len(e.merged) == 0 {
			return nil
		}
		part := e.merged[r.IntN(len(e.merged))]
		if roots, err := e.st.Book.Roots(e.t.Context(), e.h.ID, part); err != nil || roots[part] == part {
			return nil
		}
		return told(&event.BookParted{Part: part})
	case 6:
		var seq int64
		if err := e.st.SQL.QueryRow("SELECT coalesce(max(seq), 0) FROM events WHERE channel = $1 AND type = 'porch.book.edited'", e.h.ID).Scan(&seq); err != nil || seq == 0 {
			return nil
		}
		return told(&event.BookEdited{Persons: []int64{a.Person}, Undoes: seq})
	}
	return nil
}
