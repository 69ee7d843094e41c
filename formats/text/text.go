// Package text reads files that others wrote line by line, without trusting them:
// a line of a gigabyte costs no more memory than a long one, and a byte order mark
// tells the encoding (UTF-8 or UTF-16; Unicode Standard, section 23.8).
package text

import (
	"bufio"
	"bytes"
	"io"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// LineMost is how many bytes of a line are kept.
const LineMost = 1 << 20

// Lines hands out the lines of a file.
type Lines struct {
	r       *bufio.Reader
	n       int
	pending []line
}

type line struct {
	raw  []byte
	n    int
	long bool
}

// NewLines reads lines from a file of unknown encoding.
func NewLines(r io.Reader) *Lines {
	utf8 := unicode.BOMOverride(transform.Nop)
	return &Lines{r: bufio.NewReaderSize(transform.NewReader(r, utf8), 64<<10)}
}

// Next returns the next line without its end, its number from 1, and whether it was
// longer than LineMost and is cut; io.EOF ends the file.
func (l *Lines) Next() (raw []byte, n int, long bool, err error) {
	if k := len(l.pending); k > 0 {
		x := l.pending[k-1]
		l.pending = l.pending[:k-1]
		return x.raw, x.n, x.long, nil
	}
	any := false
	for {
		part, err := l.r.ReadSlice('\n')
		any = any || len(part) > 0
		if len(raw)+len(part) <= LineMost+2 {
			raw = append(raw, part...)
		} else {
			long = true
		}
		if err == bufio.ErrBufferFull {
			continue
		}
		if err != nil && (err != io.EOF || !any) {
			return nil, l.n, false, err
		}
		l.n++
		return bytes.TrimRight(raw, "\r\n"), l.n, long, nil
	}
}

// Back gives a line back, to be read again.
func (l *Lines) Back(raw []byte, n int, long bool) {
	l.pending = append(l.pending, line{raw, n, long})
}
