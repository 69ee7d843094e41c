package api

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/forecast"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/porch/desk"
	"vividporch/porch/screen"
	"vividporch/spec"
	"vividporch/store/pg"
)

// ruleOf is a courtesy without its wordings.
func ruleOf(c courtesy.Courtesy) (r spec.CourtesyRule, err error) {
	r = spec.CourtesyRule{When: c.When, Slot: string(c.Slot), Also: c.Also, Only: c.Only, OffLine: c.OffLine, Away: c.Away, Asks: c.Asks, Group: c.Group, Title: c.Title, Tells: c.Tells, DelaySeconds: c.Delay, Cost: c.Cost, Outputs: []spec.RuleOutput{}}
	if c.Asked != nil {
		if r.Asked, err = edge.Strictly[spec.Asking](c.Asked); err != nil {
			return r, err
		}
	}
	if c.Timer != nil {
		r.Timer = spec.Timer{Minutes: c.Timer.Minutes, Lines: c.Timer.Lines, OffMinutes: c.Timer.OffMinutes}
	}
	if c.Burst != nil {
		r.Burst = spec.Burst{Seconds: c.Burst.Seconds, At: c.Burst.At}
	}
	if r.Who, err = edge.Strictly[spec.Who](c.Who); err != nil {
		return r, err
	}
	if r.Measure, err = measureView(c.Measure, c.When); err != nil {
		return r, err
	}
	for _, o := range c.Do {
		m := o.Measure
		o = o.Bare()
		o.Measure = nil
		v, err := edge.Strictly[spec.RuleOutput](o)
		if err != nil {
			return r, err
		}
		if v.Measure, err = measureView(m, c.When); err != nil {
			return r, err
		}
		r.Outputs = append(r.Outputs, v)
	}
	return r, nil
}

// measureView shows a measure; "otherwise" names the number it is about, since
// without anything it would be none.
func measureView(m *who.Measure, when string) (v spec.Measure, err error) {
	if m == nil {
		return v, nil
	}
	if v, err = edge.Strictly[spec.Measure](m); err == nil && *m == (who.Measure{}) {
		v.Of = happening.Of(when).Main()
	}
	return v, err
}

func measureOf(v spec.Measure) (*who.Measure, error) {
	if v == (spec.Measure{}) {
		return nil, nil
	}
	return edge.Strictly[*who.Measure](v)
}

// outputOf is an output as a rule says it, without words.
func outputOf(v spec.RuleOutput) (o output.Output, err error) {
	only, measure := v.Only, v.Measure
	v.Only, v.Measure = spec.Who{}, spec.Measure{}
	if o, err = edge.Strictly[output.Output](v); err != nil {
		return o, err
	}
	if o.Only, err = edge.Strictly[*who.Who](only); err != nil {
		return o, err
	}
	if raw, _ := json.Marshal(only); string(raw) == "{}" {
		o.Only = nil
	}
	o.Measure, err = measureOf(measure)
	return o, err
}

// composed is a courtesy as a rule has it.
func composed(in spec.CourtesyRule) (c courtesy.Courtesy, err error) {
	c = courtesy.Courtesy{When: in.When, Slot: happening.Slot(in.Slot), Also: in.Also, Only: in.Only, OffLine: in.OffLine, Away: in.Away, Asks: in.Asks, Group: in.Group, Title: in.Title, Tells: in.Tells, Delay: in.DelaySeconds, Cost: in.Cost}
	if c.Who, err = edge.Strictly[who.Who](in.Who); err != nil {
		return c, err
	}
	if c.Measure, err = measureOf(in.Measure); err != nil {
		return c, err
	}
	asked, err := edge.Strictly[courtesy.Asking](in.Asked)
	if err != nil {
		return c, err
	}
	if !asked.IsZero() {
		c.Asked = &asked
	}
	if in.Timer != (spec.Timer{}) {
		c.Timer = &courtesy.Timer{Minutes: in.Timer.Minutes, Lines: in.Timer.Lines, OffMinutes: in.Timer.OffMinutes}
	}
	if in.Burst != (spec.Burst{}) {
		c.Burst = &courtesy.Burst{Seconds: in.Burst.Seconds, At: in.Burst.At}
	}
	for _, v := range in.Outputs {
		o, err := outputOf(v)
		if err != nil {
			return c, err
		}
		c.Do = append(c.Do, o)
	}
	return c, nil
}

