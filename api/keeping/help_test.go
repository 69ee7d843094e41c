package keeping_test

import (
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"strconv"
	"strings"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/porchtest"
	"vividporch/standin"
)

type private = standin.Private

func viewer(id, login string) standin.Viewer {
	return standin.Viewer{ID: id, Login: login, Name: login}
}

func streamer(id, login string) standin.Viewer {
	v := viewer(id, login)
	v.Roles = []string{"streamer"}
	return v
}

func jsonOf(t *testing.T, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

func read(t *testing.T, from io.Reader, into any) {
	t.Helper()
	if err := json.NewDecoder(from).Decode(into); err != nil {
		t.Fatal(err)
	}
}

func asField(err error, f **event.FieldError) bool { return errors.As(err, f) }

// send posts a batch without events, signed, and returns the status.
func send(b *porchtest.Boat, door string) int {
	b.T.Helper()
	wh, err := webhooks.NewWebhook(porchtest.Secret)
	if err != nil {
		b.T.Fatal(err)
	}
	now := time.Now()
	sig, err := wh.Sign("m", now, []byte("[]"))
	if err != nil {
		b.T.Fatal(err)
	}
	req, _ := http.NewRequest("POST", b.Server.URL+"/inbox/"+door, strings.NewReader("[]"))
	for k, v := range map[string]string{"webhook-id": "m", "webhook-timestamp": strconv.FormatInt(now.Unix(), 10), "webhook-signature": sig, "Content-Type": "application/json"} {
		req.Header.Set(k, v)
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		b.T.Fatal(err)
	}
	res.Body.Close()
	return res.StatusCode
}
