package places

import (
	"context"
	"fmt"
	"net/http"
	"slices"

	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/pointer"
	"vividporch/core/profile"
	"vividporch/core/room"
	"vividporch/porch/signins"
	"vividporch/voices/relay"
)

// signed is where the house is signed in, as community servers need to know it.
type signed struct {
	plan   func() *room.Plan
	keeper func() *signins.Keeper // made after what carries to places
	http   *http.Client
	shelf  func(ctx context.Context, name string) ([]byte, error)
}

// Signed is where the house is signed in. keeper keeps that; what pictures stand on is fetched by http or lies on the
// shelf.
func Signed(plan func() *room.Plan, keeper func() *signins.Keeper, http *http.Client, shelf func(ctx context.Context, name string) ([]byte, error)) relay.Signed {
	return &signed{plan, keeper, http, shelf}
}

func (s *signed) Profile(platform string) *profile.Profile {
	return s.plan().Settings.Profile(platform)
}

func (s *signed) Medium(ctx context.Context, name string) ([]byte, error) { return s.shelf(ctx, name) }

func (s *signed) Token(ctx context.Context, platform, address string) (string, error) {
	p := s.Profile(platform)
	token, err := s.keeper().Access(ctx, platform, "", signins.ScopeFor(p, profile.ForPosts), address)
	if err == nil && token == "" {
		err = fmt.Errorf("the house is not signed in at %s, or may not post there: sign in under House, Platforms", p.Title)
	}
	return token, err
}

// Landings are the landings of a community server, with the house's rights at each.
func (p *Places) Landings(ctx context.Context, platform string) ([]profile.Landing, error) {
	known := p.cfg.Plan().Settings.Profile(platform)
	if known.Community == nil || known.Platform != platform {
		return nil, fmt.Errorf("%s is no community server that the house knows of", plain.Titled(platform))
	}
	at := known.Where(known.Community.Landings.Address)
	token, err := p.cfg.Signed.Token(ctx, platform, at)
	if err != nil {
		return nil, err
	}
	raw, err := p.cfg.Ask(ctx, token, at)
	if err != nil {
		return nil, err
	}
	answer, err := pointer.Read(raw)
	if err != nil {
		return nil, fmt.Errorf("%s answers with something that cannot be read", known.Title)
	}
	return known.Community.Landings.Read(answer), nil
}

// lacking is what the house may not do at a landing that what goes there needs; "" for nothing.
func lacking(s *housefile.Settings, place *housefile.Place, l *profile.Landing) string {
	for _, r := range profile.Rights {
		if !l.May[r.Name] && (r.Name == profile.MayWrite || s.RelaysNeed(place.Name, r.Name)) {
			return r.Words
		}
	}
	return ""
}

// lacks says which right is missing at a landing; nil for none, and for places of other kinds.
func (p *Places) lacks(ctx context.Context, place *housefile.Place) error {
	if place.Kind != "landing" {
		return nil
	}
	list, err := p.Landings(ctx, place.Platform)
	if err != nil {
		return err
	}
	title := p.cfg.Plan().Settings.Profile(place.Platform).Title
	at := slices.IndexFunc(list, func(l profile.Landing) bool { return l.ID == place.Landing })
	if at < 0 {
		return fmt.Errorf("%s has no such landing, or keeps it from the house", title)
	}
	if what := lacking(p.cfg.Plan().Settings, place, &list[at]); what != "" {
		return fmt.Errorf("what is missing is one right: that the house %s at %s. Give it at %s", what, list[at].Title, title)
	}
	return nil
}