// AddCourtesy answers POST /api/courtesies.
func (s *Server) AddCourtesy(c *echo.Context) error {
	var in spec.NewCourtesy
	if err := decode(c, &in); err != nil {
		return err
	}
	if in.Account != "" {
		plan := s.house.Plan()
		if id, there := prose.OwnWords(plan.Whole.Courtesy, in.Account, in.When, happening.Slot(in.Slot)); there {
			return c.JSON(http.StatusOK, spec.Added{ID: id, Version: plan.Version})
		}
		if _, err := s.somebody(c, in.Account); err != nil {
			return err
		}
	}
	var made courtesy.Courtesy
	v, err := s.house.Desk.ChangeSettings(c.Request().Context(), desk.By{Member: memberOf(c).Name, Role: memberOf(c).Role}, "a new courtesy", func(set *housefile.Settings) error {
		made = prose.New(set.Courtesy, in.When, happening.Slot(in.Slot))
		if in.From != "" {
			from, err := findCourtesy(set, in.From)
			if err != nil {
				return err
			}
			made = prose.Copy(set.Courtesy, *from)
		}
		made.Who.Account = cmp.Or(in.Account, made.Who.Account)
		if in.Of != "" {
			of, err := findCourtesy(set, in.Of)
			if err != nil {
				return err
			}
			made = prose.NowAndThen(set.Courtesy, *of)
		}
		if in.Says != "" {
			made = prose.Answering(set.Courtesy, in.Asks, in.Says)
		}
		set.Courtesy = append(set.Courtesy, made)
		return nil
	})
	if err != nil {
		return s.inForce(c, v, err)
	}
	return c.JSON(http.StatusOK, spec.Added{ID: made.ID, Version: v})
}

// ChangeCourtesy answers PUT /api/courtesies/{id}.
func (s *Server) ChangeCourtesy(c *echo.Context, id string) error {
	var in spec.CourtesyRule
	if err := decode(c, &in); err != nil {
		return err
	}
	rule, err := composed(in)
	if err != nil {
		return err
	}
	return s.change(c, "when and who of "+id, func(set *housefile.Settings) error {
		cy, err := findCourtesy(set, id)
		if err == nil {
			*cy = prose.Composed(*cy, rule)
		}
		return err
	})
}

// HoldWords answers POST /api/courtesies/words.
func (s *Server) HoldWords(c *echo.Context) error {
	var in spec.Words
	if err := decode(c, &in); err != nil {
		return err
	}
	plan := s.house.Plan()
	out := spec.WordsHeld{Clashes: []spec.WordClash{}}
	cy := courtesy.Courtesy{ID: in.ID, When: happening.Command, Slot: happening.Answer, Asks: in.Asks, Asked: &courtesy.Asking{Words: in.Words}}
	if was, err := findCourtesy(plan.Whole, in.ID); err == nil {
		cy.Who, cy.Slot, cy.Also = was.Who, was.Slot, was.Also
	}
	for _, f := range cy.WordFaults() {
		out.Clashes = append(out.Clashes, spec.WordClash{At: f.At, What: f.What + "; " + f.Remedy, With: []string{}})
	}
	out.Clashes = append(out.Clashes, clashes(plan, cy)...)
	return c.JSON(http.StatusOK, out)
}

// clashes are the words of a command that others are asked by too.
func clashes(plan *room.Plan, cy courtesy.Courtesy) (out []spec.WordClash) {
	for _, x := range plan.Set.Clashes(cy, plan.AllSigns()) {
		what := "is asked by it too; the one that stands first answers"
		if x.Apart {
			what = "is asked by it too, for other people: each answers its own"
		}
		out = append(out, spec.WordClash{At: x.At, Word: x.Word, What: what, With: x.With, Fine: x.Apart})
	}
	return out
}

// SetTimes answers PUT /api/courtesies/{id}/times.
func (s *Server) SetTimes(c *echo.Context, id string) error {
	var in spec.Times
	if err := decode(c, &in); err != nil {
		return err
	}
	if _, err := findCourtesy(s.house.Plan().Whole, id); err != nil {
		return err
	}
	asked, err := s.house.Asked(c.Request().Context())
	if err != nil {
		return err
	}
	return s.desk(c, &event.CounterSet{Courtesy: id, Times: in.Times, Was: asked[id].Times, Member: memberOf(c).Name})
}

