// Package csv reads and writes the guest book as CSV (RFC 4180): UTF-8 with or
// without a byte order mark, commas, semicolons or tabs, columns named by a heading
// that is matched loosely. A row that is broken is refused with its number and the
// reason; the rows round it are read.
package csv

import (
	"bytes"
	stdcsv "encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"vividporch/core/card"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/formats/row"
	"vividporch/formats/text"
)

// rowLines bounds how many lines one row may have, so that a quote that is never
// closed does not swallow the file.
const rowLines = 200

// Options say how to read what a file leaves open.
type Options struct {
	Platform string // of accounts that name none
	DayFirst bool   // 3/4 is 3 April
}

// Reader reads people, row by row.
type Reader struct {
	Ignored []string // headings that are not understood
	opt     Options
	lines   *text.Lines
	comma   rune
	cols    []string // what each column holds; "" is not understood
	queued  *row.Row
}

// meanings are the headings that are understood, without signs and spaces, by what
// they hold.
var meanings = map[string][]string{
	"accounts": {"accounts", "allaccounts"},
	"platform": {"platform", "site", "service", "where", "network"},
	"id":       {"id", "accountid", "userid", "channelid"},
	"login":    {"login", "user", "username", "handle", "nick", "nickname", "account", "accountname", "viewer", "channel"},
	"name":     {"name", "displayname", "shownname", "shown"},
	"sayas":    {"sayas", "sayitas", "spoken", "pronounced", "pronunciation"},
	"pronouns": {"pronouns", "pronoun"},
	"note":     {"note", "notes", "comment", "comments", "remark", "remarks"},
	"tags":     {"tags", "tag", "labels", "label"},
	"crews":    {"crews", "crew", "team", "teams", "group", "groups"},
	"roles":    {"roles", "role"},
	"birthday": {"birthday", "birthdate", "dateofbirth", "dob", "born", "bday"},
	"followed": {"followed", "follows", "followssince", "followedsince", "followingsince", "followedat", "followdate", "dateoffollow"},
	"streams":  {"streams", "streamsattended", "attended"},
	"trusted":  {"trusted", "trust"},
	"hideday":  {"birthdayhidden", "hidebirthday"},
	"leavebe":  {"leavemebe", "leavebe", "nevergreet", "ignore"},
	"fellow":   {"fellowstreamer", "fellow", "streamer"},
	"zone":     {"timezone", "zone", "tz"},
	"was":      {"earliernames", "formernames", "oldnames", "was", "earlierlogins"},
	"raids":    {"raids"},
	"out":      {"standing", "firstseen", "lastseen", "linessaid", "lines", "link", "lastcategory", "platforms", "platformroles", "person"}, // written for reading only
}

// Meaning is what a column with this heading holds; "" when it is not understood.
func Meaning(heading string) string {
	h := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) {
			return unicode.ToLower(r)
		}
		return -1
	}, heading)
	for m, names := range meanings {
		if slices.Contains(names, h) {
			return m
		}
	}
	return ""
}

// ErrNoHeading says that the first row names no column that is understood.
var ErrNoHeading = errors.New(`the first row names no column that is understood; let it be a heading with at least "login", or "platform" and "id"`)

// NewReader reads the heading. A file of one column without one is a list of logins.
func NewReader(r io.Reader, opt Options) (*Reader, error) {
	c := &Reader{opt: opt, lines: text.NewLines(r), comma: ','}
	raw, n, _, err := c.lines.Next()
	if err == io.EOF {
		return nil, errors.New("the file is empty; choose one with a heading and a row for each person")
	}
	if err != nil {
		return nil, err
	}
	best := 0
	for _, sep := range []rune{',', ';', '\t'} {
		if k := bytes.Count(raw, []byte(string(sep))); k > best {
			best, c.comma = k, sep
		}
	}
	c.lines.Back(raw, n, false)
	cells, _, why, err := c.row()
	if err != nil {
		return nil, err
	}
	if why != "" {
		return nil, fmt.Errorf("the heading cannot be read: %s", why)
	}
	known := false
	for _, h := range cells {
		m := Meaning(h)
		known = known || m == "login" || m == "id" || m == "accounts" || m == "name"
		if m == "" && strings.TrimSpace(h) != "" {
			c.Ignored = append(c.Ignored, strings.TrimSpace(h))
		}
		if m != "" && m != "out" && slices.Contains(c.cols, m) {
			return nil, fmt.Errorf("two columns mean the same, %s; take one of them out", m)
		}
		c.cols = append(c.cols, m)
	}
	switch {
	case known:
		return c, nil
	case len(cells) == 1:
		c.cols, c.Ignored = []string{"login"}, nil
		c.lines.Back(raw, n, false)
		return c, nil
	}
	return nil, ErrNoHeading
}

