package relay

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/housefile"
	kinds "vividporch/core/place"
	"vividporch/core/plain"
	"vividporch/outside"
	"vividporch/store/jobs"
	"vividporch/store/safe"
)

// hook carries to places that take an HTTP request with a JSON body, signed as a Standard Webhook.
type hook struct {
	channel int64
	safe    *safe.Safe
	http    *http.Client
}

// Key is the idempotency key of a delivery: the same for every attempt at it.
func Key(d *jobs.Delivery) string { return fmt.Sprintf("porch-%d-%s-%s", d.Channel, d.Line, d.Place) }

func (h *hook) carry(ctx context.Context, p *housefile.Place, d *jobs.Delivery) arrival {
	return answered(h.send(ctx, p, Key(d), d.Body))
}

// answered is what an answer means for a delivery: its status, what it says of a problem, and how long it asks to wait.
func answered(status int, says error, wait time.Duration, err error) arrival {
	tells := ""
	if says != nil {
		tells = ": " + says.Error()
	}
	switch {
	case err == nil && status >= 200 && status < 300:
		return arrival{how: taken, status: status}
	case err == nil && (status == http.StatusTooManyRequests || status == http.StatusServiceUnavailable):
		return arrival{how: later, status: status, wait: wait, why: fmt.Sprintf("the place asks to wait (%d)", status)}
	case err == nil && status < 500 && status != http.StatusRequestTimeout:
		return arrival{how: refused, status: status, tells: tells, why: fmt.Sprintf("the place refused the post (%d)%s", status, tells)}
	}
	return arrival{how: broken, status: status, why: reasonOf(err, status), unsure: !neverSent(err)}
}

func reasonOf(err error, status int) string {
	var ne net.Error
	var refused *outside.Refused
	switch {
	case errors.As(err, &refused):
		return refused.Error()
	case errors.Is(err, safe.ErrBound), errors.Is(err, safe.ErrKey), errors.Is(err, errNoToken):
		return err.Error()
	case certificate(err) != "":
		return certificate(err)
	case err == nil:
		return fmt.Sprintf("the place answered with an error (%d)", status)
	case errors.As(err, &ne) && ne.Timeout():
		return "the place did not answer in time"
	case neverSent(err):
		return "the place does not answer"
	}
	return "the connection to the place broke"
}

var errNoToken = errors.New("a header needs the place's token, and none is kept: set it in House")

// certificate says what is wrong with a place's certificate; "" for nothing.
func certificate(err error) string {
	var name x509.HostnameError
	var unknown x509.UnknownAuthorityError
	var invalid x509.CertificateInvalidError
	var plain tls.RecordHeaderError
	switch {
	case errors.As(err, &name):
		return "the certificate there is of another address: copy the place's address anew"
	case errors.As(err, &unknown):
		return "nobody that this machine trusts vouches for the certificate there"
	case errors.As(err, &invalid):
		return "the certificate there does not hold: " + invalid.Error()
	case errors.As(err, &plain):
		return "there is no encryption at that address: write http://, or another port"
	}
	return ""
}

// neverSent reports whether an error came before anything could have arrived.
func neverSent(err error) bool {
	var op *net.OpError
	return errors.As(err, &op) && op.Op == "dial" || certificate(err) != "" || errors.Is(err, safe.ErrBound) || errors.Is(err, safe.ErrKey) || errors.Is(err, errNoToken)
}

// mostAnswer is how much of a place's answer is read, in bytes.
const mostAnswer = 64 << 10

// problemOf is what an answer says of a problem (RFC 9457): its detail, else its title; nil for nothing.
func problemOf(res *http.Response, raw []byte) error {
	kind, _, _ := mime.ParseMediaType(res.Header.Get("Content-Type"))
	var p struct{ Title, Detail string }
	if res.StatusCode < 400 || kind != "application/problem+json" || json.Unmarshal(raw, &p) != nil {
		return nil
	}
	if text := plain.Text(cmp.Or(p.Detail, p.Title)); text != "" {
		return errors.New(text)
	}
	return nil
}

// send makes one request. wait is what Retry-After asks for.
func (h *hook) send(ctx context.Context, place *housefile.Place, key string, body []byte) (status int, says error, wait time.Duration, err error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, place.URL, bytes.NewReader(body))
	if err != nil {
		return 0, nil, 0, err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "vivid-porch")
	req.Header.Set("Idempotency-Key", key)
	secret, err := h.safe.SecretTo(ctx, h.channel, place.Name, "secret", place.URL)
	if err != nil {
		return 0, nil, 0, err
	}
	if secret != "" {
		wh, err := webhooks.NewWebhook(secret)
		if err != nil {
			return 0, nil, 0, err
		}
		now := time.Now()
		sig, err := wh.Sign(key, now, body)
		if err != nil {
			return 0, nil, 0, err
		}
		req.Header.Set(webhooks.HeaderWebhookID, key)
		req.Header.Set(webhooks.HeaderWebhookTimestamp, strconv.FormatInt(now.Unix(), 10))
		req.Header.Set(webhooks.HeaderWebhookSignature, sig)
	}
	for name, value := range place.Headers {
		if strings.Contains(value, kinds.Token) {
			token, err := h.safe.SecretTo(ctx, h.channel, place.Name, "token", place.URL)
			if err != nil {
				return 0, nil, 0, err
			}
			if token == "" {
				return 0, nil, 0, errNoToken
			}
			value = strings.ReplaceAll(value, kinds.Token, token)
		}
		req.Header.Set(name, value)
	}
	res, err := h.http.Do(req)
	if err != nil {
		return 0, nil, 0, err
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(io.LimitReader(res.Body, mostAnswer))
	return res.StatusCode, problemOf(res, raw), retryAfter(res.Header.Get("Retry-After"), time.Now()), nil
}

// Try makes one request to a place, now, and says what came of it: nil when the place took it.
func (r *Relay) Try(ctx context.Context, place *housefile.Place, body json.RawMessage) error {
	d := &jobs.Delivery{Channel: r.cfg.Channel, Line: "try-" + rand.Text(), Place: place.Name, Body: body}
	came := r.carry(ctx, place, d)
	switch status := came.status; {
	case came.how == taken:
		return nil
	case status >= 500 && came.how == broken:
		return errors.New(came.why)
	case came.tells != "":
		return fmt.Errorf("the place says%s", came.tells)
	case status == 0:
		return errors.New(came.why)
	case status == http.StatusUnauthorized || status == http.StatusForbidden:
		return fmt.Errorf("the place does not let the house post there (%d): give it the right to write, or check the address", status)
	case status == http.StatusNotFound || status == http.StatusGone:
		return fmt.Errorf("there is no such place at this address (%d): copy it anew", status)
	case status >= 300 && status < 400:
		return fmt.Errorf("the place sends elsewhere (%d): write the address that it leads to", status)
	case came.how == later:
		return fmt.Errorf("the place asks to wait (%d): try again in a moment", status)
	default:
		return fmt.Errorf("the place does not understand the post (%d): look what it wants to be sent", status)
	}
}

// retryAfter reads the header (RFC 9110 section 10.2.3): seconds or a date. It is
// bounded to six hours, so that no place can put a post off for ever.
func retryAfter(h string, now time.Time) time.Duration {
	var d time.Duration
	if n, err := strconv.Atoi(h); err == nil {
		d = time.Duration(n) * time.Second
	} else if t, err := http.ParseTime(h); err == nil {
		d = t.Sub(now)
	}
	return max(0, min(d, 6*time.Hour))
}
