// Package signins keeps the house signed in to platforms: it sends a member to the platform's page
// and takes them in when they come back, renews what ends ahead of time, and says when
// something is no longer allowed.
//
// The way in is [Keeper.Begin] and [Keeper.Back]; [Keeper.Run] keeps it.
package signins

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/doors/signin"
	"vividporch/store/safe"
	store "vividporch/store/signin"
)

// Who signs in.
const (
	House    = "house"    // an account of the house's own
	Streamer = "streamer" // the streamer's
)

// Times of a sign-in.
const (
	BackWithin = 10 * time.Minute // from asking to coming back
	renewAhead = 10 * time.Minute // or a fifth of its life, whichever is more
	warnAhead  = 3 * 24 * time.Hour
	askWithin  = 10 * time.Second
	lookEvery  = time.Minute
	checkEvery = 5 * time.Minute // that a token is good still
	mostAsked  = 50              // sign-ins that are under way
)

// Config is what a keeper needs.
type Config struct {
	Channel  int64
	Store    *store.SignIns
	Settings func() *housefile.Settings
	Keep     func(ctx context.Context, name, slot, value string) error        // a secret
	Secret   func(ctx context.Context, name, slot, to string) (string, error) // that is sent to an address
	Drop     func(ctx context.Context, name, slot string) error
	HTTP     *http.Client
	Redirect func() string // where platforms send back to
	Notice   func(*event.Noticed)
	Changed  func(platform string)                                                            // somebody signed in, or out
	MoveIn   func(ctx context.Context, member int64, platform string, a signin.Account) error // sets up channel, chat and account
	Heard    func(ctx context.Context, platform string) (time.Time, error)                    // when what was heard from it last had happened
	Missed   func(ctx context.Context, platform string, events []byte) error                  // takes in what was missed
	Clock    func() time.Time                                                                 // the house's
	Still    func() bool                                                                      // the house holds still: nothing is renewed or fetched
	Now      func() time.Time                                                                 // the machine's: tokens end by it
}

// Keeper keeps sign-ins. Its methods may be called from any goroutine.
type Keeper struct {
	cfg     Config
	mu      sync.Mutex
	asked   map[string]*asked // by state
	found   map[string]*found // another account than last time, by a key of its own
	said    map[string]string // by platform: what came of the last sign-in
	checked map[string]time.Time
	warned  map[string]time.Time // by item: of which end it was warned
}

// asked is a sign-in that is under way. It is bound to the session that began it, and good once.
type asked struct {
	session, platform, who, verifier, redirect string
	member                                     int64
	scopes                                     []string
	movesIn                                    bool
	until                                      time.Time
}

// found is a sign-in that somebody is to confirm: it is not the account it was last time.
type found struct {
	asked
	token   signin.Token
	account signin.Account
	was     string
}

// New makes a keeper.
func New(cfg Config) *Keeper {
	return &Keeper{cfg: cfg, asked: map[string]*asked{}, found: map[string]*found{}, said: map[string]string{}, checked: map[string]time.Time{}, warned: map[string]time.Time{}}
}

// Name is the name under which the secrets of a platform's sign-in lie in the safe; who is "" for the house's
// client id and secret.
func Name(platform, who string) string {
	if who == "" {
		return "signin:" + platform
	}
	return "signin:" + platform + ":" + who
}

// errNone says that there is nothing to sign in to.
var errNone = &event.FieldError{Field: "platform", Remedy: "has no sign-in that the house knows of; bring its profile in"}

func (k *Keeper) app(ctx context.Context, platform string) (*signin.App, error) {
	p := k.cfg.Settings().Profile(platform)
	if p.SignIn == nil || p.Platform != platform {
		return nil, errNone
	}
	at := p.Where(p.SignIn.Token)
	id, err := k.cfg.Secret(ctx, Name(platform, ""), "client", at)
	secret := ""
	if err == nil {
		secret, err = k.cfg.Secret(ctx, Name(platform, ""), "client-secret", at)
	}
	if errors.Is(err, safe.ErrBound) || errors.Is(err, safe.ErrKey) {
		return nil, &event.FieldError{Field: "client", Remedy: "cannot be used: " + err.Error()}
	}
	if err != nil {
		return nil, err
	}
	if id == "" {
		return nil, &event.FieldError{Field: "client", Remedy: "register the house at " + plain.Titled(platform) + " and enter the client id that it gets there"}
	}
	return &signin.App{Profile: p, ID: id, Secret: secret, Redirect: k.cfg.Redirect(), HTTP: k.cfg.HTTP}, nil
}

