package porch

import (
	"context"
	"testing"
	"time"

	"vividporch/core/hall"
	"vividporch/core/house/housetest"
	"vividporch/store/storetest"
)

func TestALineThatWaitsWhenItsDoorIsOpenedAnewIsStillTheFirst(t *testing.T) {
	s := housetest.Base()
	s.Pace.GapSeconds = 3600
	h := bare(t, storetest.Open(t), func(c *Config) { c.Defaults = asJSON(t, s) })
	out := &outgoing{lines: make(chan leaving, 2), last: spacing{h.clock.now().Add(-time.Hour), h.clock.now()}}
	for _, text := range []string{"good evening", "and to you"} {
		out.lines <- leaving{hall.Decision{Text: text}, h.clock.now()}
	}
	ctx, end := context.WithCancel(t.Context())
	ended := make(chan struct{})
	go func() { h.speaker(ctx, &line{out: out}); close(ended) }()
	for end := time.Now().Add(10 * time.Second); len(out.lines) == 2; time.Sleep(time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("no line was taken")
		}
	}
	end()
	<-ended
	for _, want := range []string{"good evening", "and to you"} {
		if d, ok := out.take(ctx); !ok || d.Text != want {
			t.Errorf("%q, %v instead of %q", d.Text, ok, want)
		}
	}
	if d, ok := out.take(ctx); ok {
		t.Errorf("%q once more", d.Text)
	}
}

func TestLinesAreSpacedAsTheyWereDecidedAndCaughtUpWhereThereIsTime(t *testing.T) {
	at := time.Date(2026, 5, 2, 20, 0, 0, 0, time.UTC)
	sec := func(n float64) time.Time { return at.Add(time.Duration(n * float64(time.Second))) }
	gap := 1500 * time.Millisecond
	for name, c := range map[string]struct {
		last    spacing
		decided time.Time
		want    time.Time
	}{
		"the first":                                {spacing{}, sec(0), time.Time{}.Add(gap)},
		"one after another that left in time":      {spacing{sec(0), sec(0)}, sec(2), sec(1.5)},
		"one after another that left late":         {spacing{sec(0), sec(2)}, sec(2.5), sec(3.5)},
		"one that was hurried past the gap":        {spacing{sec(0), sec(2)}, sec(0.2), sec(2.2)},
		"two that were decided at one moment":      {spacing{sec(0), sec(2)}, sec(0), sec(2)},
		"one long after another that left late":    {spacing{sec(0), sec(2)}, sec(60), sec(3.5)},
		"one whose moment lies before the other's": {spacing{sec(5), sec(5)}, sec(4), sec(5)},
	} {
		t.Run(name, func(t *testing.T) {
			if got := c.last.next(c.decided, gap); !got.Equal(c.want) {
				t.Errorf("it may leave at %s, not %s", got, c.want)
			}
		})
	}
}
