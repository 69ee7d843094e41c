// Package expect holds an evening to what is expected of it: lines that must be said, lines that
// must not be, and counts that stay within bounds.
package expect

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/rehearsal"
)

// Format is the format of the file that expectations are kept in.
const Format = 1

// Expected is what is expected of an evening.
type Expected struct {
	Format int              `json:"format"`
	Said   []Line           `json:"said,omitempty"`   // each at least once; one that stands here twice, twice
	Unsaid []Line           `json:"unsaid,omitempty"` // none of them
	Counts map[string]Range `json:"counts,omitempty"` // by [Counts]
}

// Line is something that is said or done. A field that is empty stands for anything.
type Line struct {
	Effect   string `json:"effect,omitempty"` // "say", "card", "relay"…
	Courtesy string `json:"courtesy,omitempty"`
	Event    string `json:"event,omitempty"` // id of the happening that brings it about
	Person   string `json:"person,omitempty"`
	To       string `json:"to,omitempty"` // platform, place or overlay
	Text     string `json:"text,omitempty"`
}

// Range is what a count may be. Without an end it is open there.
type Range struct {
	Least *float64 `json:"least,omitempty"`
	Most  *float64 `json:"most,omitempty"`
}

// Counts are what can be held within bounds, each with how it is counted. The share is in
// percent of all lines.
var Counts = map[string]func(*rehearsal.Lived) float64{
	"lines":   func(l *rehearsal.Lived) float64 { return float64(l.Evening.House) },
	"share":   func(l *rehearsal.Lived) float64 { return 100 * l.Evening.Share() },
	"greeted": func(l *rehearsal.Lived) float64 { return float64(l.Evening.Greeted()) },
	"silent":  func(l *rehearsal.Lived) float64 { return float64(len(l.Evening.Silent())) },
	"cards":   func(l *rehearsal.Lived) float64 { return float64(l.Evening.Shown) },
	"posts": func(l *rehearsal.Lived) float64 {
		n := 0
		for i := range l.Effects {
			if l.Effects[i].Effect == "relay" {
				n++
			}
		}
		return float64(n)
	},
	"seconds waited": func(l *rehearsal.Lived) float64 { return l.Evening.Longest.Seconds() },
}

// Of is what is expected of an evening that goes as it should: all that was said or done in
// it, and no more lines than there were.
func Of(l *rehearsal.Lived) Expected {
	out := Expected{Format: Format, Counts: map[string]Range{}}
	for i := range l.Effects {
		if e := &l.Effects[i]; e.Effect != "drop" {
			out.Said = append(out.Said, Line{Effect: e.Effect, Courtesy: e.Courtesy, Event: e.Event, Person: e.Person, To: e.To, Text: e.Text})
		}
	}
	for _, name := range []string{"lines", "greeted", "cards", "posts"} {
		n := Counts[name](l)
		out.Counts[name] = Range{&n, &n}
	}
	return out
}

// Read reads expectations. The error is an [event.FieldError] where a field is wrong.
func Read(src io.Reader) (e Expected, err error) {
	dec := json.NewDecoder(src)
	dec.DisallowUnknownFields()
	if err := dec.Decode(&e); err != nil {
		return e, fmt.Errorf("the expectations cannot be read: %w", err)
	}
	return e, e.Check()
}