// Begin is the platform's page that a member is to be sent to. What is allowed already is asked for
// again with it; without scopes the least is asked for.
func (k *Keeper) Begin(ctx context.Context, session string, member int64, platform, who string, scopes []string, movesIn bool) (address string, err error) {
	if who != House && who != Streamer {
		return "", &event.FieldError{Field: "who", Remedy: "is nobody; sign in as house or streamer"}
	}
	app, err := k.app(ctx, platform)
	if err != nil {
		return "", err
	}
	list, err := k.cfg.Store.List(ctx, k.cfg.Channel)
	if err != nil {
		return "", err
	}
	want := Least(app.Profile)
	for _, x := range list {
		if x.Platform == platform && x.Who == who && !x.Gone {
			want = append(want, strings.Fields(x.Scopes)...)
		}
	}
	for _, s := range scopes {
		if !slices.ContainsFunc(app.Profile.SignIn.Scopes, func(x profile.Scope) bool { return x.Name == s }) {
			return "", &event.FieldError{Field: "scopes", Remedy: fmt.Sprintf("%q is nothing that %s allows", s, app.Profile.Title)}
		}
		want = append(want, s)
	}
	slices.Sort(want)
	want = slices.Compact(want)
	a := &asked{session: session, member: member, platform: platform, who: who, verifier: signin.Verifier(), redirect: app.Redirect, scopes: want, movesIn: movesIn, until: k.cfg.Now().Add(BackWithin)}
	state := rand.Text()
	k.mu.Lock()
	defer k.mu.Unlock()
	for s, x := range k.asked {
		if k.cfg.Now().After(x.until) || len(k.asked) >= mostAsked {
			delete(k.asked, s)
		}
	}
	k.asked[state] = a
	delete(k.said, platform)
	return app.Ask(state, a.verifier, want), nil
}

// Least are the scopes that the chat needs, or at a community server the posts: what is asked for at first.
func Least(p *profile.Profile) []string {
	var out []string
	for _, s := range p.SignIn.Scopes {
		if slices.Contains(s.For, profile.ForChat) || (p.Community != nil || p.Social != nil) && slices.Contains(s.For, profile.ForPosts) {
			out = append(out, s.Name)
		}
	}
	return out
}

// Errors of coming back.
var (
	ErrState  = errors.New("this sign-in was not begun here, was used already, or took more than ten minutes; begin it again")
	ErrDenied = errors.New("the platform was told not to let the house in; nothing has changed")
)

// Back takes in a member who comes back from a platform: it redeems the code and asks whose account
// it is. platform is where they were sent, "" when that cannot be told.
func (k *Keeper) Back(ctx context.Context, session, state, code, refused string) (platform string, movesIn bool, err error) {
	k.mu.Lock()
	a := k.asked[state]
	delete(k.asked, state) // good once, whoever comes
	k.mu.Unlock()
	if a == nil || k.cfg.Now().After(a.until) || subtle.ConstantTimeCompare([]byte(a.session), []byte(session)) != 1 {
		return "", false, ErrState
	}
	err = k.back(ctx, a, code, refused)
	if err != nil {
		k.say(a.platform, err.Error())
	}
	return a.platform, a.movesIn, err
}

func (k *Keeper) back(ctx context.Context, a *asked, code, refused string) error {
	if refused != "" || code == "" {
		return ErrDenied
	}
	ctx, cancel := context.WithTimeout(ctx, 2*askWithin)
	defer cancel()
	app, err := k.app(ctx, a.platform)
	if err != nil {
		return err
	}
	app.Redirect = a.redirect
	token, err := app.Redeem(ctx, code, a.verifier, a.scopes)
	if errors.Is(err, signin.ErrRefused) {
		return errors.New("the platform does not take its own answer; begin again")
	}
	if err != nil {
		return err
	}
	account, err := app.Whose(ctx, token.Access)
	if err != nil {
		return err
	}
	list, err := k.cfg.Store.List(ctx, k.cfg.Channel)
	if err != nil {
		return err
	}
	for _, x := range list {
		if x.Platform == a.platform && x.Who == a.who && x.Account != account.ID { // asked before another than last time
			k.mu.Lock()
			maps.DeleteFunc(k.found, func(_ string, f *found) bool { return f.platform == a.platform }) // the last one is meant
			k.found[rand.Text()] = &found{*a, token, account, x.Login}
			k.mu.Unlock()
			return nil
		}
	}
	return k.take(ctx, a, token, account)
}

func (k *Keeper) take(ctx context.Context, a *asked, token signin.Token, account signin.Account) error {
	p := k.cfg.Settings().Profile(a.platform)
	name := Name(a.platform, a.who)
	if err := k.cfg.Keep(ctx, name, "access", token.Access); err != nil {
		return err
	}
	if token.Refresh != "" {
		if err := k.cfg.Keep(ctx, name, "refresh", token.Refresh); err != nil {
			return err
		}
	} else if err := k.cfg.Drop(ctx, name, "refresh"); err != nil {
		return err
	}
	x := store.SignIn{Channel: k.cfg.Channel, Platform: a.platform, Who: a.who, Account: account.ID, Login: account.Login, Name: account.Name, Scopes: strings.Join(token.Scopes, " "),
		Leads: strings.Join(origins(p), " "), Since: k.cfg.Now(), Renews: token.Refresh != ""}
	if !token.Expires.IsZero() {
		x.Expires = &token.Expires
	}
	if err := k.cfg.Store.Set(ctx, x); err != nil {
		return err
	}
	k.say(a.platform, account.Login+" is signed in.")
	k.well(&x)
	if a.movesIn {
		if err := k.cfg.MoveIn(ctx, a.member, a.platform, account); err != nil {
			return err
		}
	}
	k.cfg.Changed(a.platform)
	return nil
}

