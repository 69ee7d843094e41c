package place

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"time"

	"vividporch/core/wording"
)

// file is a file in the house's own folder that grows line by line: JSON Lines, or each line as a wording has it.
var file = &Kind{Name: "file", Safe: oneLine,
	Check: func(p *Place, fault func(at, what, remedy string)) {
		if !fileName.MatchString(p.File) {
			fault("file", fmt.Sprintf("%q is no name of a file", p.File), "use letters, digits, - and _, with one ending: evening.jsonl")
		}
		if _, err := wording.Parse(p.Each); err != nil {
			fault("each", err.Error(), "write a line with {text}, {now} and {channel}, or nothing for JSON Lines")
		}
	},
	Render: func(p *Place, args wording.Args) (json.RawMessage, error) {
		x := Line{Name: p.File}
		if n := args["stream"]; p.ByStream && n.IsNum {
			x.Name = byStream(p.File, int(n.Num))
		}
		if p.Each == "" {
			rec := record{Text: args["text"].Text, Channel: args["channel"].Text}
			if t := args["now"].Time; t != nil {
				rec.At = t.UTC()
			}
			raw, err := json.Marshal(rec)
			if err != nil {
				return nil, err
			}
			x.Record = raw
			return json.Marshal(x)
		}
		w, err := wording.Parse(p.Each)
		if err != nil {
			return nil, err
		}
		x.Text = oneLine(w.Render(args))
		return json.Marshal(x)
	}}

// Line is what is written to a file: a JSON record, to which its id is added, or a text.
type Line struct {
	Name   string          `json:"name"` // of the file
	Record json.RawMessage `json:"record,omitempty"`
	Text   string          `json:"text,omitempty"`
}

// record is one line of JSON Lines.
type record struct {
	At      time.Time `json:"at,omitzero"`
	Text    string    `json:"text"`
	Channel string    `json:"channel,omitempty"`
}

// fileName is a name in the house's own folder and never a path: nothing hidden, nothing above, nothing that a
// system takes for a device.
var fileName = regexp.MustCompile(`^[A-Za-z0-9_][A-Za-z0-9_-]{0,60}(\.[A-Za-z0-9]{1,10})?$`)

// byStream is the name of the file of one stream: "evening-61.jsonl".
func byStream(name string, stream int) string {
	base, end, dotted := strings.Cut(name, ".")
	if dotted {
		end = "." + end
	}
	return fmt.Sprintf("%s-%d%s", base, stream, end)
}

// oneLine keeps a text from being more than one line of a file.
func oneLine(s string) string {
	return strings.Map(func(r rune) rune {
		if r == '\n' || r == '\r' || r == '\u2028' || r == '\u2029' || r == '\u0085' {
			return ' '
		}
		return r
	}, s)
}