// ClimbLadder answers POST /api/courtesies/ladder.
func (s *Server) ClimbLadder(c *echo.Context) error {
	var in spec.ClimbLadder
	if err := decode(c, &in); err != nil {
		return err
	}
	var q *who.Quantity
	if in.Of != "" {
		q = &who.Quantity{Of: in.Of, Currency: in.Currency, N: in.Number}
	}
	got, err := s.house.Desk.Climb(c.Request().Context(), in.When, happening.Slot(in.Slot), in.Account, q, in.Courtesy)
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "Nobody in the guest book has this account", "Choose somebody from the book.")
	}
	if err != nil {
		return err
	}
	names := s.names(c.Request().Context())
	out := spec.Ladder{Standing: string(got.Standing), Why: got.Why, Rungs: []spec.Rung{}, Line: []spec.Stretch{}, Does: doings(got.Does)}
	for _, r := range got.Rungs {
		out.Rungs = append(out.Rungs, spec.Rung{Courtesy: r.Courtesy, Won: r.Won, Why: called(names, r.Why)})
	}
	for _, l := range got.Line {
		st := spec.Stretch{From: l.From, Open: l.To == nil, Courtesy: l.Courtesy, Under: l.Under}
		if l.To != nil {
			st.To = *l.To
		}
		if st.Under == nil {
			st.Under = []string{}
		}
		out.Line = append(out.Line, st)
	}
	return c.JSON(http.StatusOK, out)
}

func doings(list []house.Doing) []spec.Doing {
	out := []spec.Doing{}
	for _, d := range list {
		v := spec.Doing{Output: d.Output, Kind: string(d.Kind), To: d.Platform, Text: d.Text, After: d.After, Refused: d.Kind == hall.Refuse, Because: d.Because}
		if d.Kind == hall.Planned {
			v.Kind = string(output.KindSay)
		}
		if d.Place != "" {
			v.To = d.Place
		}
		var told output.Told
		if v.Text == "" && d.Kind != hall.Raise && json.Unmarshal(d.Body, &told) == nil {
			v.Text = told.Gist()
		}
		out = append(out, v)
	}
	return out
}

// CountWhom answers POST /api/courtesies/whom.
func (s *Server) CountWhom(c *echo.Context) error {
	var in spec.Who
	if err := decode(c, &in); err != nil {
		return err
	}
	who, err := edge.Strictly[who.Who](in)
	if err != nil {
		return err
	}
	m, err := s.store.Find.CountWho(c.Request().Context(), s.house.ID, &who)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Whom{People: m.People, Lately: m.Lately, More: m.More, AtMost: m.AtMost})
}

// CheckCourtesies answers GET /api/courtesies/check.
func (s *Server) CheckCourtesies(c *echo.Context) error {
	found, err := s.house.Desk.Review(c.Request().Context())
	if err != nil {
		return err
	}
	lacks, err := s.house.SignIns.Lacks(c.Request().Context())
	if err != nil {
		return err
	}
	found = append(found, lacks...)
	names := s.names(c.Request().Context())
	out := spec.Findings{Items: []spec.Finding{}}
	for _, f := range found {
		out.Items = append(out.Items, spec.Finding{Courtesy: f.Courtesy, Kind: spec.FindingKind(f.Kind), What: called(names, f.What), Remedy: f.Remedy})
	}
	return c.JSON(http.StatusOK, out)
}

// TryForReal answers POST /api/courtesies/{id}/street.
func (s *Server) TryForReal(c *echo.Context, id string) error {
	var in spec.TryForReal
	if err := decode(c, &in); err != nil {
		return err
	}
	if _, err := findCourtesy(s.house.Plan().Whole, id); err != nil {
		return err
	}
	who, err := s.somebody(c, in.Account)
	if err != nil {
		return err
	}
	return s.desk(c, &event.DeskAsked{Act: "try", Courtesy: id, Person: who, Number: in.Number, Member: memberOf(c).Name})
}

// lastOthers is how many events of other services are looked through for what could
// be described.
const lastOthers = 500

