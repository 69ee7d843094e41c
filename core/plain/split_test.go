package plain_test

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/rivo/uniseg"

	"vividporch/core/plain"
)

func FuzzSplittingCutsNoCharacter(f *testing.F) {
	f.Add("hello there, how are you tonight", 12)
	f.Add("👩‍🔬👩‍🔬👩‍🔬🏴󠁧󠁢󠁳󠁣󠁴󠁿 नमस्ते", 30)
	f.Add("/ban all /ban all /ban all", 9)
	f.Fuzz(func(t *testing.T, text string, most int) {
		if most < 8 || most > 600 || len(text) > 3000 {
			return
		}
		whole := map[string]bool{}
		for g := uniseg.NewGraphemes(strings.TrimSpace(text)); g.Next(); {
			whole[g.Str()] = true
		}
		for i, part := range plain.Split(text, most, "/.!") {
			if len(part) > most {
				t.Fatalf("%d bytes of at most %d: %q", len(part), most, part)
			}
			if i > 0 && strings.ContainsAny(part[:1], "/.!") {
				t.Fatalf("a piece begins a command: %q", part)
			}
			for g := uniseg.NewGraphemes(strings.TrimPrefix(part, "\u2060")); g.Next(); {
				c := g.Str() // only a blank at a cut may have been taken off
				if !whole[c] && !whole[" "+c] && !whole[c+" "] {
					t.Fatalf("%q is no character of %q", g.Str(), text)
				}
			}
		}
	})
}

func TestALongLineIsSplitBetweenWords(t *testing.T) {
	got := plain.Split("the tide goes out and the pools stay behind", 20, "/")
	if len(got) != 3 || got[0] != "the tide goes out" || strings.Join(got, " ") != "the tide goes out and the pools stay behind" {
		t.Errorf("%q", got)
	}
	if got := plain.Split(strings.Repeat("👩‍🔬", 10), 25, ""); len(got[0])%len("👩‍🔬") != 0 {
		t.Errorf("a scientist was cut: %q", got[0])
	}
}

func TestRandomLinesAreNeverCutWithinACharacter(t *testing.T) {
	words := []string{"low", "water", "🏴󠁧󠁢󠁳󠁣󠁴󠁿", "e\u0301t\u0301e\u0301", "👩‍👩‍👧‍👦", "anemone", "https://quayside.example/night_heron_cam", "x", "日本語の潮", "…", "🇵🇹🇳🇴🇮🇪", "नमस्ते", "한국어", "ก็ได้", "👍🏽", "١٢٣", "\u0600١"}
	r := rand.New(rand.NewPCG(7, 7))
	for range 20_000 {
		var b strings.Builder
		for range 1 + r.IntN(30) {
			b.WriteString(words[r.IntN(len(words))])
			if r.IntN(4) > 0 {
				b.WriteByte(' ')
			}
		}
		ends, at := map[int]bool{}, 0
		text := strings.TrimSpace(b.String())
		for g := uniseg.NewGraphemes(text); g.Next(); {
			at += len(g.Str())
			ends[at] = true
		}
		from := 0
		for _, part := range plain.Split(text, 40+r.IntN(120), "") {
			i := strings.Index(text[from:], part)
			if i < 0 {
				t.Fatalf("%q is no piece of %q", part, text)
			}
			if from += i + len(part); !ends[from] {
				t.Fatalf("%q ends within a character of %q", part, text)
			}
		}
		if rest := strings.TrimSpace(text[from:]); rest != "" {
			t.Fatalf("%q is lost of %q", rest, text)
		}
	}
}
