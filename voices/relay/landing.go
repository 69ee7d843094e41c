package relay

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"vividporch/core/output"
	"vividporch/core/place"
	"vividporch/core/plain"
	"vividporch/core/pointer"
	"vividporch/core/profile"
	"vividporch/store/jobs"
)

// Signed is where the house is signed in.
type Signed interface {
	// Profile is what is known of a platform.
	Profile(platform string) *profile.Profile
	// Token is a token that may be sent to an address of a platform; the error says what is missing.
	Token(ctx context.Context, platform, address string) (string, error)
	// Medium is a file of the shelf.
	Medium(ctx context.Context, name string) ([]byte, error)
	// Picture is what a post's picture is of, as PNG.
	Picture(ctx context.Context, of string) ([]byte, error)
}

// at is where the house is signed in, and how it sends there.
type at struct{ Signed }

// send makes one request with the token of whoever is signed in.
func (s at) send(ctx context.Context, client *http.Client, platform, method, address, key string, body []byte) (came arrival, answer []byte) {
	token, err := s.Token(ctx, platform, address)
	if err != nil {
		return arrival{how: refused, why: err.Error()}, nil
	}
	req, err := http.NewRequestWithContext(ctx, method, address, bytes.NewReader(body))
	if err != nil {
		return arrival{how: refused, why: err.Error()}, nil
	}
	req.Header.Set("Authorization", "Bearer "+token)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "vivid-porch")
	req.Header.Set("Idempotency-Key", key)
	res, err := client.Do(req)
	if err != nil {
		return answered(0, nil, 0, err), nil
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(io.LimitReader(res.Body, mostAnswer))
	return answered(res.StatusCode, problemOf(res, raw), retryAfter(res.Header.Get("Retry-After"), time.Now()), nil), raw
}

// landings carry to landings of community servers, in the form that the server's profile tells.
type landings struct {
	channel int64
	store   *jobs.Jobs
	signed  at
	http    *http.Client
}

func (x *landings) carry(ctx context.Context, p *place.Place, d *jobs.Delivery) arrival {
	known := x.signed.Profile(p.Platform)
	c := known.Community
	if c == nil {
		return arrival{how: refused, why: "nothing is known of the community server " + plain.Titled(p.Platform)}
	}
	under, method, address := "", http.MethodPost, c.Post
	if d.Onto != "" {
		ref, err := x.store.Announced(ctx, x.channel, p.Name, d.Stream)
		switch {
		case err != nil:
			return arrival{how: broken, why: err.Error()}
		case ref == "":
			return arrival{gone: true, why: "no announcement of the stream stands there"}
		case d.Onto == output.OntoUnder:
			under = ref
		default:
			method, address = http.MethodPatch, strings.ReplaceAll(c.Edit, "{post}", url.PathEscape(ref))
		}
	}
	address = known.Where(strings.ReplaceAll(address, "{landing}", url.PathEscape(p.Landing)))
	body, err := x.body(ctx, c, d, under)
	if err != nil {
		return arrival{how: refused, why: err.Error()}
	}
	came, raw := x.signed.send(ctx, x.http, p.Platform, method, address, Key(d), body)
	if d.Onto == output.OntoEdit && (came.status == http.StatusNotFound || came.status == http.StatusGone) {
		return arrival{gone: true, status: came.status, why: "the announcement stands there no more"}
	}
	if came.how == taken {
		if answer, err := pointer.Read(raw); err == nil {
			came.ref = c.PostID(answer)
		}
	}
	return came
}

// body is what is sent: the post in the server's form.
func (x *landings) body(ctx context.Context, c *profile.Community, d *jobs.Delivery, under string) ([]byte, error) {
	var post place.Post
	if err := json.Unmarshal(d.Body, &post); err != nil {
		return nil, errors.New("what is to be posted cannot be read")
	}
	picture := ""
	if post.Picture != "" {
		png, err := x.signed.Picture(ctx, post.Picture)
		if err != nil {
			return nil, fmt.Errorf("the picture could not be drawn: %w", err)
		}
		picture = base64.StdEncoding.EncodeToString(png)
	}
	return post.Form(c.Body, picture, under)
}
