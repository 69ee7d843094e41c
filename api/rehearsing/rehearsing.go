// Package rehearsing answers for rehearsals: what can be lived again and under what, one on its
// way, what came of it, and the evenings that are written down or kept.
package rehearsing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/carry"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/expect"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/prose"
	"vividporch/core/rehearsal"
	"vividporch/core/whatif"
	"vividporch/core/who"
	"vividporch/porch"
	"vividporch/porch/rehearse"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/evenings"
	"vividporch/store/pg"
)

// Rehearsing answers the routes.
type Rehearsing struct {
	house *porch.House
	store *store.Store
	words func(spec.Draft) []output.Words // of a draft
	names func(context.Context) who.Names
}

// New makes the handlers; words are those of a draft, and names what sentences call people, crews and places by.
func New(house *porch.House, st *store.Store, words func(spec.Draft) []output.Words, names func(context.Context) who.Names) *Rehearsing {
	return &Rehearsing{house, st, words, names}
}

// mostRecorded and mostVersions are how many are told of.
const (
	mostRecorded = 500
	mostVersions = 60
)

// GetRehearsals answers GET /api/rehearsal.
func (x *Rehearsing) GetRehearsals(c *echo.Context) error {
	ctx := c.Request().Context()
	shape, err := x.house.Rehearser.Shape(ctx)
	if err != nil {
		return err
	}
	out := spec.Rehearsals{Written: []spec.EveningRow{}, Recorded: []spec.RecordedRow{}, Usual: dials(shape.Usual()), Learned: shape.Streams, Versions: []spec.Version{}, Draft: []spec.DraftOf{},
		KeptDays: x.house.Plan().Settings.Privacy.KeepDays}
	list, err := x.house.Rehearser.Evenings(ctx)
	if err != nil {
		return err
	}
	version := x.house.Plan().Version
	for i := range list {
		row := rowOf(&list[i])
		out.Written = append(out.Written, row)
		if row.Kept && row.Went.Why == "" { // what cannot be lived any more says so by itself, and holds nothing up
			out.Kept.Kept++
			if row.Went.Well {
				out.Kept.Well++
			}
			out.Kept.Running = out.Kept.Running || list[i].Tried != version
		}
	}
	streams, err := x.store.Book.LastStreams(ctx, x.house.ID, mostRecorded)
	if err != nil {
		return err
	}
	begins, err := x.store.Log.Begins(ctx, x.house.ID)
	if err != nil {
		return err
	}
	keeps := x.house.Clock().AddDate(0, 0, -out.KeptDays)
	for _, s := range streams {
		out.Recorded = append(out.Recorded, spec.RecordedRow{Stream: s.Number, Opened: s.Opened, Closed: *s.Closed, Title: s.Title, Gone: s.Import > 0 || begins.IsZero() || s.Opened.Before(begins.Add(-time.Hour)) || out.KeptDays > 0 && s.Opened.Before(keeps)})
	}
	versions, err := x.store.Log.SettingsHistory(ctx, x.house.ID, mostVersions)
	if err != nil {
		return err
	}
	for _, v := range versions {
		out.Versions = append(out.Versions, spec.Version{Version: v.Version, At: v.At, Member: v.Member, What: v.What})
	}
	drafts, err := x.drafts(ctx, edge.MemberOf(c).Name)
	if err != nil {
		return err
	}
	plan := x.house.Plan()
	for _, d := range drafts {
		out.Draft = append(out.Draft, spec.DraftOf{ID: d.of.ID, Label: prose.Whole(d.of, x.names(ctx)), Faults: len(plan.World().Faults(d.of, d.words))})
	}
	return c.JSON(http.StatusOK, out)
}

func rowOf(e *evenings.Evening) spec.EveningRow {
	row := spec.EveningRow{Name: e.Name, Kind: spec.EveningRowKindWritten, Member: e.Member, At: e.At, Kept: e.Kept, Version: e.Version, Happenings: strings.Count(e.Script, "\n")}
	switch w, err := rehearse.Of(e); {
	case e.Stream > 0:
		row.Kind, row.Stream = spec.EveningRowKindRecorded, e.Stream
	case err == nil && w.Dials != nil:
		row.Kind, row.Dials = spec.EveningRowKindImagined, dials(*w.Dials)
	}
	_ = json.Unmarshal(e.Expected, &row.Expected) // none, where nothing is expected
	if e.TriedAt != nil && len(e.Went) > 0 {
		var w rehearse.Went
		if json.Unmarshal(e.Went, &w) == nil {
			row.Tried = *e.TriedAt
			row.Went = wentOf(w)
		}
	}
	return row
}

