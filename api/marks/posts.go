package marks

import (
	"errors"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/social"
	"vividporch/spec"
	"vividporch/store/pg"
)

// DecidePost answers POST /api/posts/{event}: what somebody asked to have posted is, or is not.
func (x *Marks) DecidePost(c *echo.Context, seq int64) error {
	var in spec.PostDecided
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	asked, err := x.store.Log.PostOf(ctx, x.house.ID, seq)
	if errors.Is(err, pg.ErrNone) || err == nil && (asked.Text == "" || asked.Person == nil) {
		return edge.Problem(http.StatusNotFound, "There is no such post any more", "Reload the page.")
	} else if err != nil {
		return err
	}
	member, reason := edge.MemberOf(c).Name, strings.TrimSpace(in.Reason)
	switch {
	case in.Post:
		said := &event.DeskPosted{Item: social.ItemID(seq), Place: asked.Place, Text: strings.TrimSpace(in.Text), Person: asked.Person, Member: member}
		if said.Text == "" {
			said.Text = asked.Text
		}
		because, err := x.refused(c, said)
		return done(c, because, err, "posted")
	case reason != "":
		if because, err := x.refused(c, social.Refusal(asked, reason, member)); err != nil || because != nil {
			return done(c, because, err, "")
		}
	}
	_, err = x.house.Submit(ctx, []event.Event{hand(&event.WaitingDone{Item: social.ItemID(seq), Member: member})})
	return done(c, nil, err, "refused")
}

// PostNow answers POST /api/places/{place}/posts.
func (x *Marks) PostNow(c *echo.Context, place string) error {
	var in spec.PostNow
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	because, err := x.refused(c, &happening.PostAsked{Place: place, Text: strings.TrimSpace(in.Text), Links: true, Member: edge.MemberOf(c).Name})
	return done(c, because, err, "on its way")
}

// refused has a member do something, and says why it was not done; nil where it was.
func (x *Marks) refused(c *echo.Context, data event.Data) ([]string, error) {
	if v, ok := data.(interface{ Validate() error }); ok {
		if err := v.Validate(); err != nil {
			return nil, err
		}
	}
	rs, err := x.house.Submit(c.Request().Context(), []event.Event{hand(data)})
	if err != nil {
		return nil, err
	}
	for _, d := range rs[0].Decisions {
		if d.Kind == hall.Refuse && d.Courtesy == "" {
			return d.Because, nil
		}
	}
	return nil, nil
}

func done(c *echo.Context, because []string, err error, said string) error {
	switch {
	case err != nil:
		return err
	case because != nil:
		return c.JSON(http.StatusOK, spec.Deed{Because: because})
	}
	return c.JSON(http.StatusOK, spec.Deed{Done: true, Because: []string{said}})
}
