// Package soak_test holds the house to its promises for a long time: random legal houses
// through random evenings with random hands against a living database, and two processes
// through kills, outages and hangs. ./run soak runs it; without PORCH_SOAK, which says
// for how long, it does nothing.
package soak_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"reflect"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/storetest"
)

// budget is how long this run may take; a part gets a share of it.
func budget(t *testing.T, share float64) time.Duration {
	t.Helper()
	d, err := time.ParseDuration(os.Getenv("PORCH_SOAK"))
	if err != nil {
		t.Skip("PORCH_SOAK says for how long; see ./run soak")
	}
	return time.Duration(float64(d) * share)
}

// channel starts a random house on a channel of its own, with nothing round it.
func channel(t *testing.T, st *store.Store, name string, s *housefile.Settings) (*porch.House, func()) {
	t.Helper()
	ctx := context.Background()
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	id, err := st.Channel(ctx, name)
	if err != nil {
		t.Fatal(err)
	}
	if err := st.Log.FirstSettings(ctx, id, raw); err != nil {
		t.Fatal(err)
	}
	h, stop, err := porch.Start(ctx, porch.Config{Store: st, Channel: name, Defaults: raw, Shut: true})
	if err != nil {
		t.Fatal(err)
	}
	return h, stop
}

// Whatever the house and the evening: nothing stops it, nothing is set aside, what was
// taken is in the log once, and a restart brings it back as it was.
func TestRandomHousesLiveRandomEveningsAgainstALivingDatabase(t *testing.T) {
	end := time.Now().Add(budget(t, 0.4))
	st := storetest.Open(t)
	evenings, events := 0, 0
	first := uint64(time.Now().UnixNano()) % 1e9
	fmt.Sscan(os.Getenv("PORCH_SOAK_SEED"), &first) // one that failed, to see it again
	for seed := first; time.Now().Before(end) && !t.Failed(); seed++ {
		evenings++
		events += evening(t, st, seed)
	}
	t.Logf("%d evenings of %d events", evenings, events)
}

func evening(t *testing.T, st *store.Store, seed uint64) int {
	r := rand.New(rand.NewPCG(seed, 11))
	s := housetest.Random(r)
	if seed%3 == 0 {
		s = housetest.Guarded(r)
	}
	for i := range s.Courtesy { // an evening is lived in seconds
		for k := range s.Courtesy[i].Do {
			s.Courtesy[i].Do[k].DelaySeconds /= 20
		}
		if b := s.Courtesy[i].Burst; b != nil {
			b.Seconds = 1
		}
	}
	s.Pace.GapSeconds, s.Pace.WaitSeconds, s.Pace.JoinEverySeconds = 0.01, 2, 0.1
	name := fmt.Sprint("evening-", seed)
	h, stop := channel(t, st, name, s)
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	taken := 0
	for i := range 12 {
		var batch []event.Event
		for range 1 + r.IntN(30) {
			d := housetest.Happening(r)
			if ev, err := sent(r, fmt.Sprint(i, "-", r.IntN(1000), housetest.Odd(r)), d); err == nil {
				batch = append(batch, ev)
			}
		}
		rs, err := h.Submit(ctx, batch)
		if err != nil {
			t.Errorf("evening %d: %v", seed, err)
			break
		}
		for k, x := range rs {
			if x.Aside != "" {
				t.Errorf("evening %d: a %s is set aside: %s", seed, batch[k].Type, x.Aside)
			} else if x.Seq > 0 {
				taken++
			}
		}
		hands(t, h, r, s, seed, ctx)
	}
	p, err := h.Porch(ctx)
	if err != nil {
		t.Errorf("evening %d: %v", seed, err)
	}
	for _, w := range p.Waiting {
		if w.Kind == "aside" || w.Kind == "book" {
			t.Errorf("evening %d: %+v", seed, w)
		}
	}
	stop()
	var logged, numbers int
	if err := st.SQL.QueryRow("SELECT count(*), count(DISTINCT seq) FROM events WHERE channel = $1 AND door = 'quayside'", h.ID).Scan(&logged, &numbers); err != nil || logged != taken || numbers != logged {
		t.Errorf("evening %d: %d taken, %d logged under %d numbers, %v", seed, taken, logged, numbers, err)
	}
	again(t, st, name, h.ID, seed)
	return taken
}

// sent is an event as a door reads it, with what senders add beside.
func sent(r *rand.Rand, id string, d event.Data) (event.Event, error) {
	data, err := json.Marshal(d)
	if err != nil {
		return event.Event{}, err
	}
	if r.IntN(4) == 0 {
		extra, _ := json.Marshal(housetest.Odd(r))
		data = append(data[:len(data)-1], fmt.Sprintf(`,"more":[%s,1e999,"\ud800","\u0000"]}`, extra)...)
	}
	name, _ := json.Marshal(id)
	at := ""
	if r.IntN(10) == 0 {
		at = fmt.Sprintf(`"time":%q,`, time.Now().Add(-time.Duration(r.IntN(600))*time.Second).Format(time.RFC3339Nano))
	}
	ev, err := happening.Kinds.Parse(fmt.Appendf(nil, `{"specversion":"1.0","id":%s,"source":"evening",%s"type":%q,"data":%s}`, name, at, d.Type(), data))
	ev.Door = "quayside"
	return ev, err
}

