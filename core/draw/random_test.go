package draw_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/lots"
)

// somebody is one of few, so that much happens to each; some are in the channel for another reason.
func somebody(r *rand.Rand) string {
	return []string{"limpet_lena", "kelpwright", "mossy_mare", "pebble_june", "sandhopper9", "tidewrack", "lena_elsewhere@fernlight", "moss@fernlight", "shellbot", "porchlamp", "tidepool_hours"}[r.IntN(11)]
}

// Whatever members and viewers do, at whatever moment, under hush, twice, on two platforms, with the house killed in between: one winner a
// prize, nobody who may not win does, nobody wins twice, every pick follows from secret and list, and the secret is nowhere before entries
// are closed. The log alone gives the same draw.
func TestWhateverHappensADrawKeepsItsPromises(t *testing.T) {
	evenings := uint64(1500)
	if testing.Short() {
		evenings = 200
	}
	seen := map[draw.PickState]int{}
	unwon, cancelled := 0, 0
	for seed := range evenings {
		r := rand.New(rand.NewPCG(seed, 20))
		e := begin(t, neighbours)
		barred, was, of, picked := map[string]bool{}, map[string]bool{}, "", 0
		for range 60 {
			e.After(time.Duration(r.IntN(4000)) * time.Millisecond)
			e.Mute = r.IntN(6) == 0
			switch n := r.IntN(20); {
			case n < 11:
				e.Chat(somebody(r) + ": " + []string{"!tide", "!tide", "!tide", "brittle star", "britle star", "7", "8", "hello"}[r.IntN(8)])
			case n < 15:
				d := housetest.Drawing(r).(*event.DrawCalled)
				if d.Account = housetest.Viewer(somebody(r)).Key(); d.Validate() == nil {
					e.Happens(d)
				}
			case n == 15:
				who := housetest.Viewer(somebody(r))
				on := r.IntN(2) == 0
				e.Happens(&event.DrawBarred{Person: who, On: on, Reason: "is family"})
				barred[who.Key()] = on
			case n == 16:
				e.Happens(&event.Hushed{On: r.IntN(2) == 0})
			case n == 17:
				if a, b := housetest.Viewer(somebody(r)).Key(), housetest.Viewer(somebody(r)).Key(); a != b {
					e.Happens(&event.BookMerged{Kept: 1, Gone: 2, Accounts: []string{a, b}})
				}
			case n == 18:
				who := housetest.Viewer(somebody(r))
				if r.IntN(3) == 0 {
					e.Happens(&event.BookForgotten{Keys: []string{who.Key()}, Names: []string{who.Login}})
					delete(barred, who.Key()) // why they were kept out is forgotten with them
					delete(was, who.Key())
				} else {
					ban := &happening.PersonBanned{}
					ban.Person = who
					e.Happens(ban)
				}
			case n == 19:
				e.Restarted()
			}
			if d := e.draw(); d != nil {
				right(t, seed, d)
				if d.ID != of {
					of, picked = d.ID, 0
				}
				for _, p := range d.Picks[picked:] {
					if kept := was[p.Account]; p.State != draw.Passed && kept && d.ByChance() {
						t.Fatalf("seed %d: %s is kept out and drawn", seed, p.Account)
					}
				}
				picked, was = len(d.Picks), maps.Clone(barred)
			}
		}
		d := e.draw()
		if d == nil {
			continue
		}
		for _, p := range d.Picks {
			seen[p.State]++
		}
		unwon += len(d.Unwon)
		if d.State == draw.Cancelled {
			cancelled++
		}
		if slices.ContainsFunc(e.log(), func(l draw.Logged) bool { return l.Decision.Kind == "forget" }) {
			continue
		}
		want, _ := json.Marshal(named(d).Page(""))
		if got, _ := json.Marshal(named(draw.Replay(d.ID, e.log())).Page("")); !bytes.Equal(got, want) {
			t.Fatalf("seed %d: the log gives another draw\ngot  %s\nwant %s", seed, got, want)
		}
	}
	for _, s := range []draw.PickState{draw.Pending, draw.Claimed, draw.Passed} {
		if seen[s] < int(evenings)/20 {
			t.Errorf("%d of %d evenings end with a pick that is %s", seen[s], evenings, s)
		}
	}
	if unwon < 10 || cancelled < 10 {
		t.Errorf("%d prizes unwon, %d draws called off", unwon, cancelled)
	}
}

// named is a draw without the names, and without what counts by them: a log that was not gone over has those of the forgotten still.
func named(d *draw.Draw) *draw.Draw {
	out := *d
	out.Entries = slices.Clone(d.Entries)
	for i := range out.Entries {
		e := &out.Entries[i]
		*e = draw.Entry{Number: e.Number, Mark: e.Mark, At: e.At, Void: e.Void, Account: "a", Name: "a"}
	}
	out.Picks = slices.Clone(d.Picks)
	for i := range out.Picks {
		out.Picks[i].Name, out.Picks[i].Why = "", ""
	}
	return &out
}

// right holds a draw against what everybody can check of it.
func right(t *testing.T, seed uint64, d *draw.Draw) {
	t.Helper()
	fail := func(format string, args ...any) {
		t.Helper()
		t.Fatalf("seed %d: %s\n%+v", seed, fmt.Sprintf(format, args...), d)
	}
	prizes, winners := map[int]int{}, map[string]bool{}
	n, left := 0, slices.Clone(d.Marks)
	for _, p := range d.Picks {
		if p.State != draw.Passed {
			if prizes[p.Prize]++; prizes[p.Prize] > 1 {
				fail("two have prize %d", p.Prize)
			}
			if p.Account != "" && winners[p.Account] {
				fail("%s won twice", p.Account)
			}
			winners[p.Account] = true
			if p.Login == "shellbot" || p.Login == "porchlamp" || p.Login == "tidepool_hours" {
				fail("%s may not win", p.Login)
			}
		}
		if !d.ByChance() {
			continue
		}
		at := lots.Pick(d.Secret, d.Digest, n, len(left))
		if p.N != n || at < 0 || left[at] != p.Mark {
			fail("pick %d does not follow from the list", n)
		}
		left = slices.Delete(left, at, at+1)
		n++
	}
	open := d.State == draw.Sealing || d.State == draw.Open
	if open && (len(d.Secret) > 0 || d.Page("").Secret != "" || d.Page("").Keeps != nil) {
		fail("what is to be secret is out")
	}
	if len(d.Secret) > 0 && lots.Commit(d.Secret) != d.Commit {
		fail("another secret")
	}
	if d.Digest != "" && lots.Digest(d.Marks) != d.Digest {
		fail("another list")
	}
	if d.State == draw.Over {
		for prize := range d.Prizes {
			if prizes[prize] == 0 && !slices.Contains(d.Unwon, prize) {
				fail("it is over, and prize %d is nobody's", prize)
			}
		}
	}
	counts := map[string]int{}
	for i := range d.Entries {
		e := &d.Entries[i]
		if e.Number != i+1 {
			fail("entry %d stands at %d", e.Number, i)
		}
		if e.Void == "" && e.Account != "" && open {
			if counts[e.Account]++; counts[e.Account] > d.Most() {
				fail("%s is in %d times", e.Account, counts[e.Account])
			}
		}
	}
	if d.Way == giveaway.ByWord && d.State == draw.Closed && len(d.Marks) > len(d.Entries) {
		fail("the list has more than entered")
	}
}
