package origin_test

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/reading"
	"vividporch/doors/inbox"
	"vividporch/doors/origin"
)

const (
	secret = "low-water-lamp"
	before = "high-water-lamp"
	body   = `{"kind":"coin"}`
)

var evening = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func sum(key, text string) []byte {
	m := hmac.New(sha256.New, []byte(key))
	m.Write([]byte(text))
	return m.Sum(nil)
}

func TestAMessageIsTakenOnlyWithItsProof(t *testing.T) {
	hexed := func(key, text string) string { return hex.EncodeToString(sum(key, text)) }
	at := strconv.FormatInt(evening.Unix(), 10)
	late := strconv.FormatInt(evening.Add(-20*time.Minute).Unix(), 10)
	ahead := strconv.FormatInt(evening.Add(20*time.Minute).Unix(), 10)
	plain := reading.Proof{How: reading.HMAC, Header: "X-Tin-Signature", Prefix: "sha256="}
	timed := reading.Proof{How: reading.HMAC, Header: "X-Tin-Signature", TimeHeader: "X-Tin-Time", Encoding: "base64"}
	own := reading.Proof{How: reading.HMAC, Header: "Sign", TimeHeader: "At", Signed: "v0:{time}:{body}:end", ToleranceSeconds: 3600}
	header, address := reading.Proof{How: reading.Token, Header: "Authorization", Prefix: "Bearer "}, reading.Proof{How: reading.Token}
	based := func(key, text string) string { return base64.StdEncoding.EncodeToString(sum(key, text)) }
	clock := errors.New("the clock")
	for name, c := range map[string]struct {
		proof   reading.Proof
		target  string
		headers map[string]string
		want    error
	}{
		"signed":                      {plain, "/", map[string]string{"X-Tin-Signature": "sha256=" + hexed(secret, body)}, nil},
		"signed with the old one":     {plain, "/", map[string]string{"X-Tin-Signature": "sha256=" + hexed(before, body)}, nil},
		"signed with another":         {plain, "/", map[string]string{"X-Tin-Signature": "sha256=" + hexed("x", body)}, origin.ErrUnproven},
		"signed, another body":        {plain, "/", map[string]string{"X-Tin-Signature": "sha256=" + hexed(secret, body+" ")}, origin.ErrUnproven},
		"without its prefix":          {plain, "/", map[string]string{"X-Tin-Signature": hexed(secret, body)}, origin.ErrUnproven},
		"cut short":                   {plain, "/", map[string]string{"X-Tin-Signature": "sha256=" + hexed(secret, body)[:32]}, origin.ErrUnproven},
		"no header":                   {plain, "/", nil, origin.ErrUnproven},
		"with its time":               {timed, "/", map[string]string{"X-Tin-Time": at, "X-Tin-Signature": based(secret, at+"."+body)}, nil},
		"a time that was not signed":  {timed, "/", map[string]string{"X-Tin-Time": at, "X-Tin-Signature": based(secret, late+"."+body)}, origin.ErrUnproven},
		"twenty minutes behind":       {timed, "/", map[string]string{"X-Tin-Time": late, "X-Tin-Signature": based(secret, late+"."+body)}, clock},
		"twenty minutes ahead":        {timed, "/", map[string]string{"X-Tin-Time": ahead, "X-Tin-Signature": based(secret, ahead+"."+body)}, clock},
		"no time":                     {timed, "/", map[string]string{"X-Tin-Signature": based(secret, "."+body)}, origin.ErrUnproven},
		"a pattern of its own":        {own, "/", map[string]string{"At": late, "Sign": hexed(secret, "v0:"+late+":"+body+":end")}, nil},
		"a token":                     {header, "/", map[string]string{"Authorization": "Bearer " + secret}, nil},
		"another token":               {header, "/", map[string]string{"Authorization": "Bearer " + secret + "x"}, origin.ErrUnproven},
		"no token":                    {header, "/", nil, origin.ErrUnproven},
		"a token where none is asked": {header, "/?key=" + secret, nil, origin.ErrUnproven},
		"a token in the address":      {address, "/?key=" + secret, nil, nil},
		"none in the address":         {address, "/?key=", nil, origin.ErrUnproven},
	} {
		r := httptest.NewRequest("POST", c.target, strings.NewReader(body))
		for k, v := range c.headers {
			r.Header.Set(k, v)
		}
		err := origin.Check(c.proof, []string{secret, before}, []byte(body), r, evening)
		var off *origin.Clock
		if c.want == clock {
			if !errors.As(err, &off) || off.Off.Abs() != 20*time.Minute || !strings.Contains(err.Error(), "20m0s") {
				t.Errorf("%s: %v", name, err)
			}
		} else if !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
		if err := origin.Check(c.proof, nil, []byte(body), r, evening); !errors.Is(err, origin.ErrNoSecret) {
			t.Errorf("%s, with no secret set: %v", name, err)
		}
	}
}

func TestStandardWebhooksAreChecked(t *testing.T) {
	key := "whsec_dGhlIHNlY3JldCBpbiBmb3JjZSBub3c="
	wh, err := webhooks.NewWebhook(key)
	if err != nil {
		t.Fatal(err)
	}
	now := time.Now()
	sig, err := wh.Sign("m1", now, []byte(body))
	if err != nil {
		t.Fatal(err)
	}
	r := httptest.NewRequest("POST", "/", nil)
	r.Header.Set("webhook-id", "m1")
	r.Header.Set("webhook-timestamp", strconv.FormatInt(now.Unix(), 10))
	r.Header.Set("webhook-signature", sig)
	p := reading.Proof{How: reading.Webhook}
	if err := origin.Check(p, []string{key}, []byte(body), r, now); err != nil {
		t.Error(err)
	}
	if err := origin.Check(p, []string{key}, []byte(body+"x"), r, now); !errors.Is(err, inbox.ErrSignature) {
		t.Errorf("another body: %v", err)
	}
}
