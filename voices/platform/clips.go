package platform

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/pointer"
	"vividporch/core/profile"
)

// Clip is a short film of somebody's stream, as their platform tells of it. Seconds is how long it is, 0 where that is not
// told.
type Clip struct {
	Title   string
	Film    string // its address
	Seconds float64
}

// mostClips is how many are looked at.
const mostClips = 100

// Clips asks a platform for somebody's clips; none where it tells of none.
func (a *Asker) Clips(ctx context.Context, of *profile.Profile, who *event.Person) ([]Clip, error) {
	l := of.Clips
	if l == nil {
		return nil, nil
	}
	id := who.ID
	if strings.HasPrefix(id, people.Provisional) { // known by login only
		id = ""
	}
	told, err := a.get(ctx, strings.NewReplacer("{id}", url.QueryEscape(id), "{login}", url.QueryEscape(who.Login)).Replace(of.Where(l.Address)))
	if err != nil {
		return nil, err
	}
	v, _ := pointer.Get(told, l.Each)
	list, ok := v.([]any)
	if !ok {
		return nil, fmt.Errorf("no list of clips stands at %s", l.Each)
	}
	var out []Clip
	for _, x := range list[:min(len(list), mostClips)] {
		var c Clip
		for at, to := range map[string]*string{l.Word: &c.Title, l.Film: &c.Film} {
			if v, ok := pointer.Get(x, at); at != "" && ok && v != nil {
				*to, _ = pointer.Text(v)
			}
		}
		if v, ok := pointer.Get(x, l.Seconds); l.Seconds != "" && ok {
			if n, number := v.(json.Number); number {
				c.Seconds, _ = n.Float64()
			}
		}
		out = append(out, c)
	}
	return out, nil
}

// File gets a file from an address, of at most so many bytes.
func (a *Asker) File(ctx context.Context, at string, most int64) ([]byte, error) {
	status, raw, err := read(ctx, a.http, at, most)
	switch {
	case err != nil:
		return nil, err
	case status != http.StatusOK:
		return nil, fmt.Errorf("it answered %d", status)
	case int64(len(raw)) > most:
		return nil, fmt.Errorf("it has more than %d bytes", most)
	}
	return raw, nil
}