func wentOf(w rehearse.Went) spec.EveningWent {
	return spec.EveningWent{Well: w.Well(), Otherwise: w.Otherwise, Missed: append([]string{}, w.Missed...), Why: w.Why}
}

func dials(d whatif.Dials) spec.Dials {
	return spec.Dials{Seed: int64(d.Seed), Minutes: d.Minutes, PeopleMinute: d.PeopleMinute, NewShare: d.New, LinesMinute: d.LinesMinute, RaidOf: d.RaidOf, RaidAt: d.RaidAt, SupportHour: d.SupportHour, DropAt: d.DropAt, DropMinutes: d.DropMinutes}
}

func dialsIn(d spec.Dials) *whatif.Dials {
	return &whatif.Dials{Seed: uint64(d.Seed), Minutes: d.Minutes, PeopleMinute: d.PeopleMinute, New: d.NewShare, LinesMinute: d.LinesMinute, RaidOf: d.RaidOf, RaidAt: d.RaidAt, SupportHour: d.SupportHour, DropAt: d.DropAt, DropMinutes: d.DropMinutes}
}

// Rehearse answers POST /api/rehearsal.
func (x *Rehearsing) Rehearse(c *echo.Context) error {
	var in spec.RehearsalWanted
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	w, err := x.evening(ctx, in)
	if err != nil {
		return err
	}
	w.OwnChance = in.OwnChance
	for _, s := range []struct {
		at   string
		in   spec.SideWanted
		into *rehearse.Side
	}{{"above", in.Above, &w.Above}, {"below", in.Below, &w.Below}} {
		if *s.into, err = x.side(c, s.at, s.in, w.Stream > 0); err != nil {
			return err
		}
	}
	return c.JSON(http.StatusOK, spec.RehearsalBegun{ID: x.house.Rehearser.Begin(edge.MemberOf(c).Name, w).ID})
}

// evening is what is to be lived: just one of a stream, a name, a script and dials.
func (x *Rehearsing) evening(ctx context.Context, in spec.RehearsalWanted) (w rehearse.Wanted, err error) {
	switch {
	case in.Stream > 0:
		w.Stream = in.Stream
	case in.Evening != "":
		w, _, err = x.house.Rehearser.Named(ctx, in.Evening)
	case in.Script != "":
		w.Script, err = script(in.Script)
	case in.Dials.Minutes > 0:
		w.Dials = dialsIn(in.Dials)
		err = w.Dials.Check()
	default:
		err = &event.FieldError{Field: "stream", Remedy: "is missing; name a stream, a written evening, a script or dials"}
	}
	return w, none(err)
}

// none says of what is not there that it is not.
func none(err error) error {
	if errors.Is(err, pg.ErrNone) {
		return edge.Problem(http.StatusNotFound, "There is no such evening", "It may have been taken away; reload the page.")
	}
	return err
}

func script(text string) ([]event.Event, error) {
	evs, err := rehearsal.ReadScript(strings.NewReader(text))
	if err != nil {
		return nil, &event.FieldError{Field: "script", Remedy: err.Error()}
	}
	return evs, nil
}

// side is what a side is lived under.
func (x *Rehearsing) side(c *echo.Context, at string, in spec.SideWanted, recorded bool) (rehearse.Side, error) {
	ctx := c.Request().Context()
	bad := func(field, remedy string) error { return &event.FieldError{Field: at + "." + field, Remedy: remedy} }
	switch in.Kind {
	case spec.SideWantedKindSaid:
		if !recorded {
			return rehearse.Side{}, bad("kind", "is as it was said, which only a recorded stream has")
		}
		return rehearse.Side{}, nil
	case spec.SideWantedKindForce:
		return x.house.Rehearser.Version(ctx, 0)
	case spec.SideWantedKindVersion:
		s, err := x.house.Rehearser.Version(ctx, in.Version)
		if errors.Is(err, pg.ErrNone) {
			return s, bad("version", fmt.Sprintf("%d is none of this house's", in.Version))
		}
		return s, err
	case spec.SideWantedKindFile:
		f, err := carry.Read([]byte(in.File))
		if err != nil {
			return rehearse.Side{}, bad("file", err.Error())
		}
		s, err := f.Onto(x.house.Plan().Whole, f.Usual(x.house.Plan().Whole.Channel), false, true)
		if err != nil {
			return rehearse.Side{}, bad("file", err.Error())
		}
		return rehearse.Side{Settings: s}, nil
	case spec.SideWantedKindDraft:
		s, err := x.drafted(ctx, edge.MemberOf(c).Name, in.Changes)
		return rehearse.Side{Settings: s}, err
	}
	return rehearse.Side{}, bad("kind", "is not known; use said, force, draft, version or file")
}

