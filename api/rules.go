package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/core/courtesy"
	"vividporch/core/house"
	"vividporch/spec"
	"vividporch/store"
)

// recast carries a value over to a type of the same JSON shape.
func recast[T any](v any) (out T, err error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return out, err
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	return out, dec.Decode(&out)
}

// ruleOf is a courtesy without its wordings.
func ruleOf(c courtesy.Courtesy) (r spec.CourtesyRule, err error) {
	r = spec.CourtesyRule{When: c.When, Slot: string(c.Slot), Also: c.Also, OffLine: c.OffLine, Away: c.Away, Outputs: []spec.RuleOutput{}}
	if r.Who, err = recast[spec.Who](c.Who); err != nil {
		return r, err
	}
	if c.Measure != nil {
		if r.Measure, err = recast[spec.Measure](c.Measure); err != nil {
			return r, err
		}
		if *c.Measure == (courtesy.Measure{}) {
			r.Measure.Of = courtesy.MainNumber(c.When)
		}
	}
	for _, o := range c.Do {
		r.Outputs = append(r.Outputs, spec.RuleOutput{ID: o.ID, Kind: string(o.Kind), Place: o.Place, DelaySeconds: float32(o.DelaySeconds)})
	}
	return r, nil
}

// AddCourtesy answers POST /api/courtesies.
func (s *Server) AddCourtesy(c *echo.Context) error {
	var in spec.NewCourtesy
	if err := decode(c, &in); err != nil {
		return err
	}
	var made courtesy.Courtesy
	v, err := s.house.ChangeSettings(c.Request().Context(), memberOf(c).Name, "a new courtesy", func(set *house.Settings) error {
		made = courtesy.Courtesy{When: in.When, Slot: courtesy.Slot(in.Slot)}
		name := in.When[strings.LastIndexByte(in.When, '.')+1:]
		if in.From != "" {
			from, err := findCourtesy(set, in.From)
			if err != nil {
				return err
			}
			if made, err = recast[courtesy.Courtesy](from); err != nil {
				return err
			}
			made.On, made.Away, name = false, false, in.From
		} else {
			made.Do = []courtesy.Output{courtesy.Starter(made, courtesy.Say, "", "chat")}
		}
		for i := 2; ; i++ {
			made.ID = fmt.Sprintf("%s-%d", strings.TrimRight(name, "-0123456789"), i)
			if !slices.ContainsFunc(set.Courtesy, func(k courtesy.Courtesy) bool { return k.ID == made.ID }) {
				break
			}
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
	return s.change(c, "when and who of "+id, func(set *house.Settings) error {
		cy, err := findCourtesy(set, id)
		if err != nil {
			return err
		}
		if cy.Who, err = recast[courtesy.Who](in.Who); err != nil {
			return err
		}
		cy.Measure = nil
		if in.Measure != (spec.Measure{}) {
			if cy.Measure, err = recast[*courtesy.Measure](in.Measure); err != nil {
				return err
			}
		}
		cy.When, cy.Slot, cy.Also, cy.OffLine, cy.Away = in.When, courtesy.Slot(in.Slot), in.Also, in.OffLine, in.Away
		do := []courtesy.Output{}
		for i, o := range in.Outputs {
			at := slices.IndexFunc(cy.Do, func(k courtesy.Output) bool { return k.ID == o.ID })
			out := courtesy.Starter(*cy, courtesy.OutputKind(o.Kind), o.Place, fmt.Sprint(o.Kind, "-", i+1))
			if at >= 0 {
				out = cy.Do[at]
			}
			out.Kind, out.Place, out.DelaySeconds = courtesy.OutputKind(o.Kind), o.Place, float64(o.DelaySeconds)
			do = append(do, out)
		}
		cy.Do = do
		return nil
	})
}

// ClimbLadder answers POST /api/courtesies/ladder.
func (s *Server) ClimbLadder(c *echo.Context) error {
	var in spec.ClimbLadder
	if err := decode(c, &in); err != nil {
		return err
	}
	var q *courtesy.Quantity
	if in.Of != "" {
		q = &courtesy.Quantity{Of: in.Of, Currency: in.Currency, N: in.Number}
	}
	got, err := s.house.Climb(c.Request().Context(), in.When, courtesy.Slot(in.Slot), in.Account, q)
	if errors.Is(err, store.ErrNone) {
		return problem(http.StatusNotFound, "Nobody in the guest book has this account", "Choose somebody from the book.")
	}
	if err != nil {
		return err
	}
	out := spec.Ladder{Standing: string(got.Standing), Why: got.Why, Rungs: []spec.Rung{}, Line: []spec.Stretch{}}
	for _, r := range got.Rungs {
		out.Rungs = append(out.Rungs, spec.Rung{Courtesy: r.Courtesy, Won: r.Won, Why: r.Why})
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

// composing fills in what a courtesy is composed from.
func (s *Server) composing(out *spec.Courtesies) {
	plan := s.house.Plan()
	out.Ties, out.Whens, out.Places, out.Platforms = []spec.Tie{}, []spec.When{}, []spec.PlaceName{}, plan.Chat()
	for _, t := range plan.Set.Ties(20) {
		out.Ties = append(out.Ties, spec.Tie{First: t.First, Second: t.Second, Why: t.Why})
	}
	for _, w := range courtesy.Whens() {
		v := spec.When{Type: w.Type, Words: w.Words, Numbers: append([]string{}, w.Numbers...), Fields: append([]string{}, w.Fields...)}
		for _, slot := range w.Slots {
			v.Slots = append(v.Slots, string(slot))
		}
		out.Whens = append(out.Whens, v)
	}
	for _, p := range plan.Settings.Places {
		out.Places = append(out.Places, spec.PlaceName{Name: p.Name, Title: p.Title})
	}
}

// names tells what the places, crews and people in the courtesies are called. Where
// the book does not answer, ids stand for themselves.
func (s *Server) names(ctx context.Context) courtesy.Names {
	crews, people := map[string]string{}, map[string]string{}
	var accounts []string
	uses := false
	for _, r := range s.house.Plan().Settings.Courtesy {
		r.Who.Each(func(w *courtesy.Who) {
			uses = uses || w.Crews != nil
			if w.Account != "" {
				accounts = append(accounts, w.Account)
			}
		})
	}
	if uses {
		if list, err := s.store.CrewList(ctx, s.house.ID); err == nil {
			for _, c := range list {
				crews[c.ID] = c.Name
			}
		}
	}
	if len(accounts) > 0 {
		if list, err := s.store.AccountNames(ctx, s.house.ID, accounts); err == nil {
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
	return courtesy.Names{Place: s.placeTitle, Crew: from(crews), Account: from(people)}
}
