package event

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"reflect"
	"strings"
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
// stops the house: NUL characters, bytes that are no UTF-8, and names and ids beyond
// all measure. A long id is told from another by a digest of the whole.
func (e *Event) Clean() {
	e.ID, e.Source = shortened(CleanText(e.ID), idMost), shortened(CleanText(e.Source), sourceMost)
	e.Raw = CleanJSON(e.Raw)
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

// CleanJSON takes NUL characters out of the texts of a JSON document, where they can
// only stand escaped.
func CleanJSON(raw []byte) []byte {
	nul := []byte(`\u0000`)
	if !bytes.Contains(raw, nul) {
		return raw
	}
	out := make([]byte, 0, len(raw))
	for i := 0; i < len(raw); {
		switch {
		case raw[i] != '\\' || i+1 == len(raw):
			out = append(out, raw[i])
			i++
		case bytes.HasPrefix(raw[i:], nul):
			i += len(nul)
		default: // another escape, a backslash among them
			out = append(out, raw[i], raw[i+1])
			i += 2
		}
	}
	return out
}

var (
	personType = reflect.TypeFor[Person]()
	bytesType  = reflect.TypeFor[[]byte]()
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
			p.Name, p.Login = cut(p.Name, NameMost), cut(p.Login, loginMost)
			p.ID, p.Platform = shortened(p.ID, idMost), cut(p.Platform, platformMost)
		}
	case reflect.String:
		if s := v.String(); v.CanSet() {
			if c := CleanText(s); c != s {
				v.SetString(c)
			}
		}
	case reflect.Slice:
		if v.Type().ConvertibleTo(bytesType) && v.Type().Elem().Kind() == reflect.Uint8 {
			if raw := v.Bytes(); v.CanSet() && bytes.Contains(raw, []byte(`\u0000`)) {
				v.SetBytes(CleanJSON(raw))
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

// shortened keeps the beginning of an id and a digest of it all.
func shortened(s string, most int) string {
	if len(s) <= most {
		return s
	}
	sum := sha256.Sum256([]byte(s))
	digest := hex.EncodeToString(sum[:16])
	return cut(s, most-len(digest)-1) + "~" + digest
}

// cut keeps at most so many bytes of a text, and no half character.
func cut(s string, most int) string {
	if len(s) <= most {
		return s
	}
	for most > 0 && !utf8.RuneStart(s[most]) {
		most--
	}
	return s[:most]
}
