package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/prose"
	"vividporch/spec"
	"vividporch/store/log"
	"vividporch/store/pg"
)

// desk logs a member's action and answers with what was decided about it.
func (s *Server) desk(c *echo.Context, d event.Data) error {
	ds, err := s.house.Hand(c.Request().Context(), d)
	if err != nil {
		return err
	}
	return deed(c, ds)
}

// SetHush answers POST /api/desk/hush.
func (s *Server) SetHush(c *echo.Context) error {
	var in spec.Switch
	if err := decode(c, &in); err != nil {
		return err
	}
	return s.desk(c, &event.Hushed{On: in.On, Member: memberOf(c).Name})
}

// HandleLine answers POST /api/desk/line.
func (s *Server) HandleLine(c *echo.Context) error {
	var in spec.LineAct
	if err := decode(c, &in); err != nil {
		return err
	}
	act := event.LineHand{Line: in.Line, Member: memberOf(c).Name}
	switch in.Act {
	case spec.LineActActHurry:
		return s.desk(c, &event.LineHurried{LineHand: act})
	case spec.LineActActDrop:
		return s.desk(c, &event.LineDropped{LineHand: act})
	case spec.LineActActChange:
		return s.desk(c, &event.LineReworded{LineHand: act, Text: in.Text})
	}
	return &event.FieldError{Field: "act", Remedy: "must be hurry, change or drop"}
}

// SayLine answers POST /api/desk/say.
func (s *Server) SayLine(c *echo.Context) error {
	var in spec.SayLine
	if err := decode(c, &in); err != nil {
		return err
	}
	if t := strings.TrimSpace(in.Text); t != "" && strings.ContainsRune(plain.CommandSigns, rune(t[0])) {
		return &event.FieldError{Field: "text", Remedy: "starts with " + t[:1] + ", which a platform would take for a command; begin with another character"}
	}
	return s.desk(c, &event.DeskSaid{Text: in.Text, To: in.To, Member: memberOf(c).Name})
}

// AskCourtesy answers POST /api/desk/ask.
func (s *Server) AskCourtesy(c *echo.Context) error {
	var in spec.AskCourtesy
	if err := decode(c, &in); err != nil {
		return err
	}
	d := &event.DeskAsked{Act: string(in.Act), Courtesy: in.Courtesy, Member: memberOf(c).Name}
	if in.Whom == spec.AskCourtesyWhomRaider {
		last, err := s.house.LastRaider(c.Request().Context())
		if err != nil {
			return err
		}
		if last == "" {
			return c.JSON(http.StatusOK, spec.Deed{Because: []string{"nobody raided in this stream"}})
		}
		in.Account = last
	}
	if in.Act != spec.AskCourtesyActCourtesy && in.Account == "" {
		return &event.FieldError{Field: "account", Remedy: "is missing; say whom it is about"}
	}
	who, err := s.somebody(c, in.Account)
	if err != nil {
		return err
	}
	d.Person = who
	return s.desk(c, d)
}

// GetPegs answers GET /api/pegs.
func (s *Server) GetPegs(c *echo.Context) error {
	pegs, err := s.store.Members.Pegs(c.Request().Context(), memberOf(c).ID)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Pegs{Pegs: append([]string{}, pegs...)})
}

// SetPegs answers PUT /api/pegs.
func (s *Server) SetPegs(c *echo.Context) error {
	var in spec.Pegs
	if err := decode(c, &in); err != nil {
		return err
	}
	for i, peg := range in.Pegs {
		if strings.TrimSpace(peg) == "" {
			return &event.FieldError{Field: "pegs", Remedy: "has an empty one; leave it out"}
		}
		if slices.Contains(in.Pegs[:i], peg) {
			return &event.FieldError{Field: "pegs", Remedy: fmt.Sprintf("has %q twice; once is enough", peg)}
		}
	}
	if err := s.store.Members.SetPegs(c.Request().Context(), memberOf(c).ID, append([]string{}, in.Pegs...)); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, in)
}

// GetAlong answers GET /api/desk/along.
func (s *Server) GetAlong(c *echo.Context) error {
	logins, err := s.house.Along(c.Request().Context())
	if err != nil {
		return err
	}
	out := spec.Along{Logins: append([]string{}, logins...), Links: []string{}}
	for _, p := range s.house.Plan().Chat() {
		if link := s.house.Plan().Together(p, logins); link != "" && len(logins) > 0 {
			out.Links = append(out.Links, link)
		}
	}
	return c.JSON(http.StatusOK, out)
}

