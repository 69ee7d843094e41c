// Package carry takes a house file, or a part of one, from one house to another: what a file
// brings is looked at, chosen and laid over the settings there are ([Read], [Incoming.Onto]); what
// is given away is cut out of them with all it needs ([Part]).
package carry

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/housefile"
)

// Most is how many bytes a house file may have.
const Most = 4 << 20

// ofThisHouse are the sections that belong to one house; a file of another channel is
// not taken with them unless asked.
var ofThisHouse = []string{"channel", "name", "reach", "zone", "seed"}

// ofOwn reports whether a file is taken in whole as this channel's own.
func (in *Incoming) ofOwn(channel string) bool {
	return channel == housefile.Unnamed || strings.EqualFold(in.channel, channel)
}

// leading are the sections whose things lead somewhere outside. Of another channel's
// file they are taken one by one only, as "places/NAME".
var leading = []string{"profiles", "doors", "places", "fittings"}

// Leading is a thing of a house file that leads somewhere outside: to Address, or
// nowhere yet where that is "".
type Leading struct {
	Section string `json:"section"`
	Name    string `json:"name"`
	Address string `json:"address"`
}

// Leads lists the things of the file that lead somewhere, in its order.
func (in *Incoming) Leads() []Leading {
	var s housefile.Settings
	for _, section := range leading {
		into := map[string]any{"profiles": &s.Profiles, "doors": &s.Doors, "places": &s.Places, "fittings": &s.Fittings}[section]
		_ = json.Unmarshal(in.raw[section], into) // read strictly before
	}
	to := s.Leads()
	var out []Leading
	for i := range s.Profiles {
		p := &s.Profiles[i]
		out = append(out, Leading{"profiles", p.Platform, strings.Join(p.Leads(), " ")})
	}
	for _, d := range s.Doors {
		out = append(out, Leading{"doors", d.Name, to[d.Name]})
	}
	for _, p := range s.Places {
		out = append(out, Leading{"places", p.Name, p.URL})
	}
	for _, f := range s.Fittings {
		out = append(out, Leading{"fittings", f.Name, f.URL})
	}
	return out
}

// Incoming is a house file, or a part of one, as it was read.
type Incoming struct {
	raw     map[string]json.RawMessage
	channel string // it was made on
	crews   []Crew
}

// Read reads a house file or a part of one. Texts may have stray spaces round
// them; what this house does not know is refused with its name.
func Read(raw []byte) (*Incoming, error) {
	if len(raw) > Most {
		return nil, fmt.Errorf("the file has %d bytes; a house file has at most %d", len(raw), Most)
	}
	raw = event.CleanJSON(bytes.TrimSpace(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))))
	in := &Incoming{}
	if err := json.Unmarshal(raw, &in.raw); err != nil {
		return nil, fmt.Errorf("this is no house file: %w", err)
	}
	var format int
	if err := json.Unmarshal(in.raw["format"], &format); err != nil || format < 1 || format > housefile.Format {
		return nil, fmt.Errorf("format: is %s; %s", orNothing(in.raw["format"]), housefile.ReadsFormats)
	}
	if err := json.Unmarshal(housefile.Lift(raw), &in.raw); err != nil {
		return nil, fmt.Errorf("this is no house file: %w", err)
	}
	delete(in.raw, "format")
	_ = json.Unmarshal(in.raw["madeOn"], &in.channel)
	delete(in.raw, "madeOn")
	if in.channel == "" {
		_ = json.Unmarshal(in.raw["channel"], &in.channel)
	}
	if raw, ok := in.raw[crewSection]; ok {
		if err := in.readCrews(raw); err != nil {
			return nil, err
		}
		delete(in.raw, crewSection)
	}
	for k := range in.raw {
		if !slices.Contains(housefile.Sections, k) {
			return nil, fmt.Errorf("%s: this house knows no such section; take it out of the file", k)
		}
	}
	// Read strictly once as a whole, so that every unknown key and wrong type is named.
	whole, err := json.Marshal(in.raw)
	if err != nil {
		return nil, err
	}
	if _, err := housefile.ReadSettings(whole); err != nil {
		return nil, err
	}
	return in, nil
}

