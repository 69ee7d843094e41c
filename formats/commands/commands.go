// Package commands is lists of commands as files: our own, as CSV (RFC 4180) or JSON, and whatever
// another assistant gives out, as CSV or pasted a line each. [Read] makes rows of any of them: each
// is a command, or says why there is none. [CSV] and [JSON] write what Read reads.
package commands

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Command is one command of such a file.
type Command struct {
	Names  []string `json:"names"`
	Words  []string `json:"words,omitempty"` // heard in a sentence
	Answer string   `json:"answer"`          // ICU MessageFormat, as wordings are
	More   []string `json:"more,omitempty"`  // further answers, of all of which one is picked
	Who    string   `json:"who,omitempty"`   // "anyone", "follower", "subscriber", "vip", "moderator", "nobody"
	Rest   float64  `json:"restSeconds,omitempty"`
	Person float64  `json:"personSeconds,omitempty"`
	Group  string   `json:"group,omitempty"`
	Tells  string   `json:"tells,omitempty"`
	Off    bool     `json:"off,omitempty"`
}

// Row is one row of a file: a command, or why there is none.
type Row struct {
	N       int // from 1, as the file counts
	Name    string
	Command Command
	Blanks  []Blank // of another assistant's, that stood in its answer
	Bare    bool    // it says a name and an answer, and nothing else
	Why     string  // it cannot be taken
}

// Blank is a blank that is none of ours: as it stood there, and the fill-in it might be; "" where
// that cannot be told. What it might be stands in the answer in its place; what it cannot be stands
// there in quotes, and the command comes in switched off: it is never said.
type Blank struct {
	Was string `json:"was"`
	As  string `json:"as,omitempty"`
}

// Most is how many rows a file may have.
const Most = 5000

// ErrNothing says that a file holds no command.
var ErrNothing = fmt.Errorf("there is no command in it: write a name and an answer, one command a line")

// Read reads a file of commands: JSON where it begins with a bracket, CSV where its first line is a
// heading, else a command a line, its name first.
func Read(raw []byte) ([]Row, error) {
	raw = bytes.TrimSpace(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf")))
	switch {
	case !utf8.Valid(raw):
		return nil, fmt.Errorf("the file is not UTF-8: save it as that")
	case len(raw) == 0:
		return nil, ErrNothing
	case raw[0] == '[' || raw[0] == '{':
		return readJSON(raw)
	}
	rows, err := readCSV(raw)
	if err != nil || rows != nil {
		return rows, err
	}
	return readLines(raw)
}

func readJSON(raw []byte) ([]Row, error) {
	var list []json.RawMessage
	var in struct {
		Commands []json.RawMessage `json:"commands"`
	}
	if json.Unmarshal(raw, &list) != nil {
		if err := json.Unmarshal(raw, &in); err != nil {
			return nil, fmt.Errorf("the file cannot be read as JSON: %w", err)
		}
		list = in.Commands
	}
	if len(list) > Most {
		return nil, fmt.Errorf("the file has %d commands: keep to %d", len(list), Most)
	}
	var rows []Row
	for i, one := range list {
		r := Row{N: i + 1}
		dec := json.NewDecoder(bytes.NewReader(one))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&r.Command); err != nil {
			r.Why = "cannot be read: " + strings.TrimPrefix(err.Error(), "json: ")
		}
		rows = append(rows, r.checked(true))
	}
	if len(rows) == 0 {
		return nil, ErrNothing
	}
	return rows, nil
}

// headings are what columns may be called, ours first.
var headings = map[string][]string{
	"names":  {"names", "name", "command", "commands"},
	"words":  {"words", "heard"},
	"answer": {"answer", "response", "reply", "message", "text"},
	"more":   {"more answers", "more"},
	"who":    {"who", "who may ask", "level", "permission"},
	"rest":   {"rest seconds", "rest", "cooldown"},
	"person": {"person seconds", "cooldown per person"},
	"group":  {"group", "category"},
	"tells":  {"tells", "description"},
	"off":    {"off"},
	"on":     {"on", "enabled", "active"},
}

