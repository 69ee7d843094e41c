package spoken_test

import (
	"fmt"
	"strings"
	"testing"

	"vividporch/core/spoken"
)

func lexicon() *spoken.Lexicon {
	x := &spoken.Lexicon{}
	for _, name := range []string{"tides", "Café", "ölfarbe", "lamp", "?lamp", "low_water", "7up", "!!loud", "STRASSE"} {
		x.Name(name)
	}
	for _, phrase := range []string{"tide", "low tide", "what is a limpet", "Maré", "don't panic", "9 metres"} {
		x.Phrase(phrase)
	}
	return x
}

func TestALineAsksForACommandHoweverItIsSpelt(t *testing.T) {
	x := lexicon()
	for _, c := range []struct {
		name, line, signs string
		command, signed   string
		rest              string
	}{
		{"plain", "!tides", "!", "tides", "", ""},
		{"in capitals", "!TIDES", "!", "tides", "", ""},
		{"in both", "!TiDeS", "!", "tides", "", ""},
		{"with words behind", "!tides how high?", "!", "tides", "", "how high?"},
		{"with blanks around", "   !tides    how   high? ", "!", "tides", "", "how   high?"},
		{"with a tab behind", "!tides\thow", "!", "tides", "", "how"},
		{"full width", "！ｔｉｄｅｓ", "!", "tides", "", ""},
		{"half of it full width", "!ｔｉdes", "!", "tides", "", ""},
		{"an ideographic blank behind", "!tides　how", "!", "tides", "", "how"},
		{"a zero-width blank in front", "\u200b!tides", "!", "tides", "", ""},
		{"zero-width blanks within", "!ti\u200bd\u200bes", "!", "tides", "", ""},
		{"a word joiner in front", "\u2060!tides", "!", "tides", "", ""},
		{"a soft hyphen within", "!ti\u00addes", "!", "tides", "", ""},
		{"a right-to-left mark in front", "\u200f!tides", "!", "tides", "", ""},
		{"a right-to-left override", "\u202e!tides\u202c", "!", "tides", "", ""},
		{"a byte order mark", "\ufeff!tides", "!", "tides", "", ""},
		{"a joiner within", "!ti\u200ddes", "!", "tides", "", ""},
		{"an emoji in front", "🐚 !tides", "!", "tides", "", ""},
		{"several in front, without a blank", "🐚🌊!tides", "!", "tides", "", ""},
		{"a toned emoji in front", "👋🏽 !tides", "!", "tides", "", ""},
		{"an emoji of several in front", "👩‍🔬 !tides", "!", "tides", "", ""},
		{"an emoji behind", "!tides 🐚", "!", "tides", "", "🐚"},
		{"a comma behind", "!tides, please", "!", "tides", "", "please"},
		{"a question mark behind", "!tides?", "!", "tides", "", ""},
		{"excited", "!tides!!", "!", "tides", "", ""},
		{"without its accent", "!cafe", "!", "cafe", "", ""},
		{"with its accent", "!CAFÉ", "!", "cafe", "", ""},
		{"the accent as a mark of its own", "!cafe\u0301", "!", "cafe", "", ""},
		{"an umlaut in capitals", "!ÖLFARBE", "!", "olfarbe", "", ""},
		{"a digit first", "!7up", "!", "7up", "", ""},
		{"an underscore", "!low_water", "!", "low_water", "", ""},
		{"two commands: the first", "!tides !lamp", "!", "tides", "", "!lamp"},
		{"another sign of the platform", "?tides", "!?", "tides", "", ""},
		{"a sign of its own", "?lamp", "!", "", "?lamp", ""},
		{"a sign of its own, and the platform's", "?lamp", "?", "lamp", "?lamp", ""},
		{"the platform's sign alone", "!lamp", "!", "lamp", "", ""},
		{"two signs of its own", "!!loud", "!", "", "!!loud", ""},
		{"a sign beyond ASCII", "¡tides", "¡", "tides", "", ""},
		{"a rare sign", "➤tides", "➤!", "tides", "", ""},

		{"a sign that is none here", "?tides", "!", "", "", ""},
		{"no sign", "tides", "!", "", "", ""},
		{"in the middle of a line", "what does !tides do", "!", "", "", ""},
		{"the sign alone", "!", "!", "", "", ""},
		{"the sign and a blank", "! tides", "!", "", "", ""},
		{"a longer word", "!tidesx", "!", "", "", ""},
		{"a shorter word", "!tid", "!", "", "", ""},
		{"letters that look alike", "!tіdes", "!", "", "", ""}, // with a Cyrillic i
		{"a command in an address", "https://quayside.example/!tides", "!", "", "", ""},
		{"a command behind a name", "@porchlamp !tides", "!", "", "", ""},
		{"nothing", "", "!", "", "", ""},
		{"blanks", "   ", "!", "", "", ""},
		{"emoji alone", "🐚🌊", "!", "", "", ""},
		{"broken text", "!\xff\xfetides", "!", "", "", ""},
		{"a very long word", "!" + strings.Repeat("x", 4000), "!", "", "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			h := x.Read(c.line, c.signs)
			if h.Name != c.command || h.Signed != c.signed {
				t.Errorf("%q with %q: %q, %q", c.line, c.signs, h.Name, h.Signed)
			}
			if h.Phrase == "" && h.Rest != c.rest {
				t.Errorf("%q: rest %q", c.line, h.Rest)
			}
		})
	}
}

