package desk

import (
	"cmp"
	"context"
	"io"
	"slices"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/formats/list"
	"vividporch/formats/row"
	"vividporch/store/book"
	"vividporch/store/imports"
	"vividporch/store/tables"
)

// Understand reads a pasted list of accounts; the streamer's own and those never
// greeted as the house's are left out.
func (desk *Desk) Understand(text, platform string) []list.Entry {
	s := desk.house.Plan().Settings
	var platforms []string
	own := []string{s.Channel}
	for _, d := range s.Doors {
		if !slices.Contains(platforms, d.Platform) {
			platforms = append(platforms, d.Platform)
		}
		if d.Account != "" {
			own = append(own, d.Account)
		}
	}
	if platform == "" && len(platforms) > 0 {
		platform = platforms[0]
	}
	return list.Read(text, platform, platforms, people.MakeNeverList(own))
}

// StageCrew finds out what putting a list of accounts into a crew would do. Rows are
// named "platform:login".
func (desk *Desk) StageCrew(ctx context.Context, member, crew string, list []list.Entry) (*tables.Import, []tables.ImportRow, error) {
	n := 0
	im, err := desk.store.Imports.Stage(ctx, desk.channel, member, "a list for "+crew, &imports.Head{}, func() (row.Row, error) {
		for n < len(list) {
			l := list[n]
			n++
			if l.Why != "" {
				continue
			}
			in := row.Row{N: n, Name: l.Platform + ":" + l.Login, Card: card.Card{Accounts: []card.Account{{Person: event.Person{Platform: l.Platform, Login: l.Login}}}, Hand: event.Hand{Crews: []string{crew}}}}
			if err := in.Card.Fill(""); err != nil {
				in.Why = err.Error()
			}
			return in, nil
		}
		return row.Row{}, io.EOF
	})
	if err != nil {
		return nil, nil, err
	}
	var rows []tables.ImportRow
	for _, verdict := range []string{imports.New, imports.Changed, imports.Unchanged, imports.Refused} {
		part, err := desk.store.Imports.Rows(ctx, im.ID, verdict, 0, 5000)
		if err != nil {
			return nil, nil, err
		}
		rows = append(rows, part...)
	}
	return im, rows, nil
}

// CrewTakenError says that another crew goes by a name, or did when it was made: files name crews by that.
type CrewTakenError struct{ Crew string }

func (e *CrewTakenError) Error() string { return "there is a crew " + e.Crew + " already" }

// PutCrew makes a crew, or puts back by its id one that was taken away. What is missing of it is worked out from its name.
func (desk *Desk) PutCrew(ctx context.Context, d *event.BookCrewed) error {
	desk.crewing.Lock()
	defer desk.crewing.Unlock()
	if d.ID == "" {
		id, err := desk.freeCrewID(ctx, d.Name, "")
		if err != nil {
			return err
		}
		d.ID = id
	}
	d.Emblem, d.Initials = cmp.Or(d.Emblem, event.Emblems[0]), cmp.Or(d.Initials, people.Initials(d.Name))
	_, err := desk.house.Hand(ctx, d)
	return err
}

// ChangeCrew changes a crew in what is not empty, and tells how it stands then; nil where it is no more.
func (desk *Desk) ChangeCrew(ctx context.Context, d *event.BookCrewed) (*book.CrewCount, error) {
	desk.crewing.Lock()
	defer desk.crewing.Unlock()
	if d.Name != "" {
		if _, err := desk.freeCrewID(ctx, d.Name, d.ID); err != nil {
			return nil, err
		}
	}
	d.Partly = true
	if _, err := desk.house.Hand(ctx, d); err != nil {
		return nil, err
	}
	crews, err := desk.store.Book.CrewList(ctx, desk.channel)
	if at := slices.IndexFunc(crews, func(k book.CrewCount) bool { return k.ID == d.ID }); at >= 0 {
		return &crews[at], err
	}
	return nil, err
}

// freeCrewID is what a crew of a name goes by; a [CrewTakenError] where another than but does.
func (desk *Desk) freeCrewID(ctx context.Context, name, but string) (string, error) {
	id := cmp.Or(people.CrewID(name), "crew") // of a name without a letter
	crews, err := desk.store.Book.CrewList(ctx, desk.channel)
	for _, k := range crews {
		if k.ID != but && (k.ID == id || people.CrewID(k.Name) == id) {
			return "", &CrewTakenError{k.Name}
		}
	}
	return id, err
}

// DropCrew takes a crew away and returns the number that takes that back.
func (desk *Desk) DropCrew(ctx context.Context, member, id string) (int64, error) {
	return desk.house.Hand(ctx, &event.BookCrewed{ID: id, Gone: true, Member: member})
}
