// Package vcf reads and writes the guest book as vCards: version 4.0 (RFC 6350) out,
// and in also the older dialects that programs still write, 2.1 with quoted-printable
// text and 3.0.
//
// Accounts are IMPP properties with the platform as scheme ("IMPP:quayside:limpet_lena"),
// logins are NICKNAMEs, a birthday may lack its year, ANNIVERSARY is the follow date,
// CATEGORIES are tags, TZ is the zone, and PRONOUNS is that of RFC 9554. What no
// standard property serves stands in X-PORCH-… properties.
package vcf

import (
	"bytes"
	"fmt"
	"io"
	"mime/quotedprintable"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-vcard"
	"golang.org/x/text/encoding/htmlindex"

	"vividporch/core/card"
	"vividporch/core/dates"
	"vividporch/core/people"
	"vividporch/formats/csv"
	"vividporch/formats/row"
	"vividporch/formats/text"
)

// CardMost is how many bytes one card may have, pictures included.
const CardMost = 1 << 20

// Reader reads people, card by card.
type Reader struct {
	lines    *text.Lines
	platform string
	n        int
}

// NewReader reads cards; platform is that of accounts that name none.
func NewReader(r io.Reader, platform string) *Reader {
	return &Reader{lines: text.NewLines(r), platform: platform}
}

// Next returns the next card; io.EOF ends the file. Rows count cards from 1.
func (v *Reader) Next() (row.Row, error) {
	raw, why, err := v.card()
	if err != nil {
		return row.Row{}, err
	}
	v.n++
	in := row.Row{N: v.n, Why: why}
	if why != "" {
		return in, nil
	}
	c, err := vcard.NewDecoder(bytes.NewReader(raw)).Decode()
	if err != nil {
		in.Why = "the card cannot be read: " + strings.TrimPrefix(err.Error(), "vcard: ")
		return in, nil
	}
	for _, fields := range c {
		for _, f := range fields {
			if w := plainText(f); w != "" {
				in.Why = w
				return in, nil
			}
		}
	}
	if err := fill(&in, c); err != nil {
		in.Why = err.Error()
		return in, nil
	}
	if err := in.Card.Fill(v.platform); err != nil {
		in.Why = err.Error()
	}
	return in, nil
}

// card gathers the lines from BEGIN to END, unfolds them, quoted-printable line ends
// too, and names bare parameters of version 2.1. What stands between cards is passed over.
func (v *Reader) card() (raw []byte, why string, err error) {
	var lines [][]byte
	size, inside, soft := 0, false, false
	for {
		l, n, long, err := v.lines.Next()
		if err == io.EOF && inside {
			return nil, "the card has no END:VCARD", nil
		}
		if err != nil {
			return nil, "", err
		}
		up := strings.ToUpper(string(bytes.TrimSpace(l)))
		switch {
		case !inside && up != "BEGIN:VCARD":
			continue
		case inside && up == "BEGIN:VCARD": // the one before was never closed
			v.lines.Back(l, n, long)
			return nil, "the card has no END:VCARD", nil
		}
		inside = true
		if size += len(l); long || size > CardMost {
			why = fmt.Sprintf("the card is longer than %d MB", CardMost>>20)
		}
		if why == "" {
			at := len(lines) - 1
			switch {
			case soft:
				lines[at] = append(bytes.TrimSuffix(lines[at], []byte("=")), bytes.TrimLeft(l, " \t")...)
			case at >= 0 && len(l) > 0 && (l[0] == ' ' || l[0] == '\t'):
				lines[at] = append(lines[at], l[1:]...)
			default:
				lines = append(lines, slices.Clone(l))
				at++
			}
			head, _, _ := bytes.Cut(lines[at], []byte(":"))
			soft = bytes.Contains(bytes.ToUpper(head), []byte("QUOTED-PRINTABLE")) && bytes.HasSuffix(l, []byte("="))
		}
		if up == "END:VCARD" {
			var b bytes.Buffer
			for _, l := range lines {
				b.Write(named(l))
				b.WriteString("\r\n")
			}
			return b.Bytes(), why, nil
		}
	}
}

