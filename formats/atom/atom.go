// Package atom writes what happened as a feed to subscribe to: Atom, RFC 4287.
package atom

import (
	"io"
	"strings"
	"time"

	"github.com/gorilla/feeds"
)

// Entry is one thing that happened.
type Entry struct {
	ID   string // never changes, and is nobody else's: a tag URI (RFC 4151), say
	At   time.Time
	Text string
}

// Feed is what stands at one address.
type Feed struct {
	ID    string
	Title string
	Link  string // where people find the channel; "" for none
	Made  time.Time
}

// titleRunes is how much of a text its title shows.
const titleRunes = 80

// Write writes a feed, the newest entry first. Texts stand in it as texts: nothing in them is mark-up.
func Write(w io.Writer, f Feed, list []Entry) error {
	out := &feeds.AtomFeed{Xmlns: "http://www.w3.org/2005/Atom", Id: f.ID, Title: f.Title, Updated: f.Made.UTC().Format(time.RFC3339), Author: &feeds.AtomAuthor{AtomPerson: feeds.AtomPerson{Name: f.Title}}}
	if f.Link != "" {
		out.Link = &feeds.AtomLink{Href: f.Link}
	}
	for _, e := range list {
		at := e.At.UTC().Format(time.RFC3339)
		out.Entries = append(out.Entries, &feeds.AtomEntry{Id: e.ID, Title: title(e.Text), Updated: at, Published: at, Content: &feeds.AtomContent{Content: e.Text, Type: "text"}})
	}
	return feeds.WriteXML(out, w)
}

// title is the first line of a text, cut.
func title(s string) string {
	s, _, _ = strings.Cut(s, "\n")
	if r := []rune(s); len(r) > titleRunes {
		return string(r[:titleRunes-1]) + "…"
	}
	return s
}
