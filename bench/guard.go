package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/guard"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/trouble"
	"vividporch/core/wordlist"
	"vividporch/porch/past"
	"vividporch/store/log"
)

const (
	guardWords = 2000
	guardLines = 100_000
)

// said are lines as they are said.
var said = []string{"what was that under the weed, line %d? it looked like a blenny to me", "hello all", "is it moving?", "LOL %d", "that is the biggest dog whelk I have ever seen, and I have seen %d", "see you at https://quayside.example/%d", "🦀🦀 %d", "the tide turns at 18:%d"}

// guardSpeed is how long a line through all rules takes, and a rule over the past.
func guardSpeed() ([]figure, error) {
	r := rand.New(rand.NewPCG(1, 1))
	var words []wordlist.Word
	for range guardWords {
		w := ""
		for range 4 + r.IntN(8) {
			w += string(rune('a' + r.IntN(26)))
		}
		words = append(words, wordlist.Word{Text: w, Part: r.IntN(3) == 0})
	}
	var rules []trouble.Rule
	for _, k := range trouble.Catalogue {
		rule := trouble.Rule{ID: k.Title, On: true, Do: k.New(), Then: trouble.Usual()}
		if w, ok := rule.Do.(*trouble.Words); ok {
			w.Words = words
		}
		rules = append(rules, rule)
	}
	s := housetest.Base()
	through := guard.NewAll(s, rules)
	var took []time.Duration
	at := time.Now()
	for i := range 20_000 {
		text := said[i%len(said)]
		if r.IntN(2) == 0 {
			text = fmt.Sprintf("%s, %d", text, i)
		}
		begin := time.Now()
		through.Looks(at.Add(time.Duration(i)*50*time.Millisecond), "quayside", fmt.Sprint("quayside:", i%200), text)
		took = append(took, time.Since(begin))
	}
	slices.Sort(took)
	median := float64(took[len(took)/2]) / float64(time.Microsecond)

	lines := make([]log.Said, guardLines)
	for i := range lines {
		lines[i] = log.Said{Seq: int64(i), At: at.Add(time.Duration(i) * time.Second), Said: happening.ChatSaid{Text: fmt.Sprintf(said[i%len(said)]+" %d", i, i)}}
		lines[i].Said.Person.Platform, lines[i].Said.Person.ID = "quayside", fmt.Sprint(i%3000)
	}
	looker := past.New(past.Config{Settings: func() *housefile.Settings { return s }, Past: func() []attendance.Past { return make([]attendance.Past, past.Streams) },
		Said:   func(context.Context, time.Time, int) ([]log.Said, error) { return lines, nil },
		Known:  func(context.Context, string) (bool, bool, error) { return false, false, nil },
		Spared: func(*happening.ChatSaid) bool { return false }})
	slowest, which := time.Duration(0), trouble.Kind("")
	for _, rule := range rules {
		begin := time.Now()
		if _, err := looker.Try(context.Background(), rule); err != nil {
			return nil, err
		}
		if d := time.Since(begin); d > slowest {
			slowest, which = d, rule.Kind()
		}
	}
	return []figure{
		{what: fmt.Sprintf("a line through all rules, %d words: median", guardWords), got: median, aim: 20, unit: "µs"},
		{what: fmt.Sprintf("the slowest rule over %d kept lines: %s", guardLines, which), got: slowest.Seconds(), aim: 1, unit: "s"},
	}, nil
}