// In a property that is one text a semicolon may be escaped although it need not be
// (RFC 6350, section 3.4).
var (
	structured       = regexp.MustCompile(`(?i)^([a-z0-9-]+\.)?(N|ADR|ORG|GENDER|CLIENTPIDMAP)(;|$)`)
	listed           = regexp.MustCompile(`(?i)^([a-z0-9-]+\.)?(NICKNAME|CATEGORIES)(;|$)`)
	escapedSemicolon = regexp.MustCompile(`((?:^|[^\\])(?:\\\\)*)\\;`)
	escapedComma     = regexp.MustCompile(`((?:^|[^\\])(?:\\\\)*)\\,`)
)

// comma stands for one that an item of a list has, while the list is parted.
const comma = "\ue001"

// named gives the bare parameters of version 2.1 their names: TEL;HOME:… becomes
// TEL;TYPE=HOME:…
func named(l []byte) []byte {
	head, value, ok := bytes.Cut(l, []byte(":"))
	if ok && !structured.Match(head) {
		for escapedSemicolon.Match(value) {
			value = escapedSemicolon.ReplaceAll(value, []byte("$1;"))
		}
		for listed.Match(head) && escapedComma.Match(value) {
			value = escapedComma.ReplaceAll(value, []byte("$1"+comma))
		}
		l = append(append(slices.Clone(head), ':'), value...)
	}
	if !ok || !bytes.Contains(head, []byte(";")) || bytes.Contains(head, []byte(`"`)) {
		return l
	}
	parts := strings.Split(string(head), ";")
	for i, p := range parts[1:] {
		switch up := strings.ToUpper(p); {
		case strings.Contains(p, "="):
		case up == "QUOTED-PRINTABLE" || up == "BASE64" || up == "8BIT" || up == "7BIT":
			parts[i+1] = "ENCODING=" + p
		default:
			parts[i+1] = "TYPE=" + p
		}
	}
	return []byte(strings.Join(parts, ";") + ":" + string(value))
}

// plainText undoes a field's encoding and character set; why says what cannot be.
func plainText(f *vcard.Field) (why string) {
	raw := []byte(f.Value)
	if strings.EqualFold(f.Params.Get("ENCODING"), "QUOTED-PRINTABLE") {
		b, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(f.Value)))
		if err != nil {
			return "a text in quoted-printable is broken; save the card anew"
		}
		raw = b
	}
	if set := f.Params.Get("CHARSET"); set != "" && !strings.EqualFold(set, "UTF-8") {
		enc, err := htmlindex.Get(set)
		if err != nil {
			return fmt.Sprintf("the character set %q is not known; save the card as UTF-8", set)
		}
		if raw, err = enc.NewDecoder().Bytes(raw); err != nil {
			return fmt.Sprintf("a text is not in the character set %q that it names", set)
		}
	}
	if !utf8.Valid(raw) {
		return "the text is not UTF-8; save the file as UTF-8 and bring it in again"
	}
	f.Value = string(raw)
	return ""
}

