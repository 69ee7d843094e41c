package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/output"
)

// Reworded is a courtesy with other words for some of its outputs.
func (c Courtesy) Reworded(list []output.Words) Courtesy {
	c.Do = slices.Clone(c.Do)
	for _, w := range list {
		if at := slices.IndexFunc(c.Do, func(o output.Output) bool { return o.ID == w.Output }); at >= 0 {
			c.Do[at] = c.Do[at].Reworded(w)
		}
	}
	return c
}

// Faults lists what keeps words that are being written from coming into force. Paths
// begin with the output's id: "chat.alternatives.2".
func (w World) Faults(c Courtesy, words []output.Words) []Fault {
	next := c.Reworded(words)
	_, all := load(next, 0, w)
	var out []Fault
	for _, f := range all {
		for i, o := range next.Do {
			in, mine := strings.CutPrefix(f.At, fmt.Sprintf("do.%d.", i))
			if mine && slices.ContainsFunc(words, func(w output.Words) bool { return w.Output == o.ID }) {
				f.At = o.ID + "." + in
				out = append(out, f)
			}
		}
	}
	return out
}
