package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/lookingback"
	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/spec"
	"vividporch/store/book"
	"vividporch/store/find"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// nobody is the answer when a number of the guest book is not found.
func nobody(err error) error {
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "Nobody is found under that number", "They may have been merged or forgotten; look them up by name.")
	}
	return err
}

// GetPeople answers GET /api/book/people.
func (s *Server) GetPeople(c *echo.Context, p spec.GetPeopleParams) error {
	q := find.Query{Filter: filterOf(p), Sort: find.Sort(p.Sort), After: p.After, At: p.At, Limit: p.Limit}
	page, err := s.store.Find.People(c.Request().Context(), s.house.ID, q)
	if err != nil {
		return err
	}
	out := spec.BookPage{Rows: make([]spec.BookRow, len(page.Rows)), Next: page.Next}
	v := s.bookView()
	for i := range page.Rows {
		out.Rows[i] = v.row(&page.Rows[i])
	}
	return c.JSON(http.StatusOK, out)
}

// CountPeople answers GET /api/book/count.
func (s *Server) CountPeople(c *echo.Context, p spec.CountPeopleParams) error {
	n, more, err := s.store.Find.CountPeople(c.Request().Context(), s.house.ID, filterOf(p))
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.BookCount{Count: n, More: more})
}

// filterOf takes the filter out of a request's parameters, which name its fields.
func filterOf(params any) (f find.Filter) {
	raw, err := json.Marshal(params)
	if err == nil {
		err = json.Unmarshal(raw, &f)
	}
	if err != nil {
		return find.Filter{}
	}
	return f
}

// bookView draws rows of the book as of now.
type bookView struct {
	k       record.Reckoning
	tonight int
	today   dates.Day
	leap    dates.LeapRule
}

func (s *Server) bookView() bookView {
	k := s.house.Reckoning()
	return bookView{k, s.house.Tonight(), dates.On(k.Now, k.Zone), s.house.Plan().Leap()}
}

func (v *bookView) row(r *find.Row) spec.BookRow {
	mask := attendance.Mask{At: r.MaskAt, Bits: uint64(r.MaskBits)}
	out := spec.BookRow{Person: r.ID, Name: r.Name, SayAs: r.SayAs, Pronouns: r.Pronouns, Standing: r.Standing, Fellow: r.Fellow, Attended: r.Attended, Lines: r.Lines, Support: r.Support, Strip: attendance.Strip(mask, v.k.Past, v.tonight),
		Here: v.tonight > 0 && mask.Has(v.tonight), Platforms: texts(r.Platforms), Roles: texts(r.Roles), Crews: texts(r.Crews), Tags: texts(r.Tags), Trusted: r.Trusted, LeaveBe: r.LeaveBe,
		RaidsIn: r.RaidsIn, RaidsOut: r.RaidsOut, Unthanked: r.Unthanked, Worth: []spec.Worth{}}
	var followed dates.Day
	if r.FirstSeen != nil {
		out.FirstSeen = *r.FirstSeen
	}
	if r.LastSeen != nil {
		out.LastSeen = *r.LastSeen
	}
	if r.Followed != nil {
		out.Followed, out.FollowAge = *r.Followed, dates.Between(*r.Followed, v.k.Now, v.k.Zone).Short()
		followed = dates.On(*r.Followed, v.k.Zone)
	}
	worth := func(kind spec.WorthKind, text string) {
		out.Worth = append(out.Worth, spec.Worth{Kind: kind, Text: text})
	}
	for _, d := range dates.Near(v.today, dates.Day{Year: r.BirthYear, Month: time.Month(r.BirthMonth), Day: r.BirthDay}, followed, v.leap) {
		worth(spec.WorthKindDate, d)
	}
	if r.Unthanked {
		worth(spec.WorthKindRaid, "raid not thanked")
	}
	if r.RaidsIn > 0 {
		worth(spec.WorthKindRaid, fmt.Sprintf("%s, %d returned", plural(r.RaidsIn, "raid"), r.RaidsOut))
	}
	if r.WithRaid != 0 && r.Attended == 1 {
		worth(spec.WorthKindCame, "came with a raid")
	}
	if r.RegularLost != nil && r.Standing != string(people.Regular) && v.k.Now.Sub(*r.RegularLost) < 30*24*time.Hour {
		worth(spec.WorthKindChange, "was a regular")
	}
	if n := len(v.k.Past); r.RegularSince != nil && n > 0 && r.Standing == string(people.Regular) && !r.RegularSince.Before(v.k.Past[n-1].Closed) {
		worth(spec.WorthKindChange, "new regular")
	}
	return out
}

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

