package api

import (
	"context"
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
	"vividporch/doors/inbox"
	"vividporch/porch"
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
	platform, known := "", false
	for _, d := range s.house.Plan().Settings.Doors {
		if d.Kind == "inbox" && d.Name == door {
			platform, known = d.Platform, true
		}
	}
	if !known {
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
	if s.house.Stalled() {
		return porch.ErrStalled
	}
	secrets, err := s.house.DoorSecrets(r.Context(), door)
	if err != nil {
		return porch.ErrStalled
	}
	many := func() error {
		c.Response().Header().Set("Retry-After", "1")
		return problem(http.StatusTooManyRequests, "Too many requests", "Send several events in one batch, and no more than 200 requests a second.")
	}
	// What is not signed uses up the share of whoever sent it, not the door's.
	if err := inbox.Verify(secrets, body, r.Header); err != nil {
		if !s.limits.unsigned.allow(s.client(c) + " " + door) {
			return many()
		}
		return problem(http.StatusUnauthorized, "The signature is not good", err.Error())
	}
	if !s.limits.doors.allow(door) {
		return many()
	}
	ctx, cancel := context.WithTimeout(r.Context(), 10*time.Second)
	defer cancel()
	go s.whileDatabase(ctx, cancel)
	answer, err := inbox.Take(ctx, door, platform, body, func(ctx context.Context, evs []event.Event) ([]inbox.Outcome, error) {
		rs, err := s.house.Submit(ctx, evs)
		became := make([]inbox.Outcome, len(rs))
		for i := range rs {
			became[i] = inbox.Outcome{Repeat: rs[i].Repeat, Aside: rs[i].Aside}
		}
		return became, err
	})
	switch {
	case errors.Is(err, inbox.ErrUnread):
		return problem(http.StatusBadRequest, "Nothing can be read", err.Error())
	case errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled):
		return porch.ErrStalled
	case err != nil:
		return err
	}
	s.house.SeenDoor(door)
	return c.JSON(http.StatusAccepted, answer)
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
