package wordlist_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"unicode/utf8"

	"vividporch/core/wordlist"
)

var listed = wordlist.New([]wordlist.Word{{Text: "limpet"}, {Text: "later"}, {Text: "good"}, {Text: "bail"}, {Text: "sill"}, {Text: "cod"}, {Text: "eel pie"}, {Text: "mud"}, {Text: "краб"}, {Text: "älg"},
	{Text: "whelk", Part: true}, {Text: "squid", Part: true}})

func TestAWordIsFoundHoweverItIsDisguised(t *testing.T) {
	for _, text := range []string{
		// as it is
		"limpet", "a limpet!", "LIMPET", "Limpet.", "(limpet)", "\"limpet\"", "limpet,limpet", "#limpet", "you limpet", "limpet's", "limpet?!", "…limpet…",
		// look-alikes: Cyrillic, Greek, and what else the standard knows
		"lіmpet", "limреt", "ⅼimpet", "liмpet", "lιmpet", "limpеt", "LІMРЕТ", "сod", "ϲod", "cоd", "ӏimpet", "ｌｉｍｐｅｔ", "ＬＩＭＰＥＴ", "𝐥𝐢𝐦𝐩𝐞𝐭", "𝓵𝓲𝓶𝓹𝓮𝓽", "𝕝𝕚𝕞𝕡𝕖𝕥", "ℓimpet", "ⓛⓘⓜⓟⓔⓣ",
		"bаil", "baіl", "sіll", "ｍｕｄ", "mυd", "gооd", "gοοd", "lаter", "latеr",
		// accents
		"lïmpet", "límpét", "l̷i̷m̷p̷e̷t̷", "lįmpet", "ĺīmpęt", "çod", "cöd", "cód", "mûd", "gôôd",
		// letters repeated
		"liiimpet", "limmmmpet", "llliiimmmpppeeettt", "lliimmppeett", "gooood", "goood", "laaaater", "laterrrr", "coddd", "muuuud",
		// digits and signs
		"l1mpet", "limp3t", "11mp37", "l!mpet", "c0d", "g00d", "l4ter", "l@ter", "7limpet", "limpet7", "limpet2031", "$ill", "5ill", "ba1l", "ba|l", "baiI", "si11", "6ood",
		// blanks, dots and what else goes between
		"l i m p e t", "l.i.m.p.e.t", "l-i-m-p-e-t", "l_i_m_p_e_t", "l*i*m*p*e*t", "l  i  m  p  e  t", "l . i . m . p . e . t", "lim.pet", "lim-pet", "li*mpet", "l/i/m/p/e/t", "l,i,m,p,e,t", "you are a l i m p e t", "ll ii mm pp ee tt",
		"c o d", "c.o.d", "m u d !", "g o o d",
		// what nobody sees, and the other way round
		"lim\u200bpet", "l\u200di\u200cm\ufeffpet", "lim\u00adpet", "\u202etepmil", "\u202edoc", "lim\ufe0fpet", "l\u2060impet",
		// other scripts, and words of theirs
		"краб", "КРАБ", "к р а б", "кpaб", "älg", "ÄLG", "a\u0308lg",
		// parts, within others
		"whelk", "whelkish", "dogwhelk", "the dog-whelks", "wh3lk5", "whеlk", "w.h.e.l.k.s", "squidgy", "supersquid", "sqüids", "w h e l k s",
	} {
		if w, ok := listed.Find(text); !ok {
			t.Errorf("%q is not found", text)
		} else if w.Text == "" {
			t.Errorf("%q finds no word", text)
		}
	}
}

