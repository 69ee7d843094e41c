package housefile

import (
	"strings"

	"vividporch/core/dates"
	"vividporch/core/output"
	"vividporch/core/plain"
)

// StreamerDoor finds the chat door of a platform that speaks as the streamer, or nil.
func (s *Settings) StreamerDoor(platform string) *Door {
	for i := range s.Doors {
		if d := &s.Doors[i]; d.As == output.AsStreamer && d.Platform == platform {
			return d
		}
	}
	return nil
}

// Lookup is the address that answers asks about a platform's accounts, or "".
func (s *Settings) Lookup(platform string) string {
	for i := range s.Doors {
		if d := &s.Doors[i]; d.Platform == platform && d.Lookup != "" {
			return d.Lookup
		}
	}
	return ""
}

// LinkDoor finds a door of a platform that says where its streams are, or nil.
func (s *Settings) LinkDoor(platform string) *Door {
	for i := range s.Doors {
		if d := &s.Doors[i]; d.Platform == platform && d.Profile.Link != "" {
			return d
		}
	}
	return nil
}

// Leap is when a 29 February is kept in other years.
func (s *Settings) Leap() dates.LeapRule {
	if s.LeapDay == "" {
		return dates.OnFebruary28
	}
	return s.LeapDay
}

// DoorFor finds the chat door of a platform, or nil.
func (s *Settings) DoorFor(platform string) *Door {
	for i := range s.Doors {
		if d := &s.Doors[i]; d.Kind == "irc" && d.As == "" && d.Platform == platform {
			return d
		}
	}
	return nil
}

// Cannot says why a platform cannot do something, or "".
func (s *Settings) Cannot(platform string, act output.Act) string {
	var to *Door
	for i := range s.Doors {
		d := &s.Doors[i]
		if d.Platform != platform {
			continue
		}
		if why := d.Cannot[string(act)]; why != "" {
			return why
		}
		if d.Acts != "" {
			to = d
		}
	}
	if to == nil {
		return "no door of " + plain.Titled(platform) + " says where it can be asked to act"
	}
	return ""
}

// ActsAt is the address that does things on a platform, with the door's name, whose
// secret signs them; "" when there is none.
func (s *Settings) ActsAt(platform string) (address, door string) {
	for i := range s.Doors {
		if d := &s.Doors[i]; d.Platform == platform && d.Acts != "" {
			return d.Acts, d.Name
		}
	}
	return "", ""
}

// IsAccount reports whether a login is one the house speaks as.
func (s *Settings) IsAccount(login string) bool {
	for i := range s.Doors {
		if strings.EqualFold(s.Doors[i].Account, login) && login != "" {
			return true
		}
	}
	return false
}

// TextBytes is how many bytes of text a line of a chat door's may have: what its profile
// says, and never more than fits into a message with the command, the room and the source
// that the network puts before it, nick!user@host with at most 63 bytes of host (RFC 2812,
// sections 2.3 and 2.3.1).
func (d *Door) TextBytes() int {
	n := 512 - 2 - len(":!@ PRIVMSG  :") - 2*len(d.Account) - 10 - 63 - len(d.Room)
	if d.Profile.MaxBytes > 0 {
		n = min(n, d.Profile.MaxBytes)
	}
	return max(n, 8)
}
