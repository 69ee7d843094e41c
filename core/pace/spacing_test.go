package pace_test

import (
	"testing"
	"time"

	"vividporch/core/pace"
)

func TestLinesAreSpacedAsTheyWereDecidedAndCaughtUpWhereThereIsTime(t *testing.T) {
	at := time.Date(2026, 5, 2, 20, 0, 0, 0, time.UTC)
	sec := func(n float64) time.Time { return at.Add(time.Duration(n * float64(time.Second))) }
	gap := 1500 * time.Millisecond
	for name, c := range map[string]struct {
		last    pace.Spacing
		decided time.Time
		want    time.Time
	}{
		"the first":                                {pace.Spacing{}, sec(0), time.Time{}.Add(gap)},
		"one after another that left in time":      {pace.Spacing{sec(0), sec(0)}, sec(2), sec(1.5)},
		"one after another that left late":         {pace.Spacing{sec(0), sec(2)}, sec(2.5), sec(3.5)},
		"one that was hurried past the gap":        {pace.Spacing{sec(0), sec(2)}, sec(0.2), sec(2.2)},
		"two that were decided at one moment":      {pace.Spacing{sec(0), sec(2)}, sec(0), sec(2)},
		"one long after another that left late":    {pace.Spacing{sec(0), sec(2)}, sec(60), sec(3.5)},
		"one whose moment lies before the other's": {pace.Spacing{sec(5), sec(5)}, sec(4), sec(5)},
	} {
		t.Run(name, func(t *testing.T) {
			if got := c.last.Next(c.decided, gap); !got.Equal(c.want) {
				t.Errorf("it may leave at %s, not %s", got, c.want)
			}
		})
	}
}