func texts[T ~string](l []T) []string {
	out := make([]string, len(l))
	for i, v := range l {
		out[i] = string(v)
	}
	return out
}

// GetPerson answers GET /api/book/people/{person}.
func (s *Server) GetPerson(c *echo.Context, person int64) error {
	v := s.bookView()
	sh, err := s.store.Find.Sheet(c.Request().Context(), s.house.ID, person, &v.k)
	if err != nil {
		return nobody(err)
	}
	out := spec.BookSheet{Row: v.row(&sh.Row), Why: sh.Why, Streak: sh.Streak, Lines: sh.Lines, Accounts: []spec.SheetAccount{}, Merged: []spec.MergedPart{}, Support: []spec.SupportSum{}, Usual: []string{},
		HandRoles: texts(sh.Hand.Roles), ToldRoles: []string{}, Raids: []spec.RaidLine{},
		Hand: spec.Hand{SayAs: people.Text(sh.Hand.SayAs), Pronouns: people.Text(sh.Hand.Pronouns), Note: people.Text(sh.Hand.Note), Zone: people.Text(sh.Hand.Zone), LeaveBe: people.Yes(sh.Hand.LeaveBe), HideDay: people.Yes(sh.Hand.HideDay),
			Trusted: people.Yes(sh.Hand.Trusted), Fellow: people.Yes(sh.Hand.Fellow)}}
	out.Row.Standing = string(sh.Standing)
	if n := len(v.k.Past); n > 0 {
		out.OfStreams = v.k.Past[n-1].Number
	}
	if v.tonight > 0 {
		out.OfStreams = v.tonight
	}
	if b := sh.Hand.Birthday; b != nil && !b.IsZero() {
		out.Birthday, out.Hand.Birthday = b.Spelled(), b.Spelled()
		_, out.BirthdayIn = b.Next(v.today, v.leap)
	}
	if sh.Row.Followed != nil {
		out.Follows = dates.Between(*sh.Row.Followed, v.k.Now, v.k.Zone).String()
	}
	for _, a := range sh.Accounts {
		sa := spec.SheetAccount{Key: a.Key, Platform: a.Platform, Login: a.Login, Name: a.Name, Record: a.Record, Lines: a.Lines, FirstSeen: a.FirstSeen, LastSeen: a.LastSeen, Provisional: a.Provisional, Nick: a.Nick, Was: []string{}}
		if a.Followed != nil {
			sa.Followed = *a.Followed
		}
		for _, l := range a.Logins {
			if l.Login != a.Login && l.Login != "" && !slices.Contains(sa.Was, l.Login) {
				sa.Was = append(sa.Was, l.Login)
			}
		}
		for _, r := range a.Roles {
			if !slices.Contains(out.ToldRoles, r) {
				out.ToldRoles = append(out.ToldRoles, r)
			}
		}
		if f := a.Fetched; f != nil && (out.Link == "" || f.At.After(out.Fetched)) {
			out.Link, out.Category, out.Title, out.Fetched = f.Link, f.Category, f.Title, f.At
		}
		out.Accounts = append(out.Accounts, sa)
	}
	if len(sh.Accounts) > 0 {
		threads, err := s.house.Company.Threads(c.Request().Context(), []string{sh.Accounts[0].Key}, true)
		if err != nil {
			return err
		}
		for account, th := range threads {
			out.Thread = spec.Thread{Account: account, Text: th.Text, At: th.At}
		}
	}
	for _, m := range sh.Merged {
		out.Merged = append(out.Merged, spec.MergedPart{Record: m.ID, Name: m.Name})
	}
	for _, g := range sh.Support {
		out.Support = append(out.Support, spec.SupportSum{Kind: g.Kind, Amount: g.Amount, Currency: g.Currency, Count: g.Count, Times: g.Times})
	}
	for _, u := range sh.Usual {
		out.Usual = append(out.Usual, u.String())
	}
	for _, r := range sh.Card.Raids {
		out.Raids = append(out.Raids, spec.RaidLine{Way: r.Way, Viewers: r.Viewers, At: r.At})
	}
	return c.JSON(http.StatusOK, out)
}

