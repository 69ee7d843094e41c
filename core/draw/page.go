package draw

import (
	"encoding/hex"
	"slices"
	"time"

	"vividporch/core/giveaway"
)

// Page is what everybody may see of a draw; docs/draws.md tells each field. What has to be guessed and the secret stand in it once
// entries are closed.
type Page struct {
	Format  string       `json:"format"` // PageFormat
	ID      string       `json:"id"`
	Number  int          `json:"number"` // of the channel's draws
	Channel string       `json:"channel"`
	Way     giveaway.Way `json:"way"`
	Prizes  []string     `json:"prizes"`
	Who     string       `json:"who,omitempty"` // may win, in words
	Word    string       `json:"word,omitempty"`
	Minutes float64      `json:"minutes,omitempty"`
	Ask     string       `json:"ask,omitempty"`
	From    int64        `json:"from,omitempty"`
	To      int64        `json:"to,omitempty"`
	Exact   bool         `json:"exact,omitempty"`
	State   State        `json:"state"`
	Why     string       `json:"why,omitempty"` // it was closed, or called off
	Opened  *time.Time   `json:"opened,omitempty"`
	Ended   *time.Time   `json:"ended,omitempty"`
	Commit  string       `json:"commit,omitempty"`
	Kept    string       `json:"kept,omitempty"`
	Secret  string       `json:"secret,omitempty"` // hexadecimal digits
	Keeps   []string     `json:"keeps,omitempty"`  // what had to be guessed, as it was kept
	Answer  *int64       `json:"answer,omitempty"` // the number that was looked for
	Digest  string       `json:"digest,omitempty"`
	Entries []PageEntry  `json:"entries"`
	Picks   []PagePick   `json:"picks"`
	Unwon   []int        `json:"unwon,omitempty"` // prizes that nobody has, by their places
}

// PageFormat names the shape of a page.
const PageFormat = "vividporch-draw/1"

// PageEntry is an entry; of whoever asked to be forgotten only its mark is left. In is false of one that does not count.
type PageEntry struct {
	Number  int       `json:"number"`
	Name    string    `json:"name,omitempty"`
	Account string    `json:"account,omitempty"`
	Mark    string    `json:"mark"`
	At      time.Time `json:"at"`
	Guess   *int64    `json:"guess,omitempty"`
	In      bool      `json:"in"`
	Void    string    `json:"void,omitempty"`
}

// PagePick is a pick: by chance the N-th from 0, else -1. Left is how many were left to pick from.
type PagePick struct {
	N      int       `json:"n"`
	Left   int       `json:"left,omitempty"`
	Prize  int       `json:"prize"`
	Number int       `json:"number"`
	Name   string    `json:"name,omitempty"`
	Mark   string    `json:"mark"`
	State  PickState `json:"state"`
	Why    string    `json:"why,omitempty"`
}

// Page is what everybody may see of a draw.
func (d *Draw) Page(channel string) Page {
	p := Page{Format: PageFormat, ID: d.ID, Number: d.Number, Channel: channel, Way: d.Way, Prizes: slices.Clone(d.Prizes), Word: d.Word, Minutes: d.Minutes, Ask: d.Ask,
		From: d.From, To: d.To, Exact: d.Exact, State: d.State, Why: d.Why, Commit: d.Commit, Kept: d.Kept, Digest: d.Digest, Entries: []PageEntry{}, Picks: []PagePick{}, Unwon: d.Unwon}
	if d.Who != nil {
		p.Who = d.Who.Whom()
	}
	if !d.Opened.IsZero() {
		p.Opened = &d.Opened
	}
	if !d.Ended.IsZero() {
		p.Ended = &d.Ended
	}
	if len(d.Secret) > 0 {
		p.Secret, p.Keeps = hex.EncodeToString(d.Secret), d.Keeps()
		if n, ok := d.Looked(d.Secret); ok && d.Way == giveaway.ByNumber {
			p.Answer = &n
		}
	}
	for i := range d.Entries {
		e := &d.Entries[i]
		x := PageEntry{Number: e.Number, Name: e.Name, Account: e.Account, Mark: e.Mark, At: e.At, Guess: e.Guess, In: e.counts(), Void: e.Void}
		if d.Digest != "" {
			_, x.In = slices.BinarySearch(d.Marks, e.Mark)
			x.In = x.In && e.Void == ""
		}
		if x.Name == "" { // forgotten: in the log somebody without a name stands in their place
			x.Account, x.In = "", x.In && d.Digest != ""
		}
		p.Entries = append(p.Entries, x)
	}
	left := len(d.Marks)
	for i := range d.Picks {
		k := &d.Picks[i]
		x := PagePick{N: k.N, Prize: k.Prize, Number: k.Number, Name: k.Name, Mark: k.Mark, State: k.State, Why: k.Why}
		if d.ByChance() {
			x.Left = left
			left--
		}
		p.Picks = append(p.Picks, x)
	}
	return p
}
