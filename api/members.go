package api

import (
	"crypto/rand"
	"errors"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"
	"gopkg.in/yaml.v3"

	"vividporch/core/event"
	"vividporch/spec"
	"vividporch/store/members"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// roles is the least role of every route, by method and path, as the description
// of the interface states it.
type roles map[string]string

// ranks orders the roles; the higher may all that the lower may.
var ranks = []string{"anyone", members.RoleHelper, members.RoleCoHost, members.RoleOwner}

var inBraces = regexp.MustCompile(`\{(\w+)\}`)

func rolesOf(doc []byte) roles {
	var d struct {
		Paths map[string]map[string]struct {
			Role string `yaml:"x-role"`
		}
	}
	if err := yaml.Unmarshal(doc, &d); err != nil {
		panic("api: the description cannot be read: " + err.Error()) // it is built in
	}
	out := roles{}
	for path, methods := range d.Paths {
		for method, op := range methods {
			out[strings.ToUpper(method)+" "+inBraces.ReplaceAllString(path, ":$1")] = op.Role
		}
	}
	return out
}

// allow refuses a member whose role is too low for a route. A route that states
// no role is the owner's.
func (r roles) allow(method, path, role string) error {
	if method == http.MethodHead {
		method = http.MethodGet
	}
	least, ok := r[method+" "+path]
	if !ok {
		least = members.RoleOwner
	}
	if have := slices.Index(ranks, role); have >= 0 && have >= slices.Index(ranks, least) {
		return nil
	}
	return problem(http.StatusForbidden, "This is not for a "+role, "It needs a member who is "+least+" or more; ask the owner.")
}

const inviteFor = 3 * 24 * time.Hour

// ListMembers answers GET /api/members.
func (s *Server) ListMembers(c *echo.Context) error {
	list, err := s.store.Members.List(c.Request().Context(), s.house.ID, sessionFor)
	if err != nil {
		return err
	}
	open, err := s.store.Members.OpenSessions(c.Request().Context(), s.house.ID, sessionFor)
	if err != nil {
		return err
	}
	me := memberOf(c)
	here := me.Session.Hash
	out := []spec.Member{}
	for _, m := range list {
		if me.Role != members.RoleOwner && m.ID != me.ID {
			continue
		}
		v := spec.Member{ID: m.ID, Name: m.Name, Role: m.Role, Sessions: m.Sessions, Invited: m.Links > 0, Account: m.Account, Called: m.Called, Nick: m.Nick}
		if m.Seen != nil {
			v.Seen = *m.Seen
		}
		for i := range open {
			if o := &open[i]; o.Member == m.ID {
				v.Open = append(v.Open, spec.OpenSession{ID: o.Short(), Browser: o.Browser, Since: o.Created, Seen: o.Seen, Here: o.Hash == here})
			}
		}
		out = append(out, v)
	}
	return c.JSON(http.StatusOK, out)
}

// InviteMember answers POST /api/members.
func (s *Server) InviteMember(c *echo.Context) error {
	var in spec.Invite
	if err := decode(c, &in); err != nil {
		return err
	}
	in.Name = strings.TrimSpace(in.Name)
	switch {
	case in.Name == "" || utf8.RuneCountInString(in.Name) > 60:
		return &event.FieldError{Field: "name", Remedy: "write a name of at most 60 letters"}
	case in.Role != members.RoleCoHost && in.Role != members.RoleHelper:
		return &event.FieldError{Field: "role", Remedy: "must be co-host or helper"}
	}
	ctx := c.Request().Context()
	m, err := s.store.Members.Invite(ctx, s.house.ID, in.Name, in.Role)
	if err != nil {
		return err
	}
	if m.Role == members.RoleOwner {
		return &event.FieldError{Field: "name", Remedy: "this is the owner, who signs in already; write another"}
	}
	token := rand.Text()
	if err := s.store.Members.AddSignIn(ctx, tables.SignIn{Hash: Hash(token), Member: m.ID, Expires: time.Now().Add(inviteFor)}); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Invited{ID: m.ID, Link: s.publicly(c) + "/enter/" + token})
}

// LinkMember answers PUT /api/members/{id}/account.
func (s *Server) LinkMember(c *echo.Context, id int64) error {
	var in spec.LinkedAccount
	if err := decode(c, &in); err != nil {
		return err
	}
	me := memberOf(c)
	if me.Role != members.RoleOwner && me.ID != id {
		return problem(http.StatusForbidden, "This is another member's", "Link your own account, or ask the owner.")
	}
	err := s.house.Desk.LinkMember(c.Request().Context(), me.Name, id, in.Account, false)
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "There is no such member", "Reload the page.")
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// publicly is where members reach the house: as it is set, else as this request did.
func (s *Server) publicly(c *echo.Context) string {
	if at := s.public(); at != "" {
		return at
	}
	if s.secure(c) {
		return "https://" + c.Request().Host
	}
	return "http://" + c.Request().Host
}

// RemoveMember answers DELETE /api/members/{id}.
func (s *Server) RemoveMember(c *echo.Context, id int64) error { return s.endWaysIn(c, id, true) }

// EndSessions answers DELETE /api/members/{id}/sessions.
func (s *Server) EndSessions(c *echo.Context, id int64) error { return s.endWaysIn(c, id, false) }

// EndSession answers DELETE /api/members/{id}/sessions/{session}.
func (s *Server) EndSession(c *echo.Context, id int64, session string) error {
	err := s.store.Members.EndOneSession(c.Request().Context(), s.house.ID, id, session)
	if err == nil {
		s.streams.endIf(func(hash string, member int64) bool { return member == id && strings.HasPrefix(hash, session) })
	}
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "There is no such session", "It may have ended already.")
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *Server) endWaysIn(c *echo.Context, id int64, remove bool) error {
	err := s.store.Members.EndWaysIn(c.Request().Context(), s.house.ID, id, remove)
	if err == nil {
		s.streams.endIf(func(_ string, member int64) bool { return member == id })
	}
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "There is no such member", "The owner cannot be removed; sign out instead.")
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}
