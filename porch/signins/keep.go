package signins

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/doors/signin"
	store "vividporch/store/signin"
)

// Run renews what ends and looks whether what is allowed is allowed still, until ctx ends.
func (k *Keeper) Run(ctx context.Context) {
	for {
		list, err := k.List(ctx)
		for i := range list {
			if err == nil && !k.cfg.Still() {
				k.look(ctx, &list[i], false)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lookEvery):
		}
	}
}

// Check looks now, whenever it was looked last.
func (k *Keeper) Check(ctx context.Context, platform string) error {
	list, err := k.List(ctx)
	for i := range list {
		if list[i].Platform == platform && !k.cfg.Still() {
			k.look(ctx, &list[i], true)
		}
	}
	return err
}

// look renews a sign-in that ends soon, else asks now and then whether it is good.
func (k *Keeper) look(ctx context.Context, x *store.SignIn, now bool) {
	ctx, cancel := context.WithTimeout(ctx, 2*askWithin)
	defer cancel()
	key := x.Platform + ":" + x.Who
	k.mu.Lock()
	due := now || k.cfg.Now().Sub(k.checked[key]) >= checkEvery
	k.mu.Unlock()
	ends := x.Expires != nil && x.Expires.Sub(k.cfg.Now()) < ahead(x)
	if !due && !ends {
		return
	}
	k.mu.Lock()
	k.checked[key] = k.cfg.Now()
	k.mu.Unlock()
	app, err := k.app(ctx, x.Platform)
	if err != nil {
		k.ill(ctx, x, err.Error())
		return
	}
	at, name := app.Profile.Where(app.Profile.SignIn.Token), Name(x.Platform, x.Who)
	if !ends {
		access, err := k.cfg.Secret(ctx, name, "access", at)
		if err == nil {
			_, err = app.Whose(ctx, access)
		}
		switch {
		case err == nil:
			if x.Trouble != "" {
				k.mend(ctx, x)
			}
			k.warn(ctx, x)
			if err := k.fetch(ctx, app, x, access); err != nil {
				k.say(x.Platform, "What was missed could not be fetched: "+err.Error()+".")
			}
			return
		case !errors.Is(err, signin.ErrRefused): // it may be away for a while
			return
		}
	}
	refresh, err := k.cfg.Secret(ctx, name, "refresh", at)
	if err != nil || refresh == "" {
		if ends && x.Expires.After(k.cfg.Now()) {
			k.warn(ctx, x)
			return
		}
		k.ill(ctx, x, signin.ErrRefused.Error())
		return
	}
	token, err := app.Renew(ctx, refresh, nil)
	if err != nil {
		if errors.Is(err, signin.ErrRefused) || x.Expires != nil && x.Expires.Before(k.cfg.Now()) {
			k.ill(ctx, x, err.Error())
		}
		return
	}
	k.renewed(ctx, x, app.Profile, token)
}

// fetch asks a platform for what happened since what was heard from it last, where that is allowed. Asking for
// more than was missed does no harm: what is in the log already is a repeat.
func (k *Keeper) fetch(ctx context.Context, app *signin.App, x *store.SignIn, access string) error {
	m := app.Profile.Missed
	scope := ScopeFor(app.Profile, profile.ForMissed)
	if m == nil || scope != "" && !slices.Contains(strings.Fields(x.Scopes), scope) {
		return nil
	}
	at := app.Profile.Where(m.Address)
	if !slices.Contains(strings.Fields(x.Leads), housefile.Origin(at)) {
		return nil
	}
	since, err := k.cfg.Heard(ctx, x.Platform)
	if err != nil {
		return err
	}
	if since.IsZero() { // what was before the house was let in is not its business
		since = x.Since
	}
	if oldest := k.cfg.Clock().AddDate(0, 0, -m.Days); since.Before(oldest) {
		since = oldest
	}
	at = strings.ReplaceAll(at, "{since}", url.QueryEscape(since.Add(-overlap).UTC().Format(time.RFC3339)))
	raw, err := app.Get(ctx, access, at)
	if err != nil {
		return err
	}
	return k.cfg.Missed(ctx, x.Platform, raw)
}

// overlap is how much more than was missed is asked for: what happened at once may have come in another order.
const overlap = 2 * time.Minute

// ahead is how long before its end a sign-in is renewed.
func ahead(x *store.SignIn) time.Duration {
	if !x.Renews {
		return warnAhead
	}
	return max(renewAhead, x.Expires.Sub(x.Since)/5)
}

func (k *Keeper) renewed(ctx context.Context, x *store.SignIn, p *profile.Profile, token signin.Token) {
	name := Name(x.Platform, x.Who)
	if err := k.cfg.Keep(ctx, name, "access", token.Access); err != nil {
		return // it is tried again
	}
	if token.Refresh != "" {
		if err := k.cfg.Keep(ctx, name, "refresh", token.Refresh); err != nil {
			return
		}
	}
	x.Since, x.Expires = k.cfg.Now(), nil
	if !token.Expires.IsZero() {
		x.Expires = &token.Expires
	}
	k.mend(ctx, x)
	k.cfg.Changed(x.Platform)
}

func itemOf(x *store.SignIn) string { return "signin/" + x.Platform + "/" + x.Who }

// ill says, once, that a sign-in is no longer good, and what stops by it.
func (k *Keeper) ill(ctx context.Context, x *store.SignIn, why string) {
	if x.Trouble == why {
		return
	}
	x.Trouble = why
	if k.cfg.Store.Set(ctx, *x) != nil {
		return
	}
	k.cfg.Notice(&event.Noticed{Item: itemOf(x), Kind: "signin", Name: plain.Titled(x.Platform), Text: x.Login, Why: why + "; " + k.stops(x) + ". Sign in again."})
}

// stops says what no longer works without a sign-in.
func (k *Keeper) stops(x *store.SignIn) string {
	for _, d := range k.cfg.Settings().Doors {
		if d.Kind == "irc" && d.Platform == x.Platform && d.Account == x.Login {
			return "the chat goes on until its connection is lost, what was missed is not fetched, and platform actions are refused"
		}
	}
	return "what was missed is not fetched, and platform actions are refused"
}

// warn says that a sign-in ends which cannot be renewed.
func (k *Keeper) warn(_ context.Context, x *store.SignIn) {
	if x.Renews || x.Expires == nil || x.Expires.Sub(k.cfg.Now()) > warnAhead {
		return
	}
	k.mu.Lock()
	told := k.warned[itemOf(x)].Equal(*x.Expires)
	k.warned[itemOf(x)] = *x.Expires
	k.mu.Unlock()
	if told {
		return
	}
	k.cfg.Notice(&event.Noticed{Item: itemOf(x), Kind: "signin", Name: plain.Titled(x.Platform), Text: x.Login,
		Why: fmt.Sprintf("it ends on %s and cannot be renewed by itself; sign in again before then", x.Expires.UTC().Format("2 January, 15:04 MST"))})
}

func (k *Keeper) mend(ctx context.Context, x *store.SignIn) {
	was := x.Trouble
	x.Trouble = ""
	if k.cfg.Store.Set(ctx, *x) == nil && was != "" {
		k.well(x)
	}
}

// well takes back what was said against a sign-in.
func (k *Keeper) well(x *store.SignIn) {
	k.cfg.Notice(&event.Noticed{Item: itemOf(x), Kind: "signin", Gone: true})
}
