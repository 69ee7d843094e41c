package desk

import (
	"context"
	"slices"
	"strings"

	"vividporch/core/carry"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/book"
	"vividporch/store/tables"
)

// HouseFile is the house file as it goes out: all settings, or with ids, be they none,
// the part that holds those courtesies; and the crews that are named or that they ask
// for. media names what a part shows and plays; it is nil for all.
func HouseFile(ctx context.Context, st *store.Store, channel int64, s *housefile.Settings, ids []string, named ...string) (doc any, media []string, err error) {
	list := s.Courtesy
	if ids != nil {
		list = carry.Chosen(s, ids)
	}
	needed := carry.Needs(list, nil)
	known, err := st.Book.CrewList(ctx, channel)
	if err != nil {
		return nil, nil, err
	}
	var crews []carry.Crew
	for _, k := range known {
		if !slices.Contains(needed.Crews, k.ID) && !slices.Contains(named, k.ID) {
			continue
		}
		c := carry.Crew{ID: k.ID, Name: k.Name, Emblem: k.Emblem, Initials: k.Initials}
		if c.People, err = st.Book.CrewLogins(ctx, channel, k.ID); err != nil {
			return nil, nil, err
		}
		crews = append(crews, c)
	}
	if ids == nil {
		return carry.File{Settings: s, Crews: crews}, nil, nil
	}
	part := carry.Part(s, ids)
	if len(crews) > 0 {
		part["crews"] = crews
	}
	return part, needed.Media, nil
}

// Taking is a house file to be taken in, and how.
type Taking struct {
	File     *carry.Incoming
	Sections []string
	Whole    bool // what the file does not hold goes
	KeepName bool // another channel's name inside stays
	Media    []tables.Medium
}

// Onto lays the file over settings.
func (t Taking) Onto(s *housefile.Settings) (*housefile.Settings, error) {
	return t.File.Onto(s, t.Sections, t.Whole, !t.KeepName)
}

// TakeFile takes a house file in, as one version. What its courtesies ask for comes
// first: a crew or a picture that nothing asks for does no harm, a courtesy that
// asks for a missing one does. With any fault nothing is taken. The error is
// ErrUnchanged when the settings stay as they are.
func (desk *Desk) TakeFile(ctx context.Context, by By, t Taking) (int64, error) {
	plan := desk.house.Plan()
	next, err := t.Onto(plan.Whole)
	if err != nil {
		return 0, err
	}
	if _, faults := house.Ready(next, 1); len(plan.NewFaults(faults)) > 0 {
		return 0, Faults(plan.NewFaults(faults))
	}
	if err := desk.mayLead(ctx, by, plan.Whole, next); err != nil {
		return 0, err
	}
	if err := desk.store.Shelf.Put(ctx, t.Media); err != nil {
		return 0, err
	}
	if err := desk.takeCrews(ctx, by.Member, t.File.Crews(t.Sections)); err != nil {
		return 0, err
	}
	return desk.ChangeSettings(ctx, by, "a house file taken in", func(s *housefile.Settings) error {
		next, err := t.Onto(s)
		if err == nil {
			*s = *next
		}
		return err
	})
}

// CrewChanges tells what crews of a house file would add to the guest book: crews that
// are not in it, and of those that are, who is new to them.
func (desk *Desk) CrewChanges(ctx context.Context, crews []carry.Crew) ([]housefile.Difference, error) {
	known, err := desk.store.Book.CrewList(ctx, desk.channel)
	if err != nil {
		return nil, err
	}
	var out []housefile.Difference
	for _, c := range crews {
		at := "crews." + c.ID
		if !slices.ContainsFunc(known, func(k book.CrewCount) bool { return k.ID == c.ID }) {
			out = append(out, housefile.Difference{At: at, After: c.Name + ": " + strings.Join(c.People, ", ")})
			continue
		}
		have, err := desk.store.Book.CrewLogins(ctx, desk.channel, c.ID)
		if err != nil {
			return nil, err
		}
		fresh := slices.DeleteFunc(slices.Clone(c.People), func(p string) bool {
			return slices.ContainsFunc(have, func(k string) bool { return strings.EqualFold(k, p) })
		})
		if len(fresh) > 0 {
			out = append(out, housefile.Difference{At: at + ".people", After: "and " + strings.Join(fresh, ", ")})
		}
	}
	return out, nil
}

// takeCrews makes the crews that the guest book lacks and puts their people in; one
// that is there keeps its name and shape, and nobody is taken out of it.
func (desk *Desk) takeCrews(ctx context.Context, member string, crews []carry.Crew) error {
	known, err := desk.store.Book.CrewList(ctx, desk.channel)
	if err != nil {
		return err
	}
	for _, c := range crews {
		if !slices.ContainsFunc(known, func(k book.CrewCount) bool { return k.ID == c.ID }) {
			if _, err := desk.house.Hand(ctx, &event.BookCrewed{ID: c.ID, Name: c.Name, Emblem: c.Emblem, Initials: c.Initials, Member: member}); err != nil {
				return err
			}
		}
		if len(c.People) == 0 {
			continue
		}
		im, _, err := desk.StageCrew(ctx, member, c.ID, desk.Understand(strings.Join(c.People, "\n"), ""))
		if err != nil {
			return err
		}
		if _, err := desk.TakeIn(ctx, im.ID, false); err != nil {
			return err
		}
	}
	return nil
}