// drafted is what a member typed and is not in force, as one.
type drafted struct {
	of    courtesy.Courtesy
	words []output.Words
}

func (x *Rehearsing) drafts(ctx context.Context, member string) (out []drafted, err error) {
	list, err := x.store.Log.Drafts(ctx, x.house.ID)
	if err != nil {
		return nil, err
	}
	for _, d := range list {
		var draft spec.Draft
		i := slices.IndexFunc(x.house.Plan().Whole.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == d.Courtesy })
		if d.Member != member || i < 0 || json.Unmarshal(d.Doc, &draft) != nil {
			continue
		}
		of, words := x.house.Plan().Whole.Courtesy[i], x.words(draft)
		before, err := json.Marshal(of)
		if err != nil {
			return nil, err
		}
		if after, err := json.Marshal(of.Reworded(words)); err != nil || string(after) == string(before) {
			continue
		}
		out = append(out, drafted{of, words})
	}
	return out, nil
}

// into puts all that a member has typed, and what they try beside it, into settings.
func into(s *housefile.Settings, drafts []drafted, changes spec.DraftChanges) error {
	words := map[string][]output.Words{}
	for _, d := range drafts {
		words[d.of.ID] = d.words
	}
	return s.Draft(words, changes.Switches, changes.Pace)
}

// drafted are the settings in force with a member's draft in them.
func (x *Rehearsing) drafted(ctx context.Context, member string, changes spec.DraftChanges) (*housefile.Settings, error) {
	drafts, err := x.drafts(ctx, member)
	if err != nil {
		return nil, err
	}
	s := x.house.Plan().Whole.Clone()
	return s, into(s, drafts, changes)
}

// EnactChanges answers POST /api/rehearsal/enact.
func (x *Rehearsing) EnactChanges(c *echo.Context) error {
	var in spec.Enacting
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx, member := c.Request().Context(), edge.MemberOf(c).Name
	drafts, err := x.drafts(ctx, member)
	if err != nil {
		return err
	}
	if in.Kept {
		s, err := x.drafted(ctx, member, in.Changes)
		if err != nil {
			return err
		}
		broken, _, err := x.house.Rehearser.With(ctx, rehearse.Side{Settings: s})
		if err != nil {
			return err
		}
		if len(broken) > 0 {
			return edge.Problem(http.StatusConflict, "A kept evening would go otherwise", strings.Join(slices.Sorted(maps.Keys(broken)), ", ")+": look at what differs, or put it in force all the same.")
		}
	}
	v, err := x.house.Desk.ChangeSettings(ctx, edge.By(c), "a draft that was rehearsed", func(s *housefile.Settings) error { return into(s, drafts, in.Changes) })
	if err == nil {
		for _, d := range drafts {
			if err := x.store.Log.DropDraft(ctx, x.house.ID, d.of.ID, member); err != nil {
				return err
			}
		}
	}
	return edge.InForce(c, x.house, v, err)
}

// job is a rehearsal of the member who asks.
func (x *Rehearsing) job(c *echo.Context, id string) (*rehearse.Job, error) {
	j := x.house.Rehearser.Job(id)
	if j == nil || j.Member != edge.MemberOf(c).Name {
		return nil, edge.Problem(http.StatusNotFound, "There is no such rehearsal", "It is not kept any more; rehearse again.")
	}
	return j, nil
}

// GetRehearsal answers GET /api/rehearsal/jobs/{id}.
func (x *Rehearsing) GetRehearsal(c *echo.Context, id string) error {
	j, err := x.job(c, id)
	if err != nil {
		return err
	}
	part, over, result, err := j.State()
	out := spec.RehearsalState{Part: part, Over: over}
	var faults *rehearse.FaultsError
	switch {
	case errors.As(err, &faults):
		out.Problem, out.Faults = "These settings cannot be in force", edge.Faults(faults.Faults)
	case errors.Is(err, context.Canceled):
		out.Problem = "It was called off."
	case errors.Is(err, rehearse.ErrBlanked):
		out.Problem = fmt.Sprintf("What was said in that stream is not kept any more: chat is kept for %d days. It cannot be rehearsed; House > Privacy says for how long it is kept.", x.house.Plan().Settings.Privacy.KeepDays)
	case errors.Is(err, rehearse.ErrNone):
		out.Problem = "That stream is not in the log: it was brought in from a file, or is still on."
	case err != nil:
		out.Problem = err.Error()
	case result != nil:
		out.Result = x.result(c.Request().Context(), result)
	}
	return c.JSON(http.StatusOK, out)
}

