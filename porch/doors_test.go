package porch

import (
	"context"
	"testing"
	"time"

	"vividporch/core/hall"
	"vividporch/core/house/housetest"
	"vividporch/core/pace"
	"vividporch/store/storetest"
)

func TestALineThatWaitsWhenItsDoorIsOpenedAnewIsStillTheFirst(t *testing.T) {
	s := housetest.Base()
	s.Pace.GapSeconds = 3600
	h := bare(t, storetest.Open(t), func(c *Config) { c.Defaults = asJSON(t, s) })
	out := &outgoing{lines: make(chan leaving, 2), last: pace.Spacing{Decided: h.clock.now().Add(-time.Hour), Left: h.clock.now()}}
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
