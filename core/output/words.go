package output

import (
	"slices"
)

// Words are the words of one output, as they are being written.
type Words struct {
	Output       string // its id
	Alternatives []string
	Weights      []int
	Joined       []string
	Own          map[string]string // the wordings of its kind, by the field they stand in
}

// reworded are settings that hold wordings of their own.
type reworded interface {
	Reworded(own map[string]string) Does
}

// Words are the words of an output.
func (o Output) Words() Words {
	return Words{o.ID, o.Alternatives, o.Weights, o.Joined, o.Wordings()}
}

// WithWords is an output with other words.
func (o Output) WithWords(w Words) Output {
	o.Alternatives, o.Weights, o.Joined = w.Alternatives, w.Weights, w.Joined
	if r, ok := o.Do.(reworded); ok {
		o.Do = r.Reworded(w.Own)
	}
	return o
}

// Bare is an output without its words.
func (o Output) Bare() Output { return o.WithWords(Words{}) }

// Reworded is an output with words that were written for it. Weights that say nothing are
// left out, and so is what an output of its kind does not say.
func (o Output) Reworded(w Words) Output {
	w.Weights = plainWeights(w.Weights, len(w.Alternatives))
	if len(w.Alternatives) == 0 {
		w.Alternatives = nil
	}
	if len(w.Joined) == 0 && len(o.Joined) == 0 {
		w.Joined = o.Joined
	}
	return o.WithWords(w)
}

// plainWeights leaves out weights that say nothing, and those beyond the alternatives.
func plainWeights(list []int, n int) []int {
	list = list[:min(len(list), n)]
	if slices.ContainsFunc(list, func(w int) bool { return w != 1 }) {
		return list
	}
	return nil
}
