package house_test

import (
	"fmt"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
)

// A house with one courtesy is told that somebody said their first line, and decides to
// greet them. The state then holds that they are here: their second line is no arrival.
func Example() {
	plan, faults := house.Ready(&housefile.Settings{Format: housefile.Format, Channel: "tidepool_hours", Zone: "UTC", Seed: "low water",
		Doors: []housefile.Door{{Name: "quayside", Kind: "irc", Platform: "quayside", Address: "127.0.0.1:6667", Room: "#tidepool_hours", Account: "porchlamp"}},
		Courtesy: []courtesy.Courtesy{{ID: "welcome", On: true, When: happening.Arrival, Slot: happening.Greeting, OffLine: true,
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Welcome, {name}! Mind the wet boots."}}}}}}, 1)
	if len(faults) > 0 {
		fmt.Println(faults[0].Error())
		return
	}
	state := house.NewState()
	for n, text := range []string{"good evening", "is that a limpet?"} {
		said := &happening.ChatSaid{Text: text}
		said.Person = event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena", Name: "Limpet Lena"}
		at := time.Date(2031, 5, 14, 19, 0, n, 0, time.UTC)
		ev := event.Event{Seq: int64(n + 1), Door: "quayside", Source: "#tidepool_hours", ID: fmt.Sprint(n), Type: said.Type(), Time: at, Logged: at, Data: said}
		for _, d := range house.Step(state, &ev, nil, plan) {
			if d.Kind == hall.Say {
				fmt.Printf("%s: %s (%s)\n", d.Courtesy, d.Text, d.Because[0])
			}
		}
	}
	fmt.Println(len(state.Guests()), "here")
	// Output:
	// welcome: Welcome, Limpet Lena! Mind the wet boots. (is for anyone)
	// 1 here
}
