package plain_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"vividporch/core/plain"
)

func TestHonestNamesStayAsTheyAre(t *testing.T) {
	for _, n := range []string{"limpet_lena", "Åse Ødegård", "नमस्ते", "สวัสดี", "👩‍🔬 Ana", "ضفدع", "J. R. Weed", "ﾐｽﾞ", "🏴󠁧󠁢󠁳󠁣󠁴󠁿 Isla"} {
		if got := plain.Name(n); got != n {
			t.Errorf("%q became %q", n, got)
		}
	}
}

func TestHarmIsTakenOut(t *testing.T) {
	for in, want := range map[string]string{
		"a\r\nb":              "a b",
		"a\x00b\x07":          "a b",
		"\u202eabc\u202c":     "abc",
		"\u2066x\u2069\u200f": "x",
		"  two   spaces ":     "two spaces",
		"\xff\xfe":            "",
		"\u0301\u0301":        "",
	} {
		if got := plain.Name(in); got != want {
			t.Errorf("%q became %q, want %q", in, got, want)
		}
	}
	if got := plain.Name("e" + strings.Repeat("\u0301", 2048)); utf8.RuneCountInString(got) > 5 {
		t.Errorf("a tower of marks is still %d high", utf8.RuneCountInString(got))
	}
	if got := plain.Name(strings.Repeat("k", 500)); utf8.RuneCountInString(got) != plain.NameRunes+1 || !strings.HasSuffix(got, "…") {
		t.Errorf("a long name is cut to %d", utf8.RuneCountInString(got))
	}
}

func TestALineCannotBecomeACommandOrACall(t *testing.T) {
	for _, s := range []string{"/ban all", ".mod me", "!kick", "  /me", "\\x"} {
		g := plain.Guard(s, plain.CommandSigns)
		if strings.ContainsRune(plain.CommandSigns, []rune(g)[0]) || !strings.Contains(g, strings.TrimSpace(s)) {
			t.Errorf("%q became %q", s, g)
		}
	}
	if g := plain.Guard("hello /ban", plain.CommandSigns); g != "hello /ban" {
		t.Errorf("a sign inside is harmless: %q", g)
	}
	if g := plain.NoPing("@all and <@1>"); strings.Contains(g, "@all") || strings.Contains(g, "<@") {
		t.Errorf("still calls: %q", g)
	}
}

func TestNamesAreTakenOutOfSentencesWhereTheyStandWhole(t *testing.T) {
	names := []string{"limpet_lena", "Lena M", "gull", "ed", "=1+1", "潮の子たち"}
	for in, want := range map[string]string{
		"Welcome back, limpet_lena!":  "Welcome back, somebody!",
		"limpet_lena and limpet_lena": "somebody and somebody",
		"limpet_lena2 is another":     "limpet_lena2 is another",
		"xlimpet_lena":                "xlimpet_lena",
		"@limpet_lena's tide":         "@somebody's tide",
		"Lena M brought 12":           "somebody brought 12",
		"Seagull, gulls, gull":        "Seagull, gulls, somebody",
		"ed was fed":                  "ed was fed",
		"=1+1":                        "=1+1",
		"おかえり、潮の子たち!":                 "おかえり、somebody!",
		"":                            "",
		"nobody is named here":        "nobody is named here",
		"limpet_lena":                 "somebody",
		"gull gull gull":              "somebody somebody somebody",
	} {
		if got := plain.Without(in, names); got != want {
			t.Errorf("%q becomes %q, not %q", in, got, want)
		}
	}
}
