// Package pointer finds a thing in somebody else's JSON by its pointer (RFC 6901): "/who/name",
// "/items/0/price", "" for the whole.
//
// What is read is kept as it was written: a number stays the text that stood there, so that no
// cent and no long id is lost to rounding. Of a key that stands twice the last counts, as RFC
// 8259, section 4, leaves to the reader.
package pointer

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
)

// MostDeep is how many objects and lists may lie within each other.
const MostDeep = 64

// mostBytes is the length of a pointer.
const mostBytes = 500

// Errors of a body.
var (
	ErrNotJSON = errors.New("the body is no JSON")
	ErrDeep    = fmt.Errorf("the body is nested more than %d deep", MostDeep)
)

// Read reads one JSON value: nil, bool, json.Number, string, []any and map[string]any.
func Read(raw []byte) (any, error) {
	if Deeper(raw, MostDeep) {
		return nil, ErrDeep
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	var v any
	if err := dec.Decode(&v); err != nil {
		return nil, ErrNotJSON
	}
	if _, err := dec.Token(); !errors.Is(err, io.EOF) {
		return nil, ErrNotJSON
	}
	return v, nil
}

// Deeper reports whether JSON is nested deeper than so many levels.
func Deeper(raw []byte, most int) bool {
	depth, quoted := 0, false
	for i := 0; i < len(raw); i++ {
		switch c := raw[i]; {
		case quoted && c == '\\':
			i++
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '{' || c == '[':
			if depth++; depth > most {
				return true
			}
		case c == '}' || c == ']':
			depth--
		}
	}
	return false
}

// Check says what is wrong with a pointer, or nil.
func Check(p string) error {
	if len(p) > mostBytes {
		return fmt.Errorf("is longer than %d bytes", mostBytes)
	}
	if p != "" && p[0] != '/' {
		return errors.New(`does not begin with a slash; write "/who/name" for the name within who`)
	}
	for i := range len(p) {
		if p[i] == '~' && (i+1 == len(p) || p[i+1] != '0' && p[i+1] != '1') {
			return errors.New(`holds a ~ that is not ~0 (a ~) or ~1 (a slash)`)
		}
	}
	return nil
}

var unescape = strings.NewReplacer("~1", "/", "~0", "~")

// Get is what a pointer leads to. ok is false where there is nothing.
func Get(v any, p string) (at any, ok bool) {
	if p == "" {
		return v, true
	}
	if p[0] != '/' {
		return nil, false
	}
	for step := range strings.SplitSeq(p[1:], "/") {
		step = unescape.Replace(step)
		switch x := v.(type) {
		case map[string]any:
			if v, ok = x[step]; !ok {
				return nil, false
			}
		case []any:
			i, err := strconv.ParseUint(step, 10, 31)
			if err != nil || i >= uint64(len(x)) || len(step) > 1 && step[0] == '0' {
				return nil, false
			}
			v = x[i]
		default:
			return nil, false
		}
	}
	return v, true
}

// Step is a pointer one step further: into a key of an object or a place of a list.
func Step(p, key string) string {
	return p + "/" + strings.ReplaceAll(strings.ReplaceAll(key, "~", "~0"), "/", "~1")
}

// Text is a value as words: what a string says, a number as it was written, true or false.
// ok is false for null, objects and lists.
func Text(v any) (text string, ok bool) {
	switch x := v.(type) {
	case string:
		return x, true
	case json.Number:
		return x.String(), true
	case bool:
		return strconv.FormatBool(x), true
	}
	return "", false
}
