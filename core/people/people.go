// Package people knows who somebody is: the accounts of a person, how they stand
// by attendance, and what marks they carry tonight.
//
// What a person did belongs to the account, and a person's is the union over
// their accounts; what is set by hand belongs to the person. [Known] is what the
// core is told about the person behind an event; it asks nobody itself.
package people

import (
	"encoding/json"
	"strings"
	"time"

	"vividporch/core/dates"
	"vividporch/core/event"
)

// Standing is how a person stands by attendance; exactly one holds.
type Standing string

// The standings.
const (
	Newcomer  Standing = "newcomer"
	Returning Standing = "returning"
	Regular   Standing = "regular"
	LongAway  Standing = "long away"
)

// Standings lists them all.
var Standings = []Standing{Newcomer, Returning, Regular, LongAway}

// Mark is what else somebody is.
type Mark string

// The marks: a raider led a raid in this stream; a fellow streamer has ever
// streamed by what a platform tells, is in a crew, or was marked by hand.
const (
	Raider Mark = "raider"
	Fellow Mark = "fellow streamer"
)

// Fetched is what a platform told of an account, and when.
type Fetched struct {
	Link     string    `json:"link,omitempty"`
	Category string    `json:"category,omitempty"`
	Title    string    `json:"title,omitempty"`
	Streams  bool      `json:"streams,omitempty"` // has ever streamed
	At       time.Time `json:"at,omitzero"`
}

// FetchedFor is how long an answer of a platform is good for.
const FetchedFor = 24 * time.Hour

// Known is what the house knows of a person when an event of theirs is decided:
// history as of the opening of this stream, and what was set by hand as of now.
type Known struct {
	Person    int64        `json:"person,omitempty"`    // number in the guest book
	Accounts  []string     `json:"accounts,omitempty"`  // account keys, "platform:id"
	SayAs     string       `json:"sayAs,omitempty"`     // how the name is spoken or written by the house
	Pronouns  string       `json:"pronouns,omitempty"`  //
	Attended  int          `json:"attended,omitempty"`  // streams before this one with a visit
	Recent    []int        `json:"recent,omitempty"`    // their numbers, of the last twenty at most, oldest first
	FirstSeen *time.Time   `json:"firstSeen,omitempty"` // first visit ever, tonight included
	LastSeen  *time.Time   `json:"lastSeen,omitempty"`  // last visit before this stream
	Followed  *time.Time   `json:"followed,omitempty"`  // earliest follow date over the accounts
	Raids     int          `json:"raids,omitempty"`     // raids brought before this stream
	Owed      int          `json:"owed,omitempty"`      // raids of theirs beyond those we returned
	LeaveBe   bool         `json:"leaveBe,omitempty"`   // never greet
	Trusted   bool         `json:"trusted,omitempty"`   //
	Fellow    bool         `json:"fellow,omitempty"`    // a fellow streamer, before this stream
	Crews     []string     `json:"crews,omitempty"`     // ids
	Tags      []string     `json:"tags,omitempty"`      //
	Roles     []event.Role `json:"roles,omitempty"`     // given by hand
	Member    event.Role   `json:"member,omitempty"`    // streamer or co-host, as the member who linked one of the accounts
	Zone      string       `json:"zone,omitempty"`      //
	Birthday  *dates.Day   `json:"birthday,omitempty"`  //
	HideDay   bool         `json:"hideDay,omitempty"`   // nobody is told of their birthday
	Fetched   *Fetched     `json:"fetched,omitempty"`   // of the account the event is of
	Kept      Kept         `json:"kept,omitempty"`      // by rooms of the house
	Names     []string     `json:"-"`                   // all they were ever called; only for one who may be forgotten, never written down
}

// Kept is what rooms of the house keep of accounts for longer than a stream: by account key
// and room, in a shape of the room's own.
type Kept map[string]map[string]json.RawMessage

// Keep notes what a room keeps of an account from now on.
func (k *Kept) Keep(account, room string, value json.RawMessage) {
	if *k == nil {
		*k = Kept{}
	}
	if (*k)[account] == nil {
		(*k)[account] = map[string]json.RawMessage{}
	}
	(*k)[account][room] = value
}

// Streams reports whether somebody is a fellow streamer, before what they do
// tonight tells it.
func (k *Known) Streams() bool {
	return k != nil && (k.Fellow || len(k.Crews) > 0 || k.Fetched != nil && k.Fetched.Streams)
}

// MemberBy is what somebody is as a member, when they come by an account. By a nick that
// nobody vouches for they are nothing of it: anybody could take it.
func (k *Known) MemberBy(p event.Person) event.Role {
	if k == nil || p.Nick {
		return ""
	}
	return k.Member
}

// NeverList names accounts that are never greeted: by login in any case, or by
// account key.
type NeverList map[string]bool

// MakeNeverList reads the entries as typed, with or without an at-sign.
func MakeNeverList(entries []string) NeverList {
	n := NeverList{}
	for _, e := range entries {
		if e = strings.ToLower(strings.TrimPrefix(strings.TrimSpace(e), "@")); e != "" {
			n[e] = true
		}
	}
	return n
}

// Reason says why a person is never greeted, or "".
func (n NeverList) Reason(p event.Person, k *Known) string {
	switch {
	case p.Is(event.Streamer), k.MemberBy(p) == event.Streamer:
		return "is the streamer"
	case n.Has(p):
		return "is on the list of those never greeted"
	case k != nil && k.LeaveBe:
		return "is to be left alone"
	}
	return ""
}

// Has reports whether an account is on the list.
func (n NeverList) Has(p event.Person) bool {
	return n[strings.ToLower(p.Login)] || n[strings.ToLower(p.Key())] || p.Login == "" && n[strings.ToLower(p.ID)]
}

// AccountsWith are the accounts of the person behind one of them, that one first.
func (k *Known) AccountsWith(key string) []string {
	if k == nil || len(k.Accounts) == 1 && k.Accounts[0] == key {
		return []string{key}
	}
	return append([]string{key}, k.Accounts...)
}