// GetSeen answers GET /api/settings/own.
func (s *Server) GetSeen(c *echo.Context) error {
	came, err := s.store.Log.Others(c.Request().Context(), s.house.ID, lastOthers)
	if err != nil {
		return err
	}
	out := spec.SeenEvents{Events: []spec.OwnEvent{}}
	for _, o := range housefile.Describe(came, s.house.Plan().Whole.Own) {
		out.Events = append(out.Events, spec.OwnEvent{Event: o.Event, Fields: o.Fields})
	}
	return c.JSON(http.StatusOK, out)
}

// SetOwn answers PUT /api/settings/own.
func (s *Server) SetOwn(c *echo.Context) error {
	var in spec.OwnParts
	if err := decode(c, &in); err != nil {
		return err
	}
	return s.change(c, "fill-ins, emotes and events of our own", func(set *housefile.Settings) (err error) {
		if set.FillIns, err = edge.Strictly[[]housefile.FillIn](in.FillIns); err != nil {
			return err
		}
		if set.Emotes, err = edge.Strictly[[]housefile.Emote](in.Emotes); err != nil {
			return err
		}
		set.Own, err = edge.Strictly[[]housefile.OtherEvent](in.Events)
		return err
	})
}

// composing fills in what a courtesy is composed from.
func (s *Server) composing(ctx context.Context, out *spec.Courtesies) error {
	plan := s.house.Plan()
	out.Ties, out.Whens, out.Places, out.Platforms = []spec.Tie{}, []spec.When{}, []spec.PlaceName{}, append([]string{}, plan.Chat()...)
	for _, t := range plan.Set.Ties(20) {
		out.Ties = append(out.Ties, spec.Tie{First: t.First, Second: t.Second, Why: t.Why})
	}
	for _, w := range happening.Whens() {
		v := spec.When{Type: w.Type, Words: w.Words, Numbers: append([]string{}, w.NumberNames()...), Fields: append([]string{}, w.TextNames()...)}
		for _, slot := range w.Slots {
			v.Slots = append(v.Slots, string(slot))
		}
		out.Whens = append(out.Whens, v)
	}
	out.Fittings, out.Acts, out.Streamer = []spec.FittingView{}, screen.Acts(plan), append([]string{}, plan.World().Streamer...)
	out.Screens, out.Voices = screens(plan), append([]string{}, s.house.Speaker.Voices(ctx)...)
	for _, f := range plan.Settings.Fittings {
		out.Fittings = append(out.Fittings, spec.FittingView{Name: f.Name, Title: cmp.Or(f.Title, f.Name), Kind: f.Kind, Scenes: append([]string{}, f.Scenes...), Voices: append([]string{}, f.Voices...), Cannot: f.Cannot()})
	}
	var err error
	out.Own, err = edge.Strictly[spec.OwnParts](struct {
		FillIns []housefile.FillIn     `json:"fillIns"`
		Emotes  []housefile.Emote      `json:"emotes"`
		Events  []housefile.OtherEvent `json:"events"`
	}{append([]housefile.FillIn{}, plan.Whole.FillIns...), append([]housefile.Emote{}, plan.Whole.Emotes...), append([]housefile.OtherEvent{}, plan.Whole.Own...)})
	for _, p := range plan.Settings.Places {
		out.Places = append(out.Places, spec.PlaceName{Name: p.Name, Title: p.Title})
	}
	return err
}

// called puts the names of crews in the place of their ids, where these stand as
// words of their own in a reason.
func called(names who.Names, reason string) string {
	words := strings.Split(reason, " ")
	for i, w := range words {
		if id := strings.TrimRight(w, ",;:."); id != "" {
			words[i] = names.Crew(id) + w[len(id):]
		}
	}
	return strings.Join(words, " ")
}

func calledAll(names who.Names, reasons []string) []string {
	out := []string{}
	for _, r := range reasons {
		out = append(out, called(names, r))
	}
	return out
}

