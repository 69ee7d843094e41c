package soak_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/lots"
	"vividporch/core/output"
	"vividporch/core/points"
	"vividporch/store/storetest"
)

// Five hundred people enter in ten seconds on two platforms, one in ten of them twice: each is in once, under a number of its own, and
// whoever is drawn follows from the list, though the house was killed between entries and drawing.
func TestFiveHundredEnterInTenSecondsOnTwoPlatforms(t *testing.T) {
	st := storetest.Open(t)
	s := housetest.Base()
	s.Courtesy = []courtesy.Courtesy{housetest.Says(happening.DrawEnteredType, "In: {entry}.")}
	s.Courtesy[0].Burst, s.Courtesy[0].Do[0].Joined = &courtesy.Burst{Seconds: 5, At: 2}, []string{"In: {names}{more, plural, =0 {} other { and # more}}."}
	name := fmt.Sprint("crowd-", time.Now().UnixNano())
	h, stop := channel(t, st, name, s)
	ctx, cancel := context.WithTimeout(t.Context(), 3*time.Minute)
	defer cancel()
	terms, _ := json.Marshal(giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", Prizes: []string{"a print", "a badge", "a badge"}})
	if _, err := h.Hand(ctx, &event.DrawCalled{Act: event.DrawOpen, Terms: terms, Member: "Odalys Brine"}); err != nil {
		t.Fatal(err)
	}
	now := func() draw.Memory {
		m, err := h.Draws.Memory(ctx)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	state := func(want draw.State) {
		t.Helper()
		for range 200 {
			if m := now(); m.Now != nil && m.Now.State == want {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
		t.Fatalf("never %s: %+v", want, now().Now)
	}
	state(draw.Open)
	const people, seconds = 500, 10
	begin, slowest := time.Now(), time.Duration(0)
	for n := range people {
		var batch []event.Event
		for k := range 1 + n%10/9 { // one in ten says it again
			d := &happening.ChatSaid{Text: "!tide", MessageID: fmt.Sprint(n, "-", k)}
			platform := housetest.Platforms[n%2]
			d.Person = event.Person{Platform: platform, ID: fmt.Sprint("e", n), Login: fmt.Sprint("limpet", n)}
			batch = append(batch, event.Event{Door: platform, Source: "crowd", ID: d.MessageID, Type: d.Type(), Data: d})
		}
		at := time.Now()
		if _, err := h.Submit(ctx, batch); err != nil {
			t.Fatal(err)
		}
		slowest = max(slowest, time.Since(at))
		time.Sleep(time.Until(begin.Add(time.Duration(n+1) * seconds * time.Second / people)))
	}
	stop()
	h, stop = channel(t, st, name, s)
	defer stop()
	d := now().Now
	numbers := map[int]bool{}
	for _, e := range d.Entries {
		numbers[e.Number] = true
	}
	if len(d.Entries) != people || len(numbers) != people {
		t.Fatalf("%d entries under %d numbers", len(d.Entries), len(numbers))
	}
	if _, err := h.Hand(ctx, &event.DrawCalled{Act: event.DrawDraw, Member: "Odalys Brine"}); err != nil {
		t.Fatal(err)
	}
	state(draw.Over)
	d = now().Now
	left := slices.Clone(d.Marks)
	for n, p := range d.Picks {
		at := lots.Pick(d.Secret, d.Digest, n, len(left))
		if left[at] != p.Mark {
			t.Fatalf("pick %d does not follow from the list", n)
		}
		left = slices.Delete(left, at, at+1)
	}
	if len(d.Picks) != 3 || lots.Commit(d.Secret) != d.Commit {
		t.Errorf("%d picked", len(d.Picks))
	}
	t.Logf("%d entered, the slowest in %v", people, slowest)
	if slowest > 2*time.Second {
		t.Errorf("an entry took %v", slowest)
	}
}

// Two hundred commands a second that cost points, from few people who have too few, with the house killed and brought back: nobody spends
// twice, nobody has less than nothing, and what everybody has is what the ledger says.
func TestNobodySpendsTwiceWhateverHappens(t *testing.T) {
	long := budget(t, 0.03)
	st := storetest.Open(t)
	s := housetest.Base()
	s.Pace.GapSeconds, s.Pace.WaitSeconds = 0.1, 5
	wish := housetest.Asked("wish", output.Output{ID: "say", Do: &output.Say{}, Alternatives: []string{"A wish of {name}."}})
	wish.Cost = 3
	stone := housetest.Asked("stone", output.Output{Do: &output.Stone{}})
	s.Courtesy = []courtesy.Courtesy{wish, stone}
	s.Rooms = map[string]json.RawMessage{points.Name: json.RawMessage(`{"on": true, "evening": 1000, "here": 2}`)}
	name := fmt.Sprint("spending-", time.Now().UnixNano())
	h, stop := channel(t, st, name, s)
	ctx, cancel := context.WithTimeout(t.Context(), 5*time.Minute)
	defer cancel()
	r := rand.New(rand.NewPCG(8, 21))
	const people, perSecond, perBatch = 40, 200, 20
	who := func(n int) event.Person {
		return event.Person{Platform: housetest.Platforms[n%2], ID: fmt.Sprint("s", n), Login: fmt.Sprint("limpet", n)}
	}
	begin, asked, restarts := time.Now(), 0, 0
	for n := 0; time.Since(begin) < long; n++ {
		var batch []event.Event
		for range perBatch {
			p := who(r.IntN(people))
			d := &happening.ChatSaid{Text: []string{"!wish", "!wish", "!stone 2", "!stone all"}[r.IntN(4)], MessageID: fmt.Sprint("m", asked)}
			d.Person = p
			asked++
			batch = append(batch, event.Event{Door: p.Platform, Source: "spending", ID: d.MessageID, Type: d.Type(), Data: d})
		}
		if _, err := h.Submit(ctx, batch); err != nil {
			t.Fatal(err)
		}
		if n%5 == 0 {
			if _, err := h.Hand(ctx, &event.PointsGranted{Person: who(r.IntN(people)), Amount: int64(1 + r.IntN(20)), Member: "Odalys Brine"}); err != nil {
				t.Fatal(err)
			}
		}
		if n%60 == 59 { // killed in its midst, and brought back from the log
			stop()
			h, stop = channel(t, st, name, s)
			restarts++
		}
		time.Sleep(time.Until(begin.Add(time.Duration(n+1) * perBatch * time.Second / perSecond)))
	}
	time.Sleep(7 * time.Second) // what waits is said, or given up and given back
	stop()
	h, stop = channel(t, st, name, s)
	defer stop()
	if _, err := h.Hand(ctx, &event.Hushed{On: false}); err != nil {
		t.Fatal(err)
	}
	rows, err := st.SQL.QueryContext(ctx, `SELECT l.key, sum(l.amount), coalesce(max(r.has), 0) FROM ledger l JOIN accounts a ON a.channel = l.channel AND a.key = l.key LEFT JOIN ranks r ON r.channel = a.channel AND r.person = a.person WHERE l.channel = $1 GROUP BY l.key`, h.ID)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	n, moved := 0, int64(0)
	for rows.Next() {
		var key string
		var ledger, has int64
		if err := rows.Scan(&key, &ledger, &has); err != nil {
			t.Fatal(err)
		}
		n++
		moved += ledger
		if ledger < 0 || ledger != has {
			t.Errorf("%s: %d by the ledger, %d by the list", key, ledger, has)
		}
	}
	var paid, said, low int
	st.SQL.QueryRowContext(ctx, `SELECT count(*) FILTER (WHERE why = 'paid'), count(*) FILTER (WHERE why = 'refunded') FROM ledger WHERE channel = $1`, h.ID).Scan(&paid, &low)
	st.SQL.QueryRowContext(ctx, `SELECT count(*) FROM decisions WHERE channel = $1 AND kind = 'say' AND courtesy = 'wish'`, h.ID).Scan(&said)
	t.Logf("%d asked, %d paid, %d given back, %d said, %d times killed", asked, paid, low, said, restarts)
	if n < people/4 || paid == 0 || said != paid-low { // nobody hears this house: what is not said in time is given back
		t.Errorf("%d people, %d paid, %d given back, %d said", n, paid, low, said)
	}
}