// fill reads a card's properties.
func fill(in *row.Row, c vcard.Card) error {
	person := &in.Card
	text := func(name string) *string {
		if v := strings.TrimSpace(c.Value(name)); v != "" {
			return &v
		}
		return nil
	}
	for _, f := range c["IMPP"] {
		scheme, rest, ok := strings.Cut(f.Value, ":")
		if !ok {
			continue
		}
		a := card.Account{}
		a.Platform, a.Login, a.ID = scheme, strings.TrimPrefix(rest, "//"), f.Params.Get("X-ID")
		a.Name = f.Params.Get("X-NAME")
		if f := f.Params.Get("X-FOLLOWED"); f != "" {
			t, err := when(f)
			if err != nil {
				return fmt.Errorf("IMPP: X-FOLLOWED %q is no date; write it like 20310514", f)
			}
			a.Followed = &t
		}
		a.Was = strings.Fields(f.Params.Get("X-WAS"))
		person.Accounts = append(person.Accounts, a)
	}
	var nicks []string
	for _, f := range c["NICKNAME"] {
		nicks = append(nicks, items(f.Value)...)
	}
	name := c.PreferredValue("FN")
	if name == "" {
		if n := c.Name(); n != nil {
			name = strings.TrimSpace(n.GivenName + " " + n.FamilyName)
		}
	}
	if in.Name = name; name == "" && len(nicks) > 0 {
		in.Name = nicks[0]
	}
	if len(person.Accounts) == 0 {
		if len(nicks) == 0 {
			return fmt.Errorf("IMPP and NICKNAME: are missing; a card needs an account or a nickname that is a login")
		}
		a := card.Account{}
		a.Login, nicks = strings.TrimPrefix(nicks[0], "@"), nicks[1:]
		person.Accounts = append(person.Accounts, a)
	}
	first := &person.Accounts[0]
	if first.Name == "" {
		first.Name = name
	}
	for _, n := range nicks {
		known := false
		for i := range person.Accounts {
			known = known || strings.EqualFold(person.Accounts[i].Login, n)
		}
		if !known {
			first.Was = append(first.Was, n)
		}
	}
	person.Note, person.Pronouns, person.SayAs = text("NOTE"), text("PRONOUNS"), text("X-PORCH-SAY-AS")
	if z := text("TZ"); z != nil && strings.Contains(*z, "/") { // an offset is no zone
		person.Zone = z
	}
	for _, f := range c["CATEGORIES"] {
		person.Tags = append(person.Tags, items(f.Value)...)
	}
	for _, f := range c["X-PORCH-CREW"] {
		in.NameCrews([]string{f.Value})
	}
	if b := text("BDAY"); b != nil {
		d, err := dates.Parse(*b, true)
		if err != nil {
			return fmt.Errorf("BDAY: %q %w", *b, err)
		}
		person.Birthday = &d
	}
	if a := text("ANNIVERSARY"); a != nil {
		t, err := when(*a)
		if err != nil {
			return fmt.Errorf("ANNIVERSARY: %q is no date; write it like 20310514", *a)
		}
		first.Followed = &t
	}
	if s := text("X-PORCH-STREAMS"); s != nil {
		nums, err := csv.Numbers(*s)
		if err != nil {
			return fmt.Errorf("X-PORCH-STREAMS: %q is no list of stream numbers", *s)
		}
		person.Streams = nums
	}
	for name, into := range map[string]**bool{"X-PORCH-TRUSTED": &person.Trusted, "X-PORCH-BIRTHDAY-HIDDEN": &person.HideDay, "X-PORCH-LEAVE-BE": &person.LeaveBe, "X-PORCH-FELLOW": &person.Fellow} {
		if v := text(name); v != nil {
			yes := strings.EqualFold(*v, "yes")
			*into = &yes
		}
	}
	return nil
}

// items parts a list at its commas; a comma of an item was escaped.
func items(s string) []string {
	var out []string
	for _, v := range strings.Split(s, ",") {
		if v = strings.TrimSpace(strings.ReplaceAll(v, comma, ",")); v != "" {
			out = append(out, v)
		}
	}
	return out
}

// basic are the forms of a date and time of RFC 6350, section 4.3, that say a moment.
var basic = []string{"20060102T150405.999999999Z07:00", "20060102T150405Z0700", "20060102T150405", "20060102T1504Z0700", time.RFC3339Nano}

func when(s string) (time.Time, error) {
	for _, layout := range basic {
		if t, err := time.Parse(layout, s); err == nil {
			return t, nil
		}
	}
	d, err := dates.Parse(s, true)
	if err != nil || d.Year == 0 {
		return time.Time{}, dates.ErrNoDay
	}
	return d.At(time.UTC).Add(12 * time.Hour), nil
}

// Writer writes people as vCards 4.0.
type Writer struct {
	w     io.Writer
	crews map[string]string
}

