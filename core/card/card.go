// Package card is a person on paper: as they leave the guest book and come into it, whatever
// the format of the file.
package card

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/people"
)

// Card is a person as they leave the guest book and come into it: one JSON line of
// a people file, one row of a CSV file, one vCard.
type Card struct {
	Accounts []Account `json:"accounts"`
	event.Hand
	Followed  *time.Time      `json:"followed,omitempty"` // of the first account, where it names none itself
	Streams   []int           `json:"streams,omitempty"`  // numbers of those attended, ascending
	FirstSeen *time.Time      `json:"firstSeen,omitempty"`
	LastSeen  *time.Time      `json:"lastSeen,omitempty"`
	Raids     []Raid          `json:"raids,omitempty"`
	Fetched   *people.Fetched `json:"fetched,omitempty"`
	Member    event.Role      `json:"member,omitempty"` // streamer or co-host, as a member of this house; written for a rehearsal, and not brought in
}

// Account is one account on a card. Without an id it is known by its login
// until the platform tells its id.
type Account struct {
	event.Person
	Followed *time.Time `json:"followed,omitempty"`
	Was      []string   `json:"was,omitempty"` // earlier logins
	Lines    int64      `json:"lines,omitempty"`
	Visits   []Visit    `json:"visits,omitempty"` // to streams, where more is known than that they were there

	Kept map[string]json.RawMessage `json:"kept,omitempty"` // by rooms of the house, by their names
}

// Visit is an account at a stream.
type Visit struct {
	Stream int       `json:"stream"`
	First  time.Time `json:"first"`
	Last   time.Time `json:"last"`
	Lines  int64     `json:"lines"`
}

// Raid is a raid that came or went.
type Raid struct {
	Way     string    `json:"way"` // "came" or "went"
	Viewers int64     `json:"viewers"`
	At      time.Time `json:"at"`
}

// Fill puts a card into its proper form: platforms and logins in place, an id for
// accounts that have none, and the follow date on the account it belongs to. The
// error is a *event.FieldError.
func (c *Card) Fill(platform string) error {
	bad := func(field, remedy string, args ...any) error {
		return &event.FieldError{Field: field, Remedy: fmt.Sprintf(remedy, args...)}
	}
	if len(c.Accounts) == 0 {
		return bad("accounts", "are missing; a person needs a login or an account id")
	}
	for i := range c.Accounts {
		a := &c.Accounts[i]
		a.Platform = strings.ToLower(strings.TrimSpace(a.Platform))
		a.Login = strings.TrimPrefix(strings.TrimSpace(a.Login), "@")
		if a.Platform == "" {
			a.Platform = platform
		}
		switch {
		case a.Platform == "":
			return bad("platform", "is missing; name the platform the account is on, or choose one for the whole file")
		case strings.ContainsAny(a.Platform, " :/"):
			return bad("platform", "%q is no platform's name; use one word such as quayside", a.Platform)
		case a.ID == "" && a.Login == "":
			return bad("login", "is missing; give a login or an account id")
		case len(a.Login) > 400 || len(a.Name) > 16_384 || len(a.ID) > 200:
			return bad("login", "is too long; logins have at most 400 bytes")
		}
		if a.ID == "" {
			a.ID = people.Provisional + strings.ToLower(a.Login)
		}
	}
	if f := c.Followed; f != nil {
		if c.Accounts[0].Followed == nil {
			c.Accounts[0].Followed = f
		}
		c.Followed = nil
	}
	for _, a := range c.Accounts {
		for _, v := range a.Visits {
			c.Streams = append(c.Streams, v.Stream)
		}
	}
	slices.Sort(c.Streams)
	c.Streams = slices.Compact(c.Streams)
	c.Tags = people.Tidy(c.Tags)
	if err := c.Hand.Validate(); err != nil {
		return err
	}
	return nil
}

// Keys are the account keys of a card.
func (c *Card) Keys() []string {
	var out []string
	for _, a := range c.Accounts {
		out = append(out, a.Key())
	}
	return out
}

// Change is one field that an import would change.
type Change struct {
	Field string `json:"field"`
	Was   string `json:"was,omitempty"`
	Now   string `json:"now"`
}

