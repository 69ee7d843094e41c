package api

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/labstack/echo/v5"

	"vividporch/core/event"
	"vividporch/spec"
)

// Limits of what a request may hold, where its route says nothing else.
const (
	bodyMost   = 256 << 10        // bytes of a JSON body
	textMost   = 400              // characters of a text in the address
	bodyWithin = 10 * time.Second // until more of a body must have come
	depthMost  = 60               // nested values
	mostScript = 96 << 20         // bytes of a body with a script in it: 200,000 lines, whose quotes are escaped in it
)

// bodies are the bodies of routes that may be larger.
var bodies = map[string]int64{
	"PUT /api/settings/file": mostFile, "POST /api/settings/file": mostFile, "POST /api/book/crews/:id/list": 2 << 20,
	"POST /api/rehearsal": mostScript, "PUT /api/rehearsal/evenings/:name": mostScript,
}

// bounds is what the description of the interface says every text and list may hold, by
// method and path: a request is held to it before anything is touched.
type bounds map[string]*openapi3.Operation

func boundsOf(doc []byte) bounds {
	d, err := openapi3.NewLoader().LoadFromData(doc)
	if err != nil {
		panic("api: the description cannot be read: " + err.Error()) // it is built in
	}
	out := bounds{}
	for path, item := range d.Paths.Map() {
		for method, op := range item.Operations() {
			out[method+" "+inBraces.ReplaceAllString(path, ":$1")] = op
		}
	}
	return out
}

// hold refuses what is over a bound, with the field and the bound.
func (b bounds) hold(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		route := r.Method + " " + c.Path()
		op := b[route]
		if op == nil {
			return next(c)
		}
		if err := heldAddress(c, op); err != nil {
			return err
		}
		body := op.RequestBody
		if body == nil || body.Value.Content["application/json"] == nil {
			r.Body = &slowBody{ReadCloser: r.Body, w: c.Response()}
			return next(c)
		}
		most := int64(bodyMost)
		if n := bodies[route]; n > 0 {
			most = n
		}
		raw, err := readBody(c, most)
		if err != nil {
			return err
		}
		raw = event.CleanJSON(raw)
		var v any
		if err := json.Unmarshal(raw, &v); err != nil {
			return problem(http.StatusBadRequest, "The body cannot be read", err.Error())
		}
		if err := heldTo(body.Value.Content["application/json"].Schema.Value, v, "", 0); err != nil {
			return err
		}
		r.Body = io.NopCloser(bytes.NewReader(raw))
		return next(c)
	}
}

// heldAddress holds the texts in a request's address to their bounds.
func heldAddress(c *echo.Context, op *openapi3.Operation) error {
	query := c.Request().URL.Query()
	for _, ref := range op.Parameters {
		p := ref.Value
		values := query[p.Name]
		if p.In == openapi3.ParameterInPath {
			values = []string{c.Param(p.Name)}
		}
		schema := p.Schema.Value
		for _, text := range values {
			list := []string{text}
			if schema.Type.Is("array") {
				list = strings.Split(text, ",")
				if n := schema.MaxItems; n != nil && uint64(len(list)) > *n {
					return over(p.Name, fmt.Sprintf("holds %d; send at most %d", len(list), *n))
				}
				if item := schema.Items.Value; item != nil {
					schema = item
				}
			}
			most := uint64(textMost)
			if schema.MaxLength != nil {
				most = *schema.MaxLength
			}
			for _, t := range list {
				if uint64(utf8.RuneCountInString(t)) > most {
					return over(p.Name, fmt.Sprintf("is longer than %d characters; shorten it", most))
				}
			}
		}
	}
	return nil
}

func over(field, remedy string) error { return &event.FieldError{Field: field, Remedy: remedy} }

// heldTo holds a value to the lengths its schema states. Whether it is of the right kind
// otherwise is its handler's to say.
func heldTo(s *openapi3.Schema, v any, at string, depth int) error {
	if depth > depthMost {
		return over(strings.TrimPrefix(at, "."), "is nested too deeply; make it flatter")
	}
	field := strings.TrimPrefix(at, ".")
	switch v := v.(type) {
	case string:
		if s.MaxLength != nil && uint64(utf8.RuneCountInString(v)) > *s.MaxLength {
			return over(field, fmt.Sprintf("is longer than %d characters; shorten it", *s.MaxLength))
		}
	case []any:
		if s.MaxItems != nil && uint64(len(v)) > *s.MaxItems {
			return over(field, fmt.Sprintf("holds %d; send at most %d", len(v), *s.MaxItems))
		}
		if s.Items == nil {
			return nil
		}
		for i, x := range v {
			if err := heldTo(s.Items.Value, x, fmt.Sprintf("%s.%d", at, i), depth+1); err != nil {
				return err
			}
		}
	case map[string]any:
		if s.MaxProps != nil && uint64(len(v)) > *s.MaxProps {
			return over(field, fmt.Sprintf("holds %d fields; send at most %d", len(v), *s.MaxProps))
		}
		for k, x := range v {
			if utf8.RuneCountInString(k) > textMost {
				return over(field, "has a field with a name of more than 400 characters")
			}
			if prop := s.Properties[k]; prop != nil {
				if err := heldTo(prop.Value, x, at+"."+k, depth+1); err != nil {
					return err
				}
			} else if more := s.AdditionalProperties.Schema; more != nil {
				if err := heldTo(more.Value, x, at+"."+k, depth+1); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// readBody reads a body of at most so many bytes, which must go on coming.
func readBody(c *echo.Context, most int64) ([]byte, error) {
	body, err := io.ReadAll(io.LimitReader(&slowBody{ReadCloser: c.Request().Body, w: c.Response()}, most+1))
	if err != nil {
		return nil, broken(err)
	}
	if int64(len(body)) > most {
		return nil, problem(http.StatusRequestEntityTooLarge, "Too much at once", fmt.Sprintf("Send at most %d KiB.", most>>10))
	}
	return body, nil
}

// broken says that a body did not come to its end.
func broken(err error) error {
	var slow interface{ Timeout() bool }
	if errors.As(err, &slow) && slow.Timeout() {
		return problem(http.StatusRequestTimeout, "The body did not come", "It stopped for ten seconds; send it again.")
	}
	return problem(http.StatusBadRequest, "The body broke off", "Send it again.")
}

// slowBody ends a body that stops coming. When it has come the connection waits without
// a bound again: a stream of events may follow.
type slowBody struct {
	io.ReadCloser
	w http.ResponseWriter
}

func (b *slowBody) Read(p []byte) (int, error) {
	rc := http.NewResponseController(b.w)
	_ = rc.SetReadDeadline(time.Now().Add(bodyWithin)) // where a test's recorder cannot, it has no connection
	n, err := b.ReadCloser.Read(p)
	if errors.Is(err, io.EOF) { // after any other error what is left of it is not waited for either
		_ = rc.SetReadDeadline(time.Time{})
	}
	return n, err
}

var described = boundsOf(spec.OpenAPI)
