package output

import (
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindBookmark is the name of it.
const KindBookmark Kind = "bookmark"

// Bookmark marks this moment of the stream; of a command, under what stands behind it.
type Bookmark struct{}

var bookmark = Spec{New: func() Does { return &Bookmark{} }, Way: BackIn}

// Kind is the name of it.
func (*Bookmark) Kind() Kind { return KindBookmark }

// Says tells what it does.
func (*Bookmark) Says(who.Names) string { return "set a bookmark" }

// Brings is the bookmark.
func (*Bookmark) Brings(b Bringing) (event.Data, string) {
	set := &happening.BookmarkSet{Label: event.Cut(b.Rest, happening.MostLabel), Member: b.Member}
	if b.Person.ID != "" && b.Member == "" {
		set.Person = &b.Person
	}
	return set, ""
}

// Check reports nothing: every moment can be marked.
func (*Bookmark) Check(*Output, In, func(at, what, remedy string)) {}
