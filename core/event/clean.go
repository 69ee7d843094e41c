package event

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"math"
	"reflect"
	"strconv"
	"strings"
	"unicode/utf16"
	"unicode/utf8"
)

// How many bytes are kept of what stands in the log's and the book's indexes.
const (
	NameMost     = 600
	loginMost    = 400
	idMost       = 200
	sourceMost   = 400
	platformMost = 60
)

// Clean takes out of an event what no log could keep, so that nothing anybody sends
// stops the house: NUL characters, bytes that are no UTF-8, halves of characters, and
// names, ids and numbers beyond all measure. A long id is told from another by a digest of the whole.
//
// It is done once, at the door; a second time costs nothing.
func (e *Event) Clean() {
	if e.cleaned {
		return
	}
	e.cleaned = true
	e.ID, e.Source = Shortened(CleanText(e.ID), idMost), Shortened(CleanText(e.Source), sourceMost)
	e.Raw, e.Ext = CleanJSON(e.Raw), CleanJSON(e.Ext)
	if e.Data != nil {
		clean(reflect.ValueOf(e.Data))
	}
}

// CleanText takes NUL characters out of a text, and makes it UTF-8.
func CleanText(s string) string {
	if strings.IndexByte(s, 0) >= 0 {
		s = strings.ReplaceAll(s, "\x00", "")
	}
	return strings.ToValidUTF8(s, "\uFFFD")
}

// CleanJSON makes a JSON document one that any database can keep and take apart:
// bytes that are no UTF-8 and halves of surrogate pairs (RFC 8259, section 8.2) become
// U+FFFD, NUL characters go. What needs nothing of this comes back as it is.
func CleanJSON(raw []byte) []byte {
	if !utf8.Valid(raw) {
		raw = bytes.ToValidUTF8(raw, []byte("\uFFFD"))
	}
	if !bytes.Contains(raw, []byte(`\u`)) {
		return raw
	}
	out := make([]byte, 0, len(raw))
	for i := 0; i < len(raw); {
		code, ok := escaped(raw[i:])
		switch {
		case raw[i] != '\\' || i+1 == len(raw):
			out = append(out, raw[i])
			i++
		case !ok: // another escape, a backslash among them
			out = append(out, raw[i], raw[i+1])
			i += 2
		case code == 0:
			i += 6
		case utf16.IsSurrogate(code):
			low, _ := escaped(raw[i+6:])
			if utf16.DecodeRune(code, low) == utf8.RuneError {
				out = append(out, `\ufffd`...)
				i += 6
				continue
			}
			out = append(out, raw[i:i+12]...)
			i += 12
		default:
			out = append(out, raw[i:i+6]...)
			i += 6
		}
	}
	return out
}

// escaped reads the escape of four hexadecimal digits that a text begins with.
func escaped(raw []byte) (rune, bool) {
	if len(raw) < 6 || raw[0] != '\\' || raw[1] != 'u' {
		return 0, false
	}
	n, err := strconv.ParseUint(string(raw[2:6]), 16, 16)
	return rune(n), err == nil
}

// MostNumber bounds, both ways, every number that comes in: beyond it sums lose their
// last digits, and nobody gives as much. It is below 2^53, so that it stands exactly in
// a float and in a browser.
const MostNumber = 1_000_000_000_000_000

func bounded(n float64) float64 {
	if math.IsNaN(n) {
		return 0
	}
	return min(max(n, -MostNumber), MostNumber)
}

var (
	personType = reflect.TypeFor[Person]()
	jsonType   = reflect.TypeFor[json.RawMessage]()
)

// clean walks through what v points to.
func clean(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer:
		if !v.IsNil() {
			clean(v.Elem())
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() || v.Type().Field(i).Anonymous {
				clean(v.Field(i))
			}
		}
		if v.Type() == personType && v.CanSet() {
			p := v.Addr().Interface().(*Person)
			p.Name, p.Login = Cut(p.Name, NameMost), Cut(p.Login, loginMost)
			p.ID, p.Platform = Shortened(p.ID, idMost), Cut(p.Platform, platformMost)
		}
	case reflect.String:
		if s := v.String(); v.CanSet() {
			if c := CleanText(s); c != s {
				v.SetString(c)
			}
		}
	case reflect.Int, reflect.Int64:
		if n := v.Int(); v.CanSet() && (n > MostNumber || n < -MostNumber) {
			v.SetInt(min(max(n, -MostNumber), MostNumber))
		}
	case reflect.Float64:
		if v.CanSet() {
			v.SetFloat(bounded(v.Float()))
		}
	case reflect.Slice:
		if v.Type().Elem().Kind() == reflect.Uint8 { // bytes that are no document are written in base64, and any will do
			if v.Type() == jsonType && v.CanSet() {
				v.SetBytes(CleanJSON(v.Bytes()))
			}
			return
		}
		for i := range v.Len() {
			clean(v.Index(i))
		}
	case reflect.Map:
		cleanMap(v)
	}
}

// cleanMap cleans the texts of a map with texts for keys.
func cleanMap(v reflect.Value) {
	if v.Type().Key().Kind() != reflect.String {
		return
	}
	for _, k := range v.MapKeys() {
		val := v.MapIndex(k)
		inner := val
		if inner.Kind() == reflect.Interface {
			inner = inner.Elem()
		}
		if inner.Kind() == reflect.Float64 {
			if n := inner.Float(); n != bounded(n) {
				v.SetMapIndex(k, reflect.ValueOf(bounded(n)).Convert(inner.Type()))
			}
		}
		if inner.Kind() == reflect.String {
			if c := CleanText(inner.String()); c != inner.String() {
				v.SetMapIndex(k, reflect.ValueOf(c).Convert(inner.Type()))
			}
		}
		if c := CleanText(k.String()); c != k.String() {
			val = v.MapIndex(k)
			v.SetMapIndex(k, reflect.Value{})
			v.SetMapIndex(reflect.ValueOf(c).Convert(k.Type()), val)
		}
	}
}

// Shortened keeps the beginning of an id that is too long, and a digest of it all.
func Shortened(s string, most int) string {
	if len(s) <= most {
		return s
	}
	sum := sha256.Sum256([]byte(s))
	digest := hex.EncodeToString(sum[:16])
	return Cut(s, most-len(digest)-1) + "~" + digest
}

// Cut keeps at most so many bytes of a text, and no half character.
func Cut(s string, most int) string {
	if len(s) <= most {
		return s
	}
	for most > 0 && !utf8.RuneStart(s[most]) {
		most--
	}
	return s[:most]
}
