package house

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vividporch/core/courtesy"
)

// ReadStored decodes settings that were in force once. Fields that this house does not
// know are passed over: a newer one wrote them.
func ReadStored(raw []byte) (*Settings, error) {
	s := &Settings{}
	if err := json.Unmarshal(Lift(raw), s); err != nil {
		return nil, fmt.Errorf("these settings cannot be read: %w", err)
	}
	return s, nil
}

// Loosely makes a plan of settings that were in force once, whatever has been made
// stricter since: what no longer holds is left out and told in [Plan.Left], the rest
// stands. There is always a plan; of settings in which nothing holds it is an empty one.
func Loosely(s *Settings, version int64) *Plan {
	part := s.clone()
	for i := range part.Courtesy {
		for k := range part.Courtesy[i].Do { // once allowed, and the same as naming it once
			o := &part.Courtesy[i].Do[k]
			slices.Sort(o.On)
			o.On = slices.Compact(o.On)
		}
	}
	var left []courtesy.Fault
	for range 100 { // leaving one thing out may bring down another
		p, faults := Ready(part, version)
		if len(faults) == 0 {
			p.Whole, p.Left = s, left
			return p
		}
		for _, f := range faults {
			if !slices.ContainsFunc(left, func(g courtesy.Fault) bool { return sameFault(f, g) }) {
				left = append(left, f)
			}
		}
		part.leaveOut(faults)
	}
	p, _ := Ready(&Settings{Format: Format, Channel: part.Channel, Zone: "UTC", Seed: part.Seed}, version)
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

func (s *Settings) clone() *Settings {
	raw, _ := json.Marshal(s)
	out := &Settings{}
	_ = json.Unmarshal(raw, out)
	return out
}

// leaveOut takes out of settings what faults are about.
func (s *Settings) leaveOut(faults []courtesy.Fault) {
	drop := map[string]map[int]bool{} // section → places in its list
	outputs := map[string]map[int]bool{}
	mark := func(in map[string]map[int]bool, name string, n int) {
		if in[name] == nil {
			in[name] = map[int]bool{}
		}
		in[name][n] = true
	}
	whole := map[string]bool{}
	for _, f := range faults {
		section, rest, _ := strings.Cut(f.At, ".")
		place, _, _ := strings.Cut(rest, ".")
		n, err := strconv.Atoi(place)
		at := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == f.Courtesy })
		switch {
		case at >= 0 && section == "do" && err == nil:
			mark(outputs, f.Courtesy, n)
		case at >= 0 && f.At == "id": // it stands twice, or has none: the later one goes
			for i := len(s.Courtesy) - 1; i >= 0; i-- {
				if s.Courtesy[i].ID == f.Courtesy {
					mark(drop, "courtesies", i)
					break
				}
			}
		case at >= 0:
			whole[f.Courtesy] = true
		case err == nil:
			mark(drop, section, n)
		default:
			s.reset(section)
		}
	}
	s.Doors, s.Places, s.Fittings = without(s.Doors, drop["doors"]), without(s.Places, drop["places"]), without(s.Fittings, drop["fittings"])
	s.FillIns, s.JoinWords, s.Unclear = without(s.FillIns, drop["fillIns"]), without(s.JoinWords, drop["joined"]), without(s.Unclear, drop["unclear"])
	if len(drop["hello"]) > 0 {
		s.Hello = Hello{}
	}
	for i := range s.Courtesy {
		c := &s.Courtesy[i]
		had := len(c.Do)
		c.Do = without(c.Do, outputs[c.ID])
		if whole[c.ID] || had > 0 && len(c.Do) == 0 { // one that does nothing would pass people over in silence
			mark(drop, "courtesies", i)
		}
	}
	s.Courtesy = without(s.Courtesy, drop["courtesies"])
}

// reset puts a section that is not a list of things back to what it is on a new channel.
func (s *Settings) reset(section string) {
	switch section {
	case "format":
		s.Format = Format
	case "channel":
		s.Channel = "this channel"
	case "zone":
		s.Zone = "UTC"
	case "graceSeconds":
		s.Grace = nil
	case "pace":
		s.Pace = Pace{}
	case "standings":
		s.Standings = Settings{}.Standings
	case "leapDay":
		s.LeapDay = ""
	case "privacy":
		s.Privacy = Privacy{}
	case "hello":
		s.Hello = Hello{}
	case "alsoOn":
		s.AlsoOn = AlsoOn{}
	default:
		s.Courtesy = nil
	}
}

func without[T any](list []T, places map[int]bool) []T {
	if len(places) == 0 {
		return list
	}
	var out []T
	for i, x := range list {
		if !places[i] {
			out = append(out, x)
		}
	}
	return out
}
