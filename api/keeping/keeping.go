// Package keeping answers what keeping a house is about: its settings, section by section, its
// doors, how it is reached, moving in, and backups. Each handler decodes, calls and encodes.
package keeping

import (
	"crypto/rand"
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/fitting"
	"vividporch/core/profile"
	"vividporch/core/prose"
	"vividporch/core/who"
	"vividporch/outside"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/tables"
)

// Config is what keeping a house needs.
type Config struct {
	House *porch.House
	Store *store.Store
	// Backups makes backups and brings them back; without it there are none.
	Backups *Backups
	// Names says what places, fittings and crews are called.
	Names func(*echo.Context) who.Names
	// Members is where the member who made a request reaches the house.
	Members func(*echo.Context) string
}

// Keeping answers the routes.
type Keeping struct {
	cfg   Config
	house *porch.House
	store *store.Store
	asked atomic.Pointer[asked]
}

// New makes the handlers.
func New(cfg Config) *Keeping { return &Keeping{cfg: cfg, house: cfg.House, store: cfg.Store} }

// GetHouse answers GET /api/house.
func (k *Keeping) GetHouse(c *echo.Context) error {
	ctx := c.Request().Context()
	p := k.house.Plan()
	out := spec.House{Version: p.Version, Secrets: []spec.SecretsOf{}, Hosts: []string{}, Profiles: []spec.PlatformProfile{}, Fittings: []spec.FittingProfile{}, Held: k.house.Held(), Reached: k.reached()}
	var err error
	if out.Settings, err = edge.Recast[map[string]any](p.Whole); err != nil {
		return err
	}
	if out.Started, err = k.store.ChannelName(ctx, k.house.ID); err != nil {
		return err
	}
	slots, err := k.store.Safe.AllSlots(ctx, k.house.ID)
	if err != nil {
		return err
	}
	for name, list := range slots {
		out.Secrets = append(out.Secrets, spec.SecretsOf{Name: name, Slots: list})
	}
	slices.SortFunc(out.Secrets, func(a, b spec.SecretsOf) int { return strings.Compare(a.Name, b.Name) })
	hosts, err := k.store.Safe.Allowed(ctx, k.house.ID)
	if err != nil {
		return err
	}
	for _, h := range hosts {
		out.Hosts = append(out.Hosts, h.Host)
	}
	for _, x := range profile.All(p.Whole.Profiles) {
		v, err := edge.Recast[map[string]any](x.Profile)
		if err != nil {
			return err
		}
		out.Profiles = append(out.Profiles, spec.PlatformProfile{Platform: x.Platform, Title: x.Title, Carried: x.Carried, Leads: x.Leads(), Profile: v})
	}
	for _, x := range fitting.Shipped() {
		v, err := edge.Recast[map[string]any](x)
		if err != nil {
			return err
		}
		out.Fittings = append(out.Fittings, spec.FittingProfile{Name: x.Name, Title: x.Title, Kind: x.Kind, Profile: v})
	}
	return c.JSON(http.StatusOK, out)
}

// reached is how the house is reached.
func (k *Keeping) reached() spec.Reached {
	r := k.house.Plan().Settings.Reach
	out := spec.Reached{How: r.How, Fixed: k.house.Fixed(), Closed: r.Closed(), Addresses: []string{}}
	if r.Closed() == "" {
		out.Address = k.house.Links()
	}
	if at := k.house.Home(); at != nil {
		out.Addresses, out.Fingerprint, out.Trouble = append(out.Addresses, at.Addresses...), at.Fingerprint, at.Trouble
	}
	return out
}

// SetSection answers PUT /api/house/sections/{section}.
func (k *Keeping) SetSection(c *echo.Context, section string) error {
	var in struct {
		Value json.RawMessage `json:"value"`
	}
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if section == "reach" && k.house.Fixed() {
		return edge.Problem(http.StatusConflict, "How the house is reached was said at its start", "Take PORCH_PUBLIC out where it is started, and start it again.")
	}
	v, err := k.house.Desk.SetSection(c.Request().Context(), edge.By(c), section, in.Value)
	return edge.InForce(c, k.house, v, err)
}

// GetUses answers GET /api/house/uses.
func (k *Keeping) GetUses(c *echo.Context, p spec.GetUsesParams) error {
	s := k.house.Plan().Whole
	names := k.cfg.Names(c)
	out := spec.Uses{Uses: []spec.Use{}}
	for _, u := range s.Uses(p.Section, p.Name) {
		for _, cy := range s.Courtesy {
			if cy.ID == u.Courtesy {
				out.Uses = append(out.Uses, spec.Use{Courtesy: u.Courtesy, Says: prose.Whole(cy, names), All: u.All})
			}
		}
	}
	return c.JSON(http.StatusOK, out)
}

// RenameThing answers POST /api/house/rename.
func (k *Keeping) RenameThing(c *echo.Context) error {
	var in spec.RenameIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	v, err := k.house.Desk.Rename(c.Request().Context(), edge.By(c), in.Section, in.Name, strings.TrimSpace(in.To))
	return edge.InForce(c, k.house, v, err)
}

// TakeThingAway answers POST /api/house/takeaway.
func (k *Keeping) TakeThingAway(c *echo.Context) error {
	var in spec.ThingIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	v, err := k.house.Desk.TakeAway(c.Request().Context(), edge.By(c), in.Section, in.Name)
	return edge.InForce(c, k.house, v, err)
}

// SetSecret answers PUT /api/house/secrets.
func (k *Keeping) SetSecret(c *echo.Context) error {
	var in spec.SecretIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	var err error
	if in.Value == "" {
		err = k.house.DropSecret(ctx, in.Name, string(in.Slot))
	} else {
		err = k.house.SetSecret(ctx, in.Name, string(in.Slot), in.Value)
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// MakeSecret answers POST /api/house/secrets.
func (k *Keeping) MakeSecret(c *echo.Context) error {
	var in spec.ThingIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	secret, err := k.house.MakeSecret(c.Request().Context(), in.Name)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.SecretMade{Secret: secret})
}

// AllowHost answers PUT /api/house/hosts.
func (k *Keeping) AllowHost(c *echo.Context) error {
	var in spec.HostIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	host, err := outside.ReadHost(in.Host)
	if err != nil {
		return &event.FieldError{Field: "host", Remedy: err.Error()}
	}
	if err := k.house.AllowHost(c.Request().Context(), host, in.Allow); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// phoneFor is how long a link for a phone is good.
const phoneFor = 10 * time.Minute

// LinkPhone answers POST /api/house/phone.
func (k *Keeping) LinkPhone(c *echo.Context) error {
	token := rand.Text()
	in := tables.SignIn{Hash: edge.Hash(token), Member: edge.MemberOf(c).ID, Expires: time.Now().Add(phoneFor)}
	if err := k.store.Members.AddSignIn(c.Request().Context(), in); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.PhoneLink{Link: k.cfg.Members(c) + "/enter/" + token})
}

// GoOn answers POST /api/house/go.
func (k *Keeping) GoOn(c *echo.Context) error {
	if err := k.house.Go(c.Request().Context()); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}
