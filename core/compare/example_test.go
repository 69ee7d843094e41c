package compare_test

import (
	"fmt"
	"time"

	"vividporch/core/compare"
	"vividporch/core/rehearsal"
)

func Example() {
	at := time.Date(2031, 5, 14, 20, 41, 0, 0, time.UTC)
	greets := func(person, text string, after time.Duration) rehearsal.Effect {
		return rehearsal.Effect{Effect: "say", Courtesy: "greet", Output: "chat", Event: "line of " + person, Person: person, To: "quayside", Text: text, At: at.Add(after)}
	}
	above := compare.Side{Effects: []rehearsal.Effect{greets("lena", "Hello Lena.", 0), greets("june", "Hello June.", time.Second)}}
	below := compare.Side{Effects: []rehearsal.Effect{greets("lena", "Good evening, Lena.", 0), greets("june", "Hello June.", 30*time.Second)}}
	for _, d := range compare.Two(above, below, time.UTC) {
		fmt.Println(d.Says())
	}
	// Output:
	// other words
	// 29 s later
}
