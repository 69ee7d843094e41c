package event

import (
	"slices"
	"strings"
)

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

// CoHost is what no platform tells: a co-host among the members, known in chat by the
// account they linked.
const CoHost Role = "co-host"

var roles = []Role{Streamer, Moderator, VIP, Subscriber, Follower}

// ladder is the roles one above the other, the least first.
var ladder = []Role{Follower, Subscriber, VIP, Moderator, CoHost, Streamer}

// OrAbove lists a role and those above it, the least first; none of what is no role.
func (r Role) OrAbove() []Role {
	if i := slices.Index(ladder, r); i >= 0 {
		return ladder[i:]
	}
	return nil
}

// Person is one account as an event names it. Platform and ID are its identity;
// Login and Name may change at any time.
type Person struct {
	Platform string `json:"platform" jsonschema:"minLength=1,maxLength=60"`
	ID       string `json:"id" jsonschema:"minLength=1,maxLength=200"`
	Login    string `json:"login,omitempty"`
	Name     string `json:"name,omitempty"`
	Nick     bool   `json:"nick,omitempty"`    // known by nick only: nobody vouches that the account is theirs
	Picture  string `json:"picture,omitempty"` // an http(s) address; anything else is left unused
	Roles    []Role `json:"roles,omitempty" jsonschema:"enum=streamer,enum=moderator,enum=vip,enum=subscriber,enum=follower"`
}

// Key is the account's key, "platform:id".
func (p Person) Key() string { return p.Platform + ":" + p.ID }

// OfKey is the account of a key: its platform and its id, and no more.
func OfKey(key string) (p Person) {
	p.Platform, p.ID, _ = strings.Cut(key, ":")
	return p
}

// KeyOrNone is the account's key, "" for nobody.
func (p Person) KeyOrNone() string {
	if p.ID == "" {
		return ""
	}
	return p.Key()
}

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

// mostPicture is how many bytes the address of a picture may have.
const mostPicture = 2000

// PictureAt is where the person's picture is; "" for none that can be fetched.
func (p Person) PictureAt() string {
	if (strings.HasPrefix(p.Picture, "https://") || strings.HasPrefix(p.Picture, "http://")) && len(p.Picture) <= mostPicture {
		return p.Picture
	}
	return ""
}

// IsOrAbove reports whether a person has a role, or one above it: a follower, a
// subscriber, a VIP, a moderator, a co-host, the streamer.
func (p Person) IsOrAbove(r Role) bool {
	above := r.OrAbove()
	return slices.ContainsFunc(p.Roles, func(o Role) bool { return slices.Contains(above, o) })
}

// Is reports whether the person has this role.
func (p Person) Is(r Role) bool { return slices.Contains(p.Roles, r) }

// Validate refuses an account that is not one; at is where it stands.
func (p Person) Validate(at string) error {
	switch {
	case p.Platform == "":
		return Wrong(at+".platform", "is missing; name the platform the account is on")
	case p.ID == "":
		return Wrong(at+".id", "is missing; send the account's stable id")
	case len(p.Platform) > 60:
		return Wrong(at+".platform", "is longer than 60 bytes")
	case len(p.ID) > 200:
		return Wrong(at+".id", "is longer than 200 bytes")
	case len(p.Login) > 400:
		return Wrong(at+".login", "is longer than 400 bytes")
	case len(p.Name) > 16_384:
		return Wrong(at+".name", "is longer than 16,384 bytes")
	}
	for _, r := range p.Roles {
		if !slices.Contains(roles, r) {
			return Wrong(at+".roles", "%q is no role; use streamer, moderator, vip, subscriber or follower", r)
		}
	}
	return nil
}
