package soak_test

import (
	"context"
	"fmt"
	"slices"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/porchtest"
	"vividporch/standin"
)

const (
	askedRate   = 1000 // lines a second
	askedFor    = time.Minute
	askedPeople = 400
	askedNames  = 40

	restAll  = 7 * time.Second  // of each command
	restEach = 30 * time.Second // for whoever asked

	stillLive = 5 * time.Second // nobody takes a Porch for dead before, on whatever machine this runs
)

// A thousand lines a second for a minute, three of ten of them commands: nobody is answered within a
// cooldown, the house says no more than network and pace allow, the Porch goes on telling, and every
// line is in the log.
func TestAThousandLinesASecondOfWhichAThirdAsk(t *testing.T) {
	for0 := min(askedFor, budget(t, 0.15))
	gap := 1500 * time.Millisecond
	b := porchtest.Launch(t, func(s *housefile.Settings) {
		s.Courtesy, s.Pace.GapSeconds = nil, gap.Seconds()
		for i := range askedNames {
			name := fmt.Sprint("pool", i)
			s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: name, On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{name}, OffLine: true,
				Asked: &courtesy.Asking{Words: []string{"where is pool " + fmt.Sprint(i)}, Rest: restAll.Seconds(), Person: restEach.Seconds()},
				Do:    []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{name + " is behind the jetty, {name}"}}}})
		}
	})
	chat := b.Street.Platforms["quayside"].Chat
	b.Street.Platforms["quayside"].Open("Storm", "Field and microscope", 0)
	b.Until("the stream is on", func() bool { return b.House.Tonight() > 0 })
	limit := b.House.Plan().Profile("quayside").Chat

	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	slowest, silent := make(chan time.Duration, 1), make(chan time.Duration, 1)
	go func() { // whoever looks at the Porch for the first time
		worst := time.Duration(0)
		for ctx.Err() == nil {
			began := time.Now()
			if _, err := b.House.Porch(ctx); err == nil {
				worst = max(worst, time.Since(began))
			}
			time.Sleep(500 * time.Millisecond)
		}
		slowest <- worst
	}()
	go func() { // and whoever has it open
		worst := time.Duration(0)
		frames, stop, err := b.House.Watch(ctx, 0)
		if err != nil {
			t.Error(err)
			silent <- 0
			return
		}
		defer stop()
		last := time.Now()
		for {
			select {
			case _, open := <-frames:
				if !open && ctx.Err() == nil {
					t.Error("the Porch stopped telling")
				}
				worst, last = max(worst, time.Since(last)), time.Now()
			case <-ctx.Done():
				silent <- worst
				return
			}
		}
	}()

	var heard []standin.Heard
	seen := map[string]bool{}
	listen := func() {
		for _, h := range chat.Heard("porchlamp", time.Time{}) {
			if !seen[h.ID] {
				seen[h.ID] = true
				heard = append(heard, h)
			}
		}
	}
	total := int(for0.Seconds()) * askedRate
	begin := time.Now()
	for i := range total {
		if d := time.Until(begin.Add(time.Duration(i) * time.Second / askedRate)); d > 0 {
			time.Sleep(d)
		}
		text := "that is the biggest dog whelk I have ever seen"
		switch i % 10 {
		case 0, 3:
			text = fmt.Sprintf("!pool%d please", i/10%askedNames)
		case 7:
			text = fmt.Sprintf("so, where is pool %d?", i/10%askedNames)
		}
		who := fmt.Sprintf("guest%03d", i*7%askedPeople)
		chat.Say(standin.Viewer{ID: who, Login: who}, text)
		if i%askedRate == 0 {
			listen()
		}
	}
	logged := func() (n int) {
		if err := b.Store.SQL.QueryRow("SELECT count(*) FROM events WHERE channel = $1 AND type = 'porch.chat.said' AND person LIKE 'quayside:guest%'", b.House.ID).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for end := time.Now().Add(30 * time.Second); logged() < total && time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
	}
	behind := time.Since(begin.Add(for0))
	cancel()
	listen()
	if n := logged(); n != total {
		t.Errorf("%d of %d lines are in the log", n, total)
	}
	look, told := <-slowest, <-silent
	if look > stillLive || told > stillLive || behind > stillLive {
		t.Errorf("a look at the Porch took %s, it told nothing for %s, and was %s behind at the end", look, told, behind)
	}
	t.Logf("%d lines of which %d ask: %d answers; the last was in the log %s after; a look at the Porch took %s at most, and it told every %s at least", total, total*3/10, len(heard), behind.Round(time.Millisecond), look, told)

	// The house within its limits.
	slices.SortFunc(heard, func(a, b standin.Heard) int { return a.At.Compare(b.At) })
	if len(heard) < min(10, int(for0/(5*time.Second))) {
		t.Errorf("the house said %d lines in %s", len(heard), for0)
	}
	window := time.Duration(limit.WindowSeconds * float64(time.Second))
	for i := range heard {
		if i > 0 && heard[i].At.Sub(heard[i-1].At) < gap-500*time.Millisecond {
			t.Errorf("two lines within %s", heard[i].At.Sub(heard[i-1].At))
		}
		if k := i - limit.Lines; k >= 0 && heard[i].At.Sub(heard[k].At) < window-time.Second {
			t.Errorf("%d lines within %s", limit.Lines+1, heard[i].At.Sub(heard[k].At))
		}
	}

	// The cooldowns hold: of what was answered, whenever it was said.
	rows, err := b.Store.SQL.Query(`SELECT d.courtesy, d.person, e.logged FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq WHERE d.channel = $1 AND d.kind = 'asked' ORDER BY e.seq`, b.House.ID)
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	last, answered := map[string]time.Time{}, 0
	for rows.Next() {
		var of, who string
		var at time.Time
		if err := rows.Scan(&of, &who, &at); err != nil {
			t.Fatal(err)
		}
		answered++
		for key, rest := range map[string]time.Duration{of: restAll, of + " " + who: restEach} {
			if was, did := last[key]; did && at.Sub(was) < rest {
				t.Errorf("%s is done again after %s", key, at.Sub(was))
			}
			last[key] = at
		}
	}
	if least := int(for0/restAll) * askedNames / 2; answered < least {
		t.Errorf("only %d were answered; %d could be", answered, least)
	}
}
