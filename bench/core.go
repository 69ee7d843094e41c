package main

import (
	"encoding/json"
	"fmt"
	"runtime"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/forecast"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/demo"
)

const (
	coreLines  = 100_000
	corePeople = 5_000 // each arrives once: 5% of the lines
)

// coreSpeed lives a hundred thousand chat lines with the sample house file.
func coreSpeed() ([]figure, error) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, err
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		return nil, faults[0]
	}
	begin := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	raws := make([][]byte, coreLines)
	for i := range raws {
		who := i % corePeople
		if i/20 < corePeople && i%20 == 0 { // arrivals are spread over the evening
			who = i / 20
		} else if i/20 > 0 {
			who = i % (i/20 + 1) // somebody who is here already
		} else {
			who = 0
		}
		raws[i], _ = json.Marshal(map[string]any{"specversion": "1.0", "id": fmt.Sprint("e", i), "source": "bench", "type": "porch.chat.said", "time": begin.Add(time.Duration(i) * 20 * time.Millisecond),
			"data": map[string]any{"person": map[string]any{"platform": "quayside", "id": fmt.Sprint(who), "login": fmt.Sprint("viewer_", who)}, "text": "that is the biggest dog whelk I have ever seen"}})
	}
	start := time.Now()
	evs := make([]event.Event, coreLines)
	for i, raw := range raws {
		if evs[i], err = happening.Kinds.Parse(raw); err != nil {
			return nil, err
		}
	}
	decoding := time.Since(start)
	known := map[string]*people.Known{}
	for i := range evs {
		k := evs[i].Who().Key()
		known[k] = &people.Known{Accounts: []string{k}, Attended: len(k) % 2}
	}
	st := house.NewState()
	open := event.Event{Seq: 1, ID: "open", Type: "porch.stream.opened", Time: begin, Data: &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside", Title: "Bench"}}}
	open.Stamp(begin)
	house.Step(st, &open, nil, plan)
	runtime.GC()
	arrivals, said, n := 0, 0, 0
	start = time.Now()
	for i := range evs {
		ev := &evs[i]
		for {
			_, ds, ok := house.Advance(st, ev.Time, plan)
			if !ok {
				break
			}
			n++
			said += count(ds, hall.Say)
		}
		ev.Stamp(ev.Time)
		ev.Seq = st.Seq + 1
		var k *people.Known
		if st.NeedsKnown(ev) {
			k = known[ev.Who().Key()]
		}
		ds := house.Step(st, ev, k, plan)
		n++
		arrivals += count(ds, hall.Arrive)
		said += count(ds, hall.Say)
	}
	took := time.Since(start)
	if arrivals != corePeople {
		return nil, fmt.Errorf("%d arrivals, not %d", arrivals, corePeople)
	}
	return []figure{
		{what: "core: events a second, one core (100,000 lines, 5% arrivals)", got: float64(n) / took.Seconds(), aim: 200_000, unit: "/s", least: true, alongside: fmt.Sprintf("%d lines said", said)},
		{what: "core: decoding such events, apart", got: coreLines / decoding.Seconds(), unit: "/s"},
	}, nil
}

func count(ds []hall.Decision, kind hall.Kind) int {
	n := 0
	for i := range ds {
		if ds[i].Kind == kind {
			n++
		}
	}
	return n
}

// timersAhead foretells four hours of two hundred timers.
func timersAhead() ([]figure, error) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, err
	}
	s.Courtesy = nil
	for i := range 200 {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: fmt.Sprint("t", i), On: true, When: happening.Timer, Timer: &courtesy.Timer{Minutes: float64(5 + i%40), Lines: i % 20},
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Mind the tide"}}}})
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		return nil, faults[0]
	}
	begin := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	start := time.Now()
	marks := 0
	for i := range 4 {
		h, err := forecast.Of(house.NewState(), plan, begin.Add(time.Duration(i)*forecast.Length), 4)
		if err != nil {
			return nil, err
		}
		marks += len(h.Marks)
	}
	if marks == 0 {
		return nil, fmt.Errorf("nothing was foretold")
	}
	return []figure{{what: "200 timers, four hours ahead in virtual time", got: float64(time.Since(start).Microseconds()) / 1000, aim: 200, unit: "ms", alongside: fmt.Sprintf("%d comings", marks)}}, nil
}
