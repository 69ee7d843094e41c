// Package signin signs a house in to a platform: OAuth 2.0's authorization code (RFC 6749, section
// 4.1) with PKCE (RFC 7636), renewal (section 6) and revocation (RFC 7009). Where that is done,
// and how the platform tells whose token it is, stands in the platform's profile.
//
// No token and no secret is in any error.
package signin

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"golang.org/x/oauth2"

	"vividporch/core/event"
	"vividporch/core/pointer"
	"vividporch/core/profile"
)

// App is a house as a platform knows it.
type App struct {
	Profile  *profile.Profile
	ID       string // client id
	Secret   string // client secret
	Redirect string // where the platform sends the member back to
	HTTP     *http.Client
}

// Token is what a platform allowed, for a time.
type Token struct {
	Access, Refresh string    // a Refresh of "" cannot be renewed
	Expires         time.Time // zero for never
	Scopes          []string
}

// Account is whose token it is.
type Account struct{ ID, Login, Name string }

// ErrRefused says that a platform takes a token, a code or the house itself no more.
var ErrRefused = errors.New("the platform lets the house in no more")

func (a *App) config(scopes []string) *oauth2.Config {
	s := a.Profile.SignIn
	return &oauth2.Config{ClientID: a.ID, ClientSecret: a.Secret, RedirectURL: a.Redirect, Scopes: scopes,
		Endpoint: oauth2.Endpoint{AuthURL: a.Profile.Where(s.Authorize), TokenURL: a.Profile.Where(s.Token), AuthStyle: oauth2.AuthStyleInHeader}}
}

// still is a client that follows no redirect: what it carries is for this address alone.
func (a *App) still() *http.Client {
	c := *a.HTTP
	c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	return &c
}

func (a *App) with(ctx context.Context) context.Context {
	return context.WithValue(ctx, oauth2.HTTPClient, a.still())
}

// Verifier makes a PKCE code verifier.
func Verifier() string { return oauth2.GenerateVerifier() }

// Ask is the platform's page that asks the member, for these scopes.
func (a *App) Ask(state, verifier string, scopes []string) string {
	return a.config(scopes).AuthCodeURL(state, oauth2.AccessTypeOffline, oauth2.S256ChallengeOption(verifier))
}

// Redeem makes a token of a code.
func (a *App) Redeem(ctx context.Context, code, verifier string, asked []string) (Token, error) {
	t, err := a.config(asked).Exchange(a.with(ctx), code, oauth2.VerifierOption(verifier))
	return tokenOf(t, asked, err)
}

// Renew makes a new token of a refresh token. Of a platform that gives no other refresh token the old one
// stays good.
func (a *App) Renew(ctx context.Context, refresh string, had []string) (Token, error) {
	t, err := a.config(had).TokenSource(a.with(ctx), &oauth2.Token{RefreshToken: refresh}).Token()
	return tokenOf(t, had, err)
}

func tokenOf(t *oauth2.Token, asked []string, err error) (Token, error) {
	if err != nil {
		return Token{}, plainly(err)
	}
	out := Token{Access: t.AccessToken, Refresh: t.RefreshToken, Expires: t.Expiry, Scopes: asked}
	if s, ok := t.Extra("scope").(string); ok && s != "" { // absent is as asked (RFC 6749, section 5.1)
		out.Scopes = strings.Fields(s)
	}
	return out, nil
}

// plainly says what went wrong with no word of what was sent or answered.
func plainly(err error) error {
	var re *oauth2.RetrieveError
	var ue *url.Error
	switch {
	case errors.As(err, &re) && (re.ErrorCode == "invalid_grant" || re.ErrorCode == "invalid_client" || re.ErrorCode == "unauthorized_client"):
		if re.ErrorCode == "invalid_grant" {
			return ErrRefused
		}
		return errors.New("the platform does not know the house by its client id and secret; enter them anew")
	case errors.As(err, &re) && re.Response != nil:
		return fmt.Errorf("the platform answered %d", re.Response.StatusCode)
	case errors.As(err, &ue) && ue.Timeout():
		return errors.New("the platform does not answer")
	case errors.As(err, &ue):
		return fmt.Errorf("the platform cannot be reached: %w", ue.Err)
	}
	return errors.New("the platform answered what cannot be read")
}

// answerMost is how many bytes of an answer are read.
const answerMost = 64 << 10

// Get asks an address of the platform with a token. It is ErrRefused where the token is not good.
func (a *App) Get(ctx context.Context, access, at string) ([]byte, error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return nil, err
	}
	req.Header.Set("Authorization", "Bearer "+access)
	res, err := a.still().Do(req)
	if err != nil {
		return nil, plainly(err)
	}
	defer res.Body.Close()
	switch {
	case res.StatusCode == http.StatusUnauthorized:
		return nil, ErrRefused
	case res.StatusCode == http.StatusForbidden:
		return nil, errors.New("this was not allowed to the house")
	case res.StatusCode != http.StatusOK:
		return nil, fmt.Errorf("the platform answered %d", res.StatusCode)
	}
	return io.ReadAll(io.LimitReader(res.Body, mostAnswer))
}

// mostAnswer bounds what is read of an answer.
const mostAnswer = 8 << 20

// Whose asks whose a token is.
func (a *App) Whose(ctx context.Context, access string) (Account, error) {
	s := a.Profile.SignIn.Account
	raw, err := a.Get(ctx, access, a.Profile.Where(s.Address))
	if err != nil {
		return Account{}, err
	}
	v, err := pointer.Read(raw[:min(len(raw), answerMost)])
	if err != nil {
		return Account{}, errors.New("the platform answered what cannot be read")
	}
	text := func(at string) string {
		if at == "" {
			return ""
		}
		v, _ := pointer.Get(v, at)
		t, _ := pointer.Text(v)
		return event.CleanText(event.Shortened(t, 200))
	}
	out := Account{text(s.ID), text(s.Login), text(s.Name)}
	if out.ID == "" || out.Login == "" {
		return out, errors.New("the platform does not tell whose account it is, where its profile says it would")
	}
	return out, nil
}

// Revoke gives a token back. A platform without an address for that is not told.
func (a *App) Revoke(ctx context.Context, token string) error {
	at := a.Profile.Where(a.Profile.SignIn.Revoke)
	if at == "" || token == "" {
		return nil
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, at, strings.NewReader(url.Values{"token": {token}}.Encode()))
	if err != nil {
		return err
	}
	req.SetBasicAuth(url.QueryEscape(a.ID), url.QueryEscape(a.Secret))
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := a.still().Do(req)
	if err != nil {
		return plainly(err)
	}
	res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("the platform answered %d", res.StatusCode)
	}
	return nil
}
