// Package jsonl reads and writes people files: JSON Lines, the channel's line first,
// then one person a line. It is the format that keeps everything.
package jsonl

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"

	"vividporch/core/card"
	"vividporch/core/rehearsal"
	"vividporch/formats/row"
	"vividporch/formats/text"
)

// Reader reads people, line by line.
type Reader struct {
	Header   *rehearsal.Header // nil when the file has none
	lines    *text.Lines
	platform string
}

// NewReader reads the channel's line, if there is one.
func NewReader(r io.Reader, platform string) (*Reader, error) {
	j := &Reader{lines: text.NewLines(r), platform: platform}
	raw, n, long, err := j.lines.Next()
	if err == io.EOF {
		return j, nil
	}
	if err != nil {
		return nil, err
	}
	var probe map[string]json.RawMessage
	if json.Unmarshal(raw, &probe) == nil && probe["accounts"] == nil {
		j.Header = &rehearsal.Header{}
		if err := json.Unmarshal(raw, j.Header); err != nil {
			return nil, fmt.Errorf("line 1: the channel's line cannot be read: %w", err)
		}
		return j, nil
	}
	j.lines.Back(raw, n, long)
	return j, nil
}

// Next returns the next person; io.EOF ends the file.
func (j *Reader) Next() (row.Row, error) {
	for {
		raw, n, long, err := j.lines.Next()
		if err != nil {
			return row.Row{}, err
		}
		if len(bytes.TrimSpace(raw)) == 0 {
			continue
		}
		in := row.Row{N: n}
		if long {
			in.Why = fmt.Sprintf("the line is longer than %d MB", text.LineMost>>20)
			return in, nil
		}
		if err := json.Unmarshal(raw, &in.Card); err != nil {
			in.Why = "the person cannot be read: " + err.Error()
			return in, nil
		}
		if err := in.Card.Fill(j.platform); err != nil {
			in.Why = err.Error()
		}
		if len(in.Card.Accounts) > 0 {
			in.Name = in.Card.Accounts[0].Shown()
		}
		return in, nil
	}
}

// Writer writes people.
type Writer struct{ enc *json.Encoder }

// NewWriter writes the channel's line.
func NewWriter(w io.Writer, head rehearsal.Header) (*Writer, error) {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	return &Writer{enc}, enc.Encode(head)
}

// Write writes one person.
func (w *Writer) Write(c *card.Card) error { return w.enc.Encode(c) }
