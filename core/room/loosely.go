package room

import (
	"slices"
	"strconv"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
)

// Loosely makes a plan of settings that were in force once, whatever has been made
// stricter since: what no longer holds is left out and told in [Plan.Left], the rest
// stands. There is always a plan; of settings in which nothing holds it is an empty one.
func Loosely(s *housefile.Settings, version int64, rooms []Room) *Plan {
	part := s.Clone()
	for i := range part.Courtesy {
		for k := range part.Courtesy[i].Do { // once allowed, and the same as naming it once
			o := &part.Courtesy[i].Do[k]
			slices.Sort(o.On)
			o.On = slices.Compact(o.On)
		}
	}
	var left []courtesy.Fault
	for range 100 { // leaving one thing out may bring down another
		p, faults := Ready(part, version, rooms)
		if len(faults) == 0 {
			p.Whole, p.Left = s, left
			return p
		}
		for _, f := range faults {
			if !slices.ContainsFunc(left, func(g courtesy.Fault) bool { return sameFault(f, g) }) {
				left = append(left, f)
			}
		}
		part.LeaveOut(faults)
	}
	p, _ := Ready(&housefile.Settings{Format: housefile.Format, Channel: part.Channel, Zone: "UTC", Seed: part.Seed}, version, rooms)
	p.Whole, p.Left = s, left
	return p
}

// sameFault reports whether two faults are one, wherever in its list the thing stands.
func sameFault(a, b courtesy.Fault) bool {
	return a.Courtesy == b.Courtesy && a.What == b.What && noNumbers(a.At) == noNumbers(b.At)
}

func noNumbers(at string) string {
	parts := strings.Split(at, ".")
	for i, p := range parts {
		if _, err := strconv.Atoi(p); err == nil {
			parts[i] = "#"
		}
	}
	return strings.Join(parts, ".")
}

// NewFaults are the faults of settings that are not left out already: what is broken
// and was not touched keeps nobody from changing something else.
func (p *Plan) NewFaults(faults []courtesy.Fault) []courtesy.Fault {
	return slices.DeleteFunc(slices.Clone(faults), func(f courtesy.Fault) bool {
		return slices.ContainsFunc(p.Left, func(g courtesy.Fault) bool { return sameFault(f, g) })
	})
}
