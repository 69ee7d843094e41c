package points_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/points"
)

// Whatever is asked, given, staked, dropped, refused and hushed, in whatever order, with the house killed in between: nobody has less than
// nothing, nobody spends twice, what somebody has is what the ledger says, and everything that was paid either came about or was given back.
func TestWhateverHappensTheLedgerHolds(t *testing.T) {
	evenings := uint64(400)
	if testing.Short() {
		evenings = 60
	}
	paid, refunded, won, short := 0, 0, 0, 0
	for seed := range evenings {
		r := rand.New(rand.NewPCG(seed, 21))
		wish, light, vip := housetest.Asked("wish", say("A wish of {name}.")), housetest.Asked("light", say("Light."), say("And another.")), housetest.Asked("vip", output.Output{Do: &output.Platform{Act: output.GiveVIP}})
		wish.Cost, vip.Cost = 30, 20
		light.Do[1].Cost, light.Do[1].ID, light.Do[1].DelaySeconds = 15, "second", 20
		spoken := housetest.Asked("read", output.Output{Do: &output.Speak{Fitting: "player", Asks: true}, Alternatives: []string{"{hasRest, select, yes {{rest}} other {nothing}}"}})
		spoken.Cost = 10
		e := begin(t, points.Section{Here: 5, Line: 1, Visit: 3, Evening: 1000}, wish, light, vip, spoken,
			housetest.Asked("give", output.Output{Do: &output.Give{}}), housetest.Asked("race", output.Output{Do: &output.Race{Seconds: 20}}), housetest.Asked("stone", output.Output{Do: &output.Stone{}}), housetest.Asked("tide", output.Output{Do: &output.Tide{People: 3, Seconds: 20}}))
		lena := &people.Known{Person: 1, Accounts: []string{"quayside:id-limpet_lena", "fernlight:id-lena"}}
		e.Known = map[string]*people.Known{"limpet_lena": lena, "lena": lena}
		who := func() string { return []string{"limpet_lena", "lena@fernlight", "kelpwright", "mossy_mare"}[r.IntN(4)] }
		for range 70 {
			e.After(time.Duration(r.IntN(5000)) * time.Millisecond)
			switch n := r.IntN(24); {
			case n < 10:
				e.Chat(who() + ": " + []string{"!wish", "!wish", "!light", "!vip", "!read it aloud", fmt.Sprint("!stone ", r.IntN(60)-5), "!stone all", "!race", "!tide", "hello"}[r.IntN(10)])
			case n < 12:
				e.Chat(who() + ": " + []string{"!give", "!race"}[r.IntN(2)] + " @" + []string{"kelpwright", "mossy_mare", "limpet_lena"}[r.IntN(3)] + fmt.Sprint(" ", r.IntN(60)-5))
			case n < 15:
				g := &event.PointsGranted{Person: housetest.Viewer(who()), Amount: int64(r.IntN(90) - 20)}
				if g.Amount != 0 {
					e.Happens(g)
				}
			case n < 17:
				e.Happens(&event.Hushed{On: r.IntN(2) == 0})
			case n < 20:
				if q := e.S.Queue.Lines; len(q) > 0 {
					e.Happens(&event.LineDropped{LineHand: event.LineHand{Line: q[r.IntN(len(q))].ID, Member: "Odalys Brine"}})
				}
			case n < 22:
				e.refusesSomething(r)
			case n == 22:
				e.Restarted()
			default:
				e.Chat(who() + ": what a tide")
			}
			e.holds(t, seed)
		}
		e.Happens(&event.Hushed{On: false})
		e.After(3 * time.Hour)
		e.holds(t, seed)
		m := points.MemoryOf(e.S.Rooms)
		if len(m.Open)+len(m.Owed)+len(m.Races) > 0 || m.Tide != nil {
			t.Fatalf("seed %d: something is never settled: %+v %+v %+v", seed, m.Open, m.Owed, m.Races)
		}
		p, b, w, s := e.settled(t, seed)
		paid, refunded, won, short = paid+p, refunded+b, won+w, short+s
		e.again(t, seed)
	}
	if paid < 500 || refunded < 100 || won < 100 || short < 100 {
		t.Errorf("only %d paid, %d given back, %d won, %d who had not enough", paid, refunded, won, short)
	}
}

