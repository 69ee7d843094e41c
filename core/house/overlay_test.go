package house_test

import (
	"encoding/json"
	"slices"
	"testing"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/room"
)

// TestNothingIsShownTwiceOverNothingAndNothingIsLostWithoutAWord: over random evenings, whatever pages do.
func TestNothingIsShownTwiceOverNothingAndNothingIsLostWithoutAWord(t *testing.T) {
	shown, given, again := 0, 0, 0
	for seed := range uint64(60) {
		times, closes, when := map[string]int{}, map[string]int{}, map[string]int{} // begun, by overlay and id; pages closed, by overlay, and at each release
		waits := map[string]bool{}
		watchedIn(t, housetest.OnScreen, seed, 120, func(before *house.State, ev *event.Event, _ *people.Known, ds []hall.Decision, plan *room.Plan) {
			switch data := ev.Data.(type) {
			case *event.OverlayClosed:
				closes[data.Overlay]++
			case *event.ShowBegun:
				if s := overlay.ScreenOf(before.Rooms, data.Overlay); s.On != nil && s.On.ID == data.Show && s.On.Begun.IsZero() {
					times[data.Overlay+" "+data.Show]++
				}
			}
			for i := range ds {
				d := &ds[i]
				switch {
				case d.Room == "overlay" && d.Kind == overlay.Show:
					s := overlay.ScreenOf(before.Rooms, d.Place)
					over := slices.ContainsFunc(ds[:i], func(x hall.Decision) bool { return x.Kind == "over" && x.Place == d.Place })
					if !s.Open || s.On != nil && !over {
						t.Fatalf("seed %d: %s is shown on %s, which is %+v", seed, d.Line, d.Place, s)
					}
					if before.Hush && !d.ByHand {
						t.Fatalf("seed %d: %s is shown under hush", seed, d.Line)
					}
					key := d.Place + " " + d.Line
					if _, before := times[key]; before {
						if again++; closes[d.Place] == when[key] {
							t.Fatalf("seed %d: %s is shown again on a page that stayed", seed, key)
						}
					}
					times[key], when[key] = times[key], closes[d.Place]
					var r overlay.Release
					if json.Unmarshal(d.Body, &r) != nil || len(r.Parts) == 0 {
						t.Fatalf("seed %d: nothing is shown: %s", seed, d.Body)
					}
					shown++
					delete(waits, d.Line)
				case d.Room == "overlay" && d.Kind == hall.Refuse && d.Line != "":
					given++
					delete(waits, d.Line)
				}
			}
			for _, w := range room.Remembered[overlay.Memory](before.Rooms, "overlay").Line {
				waits[w.ID] = len(w.Shown) == 0
			}
		})
		for key, n := range times {
			if n > 2 { // once, and once more where it was cut off in its first second
				t.Errorf("seed %d: %s began %d times", seed, key, n)
			}
		}
	}
	if shown < 200 || given < 100 || again < 20 {
		t.Errorf("%d shown, %d given up, %d again: too few to tell", shown, given, again)
	}
}

// TestACountdownIsTheSameFromTheLog: lengthened and set by hand, it stands as it does after a restart.
func TestACountdownIsTheSameFromTheLog(t *testing.T) {
	moved := 0
	for seed := range uint64(30) {
		l := watchedIn(t, housetest.OnScreen, seed, 80, nil)
		again := l.again(house.NewState(), l.log)
		at := l.now
		for i := range l.plan.Settings.Overlays {
			o := &l.plan.Settings.Overlays[i]
			was, _ := json.Marshal(overlay.Board(&l.s.State, l.s.Rooms, o, l.plan, at))
			now, _ := json.Marshal(overlay.Board(&again.State, again.Rooms, o, l.plan, at))
			if string(was) != string(now) {
				t.Fatalf("seed %d: %s stands as\n%s\nand was\n%s", seed, o.ID, now, was)
			}
			moved += len(room.Remembered[overlay.Memory](l.s.Rooms, "overlay").Clocks)
		}
	}
	if moved == 0 {
		t.Error("no countdown ever moved")
	}
}