// Check names the first field that is wrong.
func (e *Expected) Check() error {
	bad := func(field, remedy string, args ...any) error {
		return &event.FieldError{Field: field, Remedy: fmt.Sprintf(remedy, args...)}
	}
	if e.Format != Format {
		return bad("format", "is %d; this house reads format %d", e.Format, Format)
	}
	for _, part := range []struct {
		name string
		list []Line
	}{{"said", e.Said}, {"unsaid", e.Unsaid}} {
		for i, l := range part.list {
			if l == (Line{}) {
				return bad(fmt.Sprintf("%s.%d", part.name, i), "is empty and would stand for everything; name at least a courtesy or a text")
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(e.Counts)) {
		r := e.Counts[name]
		switch {
		case Counts[name] == nil:
			return bad("counts."+name, "is nothing that is counted; use one of %s", strings.Join(slices.Sorted(maps.Keys(Counts)), ", "))
		case r.Least == nil && r.Most == nil:
			return bad("counts."+name, "has no bound; give least, most or both")
		case r.Least != nil && r.Most != nil && *r.Least > *r.Most:
			return bad("counts."+name, "has a least of %g above its most of %g; change one of them", *r.Least, *r.Most)
		}
	}
	return nil
}

// Miss is one way in which an evening did not go as expected.
type Miss struct {
	What string // "was not said", "was said, and must not be", "lines"
	Line *Line  // of a line
	Says string // all of it in words
}

// Misses are the ways in which an evening did not go as expected, in the order in which these
// were expected.
func (e *Expected) Misses(l *rehearsal.Lived) []Miss {
	var out []Miss
	by := map[string][]int{} // effects by courtesy, which nearly every line names
	taken := make([]bool, len(l.Effects))
	for i := range l.Effects {
		if l.Effects[i].Effect == "drop" {
			taken[i] = true
			continue
		}
		by[l.Effects[i].Courtesy] = append(by[l.Effects[i].Courtesy], i)
		by[""] = append(by[""], i)
	}
	find := func(want *Line) int {
		list := by[want.Courtesy]
		if want.Courtesy == "" {
			list = by[""]
		}
		for _, i := range list {
			if !taken[i] && want.is(&l.Effects[i]) {
				return i
			}
		}
		return -1
	}
	for i := range e.Said {
		want := &e.Said[i]
		if at := find(want); at >= 0 {
			taken[at] = true
			continue
		}
		out = append(out, Miss{"was not said", want, "was not said: " + want.String() + undone(l, want)})
	}
	for i := range taken {
		taken[i] = l.Effects[i].Effect == "drop"
	}
	for i := range e.Unsaid {
		for at := find(&e.Unsaid[i]); at >= 0; at = find(&e.Unsaid[i]) {
			taken[at] = true
			got := l.Effects[at]
			out = append(out, Miss{"was said, and must not be", &e.Unsaid[i], fmt.Sprintf("was said, and must not be: %s at %s: %s", e.Unsaid[i].String(), got.At.Format("15:04:05"), got.Text)})
		}
	}
	for _, name := range slices.Sorted(maps.Keys(e.Counts)) {
		if got, r := Counts[name](l), e.Counts[name]; r.Least != nil && got < *r.Least || r.Most != nil && got > *r.Most {
			out = append(out, Miss{What: name, Says: fmt.Sprintf("%s: %s, expected %s", name, number(got), r)})
		}
	}
	return out
}

// undone adds why something was not done, where the evening tells.
func undone(l *rehearsal.Lived, want *Line) string {
	for i := range l.Effects {
		e := &l.Effects[i]
		if e.Effect == "drop" && e.Courtesy == want.Courtesy && (want.Event == "" || e.Event == want.Event) && (want.Person == "" || e.Person == want.Person) && len(e.Because) > 0 {
			return " (" + e.Because[len(e.Because)-1] + ")"
		}
	}
	return ""
}

func (l *Line) is(e *rehearsal.Effect) bool {
	eq := func(want, got string) bool { return want == "" || want == got }
	return eq(l.Effect, e.Effect) && eq(l.Courtesy, e.Courtesy) && eq(l.Event, e.Event) && eq(l.Person, e.Person) && eq(l.To, e.To) && eq(l.Text, e.Text)
}

// String is a line in words: what it is of, where it goes and what it says.
func (l Line) String() string {
	var parts []string
	for _, p := range []string{l.Courtesy, l.Effect, l.To, l.Event, l.Person} {
		if p != "" {
			parts = append(parts, p)
		}
	}
	out := strings.Join(parts, " ")
	if l.Text != "" {
		out += fmt.Sprintf(" %q", l.Text)
	}
	return strings.TrimSpace(out)
}

// String is a range in words.
func (r Range) String() string {
	switch {
	case r.Least == nil && r.Most == nil:
		return "anything"
	case r.Least == nil:
		return "at most " + number(*r.Most)
	case r.Most == nil:
		return "at least " + number(*r.Least)
	case *r.Least == *r.Most:
		return number(*r.Least)
	}
	return number(*r.Least) + " to " + number(*r.Most)
}

func number(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0") }
