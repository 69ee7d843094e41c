package trouble_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"testing"

	"vividporch/core/trouble"
	"vividporch/core/wordlist"
)

// before is what was said before: the same by this person so often, by so many others.
type before struct{ same, others int }

func (b before) Same(*trouble.Line, float64) int   { return b.same }
func (b before) Others(*trouble.Line, float64) int { return b.others }

func rule(t *testing.T, file string) trouble.Rule {
	t.Helper()
	var r trouble.Rule
	if err := json.Unmarshal([]byte(file), &r); err != nil {
		t.Fatal(err)
	}
	return r
}

func TestEachRuleFindsWhatItIsForAndLeavesTheRest(t *testing.T) {
	for name, c := range map[string]struct {
		rule        string
		finds, fine []string
		want        string // of the first
		before      trouble.Lately
	}{
		"capitals": {rule: `{"kind":"capitals","percent":70,"from":8}`, want: "100 % capitals",
			finds: []string{"WHAT WAS THAT", "LOOK AT that BLENNY", "ÄÖÜ ÄÖÜ ÄÖÜ"},
			fine:  []string{"what was THAT", "OH NO", "WOW", "1234567890", "こんにちは皆さんお元気ですか", "LUL :TIDEPOOLLAMP: :TIDEPOOLLAMP:", "Limpet Lena McLimpet", ""}},
		"symbols": {rule: `{"kind":"symbols","percent":60,"from":8}`, want: "100 % signs",
			finds: []string{"!?!?!?!?!?", "(╯°□°)╯︵ ┻━┻", "▓▓▓▓▓▓▓▓▓▓"}, fine: []string{"what?!", "12:30 - 13:30", "☺☺☺☺☺☺☺☺☺☺☺", "hello, is it moving? (the star)", "…"}},
		"emoji": {rule: `{"kind":"emoji","most":3}`, want: "4 emoji",
			finds: []string{"🦀🦀🦀🦀", "a🐚b🐚c🐚d🐚"}, fine: []string{"🦀🦀🦀", "👩‍👩‍👧‍👦👍🏽❤️", "", "1234"}},
		"emotes": {rule: `{"kind":"emotes","most":2}`, want: "3 emotes",
			finds: []string{":limpet: :limpet: :limpet:", ":a1: hi :b_2: x :c-3:"}, fine: []string{":limpet: :limpet:", "12:30:45 13:10:20 14:00:00", "a:b:c", ": : : :"}},
		"one emote": {rule: `{"kind":"one emote","named":[":limpet:","tidepoolWave"]}`, want: "the emote :limpet:",
			finds: []string{"hi :limpet:", "tidepoolWave"}, fine: []string{":limpets:", "tidepoolwave", "hi"}},
		"length": {rule: `{"kind":"length","most":20}`, want: "21 characters",
			finds: []string{strings.Repeat("a", 21), strings.Repeat("é", 21), strings.Repeat("a ", 30)}, fine: []string{strings.Repeat("a", 20), strings.Repeat("a\u0301", 20), "a a a a a a a a a a a a a"}},
		"again": {rule: `{"kind":"again","times":3,"seconds":60,"from":4}`, want: "the same 3 times", before: before{same: 2},
			finds: []string{"buy shells"}, fine: []string{"hi", "no"}},
		"several": {rule: `{"kind":"several","people":4,"seconds":60,"from":10}`, want: "the same from 4 people", before: before{others: 3},
			finds: []string{"buy my shells here"}, fine: []string{"hello all", "hi"}},
		"words": {rule: `{"kind":"words","words":[{"text":"limpet"}]}`, want: "the word “limpet”", finds: []string{"a L1MPET", "l i m p e t"}, fine: []string{"limpets", "lamp"}},
		"links": {rule: `{"kind":"links","allow":["quayside.example"]}`, want: "a link to shells.example",
			finds: []string{"https://shells.example/x", "look shells.example", "(shells.com)", "www.shells.so", "HTTP://SHELLS.EXAMPLE", "shells.example/free?x=1", "http://10.0.0.1/x", "shells。com", "shells.co.uk", "http://quayside.example@shells.example/", "quayside.example.shells.com", "https://xn--shlls-hra.example", "t.me/shells", "shells.is/here"},
			fine:  []string{"https://quayside.example/limpet", "clips.quayside.example/1", "done.it was nice", "nice.So what", "e.g. this", "1.5", "v2.31.4", "10.0.0.1", "limpet@shells.example", "...", "wait...what", "a.b", "12.05.2031", "is.it", "", "hm.. ok", "file.txt"}},
	} {
		t.Run(name, func(t *testing.T) {
			r := rule(t, c.rule)
			r.ID, r.Then = "r", trouble.Usual()
			r.Check(func(at, what, remedy string) { t.Errorf("%s %s: %s", at, what, remedy) })
			if r.Do.Says() == "" || r.Spec().Title == "" {
				t.Error("nobody can tell what it is for")
			}
			for i, text := range c.finds {
				if got := r.Do.Finds(&trouble.Line{Text: text}, c.before); got == "" || i == 0 && got != c.want {
					t.Errorf("%q: %q, want %q", text, got, c.want)
				}
			}
			for _, text := range c.fine {
				if got := r.Do.Finds(&trouble.Line{Text: text}, c.before); got != "" {
					t.Errorf("%q: %q", text, got)
				}
			}
		})
	}
}