// origins are the sites a platform's token may go to, as the profile names them now.
func origins(p *profile.Profile) []string {
	var out []string
	for _, at := range p.Leads() {
		out = append(out, housefile.Origin(at))
	}
	return out
}

func (k *Keeper) say(platform, words string) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.said[platform] = words
}

// Another is an account that signed in where another one did last time, and is not taken in yet.
type Another struct{ Key, Who, Login, Was string }

// Told is what came of the last sign-in at a platform, and whom it waits for.
func (k *Keeper) Told(platform string) (said string, another *Another) {
	k.mu.Lock()
	defer k.mu.Unlock()
	for key, f := range k.found {
		switch {
		case k.cfg.Now().After(f.until):
			delete(k.found, key)
		case f.platform == platform:
			another = &Another{key, f.who, f.account.Login, f.was}
		}
	}
	return k.said[platform], another
}

// Confirm takes in another account than last time, or leaves it.
func (k *Keeper) Confirm(ctx context.Context, key string, yes bool) error {
	k.mu.Lock()
	f := k.found[key]
	delete(k.found, key)
	k.mu.Unlock()
	if f == nil {
		return ErrState
	}
	if yes {
		return k.take(ctx, &f.asked, f.token, f.account)
	}
	k.say(f.platform, f.was+" stays signed in; "+f.account.Login+" was sent away.")
	app, err := k.app(ctx, f.platform)
	if err != nil {
		return err
	}
	return app.Revoke(ctx, f.token.Access)
}

// Leave gives a sign-in up, and its tokens back.
func (k *Keeper) Leave(ctx context.Context, platform, who string) error {
	x, err := k.of(ctx, platform, who)
	if err != nil || x == nil {
		return err
	}
	name := Name(platform, who)
	if app, err := k.app(ctx, platform); err == nil {
		at := app.Profile.Where(app.Profile.SignIn.Token)
		for _, slot := range []string{"refresh", "access"} {
			if token, err := k.cfg.Secret(ctx, name, slot, at); err == nil {
				_ = app.Revoke(ctx, token) // a platform that is away forgets it when it ends
			}
		}
	}
	for _, slot := range []string{"refresh", "access"} {
		if err := k.cfg.Drop(ctx, name, slot); err != nil {
			return err
		}
	}
	k.well(x)
	x.Gone, x.Trouble, x.Expires, x.Renews, x.Scopes = true, "", nil, false, ""
	if err := k.cfg.Store.Set(ctx, *x); err != nil {
		return err
	}
	k.cfg.Changed(platform)
	return nil
}

func (k *Keeper) of(ctx context.Context, platform, who string) (*store.SignIn, error) {
	list, err := k.cfg.Store.List(ctx, k.cfg.Channel)
	if err != nil {
		return nil, err
	}
	for i := range list {
		if x := &list[i]; x.Platform == platform && x.Who == who && !x.Gone {
			return x, nil
		}
	}
	return nil, nil
}

// List are the sign-ins that there are.
func (k *Keeper) List(ctx context.Context) ([]store.SignIn, error) {
	list, err := k.cfg.Store.List(ctx, k.cfg.Channel)
	return slices.DeleteFunc(list, func(x store.SignIn) bool { return x.Gone }), err
}

// Access is a token that may be sent to an address of a platform: of the streamer where the scope is
// theirs to give, else of the house; of a login where one is asked for. "" is none.
func (k *Keeper) Access(ctx context.Context, platform, login, scope, address string) (string, error) {
	list, err := k.List(ctx)
	if err != nil {
		return "", err
	}
	slices.SortStableFunc(list, func(a, b store.SignIn) int { return strings.Compare(b.Who, a.Who) }) // the streamer first
	for _, x := range list {
		switch {
		case x.Platform != platform, login != "" && !strings.EqualFold(x.Login, login), scope != "" && !slices.Contains(strings.Fields(x.Scopes), scope):
			continue
		case !slices.Contains(strings.Fields(x.Leads), housefile.Origin(address)):
			return "", fmt.Errorf("%s leads elsewhere than when %s signed in; sign in anew", plain.Titled(platform), x.Login)
		}
		p := k.cfg.Settings().Profile(platform)
		if p.SignIn == nil {
			return "", nil
		}
		return k.cfg.Secret(ctx, Name(platform, x.Who), "access", p.Where(p.SignIn.Token))
	}
	return "", nil
}

// ScopeFor is the permission that something of the house needs at a platform; "" for none.
func ScopeFor(p *profile.Profile, what string) string {
	if p.SignIn == nil {
		return ""
	}
	for _, s := range p.SignIn.Scopes {
		if slices.Contains(s.For, what) {
			return s.Name
		}
	}
	return ""
}
