package csv

import (
	stdcsv "encoding/csv"
	"fmt"
	"io"
	"strings"
	"time"

	"vividporch/core/card"
	"vividporch/core/people"
)

// headings are the columns that are written, in order.
var headings = []string{"name", "platform", "login", "id", "accounts", "roles", "platform roles", "standing", "say it as", "pronouns", "birthday", "birthday hidden", "note", "tags", "crews", "trusted", "leave me be", "fellow streamer",
	"time zone", "follows since", "first seen", "last seen", "streams attended", "earlier names", "raids"}

// Writer writes people, one a row.
type Writer struct {
	w     *stdcsv.Writer
	crews map[string]string
	begun bool
}

// NewWriter writes to w; crews are the names of crews by id.
func NewWriter(w io.Writer, crews map[string]string) *Writer {
	out := stdcsv.NewWriter(w)
	out.UseCRLF = true // RFC 4180, section 2
	return &Writer{w: out, crews: crews}
}

// Write writes one person; standing is written for whoever reads the file.
func (w *Writer) Write(c *card.Card, standing string) error {
	if !w.begun {
		w.begun = true
		if err := w.w.Write(headings); err != nil {
			return err
		}
	}
	var a card.Account
	var accounts []string
	if len(c.Accounts) > 0 {
		a = c.Accounts[0]
	}
	for _, o := range c.Accounts {
		accounts = append(accounts, o.Platform+":"+bareID(o.ID)+":"+o.Login)
	}
	var crews, roles, toldRoles, raids []string
	for _, id := range c.Crews {
		name := w.crews[id]
		if people.CrewID(name) != id {
			name = id
		}
		crews = append(crews, name)
	}
	for _, r := range c.Hand.Roles {
		roles = append(roles, string(r))
	}
	for _, r := range a.Roles {
		toldRoles = append(toldRoles, string(r))
	}
	for _, r := range c.Raids {
		raids = append(raids, fmt.Sprintf("%s %d %s", r.Way, r.Viewers, stamp(&r.At)))
	}
	birthday := ""
	if c.Birthday != nil {
		birthday = c.Birthday.String()
	}
	row := []string{a.Name, a.Platform, a.Login, bareID(a.ID), strings.Join(accounts, "; "), strings.Join(roles, "; "), strings.Join(toldRoles, "; "), standing, people.Text(c.SayAs), people.Text(c.Pronouns), birthday, yesNo(c.HideDay),
		people.Text(c.Note), strings.Join(c.Tags, "; "), strings.Join(crews, "; "), yesNo(c.Trusted), yesNo(c.LeaveBe), yesNo(c.Fellow), people.Text(c.Zone),
		stamp(a.Followed), stamp(c.FirstSeen), stamp(c.LastSeen), Ranges(c.Streams), strings.Join(a.Was, "; "), strings.Join(raids, "; ")}
	for i := range row {
		row[i] = Escape(row[i])
	}
	return w.w.Write(row)
}

// Flush writes what is buffered; an empty book still has its heading.
func (w *Writer) Flush() error {
	if !w.begun {
		w.begun = true
		if err := w.w.Write(headings); err != nil {
			return err
		}
	}
	w.w.Flush()
	return w.w.Error()
}

// bareID leaves out an id that only says that there is none.
func bareID(id string) string {
	if strings.HasPrefix(id, people.Provisional) {
		return ""
	}
	return id
}

func yesNo(b *bool) string {
	switch {
	case b == nil:
		return ""
	case *b:
		return "yes"
	}
	return "no"
}

func stamp(t *time.Time) string {
	if t == nil || t.Unix() == 0 {
		return ""
	}
	return t.UTC().Format(time.RFC3339Nano)
}

// runs are the characters at the start of a cell that make a spreadsheet run it.
const runs = "=+-@\t\r"

// Escape keeps a cell from being run by a spreadsheet: an apostrophe goes before it,
// which spreadsheets do not show. One that begins with apostrophes gets another.
func Escape(cell string) string {
	rest := strings.TrimLeft(cell, "'")
	if rest != "" && strings.ContainsRune(runs, rune(rest[0])) {
		return "'" + cell
	}
	return cell
}

// Unescape undoes Escape.
func Unescape(cell string) string {
	rest := strings.TrimLeft(cell, "'")
	if rest != cell && rest != "" && strings.ContainsRune(runs, rune(rest[0])) {
		return cell[1:]
	}
	return cell
}

// Ranges writes ascending numbers briefly: "1-3 7 9-12".
func Ranges(nums []int) string {
	var out []string
	for i := 0; i < len(nums); {
		j := i
		for j+1 < len(nums) && nums[j+1] == nums[j]+1 && nums[i] >= 0 {
			j++
		}
		if j > i {
			out = append(out, fmt.Sprintf("%d-%d", nums[i], nums[j]))
		} else {
			out = append(out, fmt.Sprint(nums[i]))
		}
		i = j + 1
	}
	return strings.Join(out, " ")
}
