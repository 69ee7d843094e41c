package platform

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"vividporch/core/event"
	"vividporch/core/pointer"
	"vividporch/core/profile"
)

// Count asks a platform how many there are of what its profile counts, on the channel of a login.
// What it does not tell is left out; the error is of the first that could not be asked for.
func (a *Asker) Count(ctx context.Context, of *profile.Profile, login string) (*event.CountsTold, error) {
	out := &event.CountsTold{Platform: of.Platform, Counts: map[string]int64{}}
	answers := map[string]any{} // several counts may stand in one answer
	var failed error
	for _, c := range of.Counts {
		at := strings.NewReplacer("{login}", url.QueryEscape(login)).Replace(of.Where(c.Address))
		told, asked := answers[at]
		if !asked {
			var err error
			if told, err = a.get(ctx, at); err != nil && failed == nil {
				failed = fmt.Errorf("%s: %w", c.Name, err)
			}
			answers[at] = told
		}
		v, ok := pointer.Get(told, c.Value)
		if n, number := v.(json.Number); ok && number {
			if k, err := n.Int64(); err == nil && k >= 0 {
				out.Counts[c.Name] = k
			}
		}
	}
	return out, failed
}

// get reads one JSON answer.
func (a *Asker) get(ctx context.Context, at string) (any, error) {
	ctx, cancel := context.WithTimeout(ctx, AskWithin)
	defer cancel()
	status, raw, err := read(ctx, a.http, at, answerMost)
	if err != nil {
		return nil, err
	}
	if status != http.StatusOK {
		return nil, fmt.Errorf("the platform answered %d", status)
	}
	return pointer.Read(raw)
}
