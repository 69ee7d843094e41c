package housefile

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/output"
)

// Clone is the same document once more.
func (s *Settings) Clone() *Settings {
	raw, _ := json.Marshal(s)
	out := &Settings{}
	_ = json.Unmarshal(raw, out)
	return out
}

// LeaveOut takes out of settings what faults are about.
func (s *Settings) LeaveOut(faults []courtesy.Fault) {
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
		case section == "rooms":
			delete(s.Rooms, place)
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
	case "commands":
		s.Commands = Commands{}
	case "along":
		s.Along = nil
	case "shoutOuts":
		s.ShoutOuts = ShoutOuts{}
	case "alsoOn":
		s.AlsoOn = AlsoOn{}
	case "announcing":
		s.Announcing = output.Announcing{}
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
