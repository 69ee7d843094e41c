package wording_test

import (
	"fmt"
	"strings"
	"testing"

	"vividporch/core/wording"
)

func render(t *testing.T, src string, args wording.Args) string {
	t.Helper()
	w, err := wording.Parse(src)
	if err != nil {
		t.Fatalf("%q: %v", src, err)
	}
	return w.Render(args)
}

func TestWordingsAreFilledInAsICUSays(t *testing.T) {
	args := wording.Args{"name": wording.Name("Limpet Lena"), "streams": wording.Num(41), "one": wording.Num(1), "zero": wording.Num(0),
		"big": wording.Num(12345), "kind": wording.Str("raid"), "part": {Num: 0.12, IsNum: true}}
	for src, want := range map[string]string{
		"Hello {name}!":           "Hello Limpet Lena!",
		"{streams, number}":       "41",
		"{big, number}":           "12,345",
		"{part, number, percent}": "12%",
		"{one, plural, one {# stream} other {# streams}}":                                     "1 stream",
		"{streams, plural, one {# stream} other {# streams}}":                                 "41 streams",
		"{zero, plural, =0 {none} one {one} other {#}}":                                       "none",
		"{streams, plural, offset:1 =1 {you} one {you and # other} other {you and # others}}": "you and 40 others",
		"{streams, selectordinal, one {#st} two {#nd} few {#rd} other {#th}}":                 "41st",
		"{kind, select, raid {came over} other {came}}":                                       "came over",
		"{kind, select, raid {{streams, plural, one {one} other {# times}}} other {x}}":       "41 times",
		"It''s '{name}' and {name}":                                                           "It's {name} and Limpet Lena",
		"Don't stop":                                                                          "Don't stop",
		"{streams, plural, other {'#' is #}}":                                                 "# is 41",
		"a {missing} b":                                                                       "a b",
		"Hello {missing}, hello":                                                              "Hello, hello",
		"{hasX, select, yes {last at {x}} other {come in}}":                                   "come in",
		"🌊{name}🌊":                                                                            "🌊Limpet Lena🌊",
	} {
		if got := render(t, src, args); got != want {
			t.Errorf("%s\n gave %q, want %q", src, got, want)
		}
	}
}

func TestAFaultIsNamedAtItsPlace(t *testing.T) {
	for src, at := range map[string]int{
		"Hello {name":                            6,
		"Hello }":                                6,
		"Hello {}":                               6,
		"{n, plural, one {x}}":                   0,
		"{n, plural, some {x} other {y}}":        12,
		"{n, plural, one {x} one {y} other {z}}": 20,
		"{n, colour, red}":                       4,
		"{two words}":                            0,
		"{n, number, shouted}":                   12,
		"{x, select, a {b} other {c}":            0,
	} {
		_, err := wording.Parse(src)
		p, ok := err.(*wording.Problem)
		if !ok || p.From != at || p.Remedy == "" {
			t.Errorf("%q: got %v, want a fault at %d with a remedy", src, err, at)
		}
	}
	if _, err := wording.Parse(strings.Repeat("{a, select, other {", 100)); err == nil {
		t.Error("a hundred levels should be refused")
	}
}

func TestAnUnknownFillInIsMarkedWithTheNearestOne(t *testing.T) {
	w, err := wording.Parse("Hello {nmae}, {streams, select, other {x}}, {category}")
	if err != nil {
		t.Fatal(err)
	}
	ps := w.Check([]wording.FillIn{{Name: "name", Kind: wording.Text}, {Name: "streams", Kind: wording.Number}, {Name: "category", Kind: wording.Text, Optional: true}})
	if len(ps) != 2 || ps[0].From != 6 || !strings.Contains(ps[0].Remedy, "{name}") || !strings.Contains(ps[1].What, "not always known") {
		t.Errorf("got %+v", ps)
	}
}

func TestValuesAreNeverParsedAgain(t *testing.T) {
	if got := render(t, "Hello {name}", wording.Args{"name": wording.Name("{streams} {n, plural, other {#}}"), "streams": wording.Num(3)}); got != "Hello {streams} {n, plural, other {#}}" {
		t.Errorf("got %q", got)
	}
}

func TestAlternativesThatLackAValueGiveWay(t *testing.T) {
	var alts []*wording.Wording
	for _, src := range []string{"at {link}", "hello", "see {link}"} {
		w, _ := wording.Parse(src)
		alts = append(alts, w)
	}
	for seed := range uint64(50) {
		if i, _ := wording.Choose(alts, nil, wording.Args{}, nil, wording.Seed(fmt.Sprint(seed))); i != 1 {
			t.Fatalf("chose %q without a link", alts[i])
		}
	}
}

func TestTheSameSeedChoosesTheSame(t *testing.T) {
	var alts []*wording.Wording
	for i := range 7 {
		w, _ := wording.Parse(fmt.Sprint("alternative ", i))
		alts = append(alts, w)
	}
	hit := map[int]bool{}
	for n := range 200 {
		s := wording.Seed("seed", fmt.Sprint(n))
		a, _ := wording.Choose(alts, nil, nil, nil, s)
		if b, _ := wording.Choose(alts, nil, nil, nil, s); a != b {
			t.Fatal("chance is not data")
		}
		hit[a] = true
	}
	if len(hit) != 7 {
		t.Errorf("only %d of 7 alternatives are ever chosen", len(hit))
	}
}

func TestARoundUsesEveryAlternativeAsOftenAsItsWeightSays(t *testing.T) {
	var alts []*wording.Wording
	for _, src := range []string{"often", "now and then", "rarely"} {
		w, _ := wording.Parse(src)
		alts = append(alts, w)
	}
	weights := []int{3, 1} // the third has none and counts 1
	of := wording.Of(alts, weights)
	var used wording.Used
	for round := range 20 {
		count, last := map[int]int{}, -1
		for n := range of {
			i, mark := wording.Choose(alts, weights, nil, used, wording.Seed(fmt.Sprint(round, n)))
			used = used.Next(mark, of)
			count[i]++
			if last == i && count[i] < 3 && of-n > 2 {
				t.Errorf("round %d: %q twice running", round, alts[i])
			}
			last = i
		}
		// Each round starts with the last one of the round before remembered, so it may
		// hold one of them more or less.
		if count[0] < 2 || count[1] > 2 || count[2] > 2 {
			t.Errorf("round %d: %v", round, count)
		}
	}
}

func FuzzAnyWordingIsReadOrRefusedWithoutHarm(f *testing.F) {
	for _, s := range []string{"Hello {name}", "{n, plural, offset:1 =1 {a} other {#}}", "'{'", "{a, select, other {{b}}}", "''", "}{"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, src string) {
		w, err := wording.Parse(src)
		if err != nil {
			p := err.(*wording.Problem)
			if p.From < 0 || p.To > len(src) || p.From > p.To && p.From > len(src) {
				t.Fatalf("a place outside the wording: %+v of %d", p, len(src))
			}
			return
		}
		w.Render(wording.Args{"name": wording.Name("x"), "n": wording.Num(3)})
		w.Check(nil)
	})
}