// Diff lists what taking a card in would change about somebody the book has
// already. What the card does not say stays; nothing is taken away.
func Diff(have, in *Card) []Change {
	var out []Change
	differ := func(field, was, now string, given bool) {
		if given && was != now {
			out = append(out, Change{field, was, now})
		}
	}
	differ("say it as", people.Text(have.SayAs), people.Text(in.SayAs), in.SayAs != nil)
	differ("pronouns", people.Text(have.Pronouns), people.Text(in.Pronouns), in.Pronouns != nil)
	differ("note", people.Text(have.Note), people.Text(in.Note), in.Note != nil)
	differ("time zone", people.Text(have.Zone), people.Text(in.Zone), in.Zone != nil)
	day := func(d *dates.Day) string {
		if d == nil {
			return ""
		}
		return d.Spelled()
	}
	differ("birthday", day(have.Birthday), day(in.Birthday), in.Birthday != nil)
	yes := map[bool]string{true: "yes", false: "no"}
	differ("birthday hidden", yes[people.Yes(have.HideDay)], yes[people.Yes(in.HideDay)], in.HideDay != nil)
	differ("leave me be", yes[people.Yes(have.LeaveBe)], yes[people.Yes(in.LeaveBe)], in.LeaveBe != nil)
	differ("trusted", yes[people.Yes(have.Trusted)], yes[people.Yes(in.Trusted)], in.Trusted != nil)
	differ("fellow streamer", yes[people.Yes(have.Fellow)], yes[people.Yes(in.Fellow)], in.Fellow != nil)
	more := func(field string, have, in []string) {
		if fresh := unknownOf(in, have); len(fresh) > 0 {
			out = append(out, Change{field, strings.Join(have, ", "), strings.Join(slices.Concat(have, fresh), ", ")})
		}
	}
	more("tags", have.Tags, in.Tags)
	more("crews", have.Crews, in.Crews)
	more("roles", texts(have.Roles), texts(in.Roles))
	if fresh := unknownOf(in.Streams, have.Streams); len(fresh) > 0 {
		out = append(out, Change{"streams attended", strconv.Itoa(len(have.Streams)), strconv.Itoa(len(have.Streams) + len(fresh))})
	}
	for i := range in.Accounts {
		a := &in.Accounts[i]
		h := have.account(a)
		if h == nil {
			out = append(out, Change{"account", "", a.Platform + ": " + a.Shown()})
			continue
		}
		if a.Followed != nil && (h.Followed == nil || a.Followed.Before(*h.Followed)) {
			was := ""
			if h.Followed != nil {
				was = h.Followed.Format("2 January 2006")
			}
			out = append(out, Change{"follows since", was, a.Followed.Format("2 January 2006")})
		}
		if fresh := unknownOf(a.Was, append(h.Was, h.Login)); len(fresh) > 0 {
			out = append(out, Change{"earlier names", strings.Join(h.Was, ", "), strings.Join(slices.Concat(h.Was, fresh), ", ")})
		}
	}
	fresh := 0
	for _, r := range in.Raids {
		if !slices.ContainsFunc(have.Raids, func(h Raid) bool { return h.Way == r.Way && h.At.Equal(r.At) }) {
			fresh++
		}
	}
	if fresh > 0 {
		out = append(out, Change{"raids", strconv.Itoa(len(have.Raids)), strconv.Itoa(len(have.Raids) + fresh)})
	}
	return out
}

// account finds the account of a card that another card means: by key, or by login
// where that one knows no id.
func (c *Card) account(a *Account) *Account {
	for i := range c.Accounts {
		h := &c.Accounts[i]
		if h.Key() == a.Key() || h.Platform == a.Platform && strings.HasPrefix(a.ID, people.Provisional) && strings.EqualFold(h.Login, a.Login) {
			return h
		}
	}
	return nil
}

func texts(rs []event.Role) []string {
	var out []string
	for _, r := range rs {
		out = append(out, string(r))
	}
	return out
}

// unknownOf lists what is in one list and not in another.
func unknownOf[T comparable](in, have []T) []T {
	return slices.DeleteFunc(slices.Clone(in), func(v T) bool { return slices.Contains(have, v) })
}