// refusesSomething has a platform refuse something that left.
func (e evening) refusesSomething(r *rand.Rand) {
	for range 20 {
		l := e.Log[r.IntN(len(e.Log))]
		for _, d := range l.Decisions {
			switch {
			case d.Kind == hall.Say && d.Courtesy != "points":
				e.Happens(&event.SpeechRefused{SpeechOutcome: event.SpeechOutcome{Line: d.Line, Platform: d.Platform, Text: d.Text, Reason: "too fast"}})
				return
			case d.Kind == hall.Kind(output.KindPlatform):
				e.Happens(&event.ActRefused{ActOutcome: event.ActOutcome{Line: d.Line, To: d.Platform, Effect: "platform", Reason: "not here"}})
				return
			}
		}
	}
}

// holds holds purses against the ledger.
func (e evening) holds(t *testing.T, seed uint64) {
	t.Helper()
	for account, sum := range e.ledger() {
		if sum < 0 {
			t.Fatalf("seed %d: the ledger of %s is at %d", seed, account, sum)
		}
		if got := points.MemoryOf(e.S.Rooms).Has(e.S.Kept[account][points.Name]); got != sum {
			t.Fatalf("seed %d: %s has %d, and by the ledger %d", seed, account, got, sum)
		}
	}
}

// settled tells for each charge whether it came about, and fails where it was given back although it did, or did not and was kept.
func (e evening) settled(t *testing.T, seed uint64) (paid, refunded, won, short int) {
	t.Helper()
	type charge struct {
		event            int64
		courtesy, output string
		paid, back       int64
	}
	charges, refusals := map[string]*charge{}, map[string]int{}
	for _, l := range e.Log {
		switch d := l.Event.Data.(type) {
		case *event.SpeechRefused:
			refusals[d.Line+"@"+d.Platform]++
		case *event.ActRefused:
			refusals[d.Line+"@"+d.To]++
		case *happening.StoneTurned:
			if d.Won > 0 {
				won++
			}
		}
		for i := range l.Decisions {
			d := &l.Decisions[i]
			if d.Kind == hall.Refuse && len(d.Because[0]) > 5 && d.Because[0][:5] == "costs" {
				short++
			}
			entry, ok := points.EntryOf(d)
			if !ok {
				continue
			}
			switch d.Output {
			case points.Paid:
				c := charges[entry.For]
				if c == nil {
					c = &charge{event: l.Event.Seq, courtesy: entry.Courtesy, output: entry.Output}
					charges[entry.For] = c
				}
				c.paid -= entry.Amount
			case points.Refunded:
				if c := charges[entry.For]; c != nil {
					c.back += entry.Amount
				}
			}
		}
	}
	for id, c := range charges {
		paid++
		came := false
		for _, l := range e.Log {
			for i := range l.Decisions {
				d := &l.Decisions[i]
				if !(d.Kind == hall.Say || output.Of(output.Kind(d.Kind)).Way.Staged()) {
					continue
				}
				mine := d.Event == c.event && d.Courtesy == c.courtesy && (c.output == "" || d.Output == c.output)
				if mine && refusals[d.Line+"@"+d.Platform] == 0 {
					came = true
				}
			}
		}
		switch {
		case c.back > 0 && c.back != c.paid:
			t.Fatalf("seed %d: %s: %d paid and %d given back", seed, id, c.paid, c.back)
		case c.back > 0 && came:
			t.Fatalf("seed %d: %s came about, and was given back", seed, id)
		case c.back == 0 && !came:
			t.Fatalf("seed %d: %s did not come about, and was kept: %+v", seed, id, c)
		case c.back > 0:
			refunded++
		}
	}
	return paid, refunded, won, short
}

// again evolves the log from nothing.
func (e evening) again(t *testing.T, seed uint64) {
	t.Helper()
	s := house.NewState()
	for _, l := range e.Log {
		raw, err := json.Marshal(l.Decisions)
		if err != nil {
			t.Fatal(err)
		}
		var ds []hall.Decision
		if err := json.Unmarshal(raw, &ds); err != nil {
			t.Fatal(err)
		}
		ev := l.Event
		s.Evolve(&ev, ds)
	}
	got, _ := json.Marshal(s)
	want, _ := json.Marshal(e.S)
	if !bytes.Equal(got, want) {
		t.Fatalf("seed %d: the log gives another state\ngot  %s\nwant %s", seed, got, want)
	}
}
