package api

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/core/wording"
	"vividporch/porch/desk"
	"vividporch/spec"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// GetCourtesies answers GET /api/courtesies.
func (s *Server) GetCourtesies(c *echo.Context) error {
	drafts, err := s.store.Log.Drafts(c.Request().Context(), s.house.ID)
	if err != nil {
		return err
	}
	plan := s.house.Plan()
	out := spec.Courtesies{Version: plan.Version, Never: append([]string{}, plan.Whole.Never...), People: samplePeople(), Courtesies: []spec.CourtesyView{}}
	if err := s.composing(c.Request().Context(), &out); err != nil {
		return err
	}
	asked, err := s.house.Asked(c.Request().Context())
	if err != nil {
		return err
	}
	names := s.names(c.Request().Context())
	for _, cy := range plan.Whole.Courtesy {
		v := spec.CourtesyView{ID: cy.ID, On: cy.On, Lane: prose.Lane(cy), When: cy.When, Silent: len(cy.Do) == 0, Sentence: []spec.Part{}, Outputs: []spec.OutputView{},
			FillIns: fillIns(plan.World().Offers(cy)), JoinedFillIns: fillIns(happening.Of(cy.When).JoinedOffers())}
		if v.Rule, err = ruleOf(cy); err != nil {
			return err
		}
		if n, ok := asked[cy.ID]; ok {
			v.Asked = spec.WhenAsked{Times: n.Times, Tonight: n.Tonight, Last: n.Last, When: n.When}
		}
		if cy.When == happening.Command {
			v.Clashes = clashes(plan, cy)
		}
		for _, p := range prose.Sentence(cy, names) {
			v.Sentence = append(v.Sentence, spec.Part{Text: p.Text, Strong: p.Strong})
		}
		for _, o := range cy.Do {
			own := o.Wordings()
			ov := spec.OutputView{ID: o.ID, Kind: string(o.Kind()), Place: s.placeTitle(o.Place()), Alternatives: append([]string{}, o.Alternatives...), Joined: o.Joined,
				Weights: o.Weights, Second: own["second"], Fields: fieldsIn(own), Does: o.Does(names), Worded: o.Worded(), Joins: o.Joins() && (len(o.Joined) > 0 || cy.Burst != nil)}
			if o.Way() == output.ToChat {
				ov.MaxBytes = plan.MostBytes(o.On)
			}
			v.Outputs = append(v.Outputs, ov)
		}
		for _, d := range drafts {
			if d.Courtesy != cy.ID {
				continue
			}
			if d.Member != memberOf(c).Name {
				v.Others = append(v.Others, d.Member)
				continue
			}
			var draft spec.Draft
			if json.Unmarshal(d.Doc, &draft) == nil {
				v.Draft = draft
				v.Faults = edge.Faults(plan.World().Faults(cy, words(draft)))
			}
		}
		out.Courtesies = append(out.Courtesies, v)
	}
	return c.JSON(http.StatusOK, out)
}

func fillIns(fs []wording.FillIn) []spec.FillIn {
	out := []spec.FillIn{}
	for _, f := range fs {
		out = append(out, spec.FillIn{Name: f.Name, Kind: string(f.Kind), Tells: f.Tells, Example: f.Example, Optional: f.Optional})
	}
	return out
}

// findCourtesy finds a courtesy of the settings by id.
func findCourtesy(s *housefile.Settings, id string) (*courtesy.Courtesy, error) {
	i := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == id })
	if i < 0 {
		return nil, problem(http.StatusNotFound, "There is no such courtesy", "It may have been taken out; reload the page.")
	}
	return &s.Courtesy[i], nil
}

// words are the words of a draft.
func words(d spec.Draft) []output.Words {
	out := []output.Words{}
	for _, o := range d.Outputs {
		out = append(out, output.Words{Output: o.ID, Alternatives: o.Alternatives, Weights: o.Weights, Joined: o.Joined, Own: ownWordings(o)})
	}
	return out
}

// ownWordings are the wordings of an output's kind, by the fields they stand in.
func ownWordings(o spec.DraftOutput) map[string]string {
	own := map[string]string{}
	if o.Second != "" {
		own["second"] = o.Second
	}
	for name, src := range o.Fields {
		own["fields."+name] = src
	}
	return own
}

// fieldsIn are the fields of a raised event among the wordings of its kind; nil where it has
// none.
func fieldsIn(own map[string]string) map[string]string {
	var out map[string]string
	for at, src := range own {
		if name, ok := strings.CutPrefix(at, "fields."); ok {
			if out == nil {
				out = map[string]string{}
			}
			out[name] = src
		}
	}
	return out
}

