// Package giveaway is what is given away, and how it is won: the terms of a draw, and how a line of chat is held against them.
package giveaway

import (
	"bytes"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"vividporch/core/event"
	"vividporch/core/lots"
	"vividporch/core/plain"
	"vividporch/core/who"
)

// Way is how a draw is won.
type Way string

// The ways.
const (
	ByWord   Way = "word"   // one of those who entered by a word
	Lately   Way = "lately" // one of those who spoke lately
	ByAnswer Way = "answer" // the first right answer
	ByNumber Way = "number" // the nearest number, or the exact one
)

// Ways are all of them.
var Ways = []Way{ByWord, Lately, ByAnswer, ByNumber}

// Terms are what is drawn, and how. Times are in minutes and seconds; 0 is never, or not asked for.
type Terms struct {
	Way    Way      `json:"way" jsonschema:"enum=word,enum=lately,enum=answer,enum=number"`
	Prizes []string `json:"prizes" jsonschema:"minItems=1,maxItems=20"` // one winner each
	Who    *who.Who `json:"who,omitempty"`                              // may win

	Word    string  `json:"word,omitempty"`    // of word
	Minutes float64 `json:"minutes,omitempty"` // of lately: who spoke within so many

	Ask     string   `json:"ask,omitempty"`     // the question, or what the number is of
	Answers []string `json:"answers,omitempty"` // of answer: each is right
	Loose   bool     `json:"loose,omitempty"`   // slips of spelling are overlooked
	Hint    string   `json:"hint,omitempty"`
	HintIn  float64  `json:"hintMinutes,omitempty"`

	From    int64  `json:"from,omitempty"` // of number: both bounds can be it
	To      int64  `json:"to,omitempty"`
	Number  *int64 `json:"number,omitempty"`  // absent: the secret stands for it
	Exact   bool   `json:"exact,omitempty"`   // only the very number wins
	Guesses int    `json:"guesses,omitempty"` // for each person; 0 is one

	ClaimIn  float64 `json:"claimSeconds,omitempty"` // within which a winner has to say something
	CloseIn  float64 `json:"closeMinutes,omitempty"` // after which it closes by itself, and is drawn
	RemindIn float64 `json:"remindMinutes,omitempty"`
	Rest     int     `json:"rest,omitempty"` // whoever won one of so many draws before cannot win
}

// Bounds of terms.
const (
	mostPrizes  = 20
	mostPrize   = 120 // characters
	mostAnswers = 20
	mostWord    = 40
	mostRest    = 100
	mostGuesses = 20
	mostMinutes = 24 * 60
	mostClaim   = 3600 // seconds
	mostNumber  = 1_000_000_000_000
)

// TermsOf reads terms and checks them: the error is an [event.FieldError].
func TermsOf(raw json.RawMessage) (t Terms, err error) {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&t); err != nil {
		return t, &event.FieldError{Field: "terms", Remedy: "cannot be read; say the way, the prizes and what the way needs"}
	}
	t.Check(func(field, what, remedy string) {
		if err == nil {
			err = &event.FieldError{Field: "terms." + field, Remedy: what + "; " + remedy}
		}
	})
	return t, err
}

// Check tells what cannot stand.
func (t *Terms) Check(fault func(field, what, remedy string)) {
	if !slices.Contains(Ways, t.Way) {
		fault("way", fmt.Sprintf("%q is no way to win", t.Way), "use word, lately, answer or number")
	}
	if len(t.Prizes) == 0 || len(t.Prizes) > mostPrizes {
		fault("prizes", "are missing or too many", fmt.Sprintf("name 1 to %d prizes", mostPrizes))
	}
	for i, p := range t.Prizes {
		if p = plain.Text(p); p == "" || utf8.RuneCountInString(p) > mostPrize {
			fault(fmt.Sprintf("prizes.%d", i), "is missing or too long", fmt.Sprintf("say in at most %d characters what is to be won", mostPrize))
		}
	}
	within := func(field string, n, most float64) {
		if !(n >= 0 && n <= most) {
			fault(field, "is out of range", fmt.Sprintf("use 0 to %g", most))
		}
	}
	within("claimSeconds", t.ClaimIn, mostClaim)
	within("closeMinutes", t.CloseIn, mostMinutes)
	within("remindMinutes", t.RemindIn, mostMinutes)
	within("hintMinutes", t.HintIn, mostMinutes)
	within("minutes", t.Minutes, mostMinutes)
	within("rest", float64(t.Rest), mostRest)
	within("guesses", float64(t.Guesses), mostGuesses)
	if len(t.Hint) > 400 {
		fault("hint", "is too long", "use at most 400 letters")
	}
	if len(t.Ask) > 400 {
		fault("ask", "is too long", "use at most 400 letters")
	}
	if t.Who != nil {
		t.Who.Check("who", fault)
	}
	switch t.Way {
	case ByWord:
		if n := utf8.RuneCountInString(t.Word); n == 0 || n > mostWord || strings.ContainsFunc(t.Word, unicode.IsSpace) {
			fault("word", "is no single word", fmt.Sprintf("choose one word of at most %d characters, such as !tide", mostWord))
		}
	case Lately:
		if t.Minutes == 0 {
			fault("minutes", "are missing", "say within how many minutes somebody has to have spoken")
		}
	case ByAnswer:
		if len(t.Answers) == 0 || len(t.Answers) > mostAnswers || slices.ContainsFunc(t.Answers, func(a string) bool { return bare(a) == "" || len(a) > 200 }) {
			fault("answers", "are missing, empty or too long", fmt.Sprintf("write 1 to %d answers that are right, with letters or digits in each", mostAnswers))
		}
	case ByNumber:
		switch {
		case t.From >= t.To || t.From < -mostNumber || t.To > mostNumber:
			fault("to", "is no range", "the number lies between two bounds, the lower one first")
		case t.Number != nil && (*t.Number < t.From || *t.Number > t.To):
			fault("number", "lies outside the bounds", fmt.Sprintf("use %d to %d", t.From, t.To))
		}
	}
}

