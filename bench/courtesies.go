package main

import (
	"fmt"
	"runtime"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/who"
	"vividporch/demo"
)

// courtesySpeed decides 500 arrivals of one minute under 2,000 courtesies, and shows
// that what does not share their when costs them nothing.
func courtesySpeed() ([]figure, error) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	words := []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Evening, {name}.", "{name} is here!", "Good to see you, {name}."}}}
	var own, general, other []courtesy.Courtesy
	for i := range 1500 {
		own = append(own, courtesy.Courtesy{ID: fmt.Sprint("own-", i), On: true, When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Account: fmt.Sprint("quayside:", i)}, Do: words})
	}
	for i := range 40 {
		general = append(general, courtesy.Courtesy{ID: fmt.Sprint("general-", i), On: true, When: happening.Arrival, Slot: happening.Greeting, Do: words,
			Who: who.Who{Tag: fmt.Sprint("tag-", i), Any: []who.Who{{Role: event.VIP}, {Crews: &who.Crews{Of: []string{"a", fmt.Sprint("crew-", i)}}}}}})
	}
	for i := range 460 {
		n := float64(i)
		other = append(other, courtesy.Courtesy{ID: fmt.Sprint("raid-", i), On: true, When: "porch.raid.came", Slot: happening.Thanks, Measure: &who.Measure{Exactly: &n}, Do: words})
	}
	all := slices.Concat(own, general, other)
	greeted, err := decideArrivals(all, 0) // everybody has words of their own
	if err != nil {
		return nil, err
	}
	others, err := decideArrivals(all, 10_000) // nobody has
	if err != nil {
		return nil, err
	}
	few, err := decideArrivals(general, 10_000)
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "courtesies: an arrival with its own among 2,000, median", got: greeted, aim: 50, unit: "µs"},
		{what: "courtesies: an arrival that 40 of 2,000 could be for, median", got: others, aim: 50, unit: "µs"},
		{what: "courtesies: the same with these 40 alone", got: few, unit: "µs"},
		{what: "courtesies: what the other 1,960 add", got: others / few, aim: 1.2, unit: "×"},
	}, nil
}

// decideArrivals is the median time in µs that an arrival takes to be decided.
// The people are numbered from first; those below 1,500 have words of their own.
func decideArrivals(list []courtesy.Courtesy, first int) (float64, error) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return 0, err
	}
	s.Courtesy = append(s.Courtesy, list...)
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		return 0, faults[0]
	}
	st := house.NewState()
	begin := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	open := event.Event{Seq: 1, ID: "open", Type: "porch.stream.opened", Time: begin, Data: &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside", Title: "Bench"}}}
	open.Stamp(begin)
	house.Step(st, &open, nil, plan)
	var took []time.Duration
	for i := range 500 {
		c := &happening.ChatSaid{Text: "evening"}
		c.Person = event.Person{Platform: "quayside", ID: fmt.Sprint(first + i*3), Login: fmt.Sprint("viewer_", i)}
		ev := event.Event{Seq: st.Seq + 1, ID: fmt.Sprint("e", i), Type: "porch.chat.said", Time: begin.Add(time.Duration(i) * 120 * time.Millisecond), Data: c}
		for {
			if _, _, ok := house.Advance(st, ev.Time, plan); !ok {
				break
			}
		}
		ev.Stamp(ev.Time)
		ev.Seq = st.Seq + 1
		known := &people.Known{Accounts: []string{c.Person.Key()}, Attended: 4, Tags: []string{fmt.Sprint("tag-", i%40)}, Crews: []string{"a"}}
		start := time.Now()
		ds := house.Decide(st, &ev, known, plan)
		took = append(took, time.Since(start))
		st.Evolve(&ev, ds)
	}
	return at(took, 0.5) * 1000, nil
}