// fold writes a card's lines with at most 75 octets each, cut between characters
// (RFC 6350, section 3.2).
func fold(w io.Writer, card []byte) error {
	const most = 75
	var b bytes.Buffer
	for l := range bytes.SplitSeq(bytes.TrimSuffix(card, []byte("\r\n")), []byte("\r\n")) {
		for room := most; len(l) > room; room = most - 1 {
			cut := room
			for cut > 1 && !utf8.RuneStart(l[cut]) {
				cut--
			}
			b.Write(l[:cut])
			b.WriteString("\r\n ")
			l = l[cut:]
		}
		b.Write(l)
		b.WriteString("\r\n")
	}
	_, err := w.Write(b.Bytes())
	return err
}

// breaks are the line ends of other people's text: each is one of a vCard's.
var breaks = strings.NewReplacer("\r\n", "\n", "\r", "\n")

// bare reports whether a text can stand as a parameter's value without quotes.
func bare(s string) bool {
	return s != "" && !strings.ContainsFunc(s, func(r rune) bool { return r < ' ' || r == 0x7f || strings.ContainsRune("\";:,", r) })
}

// NewWriter writes to w; crews are the names of crews by id.
func NewWriter(w io.Writer, crews map[string]string) *Writer {
	return &Writer{w, crews}
}

// Write writes one person.
func (w *Writer) Write(c *card.Card) error {
	v := vcard.Card{}
	v.SetValue("VERSION", "4.0")
	add := func(name, value string) {
		if value != "" {
			v.Add(name, &vcard.Field{Value: breaks.Replace(value)})
		}
	}
	name := "somebody"
	for i, a := range c.Accounts {
		if i == 0 {
			name = a.Shown()
			for _, was := range a.Was {
				add("NICKNAME", was)
			}
			if a.Followed != nil {
				add("ANNIVERSARY", a.Followed.UTC().Format("20060102T150405.999999999Z07:00"))
			}
		}
		p := vcard.Params{}
		if !strings.HasPrefix(a.ID, people.Provisional) && bare(a.ID) {
			p.Set("X-ID", a.ID)
		}
		if i > 0 {
			if a.Name != a.Login && bare(a.Name) {
				p.Set("X-NAME", a.Name)
			}
			if a.Followed != nil {
				p.Set("X-FOLLOWED", a.Followed.UTC().Format("20060102T150405.999999999Z0700"))
			}
			if was := strings.Join(a.Was, " "); bare(was) {
				p.Set("X-WAS", was)
			}
		}
		v.Add("IMPP", &vcard.Field{Value: a.Platform + ":" + breaks.Replace(a.Login), Params: p})
	}
	v.SetValue("FN", breaks.Replace(name))
	if b := c.Birthday; b != nil && !b.IsZero() {
		add("BDAY", strings.ReplaceAll(strings.Replace(b.String(), "--", "~~", 1), "-", ""))
		v["BDAY"][0].Value = strings.Replace(v["BDAY"][0].Value, "~~", "--", 1)
	}
	add("NOTE", people.Text(c.Note))
	add("PRONOUNS", people.Text(c.Pronouns))
	add("TZ", people.Text(c.Zone))
	for _, t := range c.Tags {
		add("CATEGORIES", t)
	}
	if c.Fetched != nil {
		add("URL", c.Fetched.Link)
	}
	add("X-PORCH-SAY-AS", people.Text(c.SayAs))
	for _, id := range c.Crews {
		if n := w.crews[id]; people.CrewID(n) == id {
			add("X-PORCH-CREW", n)
		} else {
			add("X-PORCH-CREW", id)
		}
	}
	add("X-PORCH-STREAMS", csv.Ranges(c.Streams))
	for name, b := range map[string]*bool{"X-PORCH-TRUSTED": c.Trusted, "X-PORCH-BIRTHDAY-HIDDEN": c.HideDay, "X-PORCH-LEAVE-BE": c.LeaveBe, "X-PORCH-FELLOW": c.Fellow} {
		if b != nil {
			add(name, map[bool]string{true: "yes", false: "no"}[*b])
		}
	}
	var b bytes.Buffer
	if err := vcard.NewEncoder(&b).Encode(v); err != nil {
		return err
	}
	return fold(w.w, b.Bytes())
}