func TestWordsAreHeardAnywhereInASentence(t *testing.T) {
	x := lexicon()
	for _, c := range []struct{ name, line, phrase string }{
		{"in the middle", "when is the tide in?", "tide"},
		{"the longer of two", "is it low tide now", "low tide"},
		{"in any case", "LOW   Tide!", "low tide"},
		{"the longer, though it comes later", "a tide, and then: what is a limpet?", "what is a limpet"},
		{"without its accent", "a mare sobe", "mare"},
		{"with it", "A MARÉ sobe", "mare"},
		{"full width", "ｔｉｄｅ tables", "tide"},
		{"with an apostrophe", "don't panic", "don't panic"},
		{"with a digit", "it is 9 metres", "9 metres"},
		{"between marks", "(tide)", "tide"},
		{"a zero-width blank within", "ti\u200bde", "tide"},
		{"part of a longer word", "tidewrack is here", ""},
		{"joined by an underscore", "low_tide", ""},
		{"in an address", "see https://tide.example/low tide-tables", "tide"},
		{"in an address alone", "see https://tide.example/low", ""},
		{"an address breaks a phrase", "low https://x.example tide", "tide"},
		{"words in another order", "tide low", "tide"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if h := x.Read(c.line, "!"); h.Phrase != c.phrase || h.Name != "" {
				t.Errorf("%q: %+v", c.line, h)
			}
		})
	}
	if h := x.Read("!tides at low tide", "!"); h.Phrase != "" || h.Name != "tides" {
		t.Errorf("a command is no sentence: %+v", h)
	}
}

func ExampleLexicon_Read() {
	var x spoken.Lexicon
	x.Name("tides")
	x.Phrase("low tide")
	fmt.Printf("%+q\n", x.Read("!Tides tomorrow?", "!").Rest)
	fmt.Println(x.Read("when is it low tide?", "!").Phrase)
	// Output:
	// "tomorrow?"
	// low tide
}

func FuzzALineIsReadWithoutHarm(f *testing.F) {
	x := lexicon()
	for _, s := range []string{"!tides", "🐚 !tides \u200b", "low tide", "\xff!\xfe", "！ｔ", "@a !b"} {
		f.Add(s, "!?")
	}
	f.Fuzz(func(t *testing.T, line, signs string) {
		h := x.Read(line, signs)
		if h.Name != "" && h.Phrase != "" {
			t.Errorf("%q is both: %+v", line, h)
		}
		if h.Rest != "" && !strings.Contains(line, h.Rest) {
			t.Errorf("%q: the rest %q never stood there", line, h.Rest)
		}
		if h.Name != "" && x.Read(line, signs) != h {
			t.Errorf("%q is read in two ways", line)
		}
	})
}

func TestAWordIsKnownHoweverItIsDrawnOut(t *testing.T) {
	for _, c := range []struct {
		word, of string
		is       bool
	}{
		{"hey", "hey", true}, {"heyyy", "hey", true}, {"heeeeyyyyy", "hey", true}, {"heyy", "hey", false}, {"he", "hey", false}, {"heyo", "hey", false},
		{"hello", "hello", true}, {"helllo", "hello", true}, {"hellooooo", "hello", true}, {"helo", "hello", false}, {"olááá", "olá", true}, {"", "hey", false}, {"hey", "", false},
	} {
		if got := spoken.Stretched(c.word, c.of); got != c.is {
			t.Errorf("%q of %q: %v", c.word, c.of, got)
		}
	}
}
