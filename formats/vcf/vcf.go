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

	"vividporch/core/dates"
	"vividporch/core/people"
	"vividporch/formats/csv"
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
func (v *Reader) Next() (people.Incoming, error) {
	raw, why, err := v.card()
	if err != nil {
		return people.Incoming{}, err
	}
	v.n++
	in := people.Incoming{Row: v.n, Why: why}
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

// card gathers the lines from BEGIN to END, unfolds quoted-printable line ends and
// names bare parameters of version 2.1. What stands between cards is passed over.
func (v *Reader) card() (raw []byte, why string, err error) {
	var b bytes.Buffer
	inside, soft := false, false
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
		if long || b.Len() > CardMost {
			why = fmt.Sprintf("the card is longer than %d MB", CardMost>>20)
		}
		if why == "" {
			switch {
			case soft:
				l = bytes.TrimLeft(l, " \t")
			case len(l) > 0 && (l[0] == ' ' || l[0] == '\t'): // folded: the reader unfolds it
			default:
				l = named(l)
			}
			head, _, _ := bytes.Cut(l, []byte(":"))
			soft = (soft || bytes.Contains(bytes.ToUpper(head), []byte("QUOTED-PRINTABLE"))) && bytes.HasSuffix(l, []byte("="))
			if soft {
				b.Write(bytes.TrimSuffix(l, []byte("=")))
			} else {
				b.Write(l)
				b.WriteString("\r\n")
			}
		}
		if up == "END:VCARD" {
			return b.Bytes(), why, nil
		}
	}
}

// In a property that is one text a semicolon may be escaped although it need not be
// (RFC 6350, section 3.4).
var (
	plainProperty    = regexp.MustCompile(`(?i)^([a-z0-9-]+\.)?(FN|NOTE|NICKNAME|CATEGORIES|PRONOUNS|X-PORCH-[A-Z-]+)(;|$)`)
	escapedSemicolon = regexp.MustCompile(`((?:^|[^\\])(?:\\\\)*)\\;`)
)

// named gives the bare parameters of version 2.1 their names: TEL;HOME:… becomes
// TEL;TYPE=HOME:…
func named(l []byte) []byte {
	head, value, ok := bytes.Cut(l, []byte(":"))
	if ok && plainProperty.Match(head) {
		value = escapedSemicolon.ReplaceAll(value, []byte("$1;"))
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
func fill(in *people.Incoming, c vcard.Card) error {
	card := &in.Card
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
		a := people.CardAccount{}
		a.Platform, a.Login, a.ID = scheme, strings.TrimPrefix(rest, "//"), f.Params.Get("X-ID")
		a.Name = f.Params.Get("X-NAME")
		card.Accounts = append(card.Accounts, a)
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
	if len(card.Accounts) == 0 {
		if len(nicks) == 0 {
			return fmt.Errorf("IMPP and NICKNAME: are missing; a card needs an account or a nickname that is a login")
		}
		a := people.CardAccount{}
		a.Login, nicks = strings.TrimPrefix(nicks[0], "@"), nicks[1:]
		card.Accounts = append(card.Accounts, a)
	}
	first := &card.Accounts[0]
	if first.Name == "" {
		first.Name = name
	}
	for _, n := range nicks {
		known := false
		for i := range card.Accounts {
			known = known || strings.EqualFold(card.Accounts[i].Login, n)
		}
		if !known {
			first.Was = append(first.Was, n)
		}
	}
	card.Note, card.Pronouns, card.SayAs = text("NOTE"), text("PRONOUNS"), text("X-PORCH-SAY-AS")
	if z := text("TZ"); z != nil && strings.Contains(*z, "/") { // an offset is no zone
		card.Zone = z
	}
	for _, f := range c["CATEGORIES"] {
		card.Tags = append(card.Tags, items(f.Value)...)
	}
	for _, f := range c["X-PORCH-CREW"] {
		in.NameCrews([]string{f.Value})
	}
	if b := text("BDAY"); b != nil {
		d, err := dates.Parse(*b, true)
		if err != nil {
			return fmt.Errorf("BDAY: %q %w", *b, err)
		}
		card.Birthday = &d
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
		card.Streams = nums
	}
	for name, into := range map[string]**bool{"X-PORCH-TRUSTED": &card.Trusted, "X-PORCH-LEAVE-BE": &card.LeaveBe, "X-PORCH-FELLOW": &card.Fellow} {
		if v := text(name); v != nil {
			yes := strings.EqualFold(*v, "yes")
			*into = &yes
		}
	}
	return nil
}

// items parts a list at its commas; in a list a comma of an item is escaped, which
// the reader has undone, so items of ours never hold one.
func items(s string) []string {
	var out []string
	for _, v := range strings.Split(s, ",") {
		if v = strings.TrimSpace(v); v != "" {
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
	enc   *vcard.Encoder
	crews map[string]string
}

// NewWriter writes to w; crews are the names of crews by id.
func NewWriter(w io.Writer, crews map[string]string) *Writer {
	return &Writer{vcard.NewEncoder(w), crews}
}

// Write writes one person.
func (w *Writer) Write(c *people.Card) error {
	v := vcard.Card{}
	v.SetValue("VERSION", "4.0")
	add := func(name, value string) {
		if value != "" {
			v.Add(name, &vcard.Field{Value: value})
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
		if !strings.HasPrefix(a.ID, people.Provisional) && a.ID != "" {
			p.Set("X-ID", a.ID)
		}
		if a.Name != "" && a.Name != a.Login && i > 0 && !strings.ContainsAny(a.Name, `";:,`) {
			p.Set("X-NAME", a.Name)
		}
		v.Add("IMPP", &vcard.Field{Value: a.Platform + ":" + a.Login, Params: p})
	}
	v.SetValue("FN", name)
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
	for name, b := range map[string]*bool{"X-PORCH-TRUSTED": c.Trusted, "X-PORCH-LEAVE-BE": c.LeaveBe, "X-PORCH-FELLOW": c.Fellow} {
		if b != nil {
			add(name, map[bool]string{true: "yes", false: "no"}[*b])
		}
	}
	return w.enc.Encode(v)
}