// GetStory answers GET /api/book/people/{person}/story.
func (s *Server) GetStory(c *echo.Context, person int64, p spec.GetStoryParams) error {
	before := p.Before
	if before.IsZero() {
		before = time.Now().Add(time.Minute)
	}
	ms, err := s.store.Find.Story(c.Request().Context(), s.house.ID, person, before, 60)
	if err != nil {
		return err
	}
	out := spec.Story{Moments: []spec.Moment{}}
	for _, m := range ms {
		out.Moments = append(out.Moments, spec.Moment{At: m.At, Kind: m.Kind, Text: m.Text, Lines: m.Lines, Until: m.Until, Viewers: m.Viewers, Stream: m.Stream, Seq: m.Seq, Member: m.Member, Undone: m.Undone})
	}
	return c.JSON(http.StatusOK, out)
}

// GetAccount answers GET /api/book/accounts/{account}.
func (s *Server) GetAccount(c *echo.Context, account string) error {
	id, err := s.store.Book.PersonOf(c.Request().Context(), s.house.ID, account)
	if err != nil {
		return nobody(err)
	}
	return c.JSON(http.StatusOK, spec.BookAccount{Person: id})
}

// editOf reads an edit as it was asked for.
func (s *Server) editOf(in *spec.BookEdit) (event.Edit, error) {
	e := event.Edit{AddTags: in.AddTags, DropTags: in.DropTags, AddCrews: in.AddCrews, DropCrews: in.DropCrews}
	for _, r := range in.AddRoles {
		e.AddRoles = append(e.AddRoles, event.Role(r))
	}
	for _, r := range in.DropRoles {
		e.DropRoles = append(e.DropRoles, event.Role(r))
	}
	// Which fields are given is told by the raw form: an empty text clears.
	h := &e.Set
	for name, v := range in.Set {
		text, isText := v.(string)
		yes, isYes := v.(bool)
		switch {
		case name == "sayAs" && isText:
			h.SayAs = &text
		case name == "pronouns" && isText:
			h.Pronouns = &text
		case name == "note" && isText:
			h.Note = &text
		case name == "zone" && isText:
			h.Zone = &text
		case name == "birthday" && isText:
			d := dates.Day{}
			if strings.TrimSpace(text) != "" {
				var err error
				if d, err = dates.Parse(text, s.house.Plan().DayFirst()); err != nil {
					return e, &event.FieldError{Field: "birthday", Remedy: fmt.Sprintf("%q %s", text, err)}
				}
			}
			h.Birthday = &d
		case name == "hideDay" && isYes:
			h.HideDay = &yes
		case name == "leaveBe" && isYes:
			h.LeaveBe = &yes
		case name == "trusted" && isYes:
			h.Trusted = &yes
		case name == "fellow" && isYes:
			h.Fellow = &yes
		default:
			return e, &event.FieldError{Field: name, Remedy: "cannot be set like this; see the description of the API"}
		}
	}
	return e, nil
}

// EditPeople answers POST /api/book/edit.
func (s *Server) EditPeople(c *echo.Context) error {
	var in spec.BookEdit
	if err := decode(c, &in); err != nil {
		return err
	}
	e, err := s.editOf(&in)
	if err != nil {
		return err
	}
	return s.edited(c, &event.BookEdited{Persons: in.Persons, Edit: e, Member: memberOf(c).Name})
}

// UndoEdit answers POST /api/book/undo.
func (s *Server) UndoEdit(c *echo.Context) error {
	var in spec.BookUndo
	if err := decode(c, &in); err != nil {
		return err
	}
	// Whom it is about stands with the edit that is taken back.
	return s.edited(c, &event.BookEdited{Persons: []int64{0}, Undoes: in.Seq, Member: memberOf(c).Name})
}

func (s *Server) edited(c *echo.Context, d *event.BookEdited) error {
	seq, err := s.house.Desk.Edit(c.Request().Context(), d)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.BookEdited{Seq: seq, What: people.Words(d.Edit)})
}

// MergePeople answers POST /api/book/merge.
func (s *Server) MergePeople(c *echo.Context) error {
	var in spec.BookMerge
	if err := decode(c, &in); err != nil {
		return err
	}
	err := s.house.Desk.Merge(c.Request().Context(), memberOf(c).Name, in.Kept, in.Gone)
	if errors.Is(err, book.ErrSame) {
		return &event.FieldError{Field: "gone", Remedy: "is the same record; choose another one to merge with it"}
	}
	if err != nil {
		return nobody(err)
	}
	return deed(c, nil)
}

