package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"gopkg.in/yaml.v3"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/pointer"
	"vividporch/core/reading"
	"vividporch/doors/inbox"
	"vividporch/doors/origin"
	"vividporch/porch"
	"vividporch/porch/gate"
	"vividporch/spec"
	"vividporch/store/log"
)

// beat is how often a quiet stream of events says that it is alive.
const beat = 10 * time.Second

// GetPorch answers GET /api/porch.
func (s *Server) GetPorch(c *echo.Context) error {
	p, err := s.house.Porch(c.Request().Context())
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, p)
}

// GetLive answers GET /api/porch/live: server-sent events (WHATWG HTML, section
// 9.2) that a page resumes by the id it saw last.
func (s *Server) GetLive(c *echo.Context) error {
	ctx, done, err := s.streams.begin(c.Request().Context(), memberOf(c))
	if err != nil {
		return err
	}
	defer done()
	after, _ := strconv.ParseInt(c.Request().Header.Get("Last-Event-ID"), 10, 64) // what cannot be read is nothing seen yet
	frames, stop, err := s.house.Watch(ctx, after)
	if err != nil {
		return err
	}
	defer stop()
	w := c.Response()
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusOK)
	rc := http.NewResponseController(w)
	fmt.Fprint(w, "retry: 1000\n\n")
	if err := rc.Flush(); err != nil {
		return nil
	}
	tick := time.NewTicker(beat)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-tick.C:
			if _, err := s.session(c); err != nil && !log.Waits(err) { // ended by another process
				return nil
			}
			fmt.Fprintf(w, "event: beat\ndata: %d\n\n", time.Now().UnixMilli())
		case f, ok := <-frames:
			if !ok {
				return nil
			}
			write(w, f)
			for n := len(frames); n > 0; n-- { // what is there already goes in one flush
				if f, ok = <-frames; !ok {
					return nil
				}
				write(w, f)
			}
		}
		if err := rc.Flush(); err != nil {
			return nil
		}
	}
}

func write(w io.Writer, f porch.Frame) {
	if f.Seq > 0 {
		fmt.Fprintf(w, "id: %d\n", f.Seq)
	}
	fmt.Fprintf(w, "event: %s\ndata: %s\n\n", f.Name, f.Data)
}

// inbox answers POST /inbox/{door}.
func (s *Server) inbox(c *echo.Context) error {
	r := c.Request()
	door := c.Param("door")
	d := s.house.Plan().Settings.DoorNamed(door)
	if d == nil || d.Kind != "inbox" && d.Kind != "hook" {
		return problem(http.StatusNotFound, "There is no such door", "Check the address; the doors are listed in the settings.")
	}
	// Without a content type it is looked at (RFC 9110, section 8.3).
	if sent := r.Header.Get("Content-Type"); sent != "" && !isJSON(sent) {
		return problem(http.StatusUnsupportedMediaType, "This is not sent as JSON", "Send Content-Type: application/cloudevents+json, application/cloudevents-batch+json or application/json.")
	}
	body, err := io.ReadAll(io.LimitReader(&slowBody{ReadCloser: r.Body, w: c.Response()}, inbox.MaxBytes+1))
	if err != nil {
		return broken(err)
	}
	if len(body) > inbox.MaxBytes {
		return problem(http.StatusRequestEntityTooLarge, "The body is over 1 MiB", "Send fewer events in one batch.")
	}
	if s.house.Held() || d.Paused {
		c.Response().Header().Set("Retry-After", "60")
		return problem(http.StatusServiceUnavailable, "This door is paused", "Nothing was taken; send it again later.")
	}
	if s.house.Stalled() {
		return porch.ErrStalled
	}
	secrets, err := s.house.DoorSecrets(r.Context(), door)
	if err != nil {
		return porch.ErrStalled
	}
	how := reading.Proof{} // as Standard Webhooks has it
	if d.Service != nil {
		how = d.Service.Proof
	}
	many := func() error {
		c.Response().Header().Set("Retry-After", "1")
		return problem(http.StatusTooManyRequests, "Too many requests", "Send several events in one batch, and no more than 200 requests a second.")
	}
	// What is not signed uses up the share of whoever sent it, not the door's.
	if err := origin.Check(how, secrets, body, r, time.Now()); err != nil {
		if !s.limits.unsigned.allow(s.client(c) + " " + door) {
			return many()
		}
		if d.Kind == "hook" {
			s.house.Services.Refused(door, err.Error())
		}
		return problem(http.StatusUnauthorized, "The signature is not good", err.Error())
	}
	if !s.limits.doors.allow(door) {
		return many()
	}
	ctx, cancel := context.WithTimeout(r.Context(), 10*time.Second)
	defer cancel()
	go s.whileDatabase(ctx, cancel)
	if d.Kind == "hook" {
		return s.hook(c, ctx, d, body)
	}
	answer, err := inbox.Take(ctx, door, d.Platform, body, func(ctx context.Context, evs []event.Event) ([]inbox.Outcome, error) {
		for i := range evs {
			raw, _ := json.Marshal(evs[i]) // as it came, one event
			s.house.Gate.Heard(door, string(raw), gate.Words(&evs[i]), s.house.Clock())
		}
		rs, err := s.house.Submit(ctx, evs)
		became := make([]inbox.Outcome, len(rs))
		for i := range rs {
			became[i] = inbox.Outcome{Repeat: rs[i].Repeat, Aside: rs[i].Aside}
		}
		return became, err
	})
	for _, r := range answer.Refused {
		s.house.Gate.Heard(door, fmt.Sprintf("event %d of a batch", r.Index+1), "refused: "+r.Field+" "+r.Remedy, s.house.Clock())
	}
	switch {
	case errors.Is(err, inbox.ErrUnread):
		s.house.Gate.Heard(door, string(body), "nothing that can be read", s.house.Clock())
		return problem(http.StatusBadRequest, "Nothing can be read", err.Error())
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return porch.ErrStalled
	case err != nil:
		return err
	}
	s.house.SeenDoor(door)
	return c.JSON(http.StatusAccepted, answer)
}

// hook takes another service's message, once its origin is proven.
func (s *Server) hook(c *echo.Context, ctx context.Context, d *housefile.Door, body []byte) error {
	took, err := s.house.Services.Take(ctx, d, body)
	switch {
	case errors.Is(err, pointer.ErrNotJSON), errors.Is(err, pointer.ErrDeep):
		s.house.Services.Refused(d.Name, err.Error())
		return problem(http.StatusBadRequest, "Nothing can be read", err.Error())
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return porch.ErrStalled
	case err != nil:
		return err
	}
	return c.JSON(http.StatusAccepted, took)
}

// isJSON reports whether a content type is JSON (RFC 6839, section 3.1).
func isJSON(sent string) bool {
	kind, _, err := mime.ParseMediaType(sent)
	return err == nil && (kind == "application/json" || strings.HasSuffix(kind, "+json"))
}

// whileDatabase gives up what is waited for as soon as the database is gone: whoever
// sends is told at once to send again, and an event that was taken all the same is a
// repeat then.
func (s *Server) whileDatabase(ctx context.Context, cancel func()) {
	tick := time.NewTicker(100 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if s.house.Stalled() {
				cancel()
				return
			}
		}
	}
}

// openAPI answers GET /api/openapi.json.
func openAPI(c *echo.Context) error {
	var doc map[string]any
	if err := yaml.Unmarshal(spec.OpenAPI, &doc); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, doc)
}
