package standin_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"vividporch/standin"
)

func post(t *testing.T, b *standin.Boathouse, key, body string) int {
	t.Helper()
	r := httptest.NewRequest("POST", "/boathouse/hooks/news", strings.NewReader(body))
	r.SetPathValue("landing", "news")
	r.Header.Set("Idempotency-Key", key)
	w := httptest.NewRecorder()
	b.ServeHTTP(w, r)
	if w.Code == http.StatusTooManyRequests && w.Header().Get("Retry-After") == "" {
		t.Error("429 without Retry-After")
	}
	return w.Code
}

func posts(b *standin.Boathouse) []standin.Post {
	landings, _, _ := b.State()
	return landings[0].Posts
}

func TestTheBoathouseRingsOnlyWhomAPostMayRing(t *testing.T) {
	b := standin.NewBoathouse()
	post(t, b, "1", `{"message":"@deckhands @all come quickly","may-ring":["deckhands"]}`)
	post(t, b, "2", `{"message":"@all come","may-ring":[]}`)
	post(t, b, "3", "{\"message\":\"@\u2060all come\",\"may-ring\":[\"all\"]}")
	got := fmt.Sprint(posts(b)[0].Rings, posts(b)[1].Rings, posts(b)[2].Rings)
	if got != "[deckhands] [] []" {
		t.Errorf("rang %s", got)
	}
}

func TestTheBoathouseHeedsKeysUnlessToldNotTo(t *testing.T) {
	b := standin.NewBoathouse()
	post(t, b, "same", `{"message":"one"}`)
	if s := post(t, b, "same", `{"message":"one"}`); s != http.StatusOK || len(posts(b)) != 1 {
		t.Errorf("%d, %d posts", s, len(posts(b)))
	}
	b.SetIgnoresKeys(true)
	post(t, b, "same", `{"message":"one"}`)
	if len(posts(b)) != 2 {
		t.Errorf("%d posts", len(posts(b)))
	}
}

func TestTheBoathouseCanBeFloodedBrokenAndMended(t *testing.T) {
	b := standin.NewBoathouse()
	limited := 0
	for i := range 15 {
		if post(t, b, fmt.Sprint(i), `{"message":"x"}`) == http.StatusTooManyRequests {
			limited++
		}
	}
	if limited < 4 {
		t.Errorf("only %d of fifteen met the limit", limited)
	}
	b.SetOutage(true)
	if s := post(t, b, "x", `{"message":"x"}`); s != http.StatusBadGateway {
		t.Errorf("under water it answers %d", s)
	}
}
