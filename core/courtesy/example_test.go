package courtesy_test

import (
	"fmt"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/who"
)

// Two courtesies greet who arrives; the one that means somebody more closely fills the
// greeting, and the ladder says what it beat and why.
func Example() {
	say := func(text string) []output.Output {
		return []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{text}}}
	}
	set, faults := courtesy.Load([]courtesy.Courtesy{
		{ID: "everybody", On: true, When: happening.Arrival, Slot: happening.Greeting, Do: say("Welcome, {name}!")},
		{ID: "regulars", On: true, When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Standing: people.Regular}, Do: say("There you are, {name}!")},
	}, courtesy.World{})
	if len(faults) > 0 {
		fmt.Println(faults[0].Error())
		return
	}
	winner, ladder := set.Winner(who.Cause{When: happening.Arrival, Live: true, At: time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC),
		Person: event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena"}, Standing: people.Regular}, happening.Greeting)
	fmt.Println(winner.ID, "greets")
	for _, rung := range ladder {
		fmt.Println(rung.Courtesy, rung.Why)
	}
	// Output:
	// regulars greets
	// everybody gives way to regulars: the closer who wins
	// regulars is a regular
}