// names tells what the places, crews and people in the courtesies are called. Where
// the book does not answer, ids stand for themselves.
func (s *Server) names(ctx context.Context) who.Names {
	crews, people := map[string]string{}, map[string]string{}
	var accounts []string
	uses := false
	for _, r := range s.house.Plan().Whole.Courtesy {
		r.Who.Each(func(w *who.Who) {
			uses = uses || w.Crews != nil
			if w.Account != "" {
				accounts = append(accounts, w.Account)
			}
		})
	}
	if uses {
		if list, err := s.store.Book.CrewList(ctx, s.house.ID); err == nil {
			for _, c := range list {
				crews[c.ID] = c.Name
			}
		}
	}
	if len(accounts) > 0 {
		if list, err := s.store.Book.AccountNames(ctx, s.house.ID, accounts); err == nil {
			people = list
		}
	}
	from := func(m map[string]string) func(string) string {
		return func(id string) string {
			if n := m[id]; n != "" {
				return n
			}
			return id
		}
	}
	return who.Names{Place: s.placeTitle, Crew: from(crews), Account: from(people), Fitting: s.fittingTitle}
}

func (s *Server) fittingTitle(name string) string {
	if f := s.house.Plan().Settings.FittingNamed(name); f != nil && f.Title != "" {
		return f.Title
	}
	return name
}

// LookAhead answers POST /api/courtesies/forecast: the hour ahead as things stand, or with a rule as if that
// was in force.
func (s *Server) LookAhead(c *echo.Context) error {
	var in spec.LookAhead
	if err := decode(c, &in); err != nil {
		return err
	}
	plan := s.house.Plan()
	if in.ID != "" && in.Rule.When != "" {
		rule, err := composed(in.Rule)
		if err != nil {
			return problem(http.StatusBadRequest, "The courtesy cannot be read", err.Error())
		}
		set := plan.Whole.Clone()
		cy, err := findCourtesy(set, in.ID)
		if err != nil {
			return err
		}
		*cy = prose.Composed(*cy, rule)
		next, faults := house.Ready(set, plan.Version)
		if len(faults) > 0 {
			return s.inForce(c, 0, desk.Faults(faults))
		}
		plan = next
	}
	today := s.house.Clock().In(plan.Zone).Weekday()
	usual, err := s.store.Find.UsualSpeed(c.Request().Context(), s.house.ID, today, plan.Zone.String())
	if err != nil {
		return err
	}
	speeds := []float64{-1} // as chat goes by itself
	if in.Speed != 0 {
		speeds = []float64{in.Speed, -1}
	}
	hours, tonight, err := s.house.Ahead(c.Request().Context(), plan, usual, speeds...)
	if err != nil {
		return err
	}
	h := hours[0]
	out := spec.Forecast{From: h.From, Speed: h.Speed, Tonight: tonight, Usual: usual, Weekday: today.String(), Past: append([]int{}, h.Past...), Shares: []spec.ForecastShare{}, Ceiling: h.Ceiling, Timers: h.Timers, Says: h.Says(), Opens: h.Opens}
	if len(hours) > 1 {
		out.Beside = hours[1].Beside(whoseSpeed(tonight, usual, today))
	}
	out.Marks, out.Was = markViews(h.Marks), markViews(h.Was)
	for _, x := range h.Shares {
		out.Shares = append(out.Shares, spec.ForecastShare{At: x.At, Percent: x.Percent})
	}
	return c.JSON(http.StatusOK, out)
}

func markViews(of []forecast.Mark) []spec.ForecastMark {
	out := []spec.ForecastMark{}
	for _, m := range of {
		out = append(out, spec.ForecastMark{Courtesy: m.Courtesy, Platform: m.Platform, How: spec.ForecastMarkHow(m.How), At: m.At, Due: m.Due, Why: m.Why})
	}
	return out
}

// whoseSpeed names the speed at which chat goes by itself.
func whoseSpeed(tonight, usual float64, today time.Weekday) string {
	switch {
	case tonight > 0:
		return "tonight’s"
	case usual > 0:
		return today.String() + "’s usual"
	default:
		return "a calm"
	}
}

// screens are the overlays, with the boxes in which something can be shown.
func screens(plan *room.Plan) []spec.ScreenView {
	out := []spec.ScreenView{}
	for i := range plan.Settings.Overlays {
		o := &plan.Settings.Overlays[i]
		v := spec.ScreenView{ID: o.ID, Title: o.Title, Boxes: []spec.BoxView{}}
		for k := range o.Boxes {
			b := &o.Boxes[k]
			if takes := box.Of(b.Kind()).Takes; takes != "" {
				v.Boxes = append(v.Boxes, spec.BoxView{ID: b.ID, Title: b.Called(), Takes: takes})
			}
		}
		out = append(out, v)
	}
	return out
}
