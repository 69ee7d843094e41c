package porch_test

import (
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/porchtest"
	"vividporch/standin"
	"vividporch/store/storetest"
)

// asks is a house in which two things can be asked.
func asks(gap time.Duration) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Courtesy, s.Pace.GapSeconds = nil, gap.Seconds()
		for _, name := range []string{"tides", "pools"} {
			s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: name, On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{name}, OffLine: true,
				Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{name + ", {name}"}}}})
		}
	}
}

func TestALineThatAStandstillHeldUpDoesNotLeaveTogetherWithTheNext(t *testing.T) {
	const gap = time.Second
	b := porchtest.Launch(t, asks(gap))
	chat := b.Street.Platforms["quayside"].Chat
	chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "good evening") // so that the house knows her
	b.Until("she is in the log", func() bool {
		var n int
		_ = b.Store.SQL.QueryRow("SELECT count(*) FROM events WHERE type = 'porch.chat.said'").Scan(&n)
		return n == 1
	})
	waits, goOn := storetest.StandStill(t, b.Store)
	chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "!tides")
	b.Until("her answer is being written", waits)
	chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "!pools")
	stood := time.Now()
	b.Until("the next would be due", func() bool { return time.Since(stood) > gap+200*time.Millisecond })
	goOn()
	b.Until("both are answered", func() bool { return len(b.Said("quayside")) == 2 })
	heard := chat.Heard("porchlamp", time.Time{})
	if apart := heard[1].At.Sub(heard[0].At); heard[0].Text != "tides, grebe_watch" || apart < gap-20*time.Millisecond {
		t.Errorf("%q, and %s after it %q", heard[0].Text, apart, heard[1].Text)
	}
}