// crewSection holds crews of the guest book; all other sections are settings.
const crewSection = "crews"

func (in *Incoming) readCrews(raw json.RawMessage) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&in.crews); err != nil {
		return fmt.Errorf("%s: %w", crewSection, err)
	}
	for i := range in.crews {
		if err := in.crews[i].check(); err != nil {
			return err
		}
	}
	return nil
}

// Crews are the crews that come along, of the sections that are taken.
func (in *Incoming) Crews(sections []string) []Crew {
	if !slices.Contains(sections, crewSection) {
		return nil
	}
	return in.crews
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
	for _, s := range housefile.Sections {
		if _, ok := in.raw[s]; ok {
			out = append(out, s)
		}
	}
	if len(in.crews) > 0 {
		out = append(out, crewSection)
	}
	return out
}

// Usual are the sections that are taken unless chosen otherwise: all of a file of
// this channel, and of another's those that neither belong to that house alone nor
// lead anywhere.
func (in *Incoming) Usual(channel string) []string {
	out := in.Holds()
	if in.ofOwn(channel) {
		return out
	}
	out = slices.DeleteFunc(out, func(s string) bool { return slices.Contains(ofThisHouse, s) || slices.Contains(leading, s) })
	for _, l := range in.Leads() {
		if l.Address == "" { // it leads nowhere until this house says where
			out = append(out, l.Section+"/"+l.Name)
		}
	}
	return out
}

// Onto lays the chosen sections over settings. Things with an id or name take the
// place of those of the same id or name, and others are added; with whole, what
// the file does not hold goes. With adapt the file's channel name becomes this
// channel's, wherever it stands as a word.
func (in *Incoming) Onto(now *housefile.Settings, sections []string, whole, adapt bool) (*housefile.Settings, error) {
	doc, err := json.Marshal(now)
	if err != nil {
		return nil, err
	}
	var out map[string]any
	if err := json.Unmarshal(doc, &out); err != nil {
		return nil, err
	}
	for _, s := range housefile.Sections {
		raw, held := in.raw[s]
		all, some := slices.Contains(sections, s), chosen(sections, s)
		if !held || !all && len(some) == 0 {
			continue
		}
		if all && slices.Contains(leading, s) && !in.ofOwn(now.Channel) {
			return nil, fmt.Errorf("sections: %s of another channel's file lead where that house says; choose them one by one", s)
		}
		var v any
		if err := json.Unmarshal(raw, &v); err != nil {
			return nil, err
		}
		if v = tidy(v); !all {
			v = only(v, some)
		}
		if slices.Contains(leading, s) {
			v = stayingWhere(v, out[s])
		}
		if adapt && in.channel != "" && now.Channel != housefile.Unnamed {
			v = adapted(v, in.channel, now.Channel)
		}
		out[s] = laid(out[s], v, whole)
	}
	doc, err = json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return housefile.ReadSettings(doc)
}

// chosen are the names that are chosen one by one of a section.
func chosen(sections []string, section string) []string {
	var out []string
	for _, s := range sections {
		if name, ok := strings.CutPrefix(s, section+"/"); ok {
			out = append(out, name)
		}
	}
	return out
}

func only(v any, names []string) any {
	list, _ := v.([]any)
	return slices.DeleteFunc(slices.Clone(list), func(x any) bool {
		m, _ := x.(map[string]any)
		name, ok := m["name"].(string)
		if !ok { // a profile goes by its platform
			name, _ = m["platform"].(string)
		}
		return !slices.Contains(names, name)
	})
}

// stayingWhere gives things that come without an address the one they have here.
func stayingWhere(v, now any) any {
	list, _ := v.([]any)
	here, _ := now.([]any)
	for _, x := range list {
		m, ok := x.(map[string]any)
		if url, _ := m["url"].(string); !ok || url != "" {
			continue
		}
		for _, y := range here {
			if h, ok := y.(map[string]any); ok && h["name"] == m["name"] && h["url"] != nil {
				m["url"] = h["url"]
			}
		}
	}
	return v
}

func laid(now, v any, whole bool) any {
	if whole {
		return v
	}
	nl, key := housefile.Keyed(now)
	vl, vkey := housefile.Keyed(v)
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
