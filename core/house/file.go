package house

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/wording"
)

// MostFile is how many bytes a house file may have.
const MostFile = 4 << 20

// Sections are the parts of a house file that can be taken in one by one, in the
// order in which they stand there.
var Sections = []string{"channel", "zone", "seed", "graceSeconds", "pace", "never", "doors", "places", "courtesies", "joined", "standings", "leapDay", "privacy", "hello", "fittings", "fillIns", "own", "emotes"}

// ofThisHouse are the sections that belong to one house and its connections; a
// file of another channel is not taken with them unless asked.
var ofThisHouse = []string{"channel", "zone", "seed", "doors"}

// Incoming is a house file, or a part of one, as it was read.
type Incoming struct {
	raw     map[string]json.RawMessage
	channel string // it was made on
}

// ReadFile reads a house file or a part of one. Texts may have stray spaces round
// them; what this house does not know is refused with its name.
func ReadFile(raw []byte) (*Incoming, error) {
	if len(raw) > MostFile {
		return nil, fmt.Errorf("the file has %d bytes; a house file has at most %d", len(raw), MostFile)
	}
	raw = bytes.TrimSpace(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf")))
	in := &Incoming{}
	if err := json.Unmarshal(raw, &in.raw); err != nil {
		return nil, fmt.Errorf("this is no house file: %w", err)
	}
	var format int
	if err := json.Unmarshal(in.raw["format"], &format); err != nil || format != 1 {
		return nil, fmt.Errorf("format: is %s; this house reads format 1", orNothing(in.raw["format"]))
	}
	delete(in.raw, "format")
	_ = json.Unmarshal(in.raw["madeOn"], &in.channel)
	delete(in.raw, "madeOn")
	if in.channel == "" {
		_ = json.Unmarshal(in.raw["channel"], &in.channel)
	}
	for k := range in.raw {
		if !slices.Contains(Sections, k) {
			return nil, fmt.Errorf("%s: this house knows no such section; take it out of the file", k)
		}
	}
	// Read strictly once as a whole, so that every unknown key and wrong type is named.
	whole, err := json.Marshal(in.raw)
	if err != nil {
		return nil, err
	}
	if _, err := ReadSettings(whole); err != nil {
		return nil, err
	}
	return in, nil
}

func orNothing(raw json.RawMessage) string {
	if len(raw) == 0 {
		return "missing"
	}
	return string(raw)
}

// Channel is the channel the file was made on, or "".
func (in *Incoming) Channel() string { return in.channel }

// Holds lists the sections of the file.
func (in *Incoming) Holds() []string {
	var out []string
	for _, s := range Sections {
		if _, ok := in.raw[s]; ok {
			out = append(out, s)
		}
	}
	return out
}

// Usual are the sections that are taken unless chosen otherwise: all of a file of
// this channel, and of another's those that do not belong to that house alone.
func (in *Incoming) Usual(channel string) []string {
	out := in.Holds()
	if strings.EqualFold(in.channel, channel) {
		return out
	}
	return slices.DeleteFunc(out, func(s string) bool { return slices.Contains(ofThisHouse, s) })
}

// Onto lays the chosen sections over settings. Things with an id or name take the
// place of those of the same id or name, and others are added; with whole, what
// the file does not hold goes. With adapt the file's channel name becomes this
// channel's, wherever it stands as a word.
func (in *Incoming) Onto(now *Settings, sections []string, whole, adapt bool) (*Settings, error) {
	doc, err := json.Marshal(now)
	if err != nil {
		return nil, err
	}
	var out map[string]any
	if err := json.Unmarshal(doc, &out); err != nil {
		return nil, err
	}
	for _, s := range in.Holds() {
		if !slices.Contains(sections, s) {
			continue
		}
		var v any
		if err := json.Unmarshal(in.raw[s], &v); err != nil {
			return nil, err
		}
		v = tidy(v)
		if adapt && in.channel != "" {
			v = adapted(v, in.channel, now.Channel)
		}
		out[s] = laid(out[s], v, whole)
	}
	doc, err = json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return ReadSettings(doc)
}

func laid(now, v any, whole bool) any {
	if whole {
		return v
	}
	nl, key := keyed(now)
	vl, vkey := keyed(v)
	if key == "" || key != vkey {
		return v
	}
	out := slices.Clone(nl)
	for _, x := range vl {
		id := x.(map[string]any)[key]
		at := slices.IndexFunc(out, func(y any) bool { return y.(map[string]any)[key] == id })
		if at >= 0 {
			out[at] = x
		} else {
			out = append(out, x)
		}
	}
	return out
}

// tidy takes stray spaces off names and ids; wordings keep theirs.
func tidy(v any) any {
	switch v := v.(type) {
	case []any:
		for i := range v {
			v[i] = tidy(v[i])
		}
	case map[string]any:
		for k, x := range v {
			if s, ok := x.(string); ok {
				v[k] = strings.TrimSpace(s)
			} else {
				v[k] = tidy(x)
			}
		}
	}
	return v
}

// adapted puts one name in the place of another, where it stands as a whole word.
func adapted(v any, from, to string) any {
	switch v := v.(type) {
	case string:
		return replaceWord(v, from, to)
	case []any:
		for i := range v {
			v[i] = adapted(v[i], from, to)
		}
	case map[string]any:
		for k := range v {
			v[k] = adapted(v[k], from, to)
		}
	}
	return v
}

func replaceWord(s, from, to string) string {
	var b strings.Builder
	for i := 0; i < len(s); {
		if len(s)-i >= len(from) && strings.EqualFold(s[i:i+len(from)], from) && !wordAt(s, i-1) && !wordAt(s, i+len(from)) {
			b.WriteString(to)
			i += len(from)
			continue
		}
		b.WriteByte(s[i])
		i++
	}
	return b.String()
}

func wordAt(s string, i int) bool {
	return i >= 0 && i < len(s) && (s[i] == '_' || s[i] >= '0' && s[i] <= '9' || s[i]|0x20 >= 'a' && s[i]|0x20 <= 'z' || s[i] >= 0x80)
}

// Part takes some courtesies out of a house file, with the places, fittings,
// fill-ins and described events they use.
func Part(s *Settings, ids []string) map[string]any {
	var list []courtesy.Courtesy
	for _, c := range s.Courtesy {
		if slices.Contains(ids, c.ID) {
			list = append(list, c)
		}
	}
	out := map[string]any{"format": 1, "madeOn": s.Channel, "courtesies": list}
	used := func(f func(o courtesy.Output) bool) bool {
		return slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return slices.ContainsFunc(c.Do, f) })
	}
	says := func(name string) bool {
		return used(func(o courtesy.Output) bool {
			texts := append(append(slices.Clone(o.Alternatives), o.Joined...), o.Second)
			for _, f := range o.Fields {
				texts = append(texts, f)
			}
			return slices.ContainsFunc(texts, func(t string) bool { w, err := wording.Parse(t); return err == nil && w.Uses(name) })
		})
	}
	with(out, "places", s.Places, func(p Place) bool {
		return used(func(o courtesy.Output) bool { return o.Kind == courtesy.Relay && o.Place == p.Name })
	})
	with(out, "fittings", s.Fittings, func(f Fitting) bool { return used(func(o courtesy.Output) bool { return o.Fitting == f.Name }) })
	with(out, "fillIns", s.FillIns, func(f FillIn) bool { return says(f.Name) })
	with(out, "own", s.Own, func(e Own) bool {
		found := false
		for i := range list {
			list[i].Who.Each(func(w *courtesy.Who) { found = found || strings.EqualFold(w.Fields["event"], e.Event) })
		}
		return found
	})
	return out
}

