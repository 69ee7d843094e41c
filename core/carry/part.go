package carry

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Chosen lists the courtesies of some ids, in the order of the settings.
func Chosen(s *housefile.Settings, ids []string) []courtesy.Courtesy {
	var list []courtesy.Courtesy
	for _, c := range s.Courtesy {
		if slices.Contains(ids, c.ID) {
			list = append(list, c)
		}
	}
	return list
}

// Part takes some courtesies out of a house file, with the places, fittings,
// fill-ins and described events they use; where places and fittings lead is not told.
func Part(s *housefile.Settings, ids []string) map[string]any {
	list := Chosen(s, ids)
	out := map[string]any{"format": housefile.Format, "madeOn": s.Channel, "courtesies": list}
	used := func(f func(o output.Output) bool) bool {
		return slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return slices.ContainsFunc(c.Do, f) })
	}
	says := func(name string) bool {
		return used(func(o output.Output) bool {
			texts := slices.AppendSeq(slices.Concat(o.Alternatives, o.Joined), maps.Values(o.Wordings()))
			return slices.ContainsFunc(texts, func(t string) bool { w, err := wording.Parse(t); return err == nil && w.Uses(name) })
		})
	}
	places, fittings := slices.Clone(s.Places), slices.Clone(s.Fittings)
	for i := range places { // what is given away tells no addresses: whoever takes it says where it leads
		places[i].URL = ""
	}
	for i := range fittings {
		fittings[i].URL = ""
	}
	with(out, "places", places, func(p housefile.Place) bool {
		return used(func(o output.Output) bool { return o.Place() == p.Name })
	})
	with(out, "fittings", fittings, func(f housefile.Fitting) bool {
		return used(func(o output.Output) bool { return o.Fitting() == f.Name })
	})
	with(out, "fillIns", s.FillIns, func(f housefile.FillIn) bool { return says(f.Name) })
	with(out, "own", s.Own, func(e housefile.OtherEvent) bool {
		found := used(func(o output.Output) bool {
			raises, ok := o.Do.(*output.Raise)
			return ok && strings.EqualFold(raises.Event, e.Event)
		})
		for i := range list {
			list[i].Who.Each(func(w *who.Who) { found = found || strings.EqualFold(w.Fields["event"], e.Event) })
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
func OfCrew(s *housefile.Settings, crew string) []string {
	var ids []string
	for i := range s.Courtesy {
		found := false
		s.Courtesy[i].Who.Each(func(w *who.Who) { found = found || w.Crews != nil && slices.Contains(w.Crews.Of, crew) })
		if found {
			ids = append(ids, s.Courtesy[i].ID)
		}
	}
	return ids
}

// File is what a house file holds: all settings, or with MadeOn a part of them, and
// the crews that its courtesies ask for.
type File struct {
	*housefile.Settings
	MadeOn string `json:"madeOn,omitempty"` // the channel a part was made on
	Crews  []Crew `json:"crews,omitempty"`
}

// Crew is a crew of the guest book as it travels with the courtesies that ask for it.
type Crew struct {
	ID       string   `json:"id" jsonschema:"minLength=1,maxLength=60"`
	Name     string   `json:"name"`
	Emblem   string   `json:"emblem"`
	Initials string   `json:"initials"`
	People   []string `json:"people"` // "platform:login"
}

// mostCrew bounds the people of one crew in a file.
const mostCrew = 5000

func (c *Crew) check() error {
	if err := (&event.BookCrewed{ID: c.ID, Name: c.Name, Emblem: c.Emblem, Initials: c.Initials}).Validate(); err != nil {
		return fmt.Errorf("crews.%s: %s", c.ID, strings.TrimPrefix(err.Error(), "data."))
	}
	if len(c.People) > mostCrew {
		return fmt.Errorf("crews.%s.people: are %d; a file holds at most %d of a crew", c.ID, len(c.People), mostCrew)
	}
	return nil
}

// Needed is what courtesies and overlays ask for that no house file holds: crews by id and
// accounts by key, both of the guest book, and media by their names on the shelf.
// Each stands once, in the order in which it is asked for; no list is nil.
type Needed struct{ Crews, Accounts, Media []string }

// Needs tells what some courtesies and overlays ask for beyond the house file.
func Needs(list []courtesy.Courtesy, overlays []box.Overlay) Needed {
	n := Needed{[]string{}, []string{}, []string{}}
	once := func(to *[]string, names ...string) {
		for _, name := range names {
			if name != "" && !slices.Contains(*to, name) {
				*to = append(*to, name)
			}
		}
	}
	for i := range list {
		asks := func(w *who.Who) {
			once(&n.Accounts, w.Account)
			if w.Crews != nil {
				once(&n.Crews, w.Crews.Of...)
			}
		}
		list[i].Who.Each(asks)
		for _, o := range list[i].Do {
			once(&n.Media, o.Media())
			if o.Only != nil {
				o.Only.Each(asks)
			}
		}
	}
	for i := range overlays {
		for k := range overlays[i].Boxes {
			once(&n.Media, overlays[i].Boxes[k].Media()...)
		}
	}
	return n
}
