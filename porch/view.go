package porch

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"vividporch/core/along"
	"vividporch/core/attendance"
	"vividporch/core/command"
	"vividporch/core/desk"
	"vividporch/core/event"
	"vividporch/core/fetched"
	"vividporch/core/forecast"
	"vividporch/core/guard"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/points"
	"vividporch/core/relay"
	"vividporch/core/room"
	"vividporch/porch/calendar"
	"vividporch/porch/past"
	"vividporch/porch/screen"
	"vividporch/spec"
	"vividporch/store/log"
)

// entriesFirst is how much of the conversation a page gets at first.
const entriesFirst = 1000

// Porch is everything the live screen shows, as of now.
func (h *House) Porch(ctx context.Context) (spec.Porch, error) {
	var p spec.Porch
	err := h.look(ctx, func(s *house.State) { p = h.whole(s) })
	return p, err
}

// Asked is how often each command was asked for, by its id.
func (h *House) Asked(ctx context.Context) (map[string]command.Count, error) {
	out := map[string]command.Count{}
	err := h.look(ctx, func(s *house.State) {
		for id, n := range command.Counts(s.Rooms) {
			out[id] = command.Count{Times: n.Times, Tonight: n.Tonight, Last: n.Last, When: slices.Clone(n.When)}
		}
	})
	return out, err
}

// Along is who streams along this evening.
func (h *House) Along(ctx context.Context) (logins []string, err error) {
	err = h.look(ctx, func(s *house.State) { logins = slices.Clone(along.Logins(s.Rooms)) })
	return logins, err
}

// LastRaider is the account of whoever raided last in this stream; "" for nobody.
func (h *House) LastRaider(ctx context.Context) (account string, err error) {
	err = h.look(ctx, func(s *house.State) {
		if n := len(s.Raids); n > 0 && s.Stream.Live() {
			account = s.Raids[n-1].Person.Key()
		}
	})
	return account, err
}

// Fetched is how the texts of the channel's own fill-ins stand: the last good one of each, and why there
// is no newer one.
func (h *House) Fetched(ctx context.Context) ([]spec.FetchedText, error) {
	out := []spec.FetchedText{}
	err := h.look(ctx, func(s *house.State) {
		for _, f := range h.plan.Load().Settings.FillIns {
			if f.Kind != "fetched" {
				continue
			}
			x := spec.FetchedText{Name: f.Name}
			if t, ok := fetched.Texts(s.Rooms)[f.Name]; ok && t.Address == f.Address {
				x.Text, x.At = t.Text, t.At
			}
			if why, ok := h.unfetched.Load(f.Name); ok {
				x.Why, _ = why.(string)
			}
			out = append(out, x)
		}
	})
	return out, err
}

// OnScreen is how the overlays stand: each, and how many wait for it, by its id.
type OnScreen struct {
	Of   map[string]overlay.Screen
	Line map[string]int
}

// Overlays is how the overlays stand.
func (h *House) Overlays(ctx context.Context) (out OnScreen, err error) {
	out = OnScreen{map[string]overlay.Screen{}, map[string]int{}}
	err = h.look(ctx, func(s *house.State) {
		for i := range h.plan.Load().Settings.Overlays {
			o := &h.plan.Load().Settings.Overlays[i]
			st := overlay.ScreenOf(s.Rooms, o.ID)
			if st.On != nil {
				on := *st.On
				st.On = &on
			}
			out.Of[o.ID], out.Line[o.ID] = st, overlay.Waits(s.Rooms, o)
		}
	})
	return out, err
}

// HeldLine is a line that is held, by its id; nothing of one that is not any more.
func (h *House) HeldLine(ctx context.Context, id string) (held guard.Held, err error) {
	err = h.look(ctx, func(s *house.State) { held, _ = guard.HeldBy(s.Rooms, id) })
	return held, err
}

// Undoable are the last things platforms did that can be taken back, oldest first.
func (h *House) Undoable(ctx context.Context) (acts []event.ActOutcome, err error) {
	err = h.look(ctx, func(s *house.State) { acts = slices.Clone(desk.Acts(s.Rooms)) })
	return acts, err
}

// lookerOf looks at what was said in the last streams.
func (h *House) lookerOf() *past.Looker {
	return past.New(past.Config{Settings: func() *housefile.Settings { return h.plan.Load().Settings }, Past: func() []attendance.Past { return h.times.Load().past },
		Said: func(ctx context.Context, since time.Time, most int) ([]log.Said, error) {
			return h.store.Log.SaidSince(ctx, h.ID, since, most)
		},
		Known: func(ctx context.Context, account string) (regular, trusted bool, err error) {
			k, err := h.Known(ctx, account)
			if err != nil || k == nil {
				return false, false, err
			}
			r := h.Reckoning()
			standing, _ := r.Rules.Standing(k, r.Past, r.Now, r.Zone)
			return standing == people.Regular, k.Trusted, nil
		},
		Spared: func(said *happening.ChatSaid) bool {
			return guard.SparedByRole(h.plan.Load(), said.Person) != ""
		}})
}

// scene is what the Porch is drawn from now; only the owner may call it.
func (h *House) scene(s *house.State) screen.Scene {
	return screen.Scene{State: s, Plan: h.plan.Load(), Now: h.clock.now(), Doors: h.Doors(), Stalled: h.Stalled(), ClockBack: h.clock.back()}
}

func (h *House) whole(s *house.State) spec.Porch {
	return screen.Whole(h.scene(s), h.entries.Last(entriesFirst))
}

