package housefile

import (
	"encoding/json"
	"fmt"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/output"
)

// named are the sections whose things are called by a name of their own.
var named = []string{"doors", "places", "fittings"}

// Use is what a courtesy uses of the settings' things: by these of its outputs, and whether
// nothing of it is left without them.
type Use struct {
	Courtesy string
	Outputs  []string
	All      bool
}

// Uses lists the courtesies that a place or a fitting is used by. A door is used by none by
// its name: they speak to platforms.
func (s *Settings) Uses(section, name string) []Use {
	var out []Use
	for _, c := range s.Courtesy {
		u := Use{Courtesy: c.ID}
		for i := range c.Do {
			if leadsTo(&c.Do[i], section, name) {
				u.Outputs = append(u.Outputs, c.Do[i].ID)
			}
		}
		if u.All = len(u.Outputs) == len(c.Do); len(u.Outputs) > 0 {
			out = append(out, u)
		}
	}
	return out
}

func leadsTo(o *output.Output, section, name string) bool {
	switch section {
	case "places":
		return o.Place() == name
	case "fittings":
		return o.Fitting() == name
	}
	return false
}

// names lists the names of a section's things.
func (s *Settings) names(section string) []string {
	var out []string
	switch section {
	case "doors":
		for _, d := range s.Doors {
			out = append(out, d.Name)
		}
	case "places":
		for _, p := range s.Places {
			out = append(out, p.Name)
		}
	case "fittings":
		for _, f := range s.Fittings {
			out = append(out, f.Name)
		}
	}
	return out
}

// Has reports whether a section has a thing of this name.
func (s *Settings) Has(section, name string) bool { return slices.Contains(s.names(section), name) }

// FreeName is a name that no door, place or fitting has: the one asked for, or that with a number.
func (s *Settings) FreeName(name string) string {
	taken := func(name string) bool {
		return slices.ContainsFunc(named, func(n string) bool { return s.Has(n, name) })
	}
	for i, free := 2, name; ; i++ {
		if !taken(free) {
			return free
		}
		free = fmt.Sprintf("%s-%d", name, i)
	}
}

// Rename gives a door, a place or a fitting another name, here and in every courtesy that
// uses it.
func (s *Settings) Rename(section, from, to string) error {
	switch {
	case !slices.Contains(named, section):
		return fmt.Errorf("section: %q has no names; use doors, places or fittings", section)
	case !s.Has(section, from):
		return fmt.Errorf("name: there is no %q among the %s; reload the page", from, section)
	case slices.ContainsFunc(named, func(n string) bool { return s.Has(n, to) }): // a secret is kept by the name alone
		return fmt.Errorf("to: %q is another's name already; choose one of its own", to)
	}
	for i := range s.Courtesy {
		do := s.Courtesy[i].Do
		for k := range do {
			if leadsTo(&do[k], section, from) {
				moved, err := led(do[k], section, to)
				if err != nil {
					return err
				}
				do[k] = moved
			}
		}
	}
	for i := range s.Doors {
		if d := &s.Doors[i]; section == "doors" && d.Name == from {
			d.Name = to
		}
	}
	if section == "doors" {
		for i := range s.Readings {
			for k, door := range s.Readings[i].Doors {
				if door == from {
					s.Readings[i].Doors[k] = to
				}
			}
		}
	}
	for i := range s.Places {
		if p := &s.Places[i]; section == "places" && p.Name == from {
			p.Name = to
		}
	}
	for i := range s.Fittings {
		if f := &s.Fittings[i]; section == "fittings" && f.Name == from {
			f.Name = to
		}
	}
	return nil
}

// led is an output that leads to a place or a fitting of another name.
func led(o output.Output, section, to string) (output.Output, error) {
	key := map[string]string{"places": "place", "fittings": "fitting"}[section]
	raw, err := json.Marshal(o)
	if err != nil {
		return o, err
	}
	var flat map[string]json.RawMessage
	if err := json.Unmarshal(raw, &flat); err != nil {
		return o, err
	}
	flat[key], _ = json.Marshal(to)
	if raw, err = json.Marshal(flat); err != nil {
		return o, err
	}
	out := output.Output{}
	return out, json.Unmarshal(raw, &out)
}

// TakeAway takes a door, a place or a fitting away, and with it the outputs of courtesies that
// lead there and their words. A courtesy that would do nothing any more is switched off: one that
// is on and does nothing passes people over in silence.
func (s *Settings) TakeAway(section, name string) error {
	if !s.Has(section, name) {
		return fmt.Errorf("name: there is no %q among the %s; reload the page", name, section)
	}
	for _, u := range s.Uses(section, name) {
		at := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == u.Courtesy })
		c := &s.Courtesy[at]
		c.Do = slices.DeleteFunc(c.Do, func(o output.Output) bool { return leadsTo(&o, section, name) })
		c.On = c.On && !u.All
	}
	switch section {
	case "doors":
		s.Doors = slices.DeleteFunc(s.Doors, func(d Door) bool { return d.Name == name })
		for i := range s.Readings { // what it understood is offered to another door
			r := &s.Readings[i]
			r.Doors = slices.DeleteFunc(r.Doors, func(door string) bool { return door == name })
		}
	case "places":
		s.Places = slices.DeleteFunc(s.Places, func(p Place) bool { return p.Name == name })
	case "fittings":
		s.Fittings = slices.DeleteFunc(s.Fittings, func(f Fitting) bool { return f.Name == name })
	}
	return nil
}

// Section is one section of the settings, as it stands in the house file; nil for none.
func (s *Settings) Section(name string) (json.RawMessage, error) {
	raw, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	var doc map[string]json.RawMessage
	err = json.Unmarshal(raw, &doc)
	return doc[name], err
}

// SetSection puts a section in the place of the one that stands; null takes it out. What
// the section does not know is refused with its name.
func (s *Settings) SetSection(name string, value json.RawMessage) error {
	if !slices.Contains(Sections, name) {
		return fmt.Errorf("section: there is no %q; use one of the house file's", name)
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	var doc map[string]json.RawMessage
	if err := json.Unmarshal(raw, &doc); err != nil {
		return err
	}
	if doc[name] = value; len(value) == 0 || string(value) == "null" {
		delete(doc, name)
	}
	if raw, err = json.Marshal(doc); err != nil {
		return err
	}
	next, err := ReadSettings(raw)
	if err != nil {
		return err
	}
	*s = *next
	return nil
}
