package event

import (
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"vividporch/core/dates"
)

// What members do to the guest book is logged too: an old evening knew people as
// they stood in the book then.

// Hand is what is set by hand about a person, or by the person in chat. A field
// that is nil was never set; an empty one was cleared.
type Hand struct {
	SayAs    *string    `json:"sayAs,omitempty"`    // how the name is spoken, and written by the house
	Pronouns *string    `json:"pronouns,omitempty"` //
	Note     *string    `json:"note,omitempty"`     // private
	Zone     *string    `json:"zone,omitempty"`     // IANA name
	Birthday *dates.Day `json:"birthday,omitempty"` // month and day; the year only when the person gave it
	HideDay  *bool      `json:"hideDay,omitempty"`  // of their birthday nobody is told
	LeaveBe  *bool      `json:"leaveBe,omitempty"`  // never greet
	Trusted  *bool      `json:"trusted,omitempty"`  // passes the filters; never computed
	Fellow   *bool      `json:"fellow,omitempty"`   // a fellow streamer, whatever the platform tells
	Roles    []Role     `json:"roles,omitempty"`    // where the platform tells none
	Tags     []string   `json:"tags,omitempty"`
	Crews    []string   `json:"crews,omitempty"` // ids
}

// Edit is a change of what is set by hand. Set replaces the fields that are given
// in it; Unset names fields that go back to never having been set.
type Edit struct {
	Set       Hand     `json:"set,omitzero"`
	Unset     []string `json:"unset,omitempty"`
	AddTags   []string `json:"addTags,omitempty"`
	DropTags  []string `json:"dropTags,omitempty"`
	AddCrews  []string `json:"addCrews,omitempty"`
	DropCrews []string `json:"dropCrews,omitempty"`
	AddRoles  []Role   `json:"addRoles,omitempty"`
	DropRoles []Role   `json:"dropRoles,omitempty"`
}

// BookEdited: a member changed what is set by hand about people. Undoes is the
// number of the edit that is taken back, if any. Numbers are the guest book's own; beside
// them stands what tells a rehearsal the same.
type BookEdited struct {
	Persons []int64 `json:"persons"`
	Edit    Edit    `json:"edit"`
	Undoes  int64   `json:"undoes,omitempty"`
	Member  string  `json:"member,omitempty"`

	By *Person `json:"by,omitempty"` // who set it in chat, of themselves or as a moderator

	Accounts []string `json:"accounts,omitempty"` // a key of each of the persons, "" of one without
	UndoesID string   `json:"undoesId,omitempty"` // id of the event that is taken back
}

// BookMerged: two records are one person; Gone is found under Kept from now on.
type BookMerged struct {
	Kept   int64  `json:"kept"`
	Gone   int64  `json:"gone"`
	Member string `json:"member,omitempty"`

	Accounts []string `json:"accounts,omitempty"` // a key of the kept one and of the gone one
}

// BookLinked: a member is known in chat by an account, or with none by no account any
// more. Role is what that makes them there.
type BookLinked struct {
	Of      string `json:"of"`                                                     // the member's name
	Account string `json:"account,omitempty"`                                      // its key
	Role    Role   `json:"role,omitempty" jsonschema:"enum=streamer,enum=co-host"` // none of a helper
	Member  string `json:"member,omitempty"`                                       // who did it
}

// BookParted: Part is a record of its own again.
type BookParted struct {
	Part    int64  `json:"part"`
	Member  string `json:"member,omitempty"`
	Account string `json:"account,omitempty"` // a key of its own
}

// BookCrewed: a crew was made or put as it is here, with Partly changed in what is
// not empty (the rest stays as another member may just have made it), or with Gone
// taken away.
type BookCrewed struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Emblem   string `json:"emblem"`   // a shape's name
	Initials string `json:"initials"` // at most three characters
	Partly   bool   `json:"partly,omitempty"`
	Gone     bool   `json:"gone,omitempty"`
	Member   string `json:"member,omitempty"`
}

