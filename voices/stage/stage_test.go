package stage

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
)

const secret = "whsec_dGhlIHN0YWdlIG9mIHRoZSBib2F0aG91c2U="

func decided(line string, t output.Told) hall.Decision {
	body, _ := json.Marshal(t)
	return hall.Decision{Kind: hall.Kind(t.Effect), Line: line, Platform: "bench-lamp", Saying: hall.Saying{Body: body}}
}

func open(t *testing.T) (*Stage, chan event.Data) {
	outcomes := make(chan event.Data, 200)
	return New(t.Context(), Config{HTTP: http.DefaultClient, Channel: 1, Outcome: func(d event.Data) { outcomes <- d },
		Secret: func(context.Context, string, string) (string, error) { return secret, nil }}), outcomes
}

func next(t *testing.T, outcomes chan event.Data) event.Data {
	t.Helper()
	select {
	case d := <-outcomes:
		return d
	case <-time.After(20 * time.Second):
		t.Fatal("nothing became of it")
		return nil
	}
}

func TestALampIsToldInOrderAndUnderSeal(t *testing.T) {
	var colours []string
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		body, _ := io.ReadAll(r.Body)
		wh, _ := webhooks.NewWebhook(secret)
		if err := wh.Verify(body, r.Header); err != nil || r.Header.Get("Idempotency-Key") == "" {
			t.Errorf("the seal does not hold: %v", err)
		}
		var told output.Told
		json.Unmarshal(body, &told)
		colours = append(colours, told.Do.(*output.Lamp).Colour)
		io.WriteString(w, `{"said": "lit"}`)
	}))
	defer srv.Close()
	s, outcomes := open(t)
	want := []string{"#000001", "#000002", "#000003"}
	for i, c := range want {
		s.Do(To{Address: srv.URL, Name: "bench-lamp"}, decided("l"+string(rune('1'+i)), output.Told{Effect: output.KindLamp, Do: &output.Lamp{Colour: c}}))
	}
	for i := range want {
		done, ok := next(t, outcomes).(*event.ActDone)
		if !ok || done.Reason != "lit" || done.Line != "l"+string(rune('1'+i)) || done.To != "bench-lamp" || done.Effect != "lamp" {
			t.Errorf("%+v", done)
		}
	}
	if strings.Join(colours, " ") != strings.Join(want, " ") {
		t.Errorf("the lamp heard %v", colours)
	}
}

func TestARefusalKeepsItsReasonAndAChangeWhatItWas(t *testing.T) {
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		var told output.Told
		json.NewDecoder(r.Body).Decode(&told)
		switch told.Do.(*output.Deed).Act {
		case output.SetTitle:
			io.WriteString(w, `{"was": "What the tide left"}`)
		case output.AdvertBreak:
			w.WriteHeader(http.StatusConflict)
			io.WriteString(w, `{"reason": "the last one was two minutes ago"}`)
		default:
			w.WriteHeader(http.StatusBadGateway)
		}
	}))
	s, outcomes := open(t)
	s.Do(To{Address: srv.URL, Name: "quayside"}, decided("a", output.Told{Effect: output.KindPlatform, Do: &output.Deed{Act: output.SetTitle}, Text: "With friends"}))
	if done, ok := next(t, outcomes).(*event.ActDone); !ok || done.Was != "What the tide left" || done.Text != "With friends" || done.Act != "title" {
		t.Errorf("%+v", done)
	}
	s.Do(To{Address: srv.URL, Name: "quayside"}, decided("b", output.Told{Effect: output.KindPlatform, Do: &output.Deed{Act: output.AdvertBreak}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "the last one was two minutes ago" {
		t.Errorf("%+v", no)
	}
	s.Do(To{Address: srv.URL, Name: "quayside"}, decided("c", output.Told{Effect: output.KindPlatform, Do: &output.Deed{Act: output.MakeClip}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "it answered 502" {
		t.Errorf("%+v", no)
	}
	srv.Close()
	s.Do(To{Address: srv.URL, Name: "quayside"}, decided("d", output.Told{Effect: output.KindPlatform, Do: &output.Deed{Act: output.MakeClip}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || !strings.HasPrefix(no.Reason, "it does not answer") {
		t.Errorf("%+v", no)
	}
	s.Do(To{Address: "", Name: "quayside"}, decided("e", output.Told{Effect: output.KindPlatform, Do: &output.Deed{Act: output.MakeClip}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "there is no address to tell it to" {
		t.Errorf("%+v", no)
	}
}

func TestASilentFittingDoesNotHoldUpTheHouse(t *testing.T) {
	release := make(chan struct{})
	srv := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { <-release }))
	defer srv.Close()
	defer close(release)
	s, outcomes := open(t)
	for range waitingMost + 2 {
		s.Do(To{Address: srv.URL, Name: "bench-lamp"}, decided("x", output.Told{Effect: output.KindLamp}))
	}
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || !strings.Contains(no.Reason, "wait there already") {
		t.Errorf("%+v", no)
	}
}
