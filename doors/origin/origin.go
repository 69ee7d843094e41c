// Package origin checks that a message of another service came from it: by a signature over its
// bytes, by a secret word, or as Standard Webhooks has it. Whatever is compared is compared in
// constant time.
package origin

import (
	"crypto/hmac"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"time"

	"vividporch/core/reading"
	"vividporch/doors/inbox"
)

// Errors of a proof.
var (
	ErrNoSecret = errors.New("this door has no secret yet, so nothing can be checked; set the one that the service shows or takes")
	ErrUnproven = errors.New("the proof of where it comes from is missing or does not fit")
)

// Clock is that what was sent bears a time too far from the house's.
type Clock struct{ Off time.Duration } // ahead of the house's; negative for behind

func (c *Clock) Error() string {
	words := "ahead"
	if c.Off < 0 {
		words = "behind"
	}
	return fmt.Sprintf("what was sent bears a time %s %s of the house's clock; it is a message sent again, or the sender's clock is wrong", c.Off.Abs().Round(time.Second), words)
}

// Check checks a message against every secret that is valid; during a change there are two.
func Check(p reading.Proof, secrets []string, body []byte, r *http.Request, now time.Time) error {
	switch p.How {
	case reading.HMAC, reading.Token:
		if len(secrets) == 0 {
			return ErrNoSecret
		}
	}
	switch p.How {
	case reading.HMAC:
		return signed(p, secrets, body, r.Header, now)
	case reading.Token:
		given := r.URL.Query().Get("key")
		if p.Header != "" {
			given = strings.TrimPrefix(r.Header.Get(p.Header), p.Prefix)
		}
		for _, s := range secrets {
			a, b := sha256.Sum256([]byte(given)), sha256.Sum256([]byte(s)) // of one length: not even that is told
			if given != "" && subtle.ConstantTimeCompare(a[:], b[:]) == 1 {
				return nil
			}
		}
		return ErrUnproven
	}
	return inbox.Verify(secrets, body, r.Header)
}

func signed(p reading.Proof, secrets []string, body []byte, h http.Header, now time.Time) error {
	text := body
	if p.TimeHeader != "" {
		at := h.Get(p.TimeHeader)
		pattern := p.Signed
		if pattern == "" {
			pattern = "{time}.{body}"
		}
		before, after, _ := strings.Cut(pattern, "{body}")
		fill := func(s string) string { return strings.ReplaceAll(s, "{time}", at) }
		text = append(append([]byte(fill(before)), body...), fill(after)...)
	}
	given, ok := strings.CutPrefix(h.Get(p.Header), p.Prefix)
	decode := hex.DecodeString
	if p.Encoding == "base64" {
		decode = base64.StdEncoding.DecodeString
	}
	sum, err := decode(given)
	if !ok || err != nil || len(sum) != sha256.Size {
		return ErrUnproven
	}
	fits := false
	for _, s := range secrets {
		mac := hmac.New(sha256.New, []byte(s))
		mac.Write(text)
		fits = hmac.Equal(sum, mac.Sum(nil)) || fits
	}
	switch {
	case !fits:
		return ErrUnproven
	case p.TimeHeader == "":
		return nil
	}
	return inTime(h.Get(p.TimeHeader), p.ToleranceSeconds, now)
}

func inTime(at string, tolerance float64, now time.Time) error {
	n, err := strconv.ParseInt(at, 10, 64)
	if err != nil {
		return ErrUnproven
	}
	if n > 1e11 { // in milliseconds
		n /= 1000
	}
	if tolerance == 0 {
		tolerance = reading.UsualTolerance
	}
	if off := time.Unix(n, 0).Sub(now); off.Abs() > time.Duration(tolerance*float64(time.Second)) {
		return &Clock{off}
	}
	return nil
}
