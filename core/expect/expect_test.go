package expect_test

import (
	"fmt"
	"strings"
	"testing"

	"vividporch/core/expect"
	"vividporch/core/lookback"
	"vividporch/core/rehearsal"
)

func lived(texts ...string) *rehearsal.Lived {
	l := &rehearsal.Lived{Evening: &lookback.Evening{House: len(texts)}}
	for _, text := range texts {
		l.Effects = append(l.Effects, rehearsal.Effect{Effect: "say", Courtesy: "greet", To: "quayside", Text: text})
	}
	return l
}

func TestAnEveningGoesAsItWasKeptAndWhatIsMissingIsNamed(t *testing.T) {
	want := expect.Of(lived("Hello Lena.", "Hello June."))
	if m := want.Misses(lived("Hello June.", "Hello Lena.")); len(m) > 0 {
		t.Errorf("the same in another order: %v", m)
	}
	m := want.Misses(lived("Hello Lena."))
	if len(m) != 2 || m[0].Says != `was not said: greet say quayside "Hello June."` || m[1].Says != "lines: 1, expected 2" {
		t.Errorf("%+v", m)
	}
}

func TestALineThatStandsTwiceHasToBeSaidTwice(t *testing.T) {
	want := expect.Expected{Format: expect.Format, Said: []expect.Line{{Text: "Hello."}, {Text: "Hello."}}}
	if m := want.Misses(lived("Hello.", "Hello.")); len(m) > 0 {
		t.Errorf("%v", m)
	}
	if m := want.Misses(lived("Hello.")); len(m) != 1 {
		t.Errorf("%v", m)
	}
}

func ExampleExpected_Misses() {
	want, _ := expect.Read(strings.NewReader(`{"format": 1, "unsaid": [{"text": "Hello Lena."}], "counts": {"lines": {"most": 1}}}`))
	for _, m := range want.Misses(lived("Hello Lena.", "Hello June.")) {
		fmt.Println(m.What)
	}
	// Output:
	// was said, and must not be
	// lines
}