func TestWhatIsSaidTwiceIsTheSameHoweverItIsWritten(t *testing.T) {
	digest := func(s string) uint64 { return (&trouble.Line{Text: s}).Digest() }
	for _, text := range []string{"BUY MY SHELLS", "buy  my shells!!", "b-u-y my shells", "buy\u200b my shells", "Buy my shells."} {
		if digest(text) != digest("buy my shells") {
			t.Errorf("%q is another", text)
		}
	}
	if digest("buy my shells") == digest("buy my whelks") || digest("こんにちは") == digest("こんばんは") {
		t.Error("what is another is the same")
	}
}

func TestWhatFollowsGrowsAndStays(t *testing.T) {
	r := rule(t, `{"id":"r","kind":"emoji","then":[{"act":"warn"},{"act":"remove"},{"act":"time-out"}]}`)
	for n, want := range []trouble.Step{{Act: trouble.Warn}, {Act: trouble.Remove}, {Act: trouble.TimeOut, Seconds: 600}, {Act: trouble.TimeOut, Seconds: 600}} {
		if got := r.Step(n); got != want {
			t.Errorf("the %d. time: %+v", n+1, got)
		}
	}
	if r.Step(-3).Act != trouble.Warn || (&trouble.Rule{}).Step(2).Act != trouble.Hold {
		t.Error("out of its bounds")
	}
}

func TestARuleIsReadAsItIsWrittenAndItsFaultsAreNamed(t *testing.T) {
	for _, s := range trouble.Catalogue {
		r := trouble.Rule{ID: "r", On: true, Do: s.New(), Then: trouble.Usual(), Not: []string{"VIPs"}}
		raw, err := json.Marshal(r)
		var again trouble.Rule
		if err != nil || json.Unmarshal(raw, &again) != nil || !reflect.DeepEqual(r, again) {
			t.Errorf("%s: %v, %s", r.Kind(), err, raw)
		}
		if len(raw) > 500 || !strings.Contains(string(raw), fmt.Sprintf(`"kind":%q`, r.Kind())) {
			t.Errorf("%s", raw)
		}
	}
	for file, want := range map[string][]string{
		`{"id":"r","kind":"hologram","then":[{"act":"warn"}]}`:                                                     {"kind"},
		`{"id":"","kind":"emoji","then":[]}`:                                                                       {"id", "then"},
		`{"id":"r","kind":"emoji","most":-1,"then":[{"act":"bite"},{"act":"time-out","seconds":9e9}]}`:             {"most", "then.0.act", "then.1.seconds"},
		`{"id":"r","kind":"links","allow":["a b","https://x.example"],"not":["regulars"],"then":[{"act":"hold"}]}`: {"allow.0", "allow.1", "not.0"},
		`{"id":"r","kind":"words","words":[{"text":"..."},{"text":"fine"},{"text":".*"}],"then":[{"act":"hold"}]}`: {"words.0", "words.2"},
		`{"id":"r","kind":"capitals","percent":0,"from":0,"days":999,"not":["everybody"],"then":[{"act":"hold"}]}`: {"days", "from", "not.0", "percent"},
		`{"id":"r","kind":"one emote","named":["a b"],"then":[{"act":"hold"}]}`:                                    {"named.0"},
	} {
		r := rule(t, file)
		at := map[string]bool{}
		r.Check(func(field, _, remedy string) { at[field] = remedy != "" })
		if got := slices.Sorted(maps.Keys(at)); !slices.Equal(got, want) || slices.Contains(slices.Collect(maps.Values(at)), false) {
			t.Errorf("%s: faults at %v, want %v", file, got, want)
		}
	}
}

// Words that look like expressions are words; fifty kilobytes of them in many scripts are read and found.
func TestAListIsTakenAsItIsGiven(t *testing.T) {
	var list []wordlist.Word
	for i := range 4000 {
		list = append(list, wordlist.Word{Text: fmt.Sprintf("w%cx%cyz", rune('a'+i%26), rune('a'+i/26%26))}, wordlist.Word{Text: "краб"}, wordlist.Word{Text: "潮"}, wordlist.Word{Text: "[a-z]+"})
	}
	w := &trouble.Words{Words: list}
	w.Check(func(at, what, remedy string) { t.Errorf("%s %s: %s", at, what, remedy) })
	too := 0
	(&trouble.Words{Words: slices.Concat(list, list)}).Check(func(string, string, string) { too++ })
	if too != 1 {
		t.Errorf("%d faults of a list that is too long", too)
	}
	for text, want := range map[string]string{"КРАБ!": "the word “краб”", "潮": "the word “潮”", "wdxayz": "the word “wdxayz”", "a-z": "the word “[a-z]+”", "anything at all": ""} {
		if got := w.Finds(&trouble.Line{Text: text}, nil); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}

func FuzzNoLineUpsetsARule(f *testing.F) {
	f.Add("https://a.b/c 🦀 ÀÁÂ :x: l i m p e t")
	f.Add("\xff\xfe\u202e。。//:@")
	var rules []trouble.Rule
	for _, s := range trouble.Catalogue {
		r := trouble.Rule{ID: "r", Do: s.New()}
		if w, ok := r.Do.(*trouble.Words); ok {
			w.Words = []wordlist.Word{{Text: "limpet"}, {Text: "whelk", Part: true}}
		}
		rules = append(rules, r)
	}
	trouble.Ready(rules)
	f.Fuzz(func(t *testing.T, text string) {
		l := &trouble.Line{Text: text}
		for i := range rules {
			if got := rules[i].Do.Finds(l, before{}); len(got) > 400 {
				t.Fatalf("%s: %q", rules[i].Kind(), got)
			}
		}
		l.Digest()
	})
}