// SetAlong answers PUT /api/desk/along.
func (s *Server) SetAlong(c *echo.Context) error {
	var in spec.AlongSaid
	if err := decode(c, &in); err != nil {
		return err
	}
	logins := s.house.Plan().LoginsIn(in.Text)
	if len(logins) == 0 && strings.TrimSpace(in.Text) != "" {
		return &event.FieldError{Field: "text", Remedy: "names nobody who could stream along; write their logins"}
	}
	return s.desk(c, &event.AlongSet{Logins: append([]string{}, logins...), Member: memberOf(c).Name})
}

// Rearm answers POST /api/desk/rearm.
func (s *Server) Rearm(c *echo.Context) error {
	var in spec.Rearm
	if err := decode(c, &in); err != nil {
		return err
	}
	who, err := s.somebody(c, in.Account)
	if err != nil {
		return err
	}
	return s.desk(c, &event.Rearmed{What: string(in.What), Person: who, Member: memberOf(c).Name})
}

// somebody finds whoever is meant, here or in the guest book; nobody for "".
func (s *Server) somebody(c *echo.Context, account string) (event.Person, error) {
	if account == "" {
		return event.Person{}, nil
	}
	who, err := s.house.Desk.Somebody(c.Request().Context(), account)
	if platform, login, ok := strings.Cut(account, ":"+people.Provisional); ok && errors.Is(err, pg.ErrNone) && login != "" && slices.Contains(s.house.Plan().Chat(), platform) {
		return event.Person{Platform: platform, ID: people.Provisional + strings.ToLower(login), Login: login, Name: login}, nil // nobody yet, by their login
	}
	if errors.Is(err, pg.ErrNone) {
		return event.Person{}, problem(http.StatusNotFound, "Nobody in the guest book has this account", "Choose somebody from the book.")
	}
	if err != nil {
		return event.Person{}, err
	}
	return *who, nil
}

// ActOnPlatform answers POST /api/desk/act.
func (s *Server) ActOnPlatform(c *echo.Context) error {
	var in spec.PlatformAct
	if err := decode(c, &in); err != nil {
		return err
	}
	who, err := s.somebody(c, in.Account)
	if err != nil {
		return err
	}
	return s.desk(c, &event.DeskActed{Act: in.Act, Platform: in.Platform, Text: strings.TrimSpace(in.Text), Seconds: in.Seconds, Login: cmp.Or(in.Login, who.Login), Message: in.Message, Off: in.Off, Person: who, Member: memberOf(c).Name})
}

// UndoAct answers POST /api/desk/undo.
func (s *Server) UndoAct(c *echo.Context) error {
	var in spec.UndoAct
	if err := decode(c, &in); err != nil {
		return err
	}
	return s.desk(c, &event.DeskUndone{LineHand: event.LineHand{Line: in.Line, Member: memberOf(c).Name}})
}

// DeclareStream answers POST /api/desk/stream.
func (s *Server) DeclareStream(c *echo.Context) error {
	var in spec.DeclareStream
	if err := decode(c, &in); err != nil {
		return err
	}
	return s.desk(c, &event.StreamDeclared{Act: string(in.Act), Title: in.Title, Member: memberOf(c).Name})
}

// HandleWaiting answers POST /api/desk/waiting.
func (s *Server) HandleWaiting(c *echo.Context) error {
	var in spec.WaitingAct
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	it, err := s.house.Desk.WaitingItem(ctx, in.Item)
	if err != nil {
		return err
	}
	if it == nil {
		return c.JSON(http.StatusOK, spec.Deed{Because: []string{"it no longer waits"}})
	}
	switch in.Act {
	case spec.WaitingActActThank:
		if it.Person == nil {
			return &event.FieldError{Field: "act", Remedy: "there is nobody to thank here; use done"}
		}
		d := &event.DeskAsked{Act: "thank", Of: it.Type, Member: memberOf(c).Name}
		d.Person = *it.Person
		return s.desk(c, d)
	case spec.WaitingActActCelebrate:
		if it.Person == nil || it.Kind != "day" {
			return &event.FieldError{Field: "act", Remedy: "there is no day to celebrate here; use done"}
		}
		return s.desk(c, &event.DeskAsked{Act: "celebrate", Person: *it.Person, Member: memberOf(c).Name})
	case spec.WaitingActActForget:
		return s.forgetAsked(c, it)
	case spec.WaitingActActAgain:
		if it.Kind == "aside" {
			return s.tryAside(c, it.ID)
		}
		if ok, err := s.house.Places.Again(ctx, it.Line, it.Place); err != nil {
			return err
		} else if !ok {
			return problem(http.StatusNotFound, "There is no such post", "It is there by now, or too old to be kept.")
		}
	}
	if it.Kind == "aside" {
		if err := s.house.DropAside(ctx, it.ID); err != nil {
			return err
		}
	}
	return s.desk(c, &event.WaitingDone{Item: in.Item, Member: memberOf(c).Name})
}

