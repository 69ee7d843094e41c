package signins

import (
	"context"
	"errors"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/profile"
	store "vividporch/store/signin"
)

// ChatToken is the token that lets the house into a chat as the door's account; "" for none.
func (k *Keeper) ChatToken(ctx context.Context, d *housefile.Door) (string, error) {
	p := k.cfg.Settings().Profile(d.Platform)
	scope := ScopeFor(p, profile.ForChat)
	if scope == "" || !p.Chat.TokenLogin {
		return "", nil
	}
	return k.Access(ctx, d.Platform, d.Account, scope, d.ChatOrigin())
}

// ActToken is the token by which a platform is had to do something; "" where nobody signed in. Where
// somebody did and did not allow it, it is said what is to be allowed.
func (k *Keeper) ActToken(ctx context.Context, platform, act, address string) (string, error) {
	p := k.cfg.Settings().Profile(platform)
	list, err := k.List(ctx)
	if err != nil {
		return "", err
	}
	if !slices.Contains(signedIn(list), platform) {
		return "", nil
	}
	scope := ScopeFor(p, act)
	if scope == "" {
		return "", nil
	}
	token, err := k.Access(ctx, platform, "", scope, address)
	if err == nil && token == "" {
		err = errors.New(p.Title + " does not allow this to the house yet; allow it under House, Platforms")
	}
	return token, err
}

// Lacks are the courtesies that are on and would have a platform do what nobody allowed the house there,
// as findings. Where nobody signed in, the platform's door says whether it can be done.
func (k *Keeper) Lacks(ctx context.Context) ([]courtesy.Finding, error) {
	list, err := k.List(ctx)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	var out []courtesy.Finding
	for _, platform := range signedIn(list) {
		p := k.cfg.Settings().Profile(platform)
		for _, x := range k.cfg.Settings().ActingAt(platform) {
			scope := ScopeFor(p, string(x.Act))
			allowed := slices.ContainsFunc(list, func(a store.SignIn) bool {
				return a.Platform == platform && slices.Contains(strings.Fields(a.Scopes), scope)
			})
			if scope != "" && !allowed {
				out = append(out, courtesy.Finding{Courtesy: x.Courtesy.ID, Kind: "stopped", What: string(x.Act) + " on " + p.Title + ": it does not allow this to the house yet", Remedy: "allow it under House, Platforms, " + p.Title})
			}
		}
	}
	return out, nil
}

// signedIn are the platforms that somebody signed in to.
func signedIn(list []store.SignIn) (out []string) {
	for _, x := range list {
		if !slices.Contains(out, x.Platform) {
			out = append(out, x.Platform)
		}
	}
	return out
}
