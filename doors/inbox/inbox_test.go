package inbox_test

import (
	"context"
	"errors"
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/doors/inbox"
)

const (
	now    = "whsec_dGhlIHNlY3JldCBpbiBmb3JjZSBub3c="
	before = "whsec_dGhlIHNlY3JldCBmcm9tIGJlZm9yZQ=="
	wrong  = "whsec_c29tZWJvZHkgZWxzZSdzIHNlY3JldA=="
)

func signed(t *testing.T, secret, body string, at time.Time) http.Header {
	t.Helper()
	wh, err := webhooks.NewWebhook(secret)
	if err != nil {
		t.Fatal(err)
	}
	sig, err := wh.Sign("msg1", at, []byte(body))
	if err != nil {
		t.Fatal(err)
	}
	h := http.Header{}
	h.Set("webhook-id", "msg1")
	h.Set("webhook-timestamp", strconv.FormatInt(at.Unix(), 10))
	h.Set("webhook-signature", sig)
	return h
}

func TestSignaturesAreCheckedAgainstEverySecretInForce(t *testing.T) {
	body := `{"any":"thing"}`
	both := []string{now, before}
	for name, c := range map[string]struct {
		secrets []string
		h       http.Header
		body    string
		want    error
	}{
		"good":                     {both, signed(t, now, body, time.Now()), body, nil},
		"the old one, in rotation": {both, signed(t, before, body, time.Now()), body, nil},
		"the old one, afterwards":  {both[:1], signed(t, before, body, time.Now()), body, inbox.ErrSignature},
		"somebody else's":          {both, signed(t, wrong, body, time.Now()), body, inbox.ErrSignature},
		"another body":             {both, signed(t, now, body, time.Now()), body + " ", inbox.ErrSignature},
		"four minutes old":         {both, signed(t, now, body, time.Now().Add(-4*time.Minute)), body, nil},
		"six minutes old":          {both, signed(t, now, body, time.Now().Add(-6*time.Minute)), body, inbox.ErrSignature},
		"six minutes ahead":        {both, signed(t, now, body, time.Now().Add(6*time.Minute)), body, inbox.ErrSignature},
		"none":                     {both, http.Header{}, body, inbox.ErrSignature},
		"a door without a secret":  {nil, signed(t, now, body, time.Now()), body, inbox.ErrNoSecret},
	} {
		if err := inbox.Verify(c.secrets, []byte(c.body), c.h); !errors.Is(err, c.want) {
			t.Errorf("%s: got %v, want %v", name, err, c.want)
		}
	}
}

func follow(id string) string {
	return `{"specversion":"1.0","id":"` + id + `","source":"s","type":"porch.person.followed","data":{"person":{"platform":"quayside","id":"1"}}}`
}

func TestABatchIsTakenEventByEvent(t *testing.T) {
	body := "[" + follow("a") + `,{"specversion":"1.0","id":"b","source":"s","type":"porch.tide"},` + follow("c") + `,
		{"specversion":"1.0","id":"d","source":"s","type":"porch.desk.hushed","data":{"on":true}}]`
	var got []event.Event
	answer, err := inbox.Take(t.Context(), "quayside", "quayside", []byte(body), func(_ context.Context, evs []event.Event) ([]inbox.Outcome, error) {
		got = evs
		return []inbox.Outcome{{}, {Repeat: true}}, nil
	})
	if err != nil || answer.Taken != 1 || answer.Repeats != 1 || len(answer.Refused) != 2 {
		t.Fatalf("%+v %v", answer, err)
	}
	if r := answer.Refused; r[0].Index != 1 || r[0].Field != "type" || r[1].Index != 3 || !strings.Contains(r[1].Remedy, "the house's own") {
		t.Errorf("refused: %+v", r)
	}
	if len(got) != 2 || got[0].Door != "quayside" || got[1].ID != "c" {
		t.Errorf("handed on: %+v", got)
	}
}

func TestADoorSpeaksForItsOwnPlatformAlone(t *testing.T) {
	body := "[" + follow("a") + `,
		{"specversion":"1.0","id":"b","source":"s","type":"porch.stream.opened","data":{"platform":"fernlight"}},
		{"specversion":"1.0","id":"c","source":"s","type":"porch.other","data":{"name":"x","person":{"platform":"fernlight","id":"1"}}},
		{"specversion":"1.0","id":"d","source":"s","type":"porch.stream.viewers","data":{"platform":"fernlight","viewers":3}},
		{"specversion":"1.0","id":"e","source":"s","type":"porch.support.gifted","data":{"person":{"platform":"quayside","id":"1"},"count":1,"to":[{"platform":"fernlight","id":"2"}]}}]`
	evs, answer, err := inbox.Read("quayside", "quayside", []byte(body))
	if err != nil || len(evs) != 2 || len(answer.Refused) != 3 {
		t.Fatalf("%d taken, %+v, %v", len(evs), answer, err)
	}
	for i, field := range []string{"data.platform", "data.person.platform", "data.platform"} {
		if r := answer.Refused[i]; r.Field != field || !strings.Contains(r.Remedy, "quayside alone") {
			t.Errorf("%+v", r)
		}
	}
}

func TestNothingReadableIsSaidSo(t *testing.T) {
	for _, body := range []string{"", "  ", "hello", "{", "[{]", "12"} {
		if _, err := inbox.Take(t.Context(), "d", "d", []byte(body), nil); !errors.Is(err, inbox.ErrUnread) {
			t.Errorf("%q: %v", body, err)
		}
	}
}
