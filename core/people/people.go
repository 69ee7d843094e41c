// Package people knows who somebody is: the accounts of a person, how they stand
// by attendance, and what marks they carry tonight.
//
// What a person did belongs to the account, and a person's is the union over
// their accounts; what is set by hand belongs to the person. [Known] is what the
// core is told about the person behind an event; it asks nobody itself.
package people

import (
	"strconv"
	"strings"
	"time"

	"vividporch/core/event"
)

// Standing is how a person stands by attendance; exactly one holds.
type Standing string

// The standings this house computes so far.
const (
	Newcomer  Standing = "newcomer"
	Returning Standing = "returning"
)

// Mark is what else somebody is tonight.
type Mark string

// Raider led a raid in this stream.
const Raider Mark = "raider"

// Known is what the house knows of a person when an event of theirs is decided:
// history as of the opening of this stream, and what was set by hand as of now.
type Known struct {
	Person    int64      `json:"person,omitempty"`    // number in the guest book
	Accounts  []string   `json:"accounts,omitempty"`  // account keys, "platform:id"
	SayAs     string     `json:"sayAs,omitempty"`     // how the name is spoken or written by the house
	Attended  int        `json:"attended,omitempty"`  // streams before this one with a visit
	FirstSeen *time.Time `json:"firstSeen,omitempty"` // first visit ever, tonight included
	LastSeen  *time.Time `json:"lastSeen,omitempty"`  // last visit before this stream
	Followed  *time.Time `json:"followed,omitempty"`  // earliest follow date over the accounts
	Raids     int        `json:"raids,omitempty"`     // raids brought before this stream
	LeaveBe   bool       `json:"leaveBe,omitempty"`   // never greet
}

// Standing works out how the person stands, with the reason in words.
func (k *Known) Standing() (Standing, string) {
	switch {
	case k == nil || k.Attended == 0:
		return Newcomer, "no earlier stream with a visit"
	case k.Attended == 1:
		return Returning, "1 earlier stream"
	}
	return Returning, strconv.Itoa(k.Attended) + " earlier streams"
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
	case p.Is(event.Streamer):
		return "is the streamer"
	case n[strings.ToLower(p.Login)], n[strings.ToLower(p.Key())], p.Login == "" && n[strings.ToLower(p.ID)]:
		return "is on the list of those never greeted"
	case k != nil && k.LeaveBe:
		return "is to be left alone"
	}
	return ""
}