// forgetAsked forgets somebody who asked for it under a nick that nobody vouches for: a
// member knows who it is. It takes whoever may forget people.
func (s *Server) forgetAsked(c *echo.Context, it *hall.Item) error {
	if it.Kind != "forget" || it.Person == nil {
		return &event.FieldError{Field: "act", Remedy: "nobody asks to be forgotten here; use done"}
	}
	if err := s.roles.allow(http.MethodPost, "/api/book/people/:person/forget", memberOf(c).Role); err != nil {
		return err
	}
	ctx := c.Request().Context()
	k, err := s.house.Known(ctx, it.Person.Key())
	if err != nil {
		return err
	}
	if k != nil {
		if err := s.house.Desk.Forget(ctx, memberOf(c).Name, k.Person); err != nil {
			return nobody(err)
		}
	}
	return s.desk(c, &event.WaitingDone{Item: it.ID, Member: memberOf(c).Name})
}

// tryAside lives once more what was set aside; what fails again waits under a new item.
func (s *Server) tryAside(c *echo.Context, item string) error {
	r, err := s.house.TryAside(c.Request().Context(), item)
	var field *event.FieldError
	switch {
	case errors.Is(err, pg.ErrNone): // somebody else has dealt with it
	case errors.As(err, &field):
		return c.JSON(http.StatusOK, spec.Deed{Because: []string{"it cannot be read: " + field.Error()}})
	case err != nil:
		return err
	case r.Aside != "":
		if _, err := s.house.Hand(c.Request().Context(), &event.WaitingDone{Item: item, Member: memberOf(c).Name}); err != nil {
			return err
		}
		return c.JSON(http.StatusOK, spec.Deed{Because: []string{"set aside again: " + r.Aside}})
	}
	return s.desk(c, &event.WaitingDone{Item: item, Member: memberOf(c).Name})
}

// CheckDoor answers POST /api/doors/{door}/check.
func (s *Server) CheckDoor(c *echo.Context, door string) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), 8*time.Second)
	defer cancel()
	took, err := s.house.CheckDoor(ctx, door)
	out := spec.Checked{Ok: err == nil, Millis: int(took.Milliseconds())}
	if err != nil {
		out.Reason = err.Error()
	}
	return c.JSON(http.StatusOK, out)
}

// GetWhy answers GET /api/why.
func (s *Server) GetWhy(c *echo.Context, p spec.GetWhyParams) error {
	told, err := s.store.Log.DecisionsOf(c.Request().Context(), s.house.ID, p.Line)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, s.reasons(c.Request().Context(), told))
}

// GetWhyNot answers GET /api/whynot.
func (s *Server) GetWhyNot(c *echo.Context, p spec.GetWhyNotParams) error {
	ctx := c.Request().Context()
	porch, err := s.house.Porch(ctx)
	if err != nil {
		return err
	}
	since := porch.Live.Opened
	if since.IsZero() {
		since = porch.Now.Add(-24 * time.Hour)
	}
	told, err := s.store.Log.DecisionsAbout(ctx, s.house.ID, p.Account, since, 40)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, s.reasons(ctx, told))
}

func (s *Server) reasons(ctx context.Context, told []log.Decided) spec.Reasons {
	names := s.names(ctx)
	out := spec.Reasons{Items: []spec.Reason{}}
	sentences := map[string]string{}
	set := s.house.Plan().Whole
	for _, cy := range set.Courtesy {
		var b strings.Builder
		for _, p := range prose.Sentence(cy, names) {
			b.WriteString(p.Text)
		}
		sentences[cy.ID] = b.String()
	}
	for _, t := range told {
		d := t.Decision
		if d.Kind == hall.Ask {
			continue
		}
		r := spec.Reason{At: t.Logged, Kind: string(d.Kind), Courtesy: d.Courtesy, Sentence: sentences[d.Courtesy], Platform: d.Platform, Text: d.Text, Cause: t.Type, Because: calledAll(names, d.Because)}
		for _, g := range d.Ladder {
			name := sentences[g.Courtesy]
			if name == "" {
				name = g.Courtesy
			}
			r.Ladder = append(r.Ladder, spec.Rung{Courtesy: name, Won: g.Won, Why: called(names, g.Why)})
		}
		for _, j := range d.Joined {
			r.Joined = append(r.Joined, j.Name)
		}
		out.Items = append(out.Items, r)
	}
	return out
}

func (s *Server) placeTitle(name string) string {
	if p := s.house.Plan().Settings.PlaceNamed(name); p != nil && p.Title != "" {
		return p.Title
	}
	return name
}
