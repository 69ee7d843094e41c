package wording

import (
	"hash/fnv"
	"slices"
)

// Used remembers which alternatives of one output have been said in this round,
// by the hash of their text, newest last. It survives edits: a reworded
// alternative is simply a new one.
type Used []uint64

// Mark identifies an alternative by its text.
func Mark(src string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(src))
	return h.Sum64()
}

// Seed mixes texts into a number, for choices that must come out the same
// whenever the same evening is lived.
func Seed(parts ...string) uint64 {
	h := fnv.New64a()
	for _, p := range parts {
		h.Write([]byte(p))
		h.Write([]byte{0})
	}
	// One round of splitmix64 (Steele, Lea, Flood 2014): FNV alone leaves
	// neighbouring ids close together.
	z := h.Sum64() + 0x9e3779b97f4a7c15
	z = (z ^ (z >> 30)) * 0xbf58476d1ce4e5b9
	z = (z ^ (z >> 27)) * 0x94d049bb133111eb
	return z ^ (z >> 31)
}

// Choose picks an alternative: of those that have a value for everything they
// need, one that this round has not used; when all were used, any but the last. An
// alternative of weight n counts n times in a round, and never follows itself while
// another is left; missing weights are 1. The mark is what [Used.Next] is to be told.
// The index is -1 only when there are no alternatives.
func Choose(alts []*Wording, weights []int, args Args, used Used, seed uint64) (i int, mark uint64) {
	if len(alts) == 0 {
		return -1, 0
	}
	fits := make([]int, 0, len(alts))
	for i, w := range alts {
		if w.Fits(args) {
			fits = append(fits, i)
		}
	}
	if len(fits) == 0 {
		for i := range alts {
			fits = append(fits, i)
		}
	}
	type copied struct {
		i    int
		mark uint64
	}
	var bag, rest []copied // all that fits; and what this round has left of it
	last := -1
	for _, i := range fits {
		for n := range weight(weights, i) {
			c := copied{i, Mark(alts[i].src) + uint64(n)}
			bag = append(bag, c)
			if !used.has(c.mark) {
				rest = append(rest, c)
			} else if used[len(used)-1] == c.mark {
				last = i
			}
		}
	}
	if len(rest) == 0 {
		rest = bag
	}
	if others := slices.DeleteFunc(slices.Clone(rest), func(c copied) bool { return c.i == last }); len(others) > 0 {
		rest = others
	}
	c := rest[seed%uint64(len(rest))]
	return c.i, c.mark
}

// Marked is the index of the alternative that a mark is of; -1 when none is any more.
func Marked(alts []*Wording, weights []int, mark uint64) int {
	return slices.IndexFunc(alts, func(w *Wording) bool {
		n := mark - Mark(w.src)
		return n < uint64(weight(weights, slices.Index(alts, w)))
	})
}

// Of is how many draws a round has: every alternative, as often as its weight says.
func Of(alts []*Wording, weights []int) int {
	n := 0
	for i := range alts {
		n += weight(weights, i)
	}
	return n
}

func weight(weights []int, i int) int {
	if i < len(weights) {
		return max(1, weights[i])
	}
	return 1
}

// Next returns what is remembered after an alternative was said. of is how many
// draws a round has, as [Of] counts them: when all have been used, a new round
// begins with the last one remembered.
func (u Used) Next(mark uint64, of int) Used {
	if u.has(mark) || len(u)+1 > of {
		return Used{mark}
	}
	out := make(Used, len(u), len(u)+1)
	copy(out, u)
	return append(out, mark)
}

func (u Used) has(mark uint64) bool {
	for _, m := range u {
		if m == mark {
			return true
		}
	}
	return false
}
