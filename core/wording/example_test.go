package wording_test

import (
	"fmt"

	"vividporch/core/wording"
)

// A wording is parsed once, held against what its courtesy can offer, and filled in for
// whoever it is about. What stands in a value is never parsed.
func Example() {
	w, err := wording.Parse("Welcome back, {name}! That makes {streams, plural, one {# stream} other {# streams}} together.")
	if err != nil {
		fmt.Println(err)
		return
	}
	offered := []wording.FillIn{{Name: "name", Kind: wording.Text}, {Name: "streams", Kind: wording.Number}}
	fmt.Println(len(w.Check(offered)), "problems")
	fmt.Println(w.Render(wording.Args{"name": wording.Name("Limpet {Lena}"), "streams": wording.Num(4)}))
	fmt.Println(w.Render(wording.Args{"name": wording.Name("kelpwright"), "streams": wording.Num(1)}))
	// Output:
	// 0 problems
	// Welcome back, Limpet {Lena}! That makes 4 streams together.
	// Welcome back, kelpwright! That makes 1 stream together.
}

// A problem says where it is and what to do about it.
func ExampleWording_Check() {
	w, _ := wording.Parse("Good evening, {nmae}!")
	for _, p := range w.Check([]wording.FillIn{{Name: "name", Kind: wording.Text}}) {
		fmt.Println(p.What, p.Remedy)
	}
	// Output:
	// there is no fill-in {nmae} here did you mean {name}?
}