// CallOffRehearsal answers DELETE /api/rehearsal/jobs/{id}.
func (x *Rehearsing) CallOffRehearsal(c *echo.Context, id string) error {
	j, err := x.job(c, id)
	if err != nil {
		return err
	}
	j.CallOff()
	return c.NoContent(http.StatusNoContent)
}

// GetMoment answers GET /api/rehearsal/jobs/{id}/moment.
func (x *Rehearsing) GetMoment(c *echo.Context, id string, params spec.GetMomentParams) error {
	j, err := x.job(c, id)
	if err != nil {
		return err
	}
	_, _, result, _ := j.State()
	if result == nil {
		return edge.Problem(http.StatusConflict, "Nothing came of it yet", "Wait until it is lived.")
	}
	return c.JSON(http.StatusOK, moment(result, params.At))
}

// GetWrittenEvening answers GET /api/rehearsal/evenings/{name}.
func (x *Rehearsing) GetWrittenEvening(c *echo.Context, name string) error {
	_, e, err := x.house.Rehearser.Named(c.Request().Context(), name)
	if err != nil {
		return none(err)
	}
	return c.JSON(http.StatusOK, spec.WrittenEvening{Script: e.Script, At: e.At})
}

// SetEvening answers PUT /api/rehearsal/evenings/{name}.
func (x *Rehearsing) SetEvening(c *echo.Context, name string) error {
	var in spec.EveningIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx, member := c.Request().Context(), edge.MemberOf(c).Name
	w, err := x.evening(ctx, spec.RehearsalWanted{Stream: in.Stream, Script: in.Script, Dials: in.Dials})
	if err != nil {
		return err
	}
	if in.Was != "" && in.Seen.IsZero() {
		return &event.FieldError{Field: "seen", Remedy: "is missing; say as of when you saw the evening it is put in place of"}
	}
	seen := evenings.Seen{Name: in.Was, At: in.Seen}
	if !in.Keep {
		if w.Script == nil {
			return &event.FieldError{Field: "script", Remedy: "is missing; only a written evening is kept with nothing expected of it"}
		}
		err = x.house.Rehearser.Write(ctx, name, w.Script, member, seen)
	} else {
		var want expect.Expected
		if want, err = edge.Recast[expect.Expected](in.Expected); err != nil {
			return err
		}
		err = x.house.Rehearser.Keep(ctx, rehearse.Keep{Name: name, Of: w, AsNow: in.AsNow, Expected: want, Member: member, Seen: seen})
	}
	switch {
	case errors.Is(err, evenings.ErrTaken):
		return edge.Problem(http.StatusConflict, "An evening has that name already", "Give this one another name; or open that one, and change it there.")
	case errors.Is(err, evenings.ErrChanged):
		return edge.Problem(http.StatusConflict, "Somebody changed this evening meanwhile", "Give yours another name, and both are there; or open it anew.")
	case err != nil:
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// DropEvening answers DELETE /api/rehearsal/evenings/{name}.
func (x *Rehearsing) DropEvening(c *echo.Context, name string) error {
	if err := x.house.Rehearser.Drop(c.Request().Context(), name); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// BringEveningBack answers POST /api/rehearsal/evenings/{name}/back.
func (x *Rehearsing) BringEveningBack(c *echo.Context, name string) error {
	err := x.house.Rehearser.Back(c.Request().Context(), name)
	if errors.Is(err, pg.ErrNone) {
		return edge.Problem(http.StatusNotFound, "It cannot be brought back", "It was taken away more than a day ago, or another evening has its name now.")
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// EveningAsItShould answers POST /api/rehearsal/evenings/{name}/should.
func (x *Rehearsing) EveningAsItShould(c *echo.Context, name string) error {
	if err := x.house.Rehearser.AsItShould(c.Request().Context(), name, edge.MemberOf(c).Name); err != nil {
		return none(err)
	}
	return c.NoContent(http.StatusNoContent)
}