// PastStream is a stream that is over.
type PastStream struct {
	Number int       `json:"number"`
	Opened time.Time `json:"opened"`
	Closed time.Time `json:"closed"`
}

// BookImported: an import was taken in or, with Undone, taken back. Past is the
// channel's last streams as they stand afterwards, oldest first.
type BookImported struct {
	Import  int64        `json:"import"`
	File    string       `json:"file,omitempty"`
	New     int          `json:"new"`
	Changed int          `json:"changed"`
	Undone  bool         `json:"undone,omitempty"`
	Past    []PastStream `json:"past,omitempty"`
	Member  string       `json:"member,omitempty"`
}

// Settled is somebody whose standing changed as a stream ended.
type Settled struct {
	Person int64  `json:"person"`
	Name   string `json:"name"`
	Why    string `json:"why"`
}

// BookSettled: standings were worked out anew after a stream. Regulars newly
// qualify, Lost no longer do.
type BookSettled struct {
	Stream   int       `json:"stream"`
	Regulars []Settled `json:"regulars,omitempty"`
	Lost     []Settled `json:"lost,omitempty"`
}

// BookForgotten: everything kept about a person was forgotten. It does not say who.
type BookForgotten struct {
	Person int64    `json:"person"`
	Keys   []string `json:"-"`              // account keys, only on the way to the book; never written down
	Names  []string `json:"-"`              // what they were called, likewise
	Anon   []string `json:"anon,omitempty"` // what stands in the keys' places in the log from then on
	Member string   `json:"member,omitempty"`
}

// Limits of what can be set by hand.
const (
	NoteMost  = 4000 // characters
	ShortMost = 60   // of say-it-as, pronouns, a tag
	TagsMost  = 50
)

// Emblems are the shapes a crew can choose from.
var Emblems = []string{"anchor", "bell", "shell", "moth", "star", "oar", "kelp", "heron", "lamp", "knot"}

// Validate checks lengths, the zone and the roles.
func (h *Hand) Validate() error {
	within := func(field string, s *string, most int) error {
		if s != nil && utf8.RuneCountInString(*s) > most {
			return Wrong("data."+field, "is longer than %d characters; shorten it", most)
		}
		return nil
	}
	if err := FirstOf(within("sayAs", h.SayAs, ShortMost), within("pronouns", h.Pronouns, ShortMost), within("note", h.Note, NoteMost)); err != nil {
		return err
	}
	if h.Zone != nil && *h.Zone != "" {
		if _, err := time.LoadLocation(*h.Zone); err != nil || *h.Zone == "Local" {
			return Wrong("data.zone", `%q is no time zone; use an IANA name such as "Europe/Lisbon"`, *h.Zone)
		}
	}
	for _, r := range h.Roles {
		if !slices.Contains(roles, r) {
			return Wrong("data.roles", "%q is no role; use streamer, moderator, vip, subscriber or follower", r)
		}
	}
	return labels("tags", h.Tags)
}

func labels(field string, list []string) error {
	if len(list) > TagsMost {
		return Wrong("data."+field, "are more than %d; keep the ones you use", TagsMost)
	}
	for _, t := range list {
		if strings.TrimSpace(t) == "" || utf8.RuneCountInString(t) > ShortMost || strings.ContainsAny(t, "\r\n;") {
			return Wrong("data."+field, "%q cannot be kept; use one to %d characters without line breaks or semicolons", t, ShortMost)
		}
	}
	return nil
}

// Validate checks the edit.
func (e *Edit) Validate() error {
	for _, r := range append(slices.Clone(e.AddRoles), e.DropRoles...) {
		if !slices.Contains(roles, r) {
			return Wrong("data.roles", "%q is no role; use streamer, moderator, vip, subscriber or follower", r)
		}
	}
	for _, list := range [][]string{e.AddCrews, e.DropCrews, e.DropTags, e.Unset} {
		if len(list) > TagsMost {
			return Wrong("data.edit", "names more than %d at once", TagsMost)
		}
		for _, id := range list {
			if len(id) > 4*ShortMost {
				return Wrong("data.edit", "%q… is no crew, tag or field; it is too long", id[:20])
			}
		}
	}
	return FirstOf(e.Set.Validate(), labels("tags", e.AddTags))
}