func TestOrdinaryWordsAreLeftAlone(t *testing.T) {
	for _, text := range []string{
		"", " ", "limpets", "limp et al", "simple tea", "limp", "impetus", "a lamp", "the limpid pool",
		"latter", "the latter half", "lateral", "collateral", "translate r", "plate", "slater",
		"god", "goods", "goody", "oh my god", "goad", "a good-bye", // "good-bye" is one word, and good is a piece of it
		"ball", "the hall", "ail", "bails", "ba ll", "a bald eagle", "abail",
		"silly", "sili", "slil", "still", "sell", "siii", "windowsills",
		"code", "codes", "decode", "c code", "cod3s", "co", "doc", "coda", "codd", // one letter more is how words are spelt
		"muddy", "mudflat", "i am mu", "d", "emu d",
		"eel", "pie", "крабы", "раб", "alg", "algae", "elg",
		"whale", "wheel", "whel k", "squad", "squat", "squ id",
		"1000", "2031", "10", "3", "17:30", "100 %", "$5", "5 €", "7+1", "0,5", "1234567890",
		"hello!", "@sillywalk", "@mudlark_7", "what? no!", "a!b", "!!!", "$$$", "@@@",
		"i a m a l e t", "a b c", "I am I", "x y z", "o k", "b a", "t i d e", "w a v e",
		"👍", "🦀🦀🦀", "❤️", "日本語", "こんにちは", "مرحبا", "שלום",
	} {
		if w, ok := listed.Find(text); ok && text != "a good-bye" {
			t.Errorf("%q is taken for %q", text, w.Text)
		}
	}
}

// However a word is disguised by rule, it is found; the rules are those that people use.
func TestRandomDisguisesAreSeenThrough(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	looks := map[rune][]string{'l': {"1", "|", "ⅼ", "Ｌ", "I"}, 'i': {"1", "!", "і", "ï", "Ｉ"}, 'm': {"м", "ｍ", "Ⅿ"}, 'p': {"р", "Ｐ"}, 'e': {"3", "е", "é", "ｅ"}, 't': {"7", "Ｔ", "т"}}
	for range 2000 {
		var b strings.Builder
		between := []string{"", "", "", ".", "-", " ", "\u200b"}[r.IntN(7)]
		signs := 0
		for i, c := range "limpet" {
			if i > 0 {
				b.WriteString(between)
			}
			s := string(c)
			if of := looks[c]; r.IntN(3) == 0 && signs < 4 && !(i == 0 || i == 5) {
				s = of[r.IntN(len(of))]
				signs++
			}
			if s == string(c) && r.IntN(6) == 0 && between == "" {
				s = strings.Repeat(s, 3+r.IntN(3))
			}
			b.WriteString(s)
		}
		if (between == "." || between == "-" || between == " ") && strings.ContainsAny(b.String(), "|!") {
			continue // a sign that stands alone is a sign
		}
		text := "you " + b.String() + " you"
		if _, ok := listed.Find(text); !ok {
			t.Fatalf("%q is not found", text)
		}
	}
}

func FuzzWhateverIsWrittenTheListTellsOfItself(f *testing.F) {
	f.Add("l i m p e t")
	f.Add("\u202etepmil \xff\xfe")
	f.Add("1!|$@ 4u")
	f.Fuzz(func(t *testing.T, text string) {
		if w, ok := listed.Find(text); ok && w.Text == "" {
			t.Fatal("found nothing")
		}
		if utf8.ValidString(text) && len(text) > 0 && len(text) < 60 { // any text is a list's own word
			own := wordlist.New([]wordlist.Word{{Text: text}})
			if !own.Empty() && strings.IndexFunc(text, func(r rune) bool { return r < 'a' || r > 'z' }) < 0 {
				if _, ok := own.Find(text); !ok {
					t.Fatalf("%q is not itself", text)
				}
			}
		}
	})
}

func ExampleList_Find() {
	l := wordlist.New([]wordlist.Word{{Text: "limpet"}})
	w, ok := l.Find("what a L1MP.Ёt")
	fmt.Println(w.Text, ok)
	// Output: limpet true
}

func BenchmarkALineThroughTwoThousandWords(b *testing.B) {
	var words []wordlist.Word
	r := rand.New(rand.NewPCG(1, 1))
	for range 2000 {
		w := ""
		for range 4 + r.IntN(8) {
			w += string(rune('a' + r.IntN(26)))
		}
		words = append(words, wordlist.Word{Text: w, Part: r.IntN(3) == 0})
	}
	l := wordlist.New(words)
	b.ResetTimer()
	for range b.N {
		l.Find("what was that under the weed, line 37? it looked like a blenny to me, but bigger")
	}
}
