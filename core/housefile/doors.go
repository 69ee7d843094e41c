package housefile

import (
	"cmp"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/profile"
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

// Profile is all there is to know of a platform: what this file carries of it, else what ships
// with the house. It is not to be changed.
func (s *Settings) Profile(platform string) *profile.Profile { return profile.Of(s.Profiles, platform) }

// Looks reports whether a platform can be asked about its accounts.
func (s *Settings) Looks(platform string) bool { return s.Profile(platform).Lookup != nil }

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
	acts := &s.Profile(platform).Acts
	switch why := acts.Cannot[string(act)]; {
	case why != "":
		return why
	case acts.Address == "":
		return "no door of " + plain.Titled(platform) + " says where it can be asked to act"
	}
	return ""
}

// ActsAt is the address that does things on a platform, with the name of its door for
// happenings, whose secret signs them; "" when there is none.
func (s *Settings) ActsAt(platform string) (address, door string) {
	p := s.Profile(platform)
	if address = p.Where(p.Acts.Address); address == "" {
		return "", ""
	}
	for i := range s.Doors {
		if d := &s.Doors[i]; d.Platform == platform && d.Kind == "inbox" {
			return address, d.Name
		}
	}
	return address, ""
}

// IsService reports whether a door takes another service's messages.
func (d *Door) IsService() bool { return d.Kind == "hook" || d.Kind == "listen" }

// IsAccount reports whether a login is one the house speaks as.
func (s *Settings) IsAccount(login string) bool {
	for i := range s.Doors {
		if strings.EqualFold(s.Doors[i].Account, login) && login != "" {
			return true
		}
	}
	return false
}

// Grant is the line that gives the house a right in a chat door's room, ready to be said by
// whoever keeps it: as the network's profile has it, else as IRC does (RFC 2812, section 3.2.3).
func (s *Settings) Grant(d *Door, moderate bool) string {
	grants := &s.Profile(d.Platform).Chat.Grants
	line, mode := grants.Speak, "+v"
	if moderate {
		line, mode = grants.Moderate, "+o"
	}
	if line == "" {
		line = "/mode {room} " + mode + " {account}"
	}
	return strings.NewReplacer("{room}", d.Room, "{account}", d.Account).Replace(line)
}

// TextBytes is how many bytes of text a line of a chat door's may have: what its profile
// says, and never more than fits into a message with the command, the room and the source
// that the network puts before it, nick!user@host with at most 63 bytes of host (RFC 2812,
// sections 2.3 and 2.3.1).
func (s *Settings) TextBytes(d *Door) int {
	n := 512 - 2 - len(":!@ PRIVMSG  :") - 2*len(d.Account) - 10 - 63 - len(d.Room)
	if most := s.Profile(d.Platform).Chat.MaxBytes; most > 0 {
		n = min(n, most)
	}
	return max(n, 8)
}

// MoveInAt sets up what a platform's sign-in tells: the channel's name, where it has none yet, and the
// chat, through the account that signed in, where there is no door to it. What is there stays.
func (s *Settings) MoveInAt(platform, login string) {
	if s.Channel == Unnamed {
		s.Channel = login
	}
	chat := &s.Profile(platform).Chat
	if s.DoorFor(platform) != nil || chat.Address == "" {
		return
	}
	s.Doors = append(s.Doors, Door{Name: s.FreeName(platform + "-chat"), Kind: "irc", Platform: platform, Address: chat.Address, TLS: chat.TLS,
		Room: strings.ReplaceAll(cmp.Or(chat.Room, "#{login}"), "{login}", login), Account: login, Shared: true})
}

// Acting is something that a courtesy has a platform do.
type Acting struct {
	Courtesy courtesy.Courtesy
	Act      output.Act
}

// ActingAt is what the courtesies that are on have a platform do.
func (s *Settings) ActingAt(platform string) (out []Acting) {
	for _, c := range s.Courtesy {
		for i := range c.Do {
			act, ok := c.Do[i].Do.(*output.Platform)
			if on := c.Do[i].On; ok && c.On && !c.Away && (len(on) == 0 || slices.Contains(on, platform)) {
				out = append(out, Acting{c, act.Act})
			}
		}
	}
	return out
}
