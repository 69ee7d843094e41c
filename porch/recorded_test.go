package porch

import (
	"errors"
	"fmt"

	"vividporch/core/compare"
	"vividporch/porch/rehearse"
)

// streamsAgain rehearses every stream that is over by the settings it was lived under: what
// was said and done in it comes again.
func (e *stillEvening) streamsAgain(seed uint64) {
	e.t.Helper()
	ctx := e.t.Context()
	past, err := e.st.Book.Streams(ctx, e.h.ID)
	if err != nil {
		e.t.Fatal(err)
	}
	for _, p := range past {
		now, err := e.h.Rehearser.Version(ctx, 0)
		if err != nil {
			e.t.Fatal(err)
		}
		got, err := e.h.Rehearser.Rehearse(ctx, rehearse.Wanted{Stream: p.Number, Below: now}, nil)
		if errors.Is(err, rehearse.ErrNone) {
			continue // brought in from the people file
		}
		if err != nil {
			e.t.Fatalf("evening %d, stream %d: %v", seed, p.Number, err)
		}
		e.again++
		for _, d := range got.Differences {
			e.t.Errorf("evening %d, stream %d, of %d and %d effects %s at %s: %s\n%s\n%s", seed, p.Number, len(got.Above.Effects), len(got.Below.Effects), d.Says(), d.At(), d.Why, shown(d, true), shown(d, false))
			break
		}
	}
}

func shown(d compare.Difference, above bool) string {
	x := d.Below
	if above {
		x = d.Above
	}
	if x == nil {
		return "nothing"
	}
	return fmt.Sprintf("%s %s %s %s %s %q", x.At.Format("15:04:05.000"), x.Effect, x.Courtesy, x.Person, x.To, x.Text)
}