// PartPeople answers POST /api/book/part.
func (s *Server) PartPeople(c *echo.Context) error {
	var in spec.BookPart
	if err := decode(c, &in); err != nil {
		return err
	}
	if err := s.house.Desk.Part(c.Request().Context(), memberOf(c).Name, in.Record); err != nil {
		return nobody(err)
	}
	return deed(c, nil)
}

// GetPairs answers GET /api/book/pairs.
func (s *Server) GetPairs(c *echo.Context) error {
	list, err := s.store.Find.Pairs(c.Request().Context(), s.house.ID, 50)
	if err != nil {
		return err
	}
	out := spec.Pairs{Pairs: []spec.Pair{}}
	half := func(h people.Half) spec.PairHalf {
		return spec.PairHalf{Person: h.Person, Platform: h.Platform, Login: h.Login, Name: h.Name, Streams: len(h.Streams)}
	}
	for _, p := range list {
		out.Pairs = append(out.Pairs, spec.Pair{A: half(p.A), B: half(p.B), Because: p.Because})
	}
	return c.JSON(http.StatusOK, out)
}

// RefusePair answers POST /api/book/pairs.
func (s *Server) RefusePair(c *echo.Context) error {
	var in spec.BookMerge
	if err := decode(c, &in); err != nil {
		return err
	}
	if err := s.store.Find.RefusePair(c.Request().Context(), s.house.ID, in.Kept, in.Gone); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// GetRaids answers GET /api/book/raids.
func (s *Server) GetRaids(c *echo.Context) error {
	list, err := s.store.Find.Ledger(c.Request().Context(), s.house.ID, 500)
	if err != nil {
		return err
	}
	zone := s.house.Plan().Zone
	out := spec.Ledger{Lines: []spec.LedgerLine{}}
	for _, f := range list {
		l := spec.LedgerLine{Person: f.Person, Name: f.Name, Came: f.Came, Went: f.Went, Sizes: f.CameSizes, Unthanked: f.Unthanked, Says: people.Balance(f.Came, f.Went, f.LastCame, zone)}
		if f.LastCame != nil {
			l.LastCame = *f.LastCame
		}
		if f.LastWent != nil {
			l.LastWent = *f.LastWent
		}
		out.Lines = append(out.Lines, l)
	}
	return c.JSON(http.StatusOK, out)
}

// GetNewcomers answers GET /api/book/newcomers.
func (s *Server) GetNewcomers(c *echo.Context) error {
	streams, raids, err := s.store.Find.Newcomers(c.Request().Context(), s.house.ID, 40)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Newcomers{Streams: lookingback.Cohorts(streams), Raids: lookingback.Cohorts(raids)})
}

// GetFilters answers GET /api/book/filters.
func (s *Server) GetFilters(c *echo.Context) error {
	list, err := s.store.Find.Filters(c.Request().Context(), s.house.ID)
	if err != nil {
		return err
	}
	out := spec.SavedFilters{Filters: []spec.SavedFilter{}}
	for _, f := range list {
		var query string
		if json.Unmarshal(f.Doc, &query) == nil {
			out.Filters = append(out.Filters, spec.SavedFilter{Name: f.Name, Query: query})
		}
	}
	return c.JSON(http.StatusOK, out)
}

// SaveFilter answers PUT /api/book/filters.
func (s *Server) SaveFilter(c *echo.Context) error {
	var in spec.SavedFilter
	if err := decode(c, &in); err != nil {
		return err
	}
	in.Name = strings.TrimSpace(in.Name)
	if in.Name == "" || len(in.Name) > 60 {
		return &event.FieldError{Field: "name", Remedy: "is missing or longer than 60 bytes; name the filter"}
	}
	doc, _ := json.Marshal(in.Query)
	if err := s.store.Find.SaveFilter(c.Request().Context(), tables.SavedFilter{Channel: s.house.ID, Name: in.Name, Doc: doc}); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// DropFilter answers DELETE /api/book/filters/{name}.
func (s *Server) DropFilter(c *echo.Context, name string) error {
	if err := s.store.Find.DropFilter(c.Request().Context(), s.house.ID, name); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}
