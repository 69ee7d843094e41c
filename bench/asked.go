package main

import (
	"fmt"
	"runtime"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/demo"
)

// askedSpeed finds what lines ask for, and whom they name, under 2,000 commands while 5,000 people
// are here; three lines of ten are commands, one more holds words that ask, the others are talk.
func askedSpeed() ([]figure, error) {
	defer runtime.GOMAXPROCS(runtime.GOMAXPROCS(1))
	many, err := recognise(2000)
	if err != nil {
		return nil, err
	}
	few, err := recognise(20)
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "asked: what a line asks for, 2,000 commands and 5,000 names, median", got: many, aim: 5, unit: "µs"},
		{what: "asked: the same with 20 commands", got: few, unit: "µs"},
		{what: "asked: what the other 1,980 add", got: many / few, aim: 1.2, unit: "×"},
	}, nil
}

// recognise is the median time in µs that a line takes until it is known what it asks for.
func recognise(n int) (float64, error) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return 0, err
	}
	for i := range n {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: fmt.Sprint("pool-", i), On: true, When: happening.Command, Slot: happening.Answer,
			Asks: []string{fmt.Sprint("pool", i), fmt.Sprint("?rock", i)}, Asked: &courtesy.Asking{Words: []string{fmt.Sprintf("deep is pool%d", i), fmt.Sprintf("rock%d", i)}},
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"By the jetty"}}}})
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		return 0, faults[0]
	}
	st := house.NewState()
	begin := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	happens := func(kind string, data event.Data) {
		ev := event.Event{Seq: st.Seq + 1, ID: fmt.Sprint("e", st.Seq), Type: kind, Time: begin, Data: data}
		ev.Stamp(begin)
		st.Evolve(&ev, nil)
	}
	for i := range 5000 {
		c := &happening.ChatSaid{Text: "evening"}
		c.Person = event.Person{Platform: "quayside", ID: fmt.Sprint(i), Login: fmt.Sprint("viewer_", i), Name: fmt.Sprint("Viewer ", i)}
		happens("porch.chat.said", c)
	}
	st.Called("viewer_0") // made when it is first asked for
	lines := []string{"that one is a brittle star, isn't it?", "so how deep is pool3 then", "!pool7 @viewer_4711", "look at the arms of it", "?rock5", "HAHAHA did you see that one run", "Ｉ ｌｉｋｅ it here", "where did you find it, by the jetty?",
		"https://quayside.example/kelpwright has the better light", "!POOL12 viewer_99 please"}
	var took []time.Duration
	for i := range 20_000 {
		line := lines[i%len(lines)]
		start := time.Now()
		h := plan.Hears(line, "quayside")
		found := 0
		if h.Name != "" && h.Rest != "" {
			word, _, _ := strings.Cut(h.Rest, " ")
			found = len(st.Called(strings.TrimPrefix(word, "@")))
		}
		took = append(took, time.Since(start))
		if asked := i%10 == 1 || i%10 == 2 || i%10 == 4 || i%10 == 9; h.Any() != asked || (i%10 == 2 || i%10 == 9) && found != 1 {
			return 0, fmt.Errorf("%q asked for %+v, and named %d", line, h, found)
		}
	}
	return at(took, 0.5) * 1000, nil
}