// hands does what members do: at the desk, in the settings and in the guest book.
func hands(t *testing.T, h *porch.House, r *rand.Rand, s *housefile.Settings, seed uint64, ctx context.Context) {
	t.Helper()
	p, err := h.Porch(ctx)
	if err != nil {
		return
	}
	var lines []string
	for _, c := range p.Coming {
		lines = append(lines, c.Line)
	}
	for range r.IntN(4) {
		d := housetest.Hand(r, lines, s.Courtesy)
		if d.Validate() != nil {
			continue
		}
		if _, err := h.Hand(ctx, d); err != nil {
			t.Errorf("evening %d: %s: %v", seed, d.Type(), err)
		}
	}
	switch r.IntN(6) {
	case 0:
		_, err = h.Desk.ChangeSettings(ctx, desk.By{Member: "Odalys Brine", Role: members.RoleOwner}, "a switch", func(s *housefile.Settings) error {
			if len(s.Courtesy) > 0 {
				c := &s.Courtesy[r.IntN(len(s.Courtesy))]
				c.On = !c.On
			}
			return nil
		})
		if err != nil && err != desk.ErrUnchanged {
			t.Errorf("evening %d: %v", seed, err)
		}
	case 1, 2:
		if k, err := h.Known(ctx, housetest.Somebody(r).Key()); err == nil && k != nil {
			note := housetest.Odd(r)
			if r.IntN(2) == 0 {
				_ = h.Desk.Forget(ctx, "Odalys Brine", k.Person) // who is merged away is found under another number
			} else if d := (&event.BookEdited{Persons: []int64{k.Person, k.Person}, Edit: event.Edit{Set: event.Hand{Note: &note}, AddTags: []string{"tide"}}}); d.Validate() == nil {
				if _, err := h.Desk.Edit(ctx, d); err != nil {
					t.Errorf("evening %d: %v", seed, err)
				}
			}
		}
	case 5: // by login alone, in whatever case
		login := []string{housetest.Somebody(r).Login, "Limpet3", "heron_camera"}
		for _, d := range []event.Data{
			&event.AlongSet{Logins: login[:1+r.IntN(3)], Member: "Odalys Brine"},
			&event.DeskActed{Act: string(output.GiveVIP), Platform: housetest.Somebody(r).Platform, Login: login[r.IntN(3)], Off: r.IntN(2) == 0},
		} {
			if _, err := h.Hand(ctx, d); err != nil {
				t.Errorf("evening %d: %s: %v", seed, d.Type(), err)
			}
		}
	case 4: // a platform did something about somebody, whose account was known or not
		who := housetest.Somebody(r)
		o := event.ActOutcome{Line: "1.desk", To: who.Platform, Effect: "platform", Act: string(output.GiveVIP), Login: who.Login}
		if r.IntN(2) == 0 {
			o.About = []string{who.Key()}
		}
		ev := event.Event{Door: "house", Source: "house", ID: fmt.Sprint("done-", r.Uint64()), Type: event.ActDoneType, Data: &event.ActDone{ActOutcome: o}}
		if _, err := h.Submit(ctx, []event.Event{ev}); err != nil {
			t.Errorf("evening %d: %v", seed, err)
		}
	case 3:
		a, _ := h.Known(ctx, housetest.Somebody(r).Key())
		b, _ := h.Known(ctx, housetest.Somebody(r).Key())
		if a != nil && b != nil {
			_ = h.Desk.Merge(ctx, "Odalys Brine", a.Person, b.Person) // two that are one already are not merged
		}
	}
}

// again evolves the log from nothing and from the last snapshot: both come to the same.
func again(t *testing.T, st *store.Store, name string, id int64, seed uint64) {
	t.Helper()
	ctx := context.Background()
	var states []any
	last, _, err := st.Log.LastSnapshot(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range []*house.State{house.NewState(), last} {
		if err := st.Log.Since(ctx, id, s.Seq, 0, func(en log.Entry) error { s.Evolve(&en.Event, en.Decisions); return nil }); err != nil {
			t.Fatalf("evening %d (%s): %v", seed, name, err)
		}
		raw, err := json.Marshal(s)
		if err != nil {
			t.Fatalf("evening %d: %v", seed, err)
		}
		var v any
		json.Unmarshal(raw, &v)
		states = append(states, v)
	}
	if !reflect.DeepEqual(states[0], states[1]) {
		t.Errorf("evening %d: evolving the log from nothing and from a snapshot differ%s", seed, apart("", states[0], states[1]))
	}
}

// apart says where two read documents differ, a line each.
func apart(at string, a, b any) string {
	if reflect.DeepEqual(a, b) {
		return ""
	}
	x, y := parts(a), parts(b)
	if x == nil || y == nil {
		return fmt.Sprintf("\n%s: %v, %v", at, a, b)
	}
	said := ""
	for k := range x {
		if _, in := y[k]; !in {
			said += fmt.Sprintf("\n%s/%s: %v, not there", at, k, x[k])
		} else {
			said += apart(at+"/"+k, x[k], y[k])
		}
	}
	for k := range y {
		if _, in := x[k]; !in {
			said += fmt.Sprintf("\n%s/%s: not there, %v", at, k, y[k])
		}
	}
	return said
}

// parts are the members of an object or a list by their names; nil of anything else.
func parts(v any) map[string]any {
	switch v := v.(type) {
	case map[string]any:
		return v
	case []any:
		out := map[string]any{}
		for i, x := range v {
			out[fmt.Sprint(i)] = x
		}
		return out
	}
	return nil
}