// SwitchCourtesy answers POST /api/courtesies/{id}/switch.
func (s *Server) SwitchCourtesy(c *echo.Context, id string) error {
	var in spec.Switch
	if err := decode(c, &in); err != nil {
		return err
	}
	what := "switched off: " + id
	if in.On {
		what = "switched on: " + id
	}
	return s.change(c, what, func(set *housefile.Settings) error {
		cy, err := findCourtesy(set, id)
		if err == nil {
			cy.On = in.On
		}
		return err
	})
}

// change makes a new version of the settings and answers with its number.
func (s *Server) change(c *echo.Context, what string, f func(*housefile.Settings) error) error {
	v, err := s.house.Desk.ChangeSettings(c.Request().Context(), by(c), what, f)
	return s.inForce(c, v, err)
}

// inForce answers a change of the settings.
func (s *Server) inForce(c *echo.Context, v int64, err error) error {
	return edge.InForce(c, s.house, v, err)
}

// SaveDraft answers PUT /api/courtesies/{id}/draft.
func (s *Server) SaveDraft(c *echo.Context, id string) error {
	var in spec.Draft
	if err := decode(c, &in); err != nil {
		return err
	}
	now, err := findCourtesy(s.house.Plan().Whole, id)
	if err != nil {
		return err
	}
	doc, err := json.Marshal(in)
	if err != nil {
		return err
	}
	if err := s.store.Log.SaveDraft(c.Request().Context(), tables.Draft{Channel: s.house.ID, Courtesy: id, Member: memberOf(c).Name, Base: by(c).Base, Doc: doc}); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, s.drafted(*now, in))
}

func (s *Server) drafted(now courtesy.Courtesy, d spec.Draft) spec.Drafted {
	before, _ := json.Marshal(now)
	after, _ := json.Marshal(now.Reworded(words(d)))
	faults := edge.Faults(s.house.Plan().World().Faults(now, words(d)))
	return spec.Drafted{Valid: len(faults) == 0, Changed: string(before) != string(after), Faults: faults}
}