// row reads one row; why says what is wrong with it. n is the line it starts on.
func (c *Reader) row() (cells []string, n int, why string, err error) {
	var buf []byte
	for k := 0; ; k++ {
		raw, at, long, err := c.lines.Next()
		if err == io.EOF && k > 0 {
			c.giveBack(buf, n)
			return nil, n, "a quote is opened and never closed", nil
		}
		if err != nil {
			return nil, 0, "", err
		}
		if k == 0 {
			n = at
		}
		if long {
			return nil, n, fmt.Sprintf("the line is longer than %d MB", text.LineMost>>20), nil
		}
		if k == 0 && len(bytes.TrimSpace(raw)) == 0 {
			k--
			continue
		}
		if k > 0 {
			buf = append(buf, '\n')
		}
		buf = append(buf, raw...)
		if !open(buf, c.comma) {
			break
		}
		if k >= rowLines || len(buf) > text.LineMost {
			c.giveBack(buf, n)
			return nil, n, "a quote is opened and never closed", nil
		}
	}
	if !utf8.Valid(buf) {
		c.giveBack(buf, n)
		return nil, n, "the text is not UTF-8; save the file as UTF-8 and bring it in again", nil
	}
	r := stdcsv.NewReader(bytes.NewReader(buf))
	r.Comma, r.FieldsPerRecord = c.comma, -1
	cells, err = r.Read()
	if err != nil {
		c.giveBack(buf, n)
		var pe *stdcsv.ParseError
		if errors.As(err, &pe) {
			return nil, n, fmt.Sprintf("%s at character %d; double each quote inside a quoted cell", pe.Err, pe.Column), nil
		}
		return nil, n, err.Error(), nil
	}
	return cells, n, "", nil
}

// giveBack gives all but the first line of a broken row back, to be read as rows of
// their own: only what is surely broken is lost.
func (c *Reader) giveBack(buf []byte, n int) {
	parts := bytes.Split(buf, []byte("\n"))
	for i := len(parts) - 1; i > 0; i-- {
		c.lines.Back(parts[i], n+i, false)
	}
}

// open reports whether a quoted cell goes on behind the end of a line.
func open(raw []byte, comma rune) bool {
	quoted, start := false, true
	for i := 0; i < len(raw); i++ {
		switch b := raw[i]; {
		case quoted && b == '"':
			if i+1 < len(raw) && raw[i+1] == '"' {
				i++
			} else {
				quoted = false
			}
		case quoted:
		case b == '"' && start:
			quoted, start = true, false
		case rune(b) == comma || b == '\n':
			start = true
		default:
			start = start && b == ' '
		}
	}
	return quoted
}

// Next returns the next row; io.EOF ends the file.
func (c *Reader) Next() (row.Row, error) {
	cells, n, why, err := c.row()
	if err != nil {
		return row.Row{}, err
	}
	in := row.Row{N: n, Why: why}
	if why != "" {
		return in, nil
	}
	if extra := len(cells) - len(c.cols); extra > 0 && strings.Join(cells[len(c.cols):], "") != "" {
		in.Why = fmt.Sprintf("the row has %d cells and the heading %d; is a quote or a separator missing?", len(cells), len(c.cols))
		return in, nil
	}
	var first card.Account
	into := &in.Card
	for i, cell := range cells {
		if i >= len(c.cols) {
			break
		}
		if cell = Unescape(strings.TrimSpace(cell)); cell == "" {
			continue
		}
		if err := c.cell(&in, &first, c.cols[i], cell); err != nil {
			in.Why = err.Error()
			return in, nil
		}
	}
	if len(into.Accounts) == 0 && (first.Login != "" || first.ID != "" || first.Name != "") {
		if first.Login == "" && first.ID == "" {
			first.Login = first.Name
		}
		into.Accounts = []card.Account{first}
	} else if len(into.Accounts) > 0 { // the columns of the first account add what the list does not say
		a := &into.Accounts[0]
		a.Name, a.Followed, a.Was = first.Name, first.Followed, first.Was
	}
	if len(into.Accounts) == 0 && len(strings.TrimSpace(strings.Join(cells, ""))) == 0 {
		return c.Next()
	}
	if err := into.Fill(c.opt.Platform); err != nil {
		in.Why = err.Error()
	}
	if len(into.Accounts) > 0 {
		in.Name = into.Accounts[0].Shown()
	}
	return in, nil
}