// readCSV reads a file whose first line is a heading; nil where it is none.
func readCSV(raw []byte) ([]Row, error) {
	first, _, _ := bytes.Cut(raw, []byte("\n"))
	comma := ','
	for _, c := range []rune{';', '\t'} {
		if bytes.Count(first, []byte(string(c))) > bytes.Count(first, []byte(string(comma))) {
			comma = c
		}
	}
	r := csv.NewReader(bytes.NewReader(raw))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = comma, -1, true
	head, err := r.Read()
	if err != nil {
		return nil, nil
	}
	at := map[string]int{}
	for what, names := range headings {
		for i, h := range head {
			if slices.Contains(names, strings.ToLower(strings.TrimSpace(h))) {
				at[what] = i
			}
		}
	}
	if _, named := at["names"]; !named {
		return nil, nil
	}
	if _, answers := at["answer"]; !answers {
		return nil, nil
	}
	var rows []Row
	for {
		rec, err := r.Read()
		if err == io.EOF {
			break
		}
		n, _ := r.FieldPos(0)
		if err != nil {
			rows = append(rows, Row{N: len(rows) + 2, Why: "cannot be read: " + err.Error()})
			continue
		}
		if len(rows) >= Most {
			return nil, fmt.Errorf("the file has more than %d commands", Most)
		}
		cell := func(what string) string {
			if i, ok := at[what]; ok && i < len(rec) {
				return strings.TrimPrefix(strings.TrimSpace(rec[i]), "'")
			}
			return ""
		}
		row := Row{N: n, Command: Command{Names: split(cell("names"), " ,|"), Words: split(cell("words"), ",|"), Answer: cell("answer"), Who: cell("who"), Group: cell("group"), Tells: cell("tells"),
			Off: yes(cell("off")) || no(cell("on")), More: split(cell("more"), "\n")}}
		for what, to := range map[string]*float64{"rest": &row.Command.Rest, "person": &row.Command.Person} {
			if s := cell(what); s != "" {
				v, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "s"), 64)
				if err != nil {
					row.Why = fmt.Sprintf("%s “%s” is no number of seconds", what, s)
				}
				*to = v
			}
		}
		rows = append(rows, row.checked(at["tells"] > 0 || at["words"] > 0))
	}
	if len(rows) == 0 {
		return nil, ErrNothing
	}
	return rows, nil
}

func yes(s string) bool {
	return slices.Contains([]string{"yes", "true", "1", "x", "off"}, strings.ToLower(s))
}
func no(s string) bool {
	return slices.Contains([]string{"no", "false", "0", "off"}, strings.ToLower(s))
}

func split(s, by string) (out []string) {
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(by, r) }) {
		if f = strings.TrimSpace(f); f != "" {
			out = append(out, f)
		}
	}
	return out
}

// between is what may stand between a name and its answer in a pasted line.
var between = regexp.MustCompile(`^(\S+?)(?:\s*\t\s*|\s+[-–—=>]+\s+|\s*:\s+|\s*,\s*|\s+)(.+)$`)

func readLines(raw []byte) ([]Row, error) {
	lines := strings.Split(string(raw), "\n")
	var rows []Row
	for i, line := range lines {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		if len(rows) >= Most {
			return nil, fmt.Errorf("there are more than %d lines", Most)
		}
		row := Row{N: i + 1, Name: line, Bare: true}
		if m := between.FindStringSubmatch(line); m != nil {
			row.Command = Command{Names: []string{m[1]}, Answer: strings.Trim(strings.TrimSpace(m[2]), `"`)}
		} else {
			row.Why = "has no answer: write the name, a blank and the answer"
		}
		rows = append(rows, row.checked(false))
	}
	if len(rows) == 0 {
		return nil, ErrNothing
	}
	return rows, nil
}

// mostMore is how many further answers a command of a file may have.
const mostMore = 49

// answers are all of a command's answers.
func (c *Command) answers() []*string {
	out := []*string{&c.Answer}
	for i := range c.More {
		out = append(out, &c.More[i])
	}
	return out
}