func (b *BookEdited) Validate() error {
	if len(b.Persons) == 0 {
		return Wrong("data.persons", "is empty; choose somebody")
	}
	if len(b.Persons) > personsMost {
		return Wrong("data.persons", "are more than %d; change them in several goes", personsMost)
	}
	b.Persons = once(b.Persons)
	return b.Edit.Validate()
}

// personsMost is how many people one edit may change.
const personsMost = 5000

// once keeps the first of each.
func once(list []int64) []int64 {
	seen := map[int64]bool{}
	return slices.DeleteFunc(slices.Clone(list), func(n int64) bool { was := seen[n]; seen[n] = true; return was })
}

func (b *BookMerged) Validate() error {
	switch {
	case b.Kept == 0 || b.Gone == 0:
		return Wrong("data.gone", "is missing; choose two records")
	case b.Kept == b.Gone:
		return Wrong("data.gone", "is the same record; choose another one to merge with it")
	}
	return nil
}
func (m *BookLinked) Validate() error {
	switch platform, id, ok := strings.Cut(m.Account, ":"); {
	case m.Of == "":
		return Wrong("data.of", "is missing; name the member")
	case m.Account != "" && (!ok || platform == "" || id == "" || len(m.Account) > 300):
		return Wrong("data.account", "is no account key; choose somebody from the guest book")
	case m.Role != "" && m.Role != CoHost && m.Role != Streamer:
		return Wrong("data.role", "%q is nothing that a member is in chat; use co-host or streamer", m.Role)
	}
	return nil
}
func (b *BookParted) Validate() error {
	if b.Part == 0 {
		return Wrong("data.part", "is missing; choose the record to part")
	}
	return nil
}
func (b *BookCrewed) Validate() error {
	if err := FirstOf(Filled("id", b.ID), Short("id", b.ID, 60)); err != nil || b.Gone {
		return err
	}
	switch {
	case !(b.Partly && b.Name == "") && strings.TrimSpace(b.Name) == "" || utf8.RuneCountInString(b.Name) > ShortMost:
		return Wrong("data.name", "is missing or longer than %d characters", ShortMost)
	case !(b.Partly && b.Emblem == "") && !slices.Contains(Emblems, b.Emblem):
		return Wrong("data.emblem", "%q is no emblem; use one of %s", b.Emblem, strings.Join(Emblems, ", "))
	case utf8.RuneCountInString(b.Initials) > 3:
		return Wrong("data.initials", "are more than three characters")
	}
	return nil
}
func (*BookImported) Validate() error  { return nil }
func (*BookSettled) Validate() error   { return nil }
func (*BookForgotten) Validate() error { return nil }

func (*BookEdited) Type() string    { return "porch.book.edited" }
func (*BookMerged) Type() string    { return "porch.book.merged" }
func (*BookParted) Type() string    { return "porch.book.parted" }
func (*BookLinked) Type() string    { return "porch.book.linked" }
func (*BookCrewed) Type() string    { return "porch.book.crewed" }
func (*BookImported) Type() string  { return "porch.book.imported" }
func (*BookSettled) Type() string   { return "porch.book.settled" }
func (*BookForgotten) Type() string { return "porch.book.forgotten" }

var bookKinds = []func() Data{
	func() Data { return &BookEdited{} },
	func() Data { return &BookMerged{} },
	func() Data { return &BookParted{} },
	func() Data { return &BookLinked{} },
	func() Data { return &BookCrewed{} },
	func() Data { return &BookImported{} },
	func() Data { return &BookSettled{} },
	func() Data { return &BookForgotten{} },
}
