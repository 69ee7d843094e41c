// Package lookingback answers for look backs: what became of each stream beside what is usual, the
// people and lines behind each figure, what streams were like one after another, and files to keep.
package lookingback

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/lookback"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/prose"
	"vividporch/porch"
	"vividporch/porch/lookbacks"
	"vividporch/porch/screen"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/jobs"
	"vividporch/store/pg"
)

// LookingBack answers the routes.
type LookingBack struct {
	house *porch.House
	store *store.Store
}

// New makes the handlers.
func New(house *porch.House, st *store.Store) *LookingBack { return &LookingBack{house, st} }

// How much is told at once.
const (
	page       = 30
	mostShown  = 60
	mostBehind = 1000
	overOf     = 50
)

// GetLookBacks answers GET /api/lookback.
func (x *LookingBack) GetLookBacks(c *echo.Context, params spec.GetLookBacksParams) error {
	ctx := c.Request().Context()
	list, total, err := x.store.Book.FindStreams(ctx, x.house.ID, strings.TrimSpace(params.Text), x.house.Plan().Settings.Zone, params.Before, page)
	if err != nil {
		return err
	}
	numbers := make([]int, len(list))
	for i := range list {
		numbers[i] = list[i].Number
	}
	docs, err := x.store.Lookbacks.Some(ctx, x.house.ID, numbers)
	if err != nil {
		return err
	}
	turnouts, err := x.store.Find.Turnouts(ctx, x.house.ID, numbers)
	if err != nil {
		return err
	}
	came := map[int]int{}
	for _, t := range turnouts {
		came[t.Stream] = t.People
	}
	out := spec.LookBacks{Streams: []spec.SmallStream{}, Total: int(total)}
	for _, s := range list {
		v := spec.SmallStream{Stream: s.Number, Opened: s.Opened, Closed: *s.Closed, Title: cmp.Or(docs[s.Number].Title, s.Title), People: came[s.Number], Minutes: []int{}, Raids: []spec.SmallRaid{}}
		doc := docs[s.Number]
		for _, m := range doc.Minutes {
			v.Minutes = append(v.Minutes, m.People)
		}
		for _, r := range doc.Raids {
			if !r.Went {
				v.Raids = append(v.Raids, spec.SmallRaid{At: int(r.At.Sub(s.Opened) / time.Minute), Viewers: r.Viewers})
			}
		}
		out.Streams = append(out.Streams, v)
	}
	return c.JSON(http.StatusOK, out)
}

