package event

import "slices"

// Role is what the platform says a person is on the channel.
type Role string

// The roles of the event contract.
const (
	Streamer   Role = "streamer"
	Moderator  Role = "moderator"
	VIP        Role = "vip"
	Subscriber Role = "subscriber"
	Follower   Role = "follower"
)

var roles = []Role{Streamer, Moderator, VIP, Subscriber, Follower}

// rank puts the roles above each other, the least first; 0 is no role.
func (r Role) rank() int { return len(roles) - slices.Index(append(slices.Clone(roles), r), r) }

// Person is one account as an event names it. Platform and ID are its identity;
// Login and Name may change at any time.
type Person struct {
	Platform string `json:"platform" jsonschema:"minLength=1,maxLength=60"`
	ID       string `json:"id" jsonschema:"minLength=1,maxLength=200"`
	Login    string `json:"login,omitempty"`
	Name     string `json:"name,omitempty"`
	Nick     bool   `json:"nick,omitempty"` // known by nick only: nobody vouches that the account is theirs
	Roles    []Role `json:"roles,omitempty" jsonschema:"enum=streamer,enum=moderator,enum=vip,enum=subscriber,enum=follower"`
}

// Key is the account's key, "platform:id".
func (p Person) Key() string { return p.Platform + ":" + p.ID }

// Shown is the name to show: the display name, else the login, else the id.
func (p Person) Shown() string {
	switch {
	case p.Name != "":
		return p.Name
	case p.Login != "":
		return p.Login
	}
	return p.ID
}

// IsOrAbove reports whether a person has a role, or one above it: a follower, a
// subscriber, a VIP, a moderator, the streamer.
func (p Person) IsOrAbove(r Role) bool {
	return slices.ContainsFunc(p.Roles, func(o Role) bool { return o.rank() >= r.rank() && o.rank() > 0 })
}

// Is reports whether the platform gives the person this role.
func (p Person) Is(r Role) bool { return slices.Contains(p.Roles, r) }

func (p Person) validate(at string) error {
	switch {
	case p.Platform == "":
		return wrong(at+".platform", "is missing; name the platform the account is on")
	case p.ID == "":
		return wrong(at+".id", "is missing; send the account's stable id")
	case len(p.Platform) > 60:
		return wrong(at+".platform", "is longer than 60 bytes")
	case len(p.ID) > 200:
		return wrong(at+".id", "is longer than 200 bytes")
	case len(p.Login) > 400:
		return wrong(at+".login", "is longer than 400 bytes")
	case len(p.Name) > 16_384:
		return wrong(at+".name", "is longer than 16,384 bytes")
	}
	for _, r := range p.Roles {
		if !slices.Contains(roles, r) {
			return wrong(at+".roles", "%q is no role; use streamer, moderator, vip, subscriber or follower", r)
		}
	}
	return nil
}
