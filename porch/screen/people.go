package screen

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/spec"
)

func live(s *house.State) spec.Live {
	l := spec.Live{On: s.Stream.Live(), Stream: s.Stream.Number, People: s.Evening.People, House: s.Evening.House}
	l.Flood, l.Guard, l.Draw = guard.HoldsOff(s.Rooms), guarded(s), drawn(s)
	if !l.On {
		return l
	}
	l.Opened, l.Dropped = s.Stream.Opened, !s.Stream.Gone.IsZero()
	for _, name := range slices.Sorted(maps.Keys(s.Stream.Platforms)) {
		p := s.Stream.Platforms[name]
		if p.Live {
			l.Platforms = append(l.Platforms, name)
			l.Viewers += p.Viewers
		}
		if l.Title == "" || p.Live {
			l.Title, l.Category = plain.Text(p.Title), plain.Text(p.Category)
		}
	}
	return l
}

// guarded is what the guard did in this stream, in one sentence; nothing where it did nothing.
func guarded(s *house.State) string {
	did, waits := guard.Tonight(s.Rooms)
	var parts []string
	for _, x := range []struct {
		n           int
		one, others string
	}{{did.Warned, "told 1 person", "told %d people"}, {did.Removed, "took 1 line out", "took %d lines out"}, {did.Held, "held 1 line", "held %d lines"}, {did.TimedOut, "sent 1 out for a while", "sent %d out for a while"}, {did.Banned, "banned 1", "banned %d"}} {
		switch {
		case x.n == 1:
			parts = append(parts, x.one)
		case x.n > 1:
			parts = append(parts, fmt.Sprintf(x.others, x.n))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	said := "The guard " + plain.List(parts, "and")
	if waits > 0 {
		said += fmt.Sprintf("; %d still to be decided", waits)
	}
	return said
}

func guest(s *house.State, plan *room.Plan, key string, g *hall.Guest) spec.Guest {
	platform, _, _ := strings.Cut(key, ":")
	v := spec.Guest{Account: key, Platform: platform, Login: g.Login, Name: g.Name, Standing: string(g.Standing), Arrived: g.Arrived, Last: g.Last,
		Changed: g.Changed, Lines: g.Lines, Greeted: g.Greeted, Day: g.Day, Left: g.Left, Nick: g.Nick}
	for _, r := range g.Roles {
		v.Roles = append(v.Roles, string(r))
	}
	if k := g.Known; k != nil {
		v.Streams = k.Attended + 1
		v.Person, v.Fellow, v.Crews, v.Owed, v.Why = k.Person, k.Streams() || g.Fellow, k.Crews, k.Owed, g.Why
		seen, on := k.Recent, 0
		if s.Stream.Live() {
			on = s.Stream.Number
			seen = append(slices.Clip(seen), on)
		}
		v.Strip = attendance.Strip(attendance.MaskOf(s.Stream.Number, seen), s.Past, on)
		v.Date = strings.Join(nearDates(k, plan, s.Clock), ", ")
		if k.Followed != nil {
			v.Followed = *k.Followed
		}
		if k.LastSeen != nil {
			v.LastSeen = *k.LastSeen
		}
	}
	for _, r := range s.Raids {
		if g.With == r.Event && g.With > 0 {
			v.With = plain.Name(r.Person.Shown())
		}
		if r.Person.Key() == key {
			v.Raider = r.Viewers
			if v.Name == "" {
				v.Name, v.Login, v.Last, v.Changed = plain.Name(r.Person.Shown()), r.Person.Login, r.At, r.At
			}
		}
	}
	if v.Name == "" {
		v.Name = v.Login
	}
	return v
}

// nearDates are the days of somebody's that are near, in their own zone where it is
// known.
func nearDates(k *people.Known, plan *room.Plan, now time.Time) []string {
	zone := plan.Zone
	if own, err := time.LoadLocation(k.Zone); err == nil && k.Zone != "" {
		zone = own
	}
	var birthday, followed dates.Day
	if k.Birthday != nil {
		birthday = *k.Birthday
	}
	if k.Followed != nil {
		followed = dates.On(*k.Followed, zone)
	}
	near := dates.Near(dates.On(now, zone), birthday, followed, plan.Leap())
	for i := range near {
		if k.HideDay && strings.HasPrefix(near[i], "birthday") { // members see it, marked
			near[i] += " (hidden)"
		}
	}
	return near
}
