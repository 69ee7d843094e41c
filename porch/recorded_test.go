package porch

import (
	"errors"
	"fmt"
	"reflect"

	"vividporch/core/compare"
	"vividporch/porch/rehearse"
	"vividporch/store/find"
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
	e.counted(seed)
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

// counted holds what was counted of each stream against what is counted from the start.
func (e *stillEvening) counted(seed uint64) {
	e.t.Helper()
	past, err := e.st.Book.Streams(e.t.Context(), e.h.ID)
	if err != nil {
		e.t.Fatal(err)
	}
	var streams []int
	for _, p := range past {
		streams = append(streams, p.Number)
	}
	count := func() []find.Turnout {
		all, err := e.st.Find.Turnouts(e.t.Context(), e.h.ID, streams)
		if err != nil {
			e.t.Fatal(err)
		}
		return all
	}
	kept := count()
	if _, err := e.st.SQL.Exec("DELETE FROM turnouts WHERE channel = $1", e.h.ID); err != nil {
		e.t.Fatal(err)
	}
	if fresh := count(); !reflect.DeepEqual(kept, fresh) {
		e.t.Fatalf("evening %d: of its streams was kept\n%+v\nand counted anew\n%+v", seed, kept, fresh)
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