// cell reads one cell into the card.
func (c *Reader) cell(in *row.Row, first *card.Account, means, cell string) error {
	into := &in.Card
	bad := func(what string) error { return fmt.Errorf("%s: %q %s", means, cell, what) }
	switch means {
	case "accounts":
		for _, one := range list(cell) {
			parts := strings.SplitN(one, ":", 3)
			var a card.Account
			switch len(parts) {
			case 1:
				a.Login = parts[0]
			case 2:
				a.Platform, a.Login = parts[0], parts[1]
			default:
				a.Platform, a.ID, a.Login = parts[0], parts[1], parts[2]
			}
			into.Accounts = append(into.Accounts, a)
		}
	case "platform":
		first.Platform = cell
	case "id":
		first.ID = cell
	case "login":
		first.Login = cell
	case "name":
		first.Name = cell
	case "was":
		first.Was = list(cell)
	case "roles":
		for _, r := range list(cell) {
			into.Hand.Roles = append(into.Hand.Roles, event.Role(strings.ToLower(r)))
		}
		return into.Hand.Validate()
	case "sayas":
		into.SayAs = &cell
	case "pronouns":
		into.Pronouns = &cell
	case "note":
		into.Note = &cell
	case "zone":
		into.Zone = &cell
	case "tags":
		into.Tags = list(cell)
	case "crews":
		in.NameCrews(list(cell))
	case "birthday":
		d, err := dates.Parse(cell, c.opt.DayFirst)
		if err != nil {
			return bad(err.Error())
		}
		into.Birthday = &d
	case "followed":
		t, err := moment(cell, c.opt.DayFirst)
		if err != nil {
			return bad("is no date; write it like 2031-05-14")
		}
		first.Followed, into.Followed = &t, nil
	case "streams":
		nums, err := Numbers(cell)
		if err != nil {
			return bad("is no list of stream numbers; write it like 1-3 7 9")
		}
		into.Streams = nums
	case "trusted", "hideday", "leavebe", "fellow":
		yes, ok := truth[strings.ToLower(cell)]
		if !ok {
			return bad(`is neither yes nor no`)
		}
		*map[string]**bool{"trusted": &into.Trusted, "hideday": &into.HideDay, "leavebe": &into.LeaveBe, "fellow": &into.Fellow}[means] = &yes
	case "raids":
		for _, one := range list(cell) {
			f := strings.Fields(one)
			if len(f) != 3 || f[0] != "came" && f[0] != "went" {
				return bad("is no list of raids; write it like: came 37 2031-05-14T19:00:00Z")
			}
			viewers, err := strconv.ParseInt(f[1], 10, 64)
			at, err2 := moment(f[2], c.opt.DayFirst)
			if err != nil || err2 != nil {
				return bad("is no list of raids; write it like: came 37 2031-05-14T19:00:00Z")
			}
			into.Raids = append(into.Raids, card.Raid{Way: f[0], Viewers: viewers, At: at})
		}
	}
	return nil
}

var truth = map[string]bool{"yes": true, "y": true, "true": true, "1": true, "x": true, "no": false, "n": false, "false": false, "0": false}

func list(cell string) []string {
	var out []string
	for _, s := range strings.FieldsFunc(cell, func(r rune) bool { return r == ';' || r == '|' || r == '\n' }) {
		if s = strings.TrimSpace(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

// moment reads a date or a moment. A date alone is noon in UTC, which is the same
// day almost everywhere.
func moment(s string, dayFirst bool) (time.Time, error) {
	for _, layout := range []string{time.RFC3339Nano, "2006-01-02 15:04:05", "2006-01-02 15:04", "2006-01-02T15:04"} {
		if t, err := time.Parse(layout, s); err == nil {
			return t, nil
		}
	}
	d, err := dates.Parse(s, dayFirst)
	if err != nil || d.Year == 0 {
		return time.Time{}, dates.ErrNoDay
	}
	return d.At(time.UTC).Add(12 * time.Hour), nil
}

// Numbers reads a list of numbers and ranges: "1-3 7, 9".
func Numbers(s string) ([]int, error) {
	var out []int
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == ',' || r == ';' }) {
		a, b, isRange := strings.Cut(strings.TrimPrefix(f, "-"), "-")
		neg := strings.HasPrefix(f, "-")
		from, err := strconv.Atoi(a)
		if err != nil {
			return nil, err
		}
		if neg {
			from = -from
		}
		to := from
		if isRange {
			if to, err = strconv.Atoi(b); err != nil || to < from || to-from > 100_000 {
				return nil, fmt.Errorf("%q is no range", f)
			}
		}
		for n := from; n <= to; n++ {
			out = append(out, n)
		}
	}
	return out, nil
}