// with puts the members of a list that are needed into a part.
func with[T any](out map[string]any, section string, list []T, needed func(T) bool) {
	var some []T
	for _, x := range list {
		if needed(x) {
			some = append(some, x)
		}
	}
	if len(some) > 0 {
		out[section] = some
	}
}

// OfCrew lists the courtesies that ask for a crew.
func OfCrew(s *Settings, crew string) []string {
	var ids []string
	for i := range s.Courtesy {
		found := false
		s.Courtesy[i].Who.Each(func(w *courtesy.Who) { found = found || w.Crews != nil && slices.Contains(w.Crews.Of, crew) })
		if found {
			ids = append(ids, s.Courtesy[i].ID)
		}
	}
	return ids
}

// Difference is one field that settings differ in: its path, and both values as
// JSON; empty where there is none.
type Difference struct {
	At     string `json:"at"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
}

// Compare lists what differs between two settings, field by field.
func Compare(before, after *Settings) ([]Difference, error) {
	var docs [2]any
	for i, s := range []*Settings{before, after} {
		raw, err := json.Marshal(s)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, &docs[i]); err != nil {
			return nil, err
		}
	}
	return differ("", docs[0], docs[1], true, true), nil
}

func differ(at string, b, a any, inB, inA bool) []Difference {
	if inB == inA && reflect.DeepEqual(b, a) {
		return nil
	}
	bm, ok1 := b.(map[string]any)
	am, ok2 := a.(map[string]any)
	if ok1 && ok2 {
		var out []Difference
		keys := union(bm, am)
		names := make([]string, 0, len(keys))
		for k := range keys {
			names = append(names, k)
		}
		slices.Sort(names)
		for _, k := range names {
			bv, hadB := bm[k]
			av, hasA := am[k]
			out = append(out, differ(path(at, k), bv, av, hadB, hasA)...)
		}
		return out
	}
	bl, key := keyed(b)
	al, akey := keyed(a)
	if key != "" && key == akey {
		var out []Difference
		for _, x := range bl {
			id := x.(map[string]any)[key]
			y := find(al, key, id)
			out = append(out, differ(path(at, fmt.Sprint(id)), x, y, true, y != nil)...)
		}
		for _, y := range al {
			id := y.(map[string]any)[key]
			if find(bl, key, id) == nil {
				out = append(out, differ(path(at, fmt.Sprint(id)), nil, y, false, true)...)
			}
		}
		return out
	}
	d := Difference{At: at}
	if inB {
		d.Before = asJSON(b)
	}
	if inA {
		d.After = asJSON(a)
	}
	return []Difference{d}
}

func path(at, key string) string {
	if at == "" {
		return key
	}
	return at + "." + key
}

func asJSON(v any) string {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(v); err != nil {
		return fmt.Sprint(v)
	}
	return strings.TrimSpace(b.String())
}