// ByChance reports whether chance says who wins.
func (t *Terms) ByChance() bool { return t.Way == ByWord || t.Way == Lately }

// Most is how many entries each person has.
func (t *Terms) Most() int {
	if t.Way == ByNumber {
		return max(1, t.Guesses)
	}
	return 1
}

// Keeps is what has to be guessed, as it is kept: nothing where it is chance.
func (t *Terms) Keeps() []string {
	switch {
	case t.Way == ByAnswer:
		return t.Answers
	case t.Way == ByNumber && t.Number != nil:
		return []string{strconv.FormatInt(*t.Number, 10)}
	}
	return nil
}

// Enters reports whether a line enters: its first word is the word.
func (t *Terms) Enters(text string) bool {
	first, _, _ := strings.Cut(strings.TrimSpace(text), " ")
	return t.Word != "" && plain.Caseless(first) == plain.Caseless(t.Word)
}

// bare is a text of folded words alone: without marks and signs, in one case.
func bare(s string) string {
	return strings.Join(strings.FieldsFunc(plain.Fold(s), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
}

// rightMost is how many words more than the answer a line may have in which it still counts as given, where spelling is free: a
// line with every answer there is answers nothing.
const rightMost = 4

// Right reports whether a line answers. Strictly it is the answer, whatever its case and marks; loosely the answer may stand in a short
// sentence, with a slip in each word of five letters or more and two from nine on.
func (t *Terms) Right(text string) bool {
	said := bare(text)
	for _, a := range t.Answers {
		if a = bare(a); said == a {
			return true
		}
		if !t.Loose {
			continue
		}
		want, got := strings.Fields(a), strings.Fields(said)
		if len(got) > len(want)+rightMost {
			continue
		}
		for i := 0; i+len(want) <= len(got); i++ {
			if slices.EqualFunc(want, got[i:i+len(want)], near) {
				return true
			}
		}
		if len(want) > 1 && near(strings.Join(want, ""), strings.Join(got, "")) { // "brittlestar"
			return true
		}
	}
	return false
}

// near reports whether a word is another but for a slip.
func near(want, got string) bool {
	n := len([]rune(want))
	switch {
	case want == got:
		return true
	case n < 5 || strings.ContainsFunc(want, unicode.IsDigit):
		return false
	case slices.Contains(plain.Slips(want), got): // two letters that changed places among them
		return true
	}
	slips := 1
	if n >= 9 {
		slips = 2
	}
	return (slips > 1 || len(want) > n) && plain.Edits(want, got) <= slips*(len(want)/n) // edits are of bytes, and a letter may be several
}

// guess is a line of a number alone, with or without a sign of thousands.
var guess = regexp.MustCompile(`^[#!]?\s*([+-]?\d{1,3}(?:[,.' ]\d{3})+|[+-]?\d{1,15})\s*[.!?]*$`)

// Guessed is the number that a line guesses.
func (t *Terms) Guessed(text string) (n int64, ok bool) {
	m := guess.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return 0, false
	}
	n, err := strconv.ParseInt(strings.NewReplacer(",", "", ".", "", "'", "", " ", "").Replace(m[1]), 10, 64)
	return n, err == nil && n >= t.From && n <= t.To
}

// Looked is the number that is looked for; ok is false while only the secret knows it.
func (t *Terms) Looked(secret []byte) (n int64, ok bool) {
	switch {
	case t.Number != nil:
		return *t.Number, true
	case len(secret) > 0:
		return lots.Number(secret, t.From, t.To), true
	}
	return 0, false
}