// DropDraft answers DELETE /api/courtesies/{id}/draft.
func (s *Server) DropDraft(c *echo.Context, id string) error {
	if err := s.store.Log.DropDraft(c.Request().Context(), s.house.ID, id, memberOf(c).Name); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// EnactDraft answers POST /api/courtesies/{id}/enact.
func (s *Server) EnactDraft(c *echo.Context, id string) error {
	ctx := c.Request().Context()
	drafts, err := s.store.Log.Drafts(ctx, s.house.ID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(drafts, func(d tables.Draft) bool { return d.Courtesy == id && d.Member == memberOf(c).Name })
	if i < 0 {
		return c.JSON(http.StatusOK, spec.InForce{Version: s.house.Plan().Version})
	}
	var draft spec.Draft
	if err := json.Unmarshal(drafts[i].Doc, &draft); err != nil {
		return err
	}
	now, err := findCourtesy(s.house.Plan().Whole, id) // as it is by now: its when may have changed since the words were begun
	if err != nil {
		return err
	}
	if faults := s.house.Plan().World().Faults(*now, words(draft)); len(faults) > 0 {
		return s.inForce(c, 0, desk.Faults(faults))
	}
	who := by(c)
	if who.Base == 0 { // the version that the words were typed on
		who.Base = drafts[i].Base
	}
	v, err := s.house.Desk.ChangeSettings(ctx, who, "wording of "+id, func(set *housefile.Settings) error {
		cy, err := findCourtesy(set, id)
		if err == nil {
			*cy = cy.Reworded(words(draft))
		}
		return err
	})
	if err == nil || errors.Is(err, desk.ErrUnchanged) {
		if err := s.store.Log.DropDraft(ctx, s.house.ID, id, memberOf(c).Name); err != nil {
			return err
		}
	}
	return s.inForce(c, v, err)
}

// TryWording answers POST /api/courtesies/{id}/try.
func (s *Server) TryWording(c *echo.Context, id string) error {
	var in spec.TryWordings
	if err := decode(c, &in); err != nil {
		return err
	}
	plan := s.house.Plan()
	cy, err := findCourtesy(plan.Whole, id)
	if err != nil {
		return err
	}
	person := room.Sample{Name: in.Person.Name, Streams: int64(in.Person.Streams), Viewers: in.Person.Viewers, Link: in.Person.Link, Category: in.Person.Category}
	offered, joined := plan.World().Offers(*cy), happening.Of(cy.When).JoinedOffers()
	args, longest, nine := room.SampleArgs(plan, cy.When, person), room.SampleArgs(plan, cy.When, house.Longest), room.SampleJoinedArgs(plan, cy.When)
	out := spec.Tried{Outputs: []spec.TriedOutput{}}
	for _, o := range in.Outputs {
		one := spec.TriedOutput{ID: o.ID, Alternatives: tried(o.Alternatives, offered, args, longest), Joined: tried(o.Joined, joined, nine, nine)}
		if o.Second != "" {
			one.Second = tried([]string{o.Second}, offered, args, longest)[0].Text
		}
		out.Outputs = append(out.Outputs, one)
	}
	return c.JSON(http.StatusOK, out)
}

// tried renders wordings, or says what is wrong with them.
func tried(wordings []string, offered []wording.FillIn, args, longest wording.Args) []spec.TriedOne {
	out := []spec.TriedOne{}
	for i, src := range wordings {
		w, problems := courtesy.CheckWording(src, offered)
		one := spec.TriedOne{Faults: []spec.Fault{}}
		for _, p := range problems {
			one.Faults = append(one.Faults, edge.Faults([]courtesy.Fault{{At: fmt.Sprint(i), Problem: &p, What: p.What, Remedy: p.Remedy, Source: src}})...)
		}
		if w != nil {
			one.Text = w.Render(args)
			one.Bytes, one.Longest = len(one.Text), len(w.Render(longest))
		}
		out = append(out, one)
	}
	return out
}

// GetHistory answers GET /api/settings/history.
func (s *Server) GetHistory(c *echo.Context) error {
	vs, err := s.store.Log.SettingsHistory(c.Request().Context(), s.house.ID, 30)
	if err != nil {
		return err
	}
	var accounts []string
	for _, v := range vs {
		if v.Account != "" {
			accounts = append(accounts, v.Account)
		}
	}
	called, err := s.store.Book.AccountNames(c.Request().Context(), s.house.ID, accounts)
	if err != nil {
		return err
	}
	out := []spec.Version{}
	for _, v := range vs {
		by := v.Member
		if v.Account != "" {
			by = cmp.Or(called[v.Account], "somebody") + ", in chat"
		}
		out = append(out, spec.Version{Version: v.Version, At: v.At, Member: by, What: v.What})
	}
	return c.JSON(http.StatusOK, out)
}

// UndoVersion answers POST /api/settings/undo.
func (s *Server) UndoVersion(c *echo.Context) error {
	var in spec.Undo
	if err := decode(c, &in); err != nil {
		return err
	}
	v, err := s.house.Desk.Undo(c.Request().Context(), by(c), in.Version)
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "There is no such version", "Look at what was changed, and choose one of those.")
	}
	return s.inForce(c, v, err)
}

// SetNever answers PUT /api/settings/never.
func (s *Server) SetNever(c *echo.Context) error {
	var in spec.NeverList
	if err := decode(c, &in); err != nil {
		return err
	}
	list := []string{}
	for _, n := range in.Never {
		if n = strings.TrimPrefix(strings.TrimSpace(n), "@"); n != "" && !slices.Contains(list, n) {
			list = append(list, n)
		}
	}
	return s.change(c, "those never greeted", func(set *housefile.Settings) error { set.Never = list; return nil })
}

// samplePeople are people of the sample world to try wordings with; the last has
// the longest name there is.
func samplePeople() []spec.SamplePerson {
	longest := house.Longest
	link := func(login string) string { return "https://quayside.example/" + login }
	return []spec.SamplePerson{
		{ID: "kelpwright", Name: "kelpwright", Standing: "returning", Streams: 17, Viewers: 37, Category: "Cold frame kelp", Link: link("kelpwright")},
		{ID: "tidewrack", Name: "tidewrack", Standing: "newcomer", Streams: 1, Viewers: 6},
		{ID: "limpet_lena", Name: "Limpet Lena", Standing: "returning", Streams: 41, Viewers: 12, Category: "Rock pools by torchlight", Link: link("limpet_lena")},
		{ID: "night_heron_cam", Name: "night_heron_cam", Standing: "returning", Streams: 3, Viewers: 120, Category: "Reedbed at dusk", Link: link("night_heron_cam")},
		{ID: "longest", Name: longest.Name, Standing: "returning", Streams: int(longest.Streams), Viewers: longest.Viewers, Category: longest.Category, Link: longest.Link},
	}
}
