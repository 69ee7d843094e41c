package main

import (
	"context"
	"fmt"
	"time"

	"vividporch/core/compare"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/core/whatif"
	"vividporch/demo"
	"vividporch/porch"
	"vividporch/store"
)

// eveningSpeed lives a long evening, and answers dials, as the Rehearsal view does: under two sides, and compared.
func eveningSpeed() ([]figure, error) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, err
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		return nil, fmt.Errorf("the sample house has faults: %v", faults)
	}
	opens := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	ctx := context.Background()
	shape := whatif.Plain("quayside")
	long := whatif.Dials{Seed: 3, Minutes: 240, PeopleMinute: 2, New: 0.3, LinesMinute: 84, RaidOf: 200, RaidAt: 60, SupportHour: 20}
	ev := whatif.Evening(shape, long, opens, nil)
	var once, dialled []time.Duration
	lines := 0
	for range 5 {
		t := time.Now()
		lived, err := rehearsal.Live(ctx, plan, ev, nil)
		if err != nil {
			return nil, err
		}
		once, lines = append(once, time.Since(t)), lived.Evening.People
	}
	usual := shape.Usual()
	usual.RaidOf = 200
	for seed := range uint64(20) {
		t := time.Now()
		usual.Seed = seed
		ev := whatif.Evening(shape, usual, opens, nil)
		var sides [2]compare.Side
		for i := range sides {
			lived, err := rehearsal.Live(ctx, plan, ev, nil)
			if err != nil {
				return nil, err
			}
			sides[i] = compare.Side{Effects: lived.Effects, Settings: s}
		}
		compare.Two(sides[0], sides[1], time.UTC)
		dialled = append(dialled, time.Since(t))
	}
	return []figure{{what: fmt.Sprintf("an evening of four hours with %d lines, lived: median", lines), got: at(once, 0.5), aim: 1000, unit: "ms"},
		{what: "a what-if by usual dials, lived twice and compared: p95", got: at(dialled, 0.95), aim: 300, unit: "ms"}}, nil
}

// lookBackFigures lives a stream of four hours with 20,000 lines in a house with a large book, makes its look back and opens it.
func lookBackFigures(ctx context.Context, h *porch.House, st *store.Store, ask func(method, path string) error) ([]figure, error) {
	is := func(on bool) error {
		for end := time.Now().Add(time.Minute); (h.Tonight() > 0) != on; time.Sleep(10 * time.Millisecond) {
			if time.Now().After(end) {
				return fmt.Errorf("a stream is on: not %v within a minute", on)
			}
		}
		return nil
	}
	declare := func(act string) error {
		if _, err := h.Hand(ctx, &event.StreamDeclared{Act: act, Title: "Low water", Member: "Odalys Brine"}); err != nil {
			return err
		}
		return is(act == "opened")
	}
	if err := declare("closed"); err != nil { // the one that the house began with
		return nil, err
	}
	past, err := st.Book.Streams(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	var last []event.PastStream
	for _, p := range past[max(0, len(past)-20):] {
		last = append(last, event.PastStream(p))
	}
	if _, err := h.Hand(ctx, &event.BookImported{Past: last, Member: "Odalys Brine"}); err != nil { // it goes on counting after those of the crowd
		return nil, err
	}
	if err := declare("opened"); err != nil {
		return nil, err
	}
	var batch []event.Event
	for i := range 20_000 {
		d := &happening.ChatSaid{Text: "what a tide", MessageID: fmt.Sprint("m", i)}
		d.Person = event.Person{Platform: "quayside", ID: fmt.Sprintf("c%d", 1+i*37%1500), Login: fmt.Sprintf("limpet%d", i*37%1500)}
		batch = append(batch, event.Event{Door: "quayside", Source: "bench", ID: d.MessageID, Type: d.Type(), Data: d})
		if len(batch) == 500 {
			if _, err := h.Submit(ctx, batch); err != nil {
				return nil, err
			}
			batch = nil
		}
	}
	number := h.Tonight()
	if err := declare("closed"); err != nil {
		return nil, err
	}
	// As in a house that has been running: what it stands beside was counted when it was over.
	began := time.Now()
	h.Lookbacks.Ready(ctx)
	ready := time.Since(began)
	var first, making, pages []time.Duration
	for range 3 {
		t := time.Now()
		h.Lookbacks.Closed(ctx, number)
		making = append(making, time.Since(t))
	}
	for i := range 40 {
		t := time.Now()
		if err := ask("GET", fmt.Sprintf("/api/lookback/of/%d", number-i%5)); err != nil {
			return nil, err
		}
		if i < 5 {
			first = append(first, time.Since(t))
		} else {
			pages = append(pages, time.Since(t))
		}
	}
	return []figure{{what: "the last 50 streams counted, after a restore", got: ready.Seconds(), unit: "s"},
		{what: "a look back opened for the first time since, older streams to count: slowest", got: at(first, 1), unit: "ms"},
		{what: "a look back made after four hours and 20,000 lines: median", got: at(making, 0.5), aim: 2000, unit: "ms"},
		{what: fmt.Sprintf("a look back over HTTP, %d streams and a million people: p95", number), got: at(pages, 0.95), aim: 200, unit: "ms"}}, nil
}
