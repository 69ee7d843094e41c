package soak_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/trouble"
	"vividporch/core/wordlist"
	"vividporch/spec"
	"vividporch/store/storetest"
)

// A thousand lines a second of which one in twenty breaks a rule, and a flood of five hundred strangers meanwhile: each line is
// decided right, a further one is answered at once, and the Porch is there.
func TestAStormOfLinesIsLookedAtRight(t *testing.T) {
	long := budget(t, 0.03)
	st := storetest.Open(t)
	s := housetest.Base()
	hold := []trouble.Step{{Act: trouble.Hold}}
	s.Guard.Rules = []trouble.Rule{
		{ID: "words", On: true, Do: &trouble.Words{Words: []wordlist.Word{{Text: "whelk"}}}, Then: []trouble.Step{{Act: trouble.Remove}}},
		{ID: "links", On: true, Do: &trouble.Links{}, Then: hold},
		{ID: "capitals", On: true, Do: &trouble.Capitals{Percent: 70, From: 12}, Then: hold},
		{ID: "several", On: true, Do: &trouble.Several{People: 50, Seconds: 5, From: 10}, Then: hold},
	}
	bad := []string{"a wh3lk!", "w h e l k", "see shells.example/free", "LOOK AT THAT OVER THERE"}
	h, stop := channel(t, st, fmt.Sprint("storm-", time.Now().UnixNano()), s)
	defer stop()
	ctx, cancel := context.WithTimeout(t.Context(), 5*time.Minute)
	defer cancel()
	r := rand.New(rand.NewPCG(5, 9))
	const perBatch, batches = 100, 10 // a second
	said, wrong, slowest, flooded := 0, 0, time.Duration(0), 0
	begin := time.Now()
	for n := 0; time.Since(begin) < long; n++ {
		if n == 20 { // the key is pressed in its midst
			if _, err := h.Hand(ctx, &event.FloodKey{On: true}); err != nil {
				t.Fatal(err)
			}
		}
		var batch []event.Event
		var breaks []bool
		for i := range perBatch {
			d := &happening.ChatSaid{MessageID: fmt.Sprint(n, "-", i), Text: fmt.Sprint("what was that under the weed, line ", said)}
			who := r.IntN(200)
			if n >= 20 { // and five hundred strangers besides
				who = r.IntN(700)
			}
			d.Person = event.Person{Platform: "quayside", ID: fmt.Sprint("v", who), Login: fmt.Sprint("limpet", who)}
			broken := said%20 == 0
			if said++; broken {
				d.Text = bad[r.IntN(len(bad))]
			}
			breaks = append(breaks, broken)
			batch = append(batch, event.Event{Door: "quayside", Source: "storm", ID: fmt.Sprint(n, "-", i), Type: d.Type(), Data: d})
		}
		at := time.Now()
		rs, err := h.Submit(ctx, batch)
		if err != nil {
			t.Fatal(err)
		}
		slowest = max(slowest, time.Since(at))
		for i, x := range rs {
			held := guard.Withheld(x.Decisions)
			if n < 20 && held != breaks[i] || n >= 20 && breaks[i] && !held {
				wrong++
			}
			if n >= 20 && held && !breaks[i] {
				flooded++
			}
		}
		time.Sleep(time.Until(begin.Add(time.Duration(n+1) * time.Second / batches)))
	}
	if wrong > 0 {
		t.Errorf("%d of %d lines are decided wrong", wrong, said)
	}
	p, err := h.Porch(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if flooded == 0 && long > 5*time.Second {
		t.Error("the flood's key held nobody")
	}
	if held := slices.DeleteFunc(p.Waiting, func(w spec.Waiting) bool { return w.Kind != "held" }); len(held) == 0 {
		t.Error("nothing of it waits for a member")
	}
	t.Logf("%d lines, the slowest hundred in %v; %d of strangers held", said, slowest, flooded)
	if slowest > 3*time.Second {
		t.Errorf("a hundred lines took %v", slowest)
	}
}