// checked holds a row to what a command must have. In a file that is not our own, braces and
// whatever else opens a blank are somebody else's.
func (r Row) checked(ours bool) Row {
	if len(r.Command.Names) > 0 {
		r.Name = r.Command.Names[0]
	}
	if r.Why != "" {
		return r
	}
	c := &r.Command
	for _, answer := range c.answers() {
		if _, err := wording.Parse(*answer); !ours || err != nil || len(foreign(*answer)) > 0 {
			var blanks []Blank
			*answer, blanks = understood(*answer, ours)
			r.Blanks = append(r.Blanks, blanks...)
		}
	}
	if slices.ContainsFunc(r.Blanks, func(b Blank) bool { return b.As == "" }) {
		c.Off = true
	}
	what, remedy := "", ""
	switch {
	case len(c.Names) == 0 && len(c.Words) == 0:
		what, remedy = "has no name", "write what it is asked by"
	case strings.TrimSpace(c.Answer) == "":
		what, remedy = "has no answer", "write one"
	case len(c.More) > mostMore:
		what, remedy = "has too many answers", fmt.Sprintf("keep to %d", mostMore+1)
	}
	for _, n := range c.Names {
		if w, rem := courtesy.NameFault(n); w != "" && what == "" {
			what, remedy = "the name “"+n+"” "+w, rem
		}
	}
	if _, ok := whoOf(c.Who); !ok && what == "" {
		what, remedy = "“"+c.Who+"” says nobody who may ask", "use anyone, follower, subscriber, vip, moderator or nobody"
	}
	if (c.Rest < 0 || c.Rest > 86_400 || c.Person < 0 || c.Person > 86_400) && what == "" {
		what, remedy = "rests for longer than a day, or less than none", "use 0 to 86400 seconds"
	}
	if what != "" {
		r.Why = what + "; " + remedy
	}
	return r
}

// blank is anything that other assistants may write where something is to be filled in.
var blank = regexp.MustCompile(`\$\{[^{}]{1,60}\}|\$\([^()]{1,60}(?:\([^()]*\))?[^()]{0,20}\)|\{\{[^{}]{1,60}\}\}|\{[^{}]{1,60}\}|<[a-zA-Z][a-zA-Z ._-]{0,30}>|%[a-zA-Z][a-zA-Z0-9_.]{0,30}%|\$[a-zA-Z][a-zA-Z0-9_.]{0,30}|\[[a-z][a-z_]{1,30}\]`)

// foreign are the blanks of a wording that cannot be ours: those that do not begin with a brace.
func foreign(answer string) []string {
	return slices.DeleteFunc(blank.FindAllString(answer, -1), func(b string) bool { return strings.ContainsAny(b[:1], "{[<") })
}

// meanings are the fill-ins that a blank might be, by the words it is made of.
var meanings = []struct {
	words []string
	as    string
}{
	{[]string{"target", "mentioned", "recipient", "to", "whom"}, "meant"},
	{[]string{"user", "username", "sender", "name", "author", "nick", "viewer", "from", "asker"}, "name"},
	{[]string{"channel", "streamer", "broadcaster"}, "channel"},
	{[]string{"count", "counter", "uses", "times"}, "times"},
	{[]string{"uptime", "up time", "live since"}, "upTime"},
	{[]string{"followage", "follow age"}, "followAge"},
	{[]string{"title", "status"}, "streamTitle"},
	{[]string{"game", "category"}, "streamCategory"},
	{[]string{"followers", "follower count"}, "followers"},
	{[]string{"subscribers", "subscriber count"}, "subscribers"},
	{[]string{"viewers", "viewer count"}, "watching"},
	{[]string{"args", "query", "input", "rest", "message", "text"}, "rest"},
	{[]string{"1", "first"}, "first"},
	{[]string{"2", "second"}, "second"},
	{[]string{"3", "third"}, "third"},
	{[]string{"time", "now"}, "now"},
}

// understood puts our fill-ins in the place of blanks that might be them, and quotes all others.
func understood(answer string, ours bool) (string, []Blank) {
	var out strings.Builder
	var blanks []Blank
	at := 0
	for _, m := range blank.FindAllStringIndex(answer, -1) {
		was := answer[m[0]:m[1]]
		out.WriteString(wording.Quoted(answer[at:m[0]]))
		at = m[1]
		word := strings.ToLower(strings.Trim(was, "$(){}<>%[] "))
		as := ""
		for _, x := range meanings {
			if slices.Contains(x.words, word) {
				as = x.as
			}
		}
		if as == "" && (was[0] == '<' || was[0] == '[') { // more likely words
			out.WriteString(wording.Quoted(was))
			continue
		}
		if !slices.ContainsFunc(blanks, func(b Blank) bool { return b.Was == was }) {
			blanks = append(blanks, Blank{was, as})
		}
		if as == "" {
			out.WriteString(wording.Quoted(was))
		} else {
			out.WriteString(inserted(as))
		}
	}
	out.WriteString(wording.Quoted(answer[at:]))
	return out.String(), blanks
}

