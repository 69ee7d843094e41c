package desk

import (
	"context"
	"errors"
	"slices"

	"vividporch/core/event"
	"vividporch/store/book"
	"vividporch/store/members"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Edit changes what is set by hand about people and returns the number that takes it
// back.
func (desk *Desk) Edit(ctx context.Context, d *event.BookEdited) (int64, error) {
	if err := desk.TellWhom(ctx, d); err != nil {
		return 0, err
	}
	return desk.house.Hand(ctx, d)
}

// Merge makes two records one; the errors say what keeps them apart.
func (desk *Desk) Merge(ctx context.Context, member string, kept, gone int64) error {
	desk.joining.Lock()
	defer desk.joining.Unlock()
	roots, err := desk.store.Book.Roots(ctx, desk.channel, kept, gone)
	if err != nil {
		return err
	}
	d := &event.BookMerged{Kept: roots[kept], Gone: roots[gone], Member: member}
	switch {
	case kept == gone || d.Kept != 0 && d.Kept == d.Gone:
		return book.ErrSame
	case d.Kept == 0 || d.Gone == 0:
		return pg.ErrNone
	}
	if err := desk.TellWhom(ctx, d); err != nil {
		return err
	}
	_, err = desk.house.Hand(ctx, d)
	return err
}

// Link makes a member known in chat by an account of the guest book, or by none: an owner
// is the streamer there, a co-host a co-host, a helper nothing more than the platform
// says. An account is one member's among all.
func (desk *Desk) Link(ctx context.Context, by string, of *tables.Member, all []members.MemberRow, account string, vouched bool) error {
	if account != "" {
		known, err := desk.house.Known(ctx, account)
		if err != nil {
			return err
		}
		accounts := []string{account}
		switch {
		case known != nil:
			accounts = known.Accounts
		case !vouched:
			return &event.FieldError{Field: "account", Remedy: "is in no guest book; let them say a line in chat first"}
		}
		for _, m := range all { // nobody becomes the streamer by their account, nor takes it
			if m.ID != of.ID && m.Account != "" && slices.Contains(accounts, m.Account) {
				return &event.FieldError{Field: "account", Remedy: "is " + m.Name + "'s already; unlink it there first"}
			}
		}
	}
	role := map[string]event.Role{members.RoleOwner: event.Streamer, members.RoleCoHost: event.CoHost}[of.Role]
	_, err := desk.house.Hand(ctx, &event.BookLinked{Of: of.Name, Account: account, Role: role, Member: by})
	return err
}

// TellWhom puts beside the numbers of a change in the guest book what tells a rehearsal
// whom it is about.
func (desk *Desk) TellWhom(ctx context.Context, d event.Data) (err error) {
	switch d := d.(type) {
	case *event.BookEdited:
		if d.Undoes > 0 {
			d.UndoesID, err = desk.store.Log.EventID(ctx, desk.channel, d.Undoes)
			if errors.Is(err, pg.ErrNone) {
				err = nil // nothing is taken back then
			}
			return err
		}
		d.Accounts, err = desk.store.Book.KeysOf(ctx, desk.channel, d.Persons...)
	case *event.BookMerged:
		d.Accounts, err = desk.store.Book.KeysOf(ctx, desk.channel, d.Kept, d.Gone)
	case *event.BookParted:
		var keys []string
		if keys, err = desk.store.Book.KeysOf(ctx, desk.channel, d.Part); len(keys) == 1 {
			d.Account = keys[0]
		}
	}
	return err
}

// Part makes a record that was merged one of its own again.
func (desk *Desk) Part(ctx context.Context, member string, part int64) error {
	desk.joining.Lock()
	defer desk.joining.Unlock()
	roots, err := desk.store.Book.Roots(ctx, desk.channel, part)
	if err != nil {
		return err
	}
	if roots[part] == 0 || roots[part] == part {
		return pg.ErrNone
	}
	d := &event.BookParted{Part: part, Member: member}
	if err := desk.TellWhom(ctx, d); err != nil {
		return err
	}
	_, err = desk.house.Hand(ctx, d)
	return err
}

// Forget forgets a person, as they or a member want it.
func (desk *Desk) Forget(ctx context.Context, member string, person int64) error {
	desk.joining.Lock()
	defer desk.joining.Unlock()
	k := desk.house.Reckoning()
	sheet, err := desk.store.Find.Sheet(ctx, desk.channel, person, &k)
	if err != nil {
		return err
	}
	d := &event.BookForgotten{Person: person, Member: member}
	for _, a := range sheet.Accounts {
		d.Keys = append(d.Keys, a.Key)
	}
	if d.Names, err = desk.store.Privacy.NamesOf(ctx, desk.channel, sheet.Row.ID); err != nil {
		return err
	}
	_, err = desk.house.Hand(ctx, d)
	return err
}

// TakeIn takes an import in, or back, and logs it.
func (desk *Desk) TakeIn(ctx context.Context, id int64, undo bool) (*event.BookImported, error) {
	k := desk.house.Reckoning()
	var d *event.BookImported
	var err error
	if undo {
		d, err = desk.store.Imports.TakeBack(ctx, desk.channel, id, &k)
	} else {
		d, err = desk.store.Imports.Apply(ctx, desk.channel, id, &k)
	}
	if err != nil {
		return nil, err
	}
	_, err = desk.house.Hand(ctx, d)
	return d, err
}
