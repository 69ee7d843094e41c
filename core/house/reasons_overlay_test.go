package house_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/room"
)

// onScreen is what waited for the overlays before this, of the decision's line.
func (a *reading) onScreen() *overlay.Waiting {
	m := room.Remembered[overlay.Memory](a.before.Rooms, "overlay")
	for i := range m.Line {
		if m.Line[i].ID == a.d.Line {
			return &m.Line[i]
		}
	}
	return nil
}

// anyOpen reports whether an overlay was open that could show it.
func (a *reading) anyOpen(w *overlay.Waiting) bool {
	return slices.ContainsFunc(a.plan.Settings.Overlays, func(o box.Overlay) bool {
		return overlay.ScreenOf(a.before.Rooms, o.ID).Open && a.hasRoom(&o, w)
	})
}

func (a *reading) hasRoom(o *box.Overlay, w *overlay.Waiting) bool {
	if len(w.Only) > 0 && !slices.Contains(w.Only, o.ID) {
		return false
	}
	sounds := 0
	for _, p := range w.Parts {
		switch at := p.Told.Do.(interface{ Screen() *output.OnScreen }).Screen(); {
		case p.Told.Effect == "sound" || p.Told.Effect == "speak":
			if !o.Silent && (at.On == "" || at.On == o.ID) {
				sounds++
			}
		case (at.On == "" || at.On == o.ID) && o.Box(at.Box, string(p.Told.Effect)) != nil:
			return true
		default:
			sounds = -100
		}
	}
	return sounds > 0
}

// longWaited reports whether it waited so many seconds as the reason says.
func (a *reading) longWaited() bool {
	w := a.onScreen()
	n, err := strconv.ParseFloat(a.m[1], 64)
	return w != nil && err == nil && !a.ev.Logged.Before(w.Made.Add(time.Duration(n*float64(time.Second))))
}

func (a *reading) lengthened() verdict {
	var now struct {
		Box   string
		Added float64
	}
	if json.Unmarshal(a.d.Body, &now) != nil {
		return fails
	}
	was := 0.0
	var clocks struct {
		Clocks map[string]struct{ Added float64 }
	}
	raw, _ := json.Marshal(room.Remembered[overlay.Memory](a.before.Rooms, "overlay"))
	if json.Unmarshal(raw, &clocks) == nil {
		was = clocks.Clocks[now.Box].Added
	}
	by, err := time.ParseDuration(a.m[1])
	return iff(err == nil && (time.Duration((now.Added-was)*float64(time.Second))-by).Abs() <= time.Second)
}

var overlayReasons = []reason{
	{`lengthened by (\S+)`, func(a *reading) verdict { return a.lengthened() }},
	{`counts for (.+)`, func(a *reading) verdict {
		tip, ok := a.ev.Data.(*happening.Tipped)
		return iff(ok && strings.EqualFold(strings.TrimSpace(tip.Campaign), a.m[1]))
	}},
	{`there is no such countdown any more`, func(a *reading) verdict { _, ok := a.ev.Data.(*event.CountdownSet); return iff(ok) }},
	{`shown`, func(a *reading) verdict { w := a.onScreen(); return iff(w != nil && len(w.Shown) > 0) }},
	{`(.+) is free after ([\d.]+) s in line`, func(a *reading) verdict {
		w := a.onScreen()
		s := overlay.ScreenOf(a.before.Rooms, a.d.Place)
		return iff(w != nil && s.Open && fmt.Sprintf("%.1f", a.before.ClockAt(a.ev.Logged).Sub(w.Made).Seconds()) == a.m[2])
	}},
	{`no overlay has a box for it`, func(a *reading) verdict {
		w := a.onScreen()
		return iff(w != nil && !slices.ContainsFunc(a.plan.Settings.Overlays, func(o box.Overlay) bool { return a.hasRoom(&o, w) }))
	}},
	{`the overlay was not open anywhere for ([\d.]+) s`, func(a *reading) verdict {
		w := a.onScreen()
		return iff(a.longWaited() && !a.anyOpen(w))
	}},
	{`hush held it for ([\d.]+) s`, func(a *reading) verdict { return iff(a.longWaited() && a.before.Hush) }},
	{`waited ([\d.]+) s in line for the overlay`, func(a *reading) verdict { return iff(a.longWaited() && a.anyOpen(a.onScreen())) }},
	{`more than (\d+) waited for the overlay, and this had to go first`, func(a *reading) verdict {
		n, _ := strconv.Atoi(a.m[1])
		return iff(overlay.Line(a.before.Rooms) > n)
	}},
	{`no page told that it is over`, func(a *reading) verdict {
		on := overlay.ScreenOf(a.before.Rooms, a.d.Place).On
		return iff(on != nil && !on.Begun.IsZero() && a.ev.Logged.After(on.Ends))
	}},
	{`no page began to show it within ([\d.]+) s`, func(a *reading) verdict {
		on := overlay.ScreenOf(a.before.Rooms, a.d.Place).On
		return iff(on != nil && on.Begun.IsZero() && a.ev.Logged.Sub(on.Released) >= 10*time.Second)
	}},
}