// GetLookBack answers GET /api/lookback/of/{stream}.
func (x *LookingBack) GetLookBack(c *echo.Context, stream int) error {
	out, err := x.of(c.Request().Context(), stream)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

func none(err error) error {
	if errors.Is(err, pg.ErrNone) {
		return edge.Problem(http.StatusNotFound, "There is no such stream", "It may still be on: its look back is made when it closes.")
	}
	return err
}

// of is the look back of a stream, with names as they are now.
func (x *LookingBack) of(ctx context.Context, stream int) (out spec.LookBack, err error) {
	e, err := x.house.Lookbacks.Of(ctx, stream)
	if err != nil {
		return out, none(err)
	}
	figures, turnout, err := x.house.Lookbacks.Figures(ctx, stream, e)
	if err != nil {
		return out, none(err)
	}
	names, err := x.names(ctx, e)
	if err != nil {
		return out, err
	}
	out = spec.LookBack{Stream: stream, Opened: e.Opened, Closed: e.Closed, Title: e.Title, Category: e.Category, Platforms: append([]string{}, e.Platforms...), Logged: len(e.Minutes) > 0, Watched: e.Watched,
		House: []int{}, Hushes: []spec.TimeSpan{}, Figures: []spec.LookBackFigure{}, Failed: []spec.FailedPost{}, Days: []spec.DayOfOne{}, Bookmarks: []spec.MarkOfStream{}, Notes: []spec.MarkOfStream{}, Down: []spec.DoorDown{},
		Silent: []spec.SilentReason{}, Arrived: len(e.Arrivals), NewOf: turnout.New}
	if len(out.Platforms) == 0 {
		out.Platforms = slices.Sorted(maps.Keys(turnout.Platforms))
	}
	out.Evening = screen.Looked(e, func(account string) string { return names[account] })
	for _, m := range e.Minutes {
		out.House = append(out.House, m.House)
	}
	for _, s := range e.Hushes {
		out.Hushes = append(out.Hushes, spec.TimeSpan{From: s.From, To: s.To})
	}
	for _, f := range figures {
		out.Figures = append(out.Figures, spec.LookBackFigure{Name: f.Name, Value: f.Value, Usual: usual(f.Usual), Weekday: usual(f.Weekday)})
		if f.Name == "house share" {
			out.UsualShare = f.Usual.Middle / 100
		}
	}
	for _, d := range e.Days {
		out.Days = append(out.Days, spec.DayOfOne{Name: names[d.Account], Day: d.Day, Kept: d.Kept})
	}
	for _, d := range e.Down {
		out.Down = append(out.Down, spec.DoorDown{Door: d.Door, Why: d.Why, From: d.From, To: d.To})
	}
	whys, of := lookbacks.Reasons(e)
	for _, why := range whys {
		r := spec.SilentReason{Why: why, Count: len(of[why]), Names: []string{}}
		for _, account := range of[why][:min(4, len(of[why]))] {
			if name := names[account]; name != "" {
				r.Names = append(r.Names, name)
			}
		}
		out.SilentOf += r.Count
		out.Silent = append(out.Silent, r)
	}
	out.Unanswered, out.Peace, out.Dropped = screen.Counted(e.Unanswered, mostShown), screen.Counted(e.Peace, mostShown), screen.Counted(e.Dropped, mostShown)
	labels := map[string]int{}
	for id, n := range e.Asked {
		labels[x.label(id)] += n
	}
	out.Asked = screen.Counted(labels, mostShown)
	return out, x.ofBook(ctx, stream, e, &out)
}

// ofBook adds what the guest book, the log and the places have of a stream.
func (x *LookingBack) ofBook(ctx context.Context, stream int, e *lookback.Evening, out *spec.LookBack) error {
	id := x.house.ID
	fresh, err := x.store.Find.CameTo(ctx, id, stream, find.New, mostShown)
	if err != nil {
		return err
	}
	back, err := x.store.Find.CameTo(ctx, id, stream, find.Returned, mostBehind)
	if err != nil {
		return err
	}
	raids, err := x.store.Find.RaidsOf(ctx, id, stream)
	if err != nil {
		return err
	}
	if out.New, err = x.came(ctx, stream, fresh); err != nil {
		return err
	}
	out.ReturnedOf = len(back)
	if out.Returned, err = x.came(ctx, stream, back[:min(len(back), mostShown)]); err != nil {
		return err
	}
	if out.EarlierNew, err = x.store.Find.EarlierNew(ctx, id, stream); err != nil {
		return err
	}
	out.Raids = []spec.RaidOfStream{}
	for _, r := range raids {
		out.Raids = append(out.Raids, spec.RaidOfStream{Name: r.Name, Viewers: r.Viewers, Went: r.Way == "went", At: r.At, Thanked: r.Thanked, Newcomers: r.Newcomers, Returned: r.Returned})
	}
	given, err := x.store.Find.Given(ctx, id, stream)
	if err != nil {
		return err
	}
	out.Given = []spec.GivenKind{}
	for _, g := range given {
		out.Given = append(out.Given, spec.GivenKind{Kind: g.Kind, Count: g.Count, Sums: g.Sums})
	}
	marks, err := x.store.Log.Bookmarks(ctx, id, stream, 0)
	if err != nil {
		return err
	}
	for _, m := range marks {
		out.Bookmarks = append(out.Bookmarks, spec.MarkOfStream{At: m.At, Into: int(m.At.Sub(e.Opened).Seconds()), Text: cmp.Or(plain.Text(m.Set.Label), "a bookmark"), By: m.Set.By()})
		out.Evening.Pins = append(out.Evening.Pins, spec.Mark{At: m.At, ID: fmt.Sprint(m.Seq), Name: plain.Text(m.Set.Label)})
	}
	notes, err := x.store.Log.NotesBetween(ctx, id, e.Opened, e.Closed)
	if err != nil {
		return err
	}
	for _, n := range notes {
		out.Notes = append(out.Notes, spec.MarkOfStream{At: n.At, Into: int(n.At.Sub(e.Opened).Seconds()), Text: plain.Text(n.Left.Text), By: plain.Name(n.Left.Person.Shown())})
	}
	bad, err := x.store.Jobs.BadOf(ctx, id, e.Opened, e.Closed.Add(10*time.Minute), mostShown)
	if err != nil {
		return err
	}
	for _, d := range bad {
		out.Failed = append(out.Failed, spec.FailedPost{Line: d.Line, Place: d.Place, Text: plain.Text(d.Text), Reason: d.Reason, Attempts: d.Attempts, Unclear: d.State == jobs.Unclear, Trying: d.State == jobs.Waiting || d.State == jobs.Trying})
	}
	return nil
}

// label names a courtesy as the Courtesies view does.
func (x *LookingBack) label(id string) string {
	list := x.house.Plan().Whole.Courtesy
	if i := slices.IndexFunc(list, func(c courtesy.Courtesy) bool { return c.ID == id }); i >= 0 {
		if len(list[i].Asks) > 0 {
			return list[i].Asks[0]
		}
		return prose.Label(list[i])
	}
	return prose.Named(id)
}

func usual(r lookback.Range) spec.UsualRange {
	return spec.UsualRange{Of: r.Of, Least: r.Least, Middle: r.Middle, Most: r.Most}
}

// names are what the accounts of an evening are called now; "" for whoever was forgotten.
func (x *LookingBack) names(ctx context.Context, e *lookback.Evening) (map[string]string, error) {
	var keys []string
	for _, a := range e.Arrivals {
		keys = append(keys, a.Account)
	}
	for _, r := range e.Raids {
		keys = append(keys, r.Account)
	}
	names, err := x.store.Book.AccountNames(ctx, x.house.ID, keys)
	for k, name := range names {
		names[k] = plain.Name(name)
	}
	return names, err
}

// came are people as they are told of: with whose raid they came, and when they were new.
func (x *LookingBack) came(ctx context.Context, stream int, list []find.Came) ([]spec.CameOne, error) {
	raids, err := x.store.Find.RaidersOf(ctx, x.house.ID, list)
	if err != nil {
		return nil, err
	}
	out := []spec.CameOne{}
	for _, c := range list {
		v := spec.CameOne{Person: c.Person, Name: plain.Name(c.Name), Account: c.Account, Lines: c.Lines, First: c.First, Follows: c.Follows, Birthday: c.Birthday, Attended: c.Attended, With: plain.Name(raids[c.WithRaid])}
		if c.FirstStream != stream && c.FirstStream > 0 {
			v.After = stream - c.FirstStream
			if s, err := x.store.Book.StreamOf(ctx, x.house.ID, c.FirstStream); err == nil {
				v.NewOn = s.Opened
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// GetBehind answers GET /api/lookback/of/{stream}/behind.
func (x *LookingBack) GetBehind(c *echo.Context, stream int, params spec.GetBehindParams) error {
	ctx := c.Request().Context()
	e, err := x.house.Lookbacks.Of(ctx, stream)
	if err != nil {
		return none(err)
	}
	out := spec.Behind{People: []spec.CameOne{}, Lines: []spec.BehindLine{}}
	var list []find.Came
	because := map[string]string{}
	standing := func(s people.Standing) (accounts []string) {
		for _, a := range e.Arrivals {
			if a.Standing == s {
				accounts = append(accounts, a.Account)
			}
		}
		return accounts
	}
	of, why, _ := strings.Cut(params.Of, ":")
	switch of {
	case "people", "lines":
		list, err = x.store.Find.CameTo(ctx, x.house.ID, stream, find.Everybody, mostBehind)
	case "new":
		list, err = x.store.Find.CameTo(ctx, x.house.ID, stream, find.New, mostBehind)
	case "returned":
		list, err = x.store.Find.CameTo(ctx, x.house.ID, stream, find.Returned, mostBehind)
	case "long away":
		list, err = x.store.Find.OfThem(ctx, x.house.ID, stream, standing(people.LongAway), nil, mostBehind)
	case "newly regular":
		list, err = x.store.Find.OfThem(ctx, x.house.ID, stream, nil, e.Regulars, mostBehind)
	case "no longer regular":
		list, err = x.store.Find.OfThem(ctx, x.house.ID, stream, nil, e.Lost, mostBehind)
	case "silent":
		var accounts []string
		for _, a := range e.Silent() {
			if why == "" || a.Why == why {
				accounts = append(accounts, a.Account)
				because[a.Account] = a.Why
			}
		}
		list, err = x.store.Find.OfThem(ctx, x.house.ID, stream, accounts, nil, mostBehind)
	case "dates kept", "dates missed":
		var accounts []string
		for _, d := range e.Days {
			if d.Kept == (of == "dates kept") {
				accounts = append(accounts, d.Account)
				because[d.Account] = d.Day
			}
		}
		list, err = x.store.Find.OfThem(ctx, x.house.ID, stream, accounts, nil, mostBehind)
	case "raids brought", "our raid took":
		var raids []find.RaidOf
		raids, err = x.store.Find.RaidsOf(ctx, x.house.ID, stream)
		for _, r := range raids {
			if (r.Way == "went") == (of == "our raid took") {
				out.Lines = append(out.Lines, spec.BehindLine{At: r.At, Who: cmp.Or(plain.Name(r.Name), "somebody"), Text: fmt.Sprintf("%d people", r.Viewers), Why: fmt.Sprintf("%d new, %d of them seen again", r.Newcomers, r.Returned)})
			}
		}
	case "given":
		var gifts []find.Gift
		gifts, err = x.store.Find.Gifts(ctx, x.house.ID, stream, mostBehind)
		for _, g := range gifts {
			text := g.Kind
			if g.Currency != "" {
				text += " " + g.Amount + " " + g.Currency
			}
			out.Lines = append(out.Lines, spec.BehindLine{At: g.At, Who: cmp.Or(plain.Name(g.Name), "somebody"), Text: text, Why: g.What})
		}
	case "house share", "said", "dropped":
		var lines []find.HouseLine
		lines, err = x.store.Find.HouseLines(ctx, x.house.ID, e.Opened, e.Closed, of == "dropped", mostBehind)
		for _, l := range lines {
			if why == "" || l.Why == why {
				out.Lines = append(out.Lines, spec.BehindLine{At: l.At, Text: plain.Text(cmp.Or(l.Text, x.label(l.Courtesy))), Who: l.To, Why: l.Why})
			}
		}
	default:
		return &event.FieldError{Field: "of", Remedy: fmt.Sprintf("is %q, which nothing is behind; name a figure of the page", params.Of)}
	}
	if err != nil {
		return err
	}
	if len(list) == mostBehind {
		out.More = 1
	}
	if out.People, err = x.came(ctx, stream, list); err != nil {
		return err
	}
	for i := range out.People {
		out.People[i].Because = because[out.People[i].Account]
	}
	return c.JSON(http.StatusOK, out)
}

// GetOverStreams answers GET /api/lookback/over.
func (x *LookingBack) GetOverStreams(c *echo.Context) error {
	ctx := c.Request().Context()
	list, err := x.store.Book.LastStreams(ctx, x.house.ID, overOf)
	if err != nil {
		return err
	}
	slices.Reverse(list)
	numbers := make([]int, len(list))
	for i := range list {
		numbers[i] = list[i].Number
	}
	turnouts, err := x.store.Find.Turnouts(ctx, x.house.ID, numbers)
	if err != nil {
		return err
	}
	regulars, err := x.store.Find.RegularsAt(ctx, x.house.ID, numbers, x.house.Plan().Standings())
	if err != nil {
		return err
	}
	streams, raids, err := x.store.Find.Newcomers(ctx, x.house.ID, overOf)
	if err != nil {
		return err
	}
	out := spec.OverStreams{Streams: []spec.OverStream{}, Returns: Cohorts(streams), Raids: Cohorts(raids), Hours: []spec.HourThatWorked{}}
	slices.Reverse(out.Returns)
	var drew []lookback.Drew
	by := map[int]find.Turnout{}
	for _, t := range turnouts {
		by[t.Stream] = t
	}
	for _, s := range list {
		t := by[s.Number]
		out.Streams = append(out.Streams, spec.OverStream{Stream: s.Number, Opened: s.Opened, Title: s.Title, People: t.People, New: t.New, Regulars: regulars[s.Number], Lines: t.Lines, Minutes: int(s.Closed.Sub(s.Opened) / time.Minute)})
		drew = append(drew, lookback.Drew{Opened: s.Opened, People: t.People, New: t.New})
	}
	for _, h := range lookback.Hours(drew, x.house.Plan().Zone) {
		out.Hours = append(out.Hours, spec.HourThatWorked{Weekday: int(h.Weekday), Hour: h.Hour, Streams: h.Streams, People: h.People, New: h.New})
	}
	return c.JSON(http.StatusOK, out)
}

// Cohorts are newcomers and what became of them, as they are told.
func Cohorts(list []find.Cohort) []spec.Cohort {
	out := []spec.Cohort{}
	for _, k := range list {
		out = append(out, spec.Cohort{Stream: k.Stream, Opened: k.Opened, Raid: k.Raid, Name: k.Name, Viewers: k.Viewers, Newcomers: k.Newcomers, Returned: k.Returned, Of: k.Of})
	}
	return out
}