// Doors tells how each door stands. It asks nobody, and the owner's work does not wait.
func (h *House) Doors() []spec.Door {
	out := []spec.Door{}
	for _, d := range h.plan.Load().Settings.Doors {
		v := spec.Door{Door: d.Name, Kind: d.Kind, Platform: d.Platform, State: "open"}
		switch {
		case h.held.Load():
			v.State, v.Reason, v.Account = string(paused), heldWhy, d.Account
			out = append(out, v)
			continue
		case d.Paused:
			v.State, v.Account = string(paused), d.Account
			out = append(out, v)
			continue
		}
		if d.Kind == "irc" {
			v.State, v.Account = "opening", d.Account
			h.mu.Lock()
			if c := h.chats[d.Name]; c != nil {
				hl := c.client.Health()
				v.State, v.Account, v.MaySpeak, v.MayModerate, v.Reason, v.LastIn, v.LastOut = string(hl.State), hl.Account, hl.MaySpeak, hl.MayModerate, hl.Reason, hl.LastIn, hl.LastOut
			}
			h.mu.Unlock()
		} else if d.IsService() {
			is := h.Services.Health(d.Name)
			v.State, v.Reason, v.LastIn = is.State, is.Reason, is.LastIn
		} else if t, ok := h.inboxSeen.Load(d.Name); ok {
			v.LastIn = t.(time.Time)
		}
		out = append(out, v)
	}
	return out
}

// show tells whoever watches what a batch changed.
func (h *House) show(b *log.Batch) {
	var entries []spec.Entry
	lived := make([]screen.Lived, len(b.Entries))
	for i := range b.Entries {
		en := &b.Entries[i]
		es := screen.Entries(&en.Event, en.Decisions)
		h.entries.Add(es)
		entries = append(entries, es...)
		lived[i] = screen.Lived{Event: &en.Event, Decisions: en.Decisions}
		h.Screens.Lived(&en.Event, en.Decisions, h.plan.Load())
	}
	h.Screens.Stirred()
	if !h.hub.wanted() {
		h.hub.forget()
		h.shown = nil
		return
	}
	var c spec.Change
	c, h.shown = screen.Change(h.scene(h.state), lived, entries, h.shown)
	h.hub.send("change", b.Entries[0].Event.Seq-1, h.state.Seq, c)
}

// showStalled tells whoever watches that the database is gone or back, and whether the
// clock is well.
func (h *House) showStalled() {
	if h.hub.wanted() {
		h.hub.send("database", 0, 0, map[string]any{"gone": h.Stalled(), "clockBack": int(h.clock.back().Seconds())})
	}
}

// daysHere is who is here, as far as days of theirs go.
func (h *House) daysHere(ctx context.Context) (map[string]calendar.Here, error) {
	out := map[string]calendar.Here{}
	err := h.look(ctx, func(s *house.State) {
		if s.Stream.Live() {
			for key, g := range s.Tonight {
				out[key] = calendar.Here{Since: g.Arrived}
			}
		}
		for i := range s.Queue.Lines {
			if l := &s.Queue.Lines[i]; len(l.Days) > 0 {
				x := out[l.Person]
				x.Due, x.Keeps = l.Due, slices.Concat(x.Keeps, l.Days)
				out[l.Person] = x
			}
		}
		for _, places := range []people.Kept{s.Kept, s.KeptLast} {
			for key := range places {
				x := out[key]
				x.Kept = slices.Concat(x.Kept, room.DaysKept(places[key]))
				out[key] = x
			}
		}
	})
	return out, err
}

// Ahead is the hour ahead under a plan, once for each speed of chat: lines people say a minute; less than 0 is
// as they did lately, and where no stream is on as they usually do. tonight is as they did lately.
func (h *House) Ahead(ctx context.Context, plan *room.Plan, usually float64, speeds ...float64) (hours []forecast.Hour, tonight float64, err error) {
	var raw []byte
	var now time.Time
	if seen := h.look(ctx, func(s *house.State) {
		raw, err = json.Marshal(s)
		now = h.clock.now()
		if s.Stream.Live() {
			tonight = s.Evening.Speed(now.Sub(s.Stream.Opened))
		}
	}); seen != nil || err != nil {
		return nil, 0, cmp.Or(seen, err)
	}
	s, _, ok := house.RestoreState(raw)
	if !ok {
		return nil, 0, errors.New("the state is not read back")
	}
	for _, speed := range speeds {
		if speed < 0 {
			speed = cmp.Or(tonight, usually, usualSpeed)
		}
		hour, err := forecast.Of(s, plan, now, speed)
		if err != nil {
			return nil, 0, err
		}
		hours = append(hours, hour)
	}
	return hours, tonight, nil
}

// Gathered tells what waits to be posted with others.
func (h *House) Gathered(ctx context.Context) (out []relay.Waits, err error) {
	err = h.look(ctx, func(s *house.State) { out = relay.Waiting(s.Rooms) })
	return out, err
}

// usualSpeed is how fast chat is taken to be where nothing tells, in lines a minute.
const usualSpeed = 4

// CanUndoReset reports whether the last reset of points, and of their season, can be taken back.
func (h *House) CanUndoReset(ctx context.Context) (all, season bool, err error) {
	err = h.look(ctx, func(s *house.State) {
		m := points.MemoryOf(s.Rooms)
		all, season = m.All.CanUndo(), m.Season.CanUndo()
	})
	return all, season, err
}