// inserted is a fill-in as it stands in a wording: one that may be missing with its other branch.
func inserted(name string) string {
	for _, f := range happening.Of(happening.Command).Offers() {
		if f.Name != name {
			continue
		}
		bare := "{" + name + "}"
		if f.Kind == wording.Moment {
			bare = "{" + name + ", time, short}"
		}
		if f.Optional {
			return "{" + wording.Companion(name) + ", select, yes {" + bare + "} other {}}"
		}
		return bare
	}
	return ""
}

// roles are who may ask, as files say it.
var roles = map[string]who.Who{
	"": {}, "anyone": {}, "everyone": {}, "all": {}, "nobody": {Nobody: true},
	"follower": {Role: event.Follower, OrAbove: true}, "subscriber": {Role: event.Subscriber, OrAbove: true}, "vip": {Role: event.VIP, OrAbove: true},
	"moderator": {Role: event.Moderator, OrAbove: true}, "streamer": {Role: event.Streamer},
}

func whoOf(s string) (who.Who, bool) {
	s = strings.ToLower(strings.TrimSpace(s))
	w, ok := roles[s]
	if !ok {
		w, ok = roles[strings.TrimSuffix(s, "s")]
	}
	return w, ok
}

// Courtesy makes a command of a row. Its id is the caller's to give.
func (c *Command) Courtesy() courtesy.Courtesy {
	w, _ := whoOf(c.Who)
	out := courtesy.Courtesy{On: !c.Off, When: happening.Command, Asks: c.Names, Slot: happening.Answer, OffLine: true, Who: w, Group: c.Group, Tells: c.Tells,
		Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: append([]string{c.Answer}, c.More...)}}}
	if asked := (courtesy.Asking{Words: c.Words, Rest: c.Rest, Person: c.Person}); !asked.IsZero() {
		out.Asked = &asked
	}
	return out
}

// Of is a courtesy as such a file has it; false for one that is no command, or more than an answer in
// words: a house file carries those whole.
func Of(c *courtesy.Courtesy) (Command, bool) {
	if c.When != happening.Command || c.Away || len(c.Do) != 1 || c.Do[0].Kind() != output.KindSay || len(c.Do[0].Alternatives) == 0 || len(c.Do[0].Weights) > 0 {
		return Command{}, false
	}
	out := Command{Names: c.Asks, Answer: c.Do[0].Alternatives[0], Group: c.Group, Tells: c.Tells, Off: !c.On}
	if more := c.Do[0].Alternatives[1:]; len(more) > 0 {
		out.More = more
	}
	if a := c.Asked; a != nil {
		out.Words, out.Rest, out.Person = a.Words, a.Rest, a.Person
	}
	for _, name := range []string{"anyone", "nobody", "follower", "subscriber", "vip", "moderator", "streamer"} {
		if w := roles[name]; fmt.Sprint(w) == fmt.Sprint(c.Who) {
			if name != "anyone" {
				out.Who = name
			}
			return out, true
		}
	}
	return Command{}, false
}

// JSON writes commands as a list.
func JSON(w io.Writer, list []Command) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	enc.SetEscapeHTML(false)
	if list == nil {
		list = []Command{}
	}
	return enc.Encode(list)
}

// CSV writes commands as a table. A cell that a spreadsheet would take for a formula begins with an
// apostrophe, which Read takes off again.
func CSV(w io.Writer, list []Command) error {
	out := csv.NewWriter(w)
	out.Write([]string{"names", "words", "answer", "more answers", "who", "rest seconds", "person seconds", "group", "tells", "off"})
	for _, c := range list {
		off := ""
		if c.Off {
			off = "yes"
		}
		cells := []string{strings.Join(c.Names, " "), strings.Join(c.Words, ", "), c.Answer, strings.Join(c.More, "\n"), c.Who, number(c.Rest), number(c.Person), c.Group, c.Tells, off}
		for i, s := range cells {
			if s != "" && strings.ContainsAny(s[:1], "=+-@'\t") {
				cells[i] = "'" + s
			}
		}
		out.Write(cells)
	}
	out.Flush()
	return out.Error()
}

func number(n float64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}
