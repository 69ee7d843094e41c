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

// mostListed is how many of a list are looked at.
const mostListed = 500

// Clips asks a platform for somebody's clips; none where it tells of none.
func (a *Asker) Clips(ctx context.Context, of *profile.Profile, who *event.Person) (out []Clip, err error) {
	l := of.Clips
	err = a.each(ctx, of, l, who, func(x any) {
		out = append(out, Clip{Title: textAt(x, l.Word), Film: textAt(x, l.Film), Seconds: numberAt(x, l.Seconds)})
	})
	return out, err
}

// Emote is a word that a platform shows as a picture.
type Emote struct {
	Word    string
	Picture string // its address
}

// Emotes asks a platform which there are on our channel; none where it tells of none.
func (a *Asker) Emotes(ctx context.Context, of *profile.Profile, login string) (out []Emote, err error) {
	l := of.Emotes
	err = a.each(ctx, of, l, &event.Person{Login: login}, func(x any) { out = append(out, Emote{textAt(x, l.Word), textAt(x, l.Picture)}) })
	return out, err
}

// each reads a list of a profile's.
func (a *Asker) each(ctx context.Context, of *profile.Profile, l *profile.List, who *event.Person, take func(any)) error {
	if l == nil {
		return nil
	}
	id := who.ID
	if strings.HasPrefix(id, people.Provisional) { // known by login only
		id = ""
	}
	told, err := a.get(ctx, strings.NewReplacer("{id}", url.QueryEscape(id), "{login}", url.QueryEscape(who.Login)).Replace(of.Where(l.Address)))
	if err != nil {
		return err
	}
	v, _ := pointer.Get(told, l.Each)
	list, ok := v.([]any)
	if !ok {
		return fmt.Errorf("no list stands at %s", l.Each)
	}
	for _, x := range list[:min(len(list), mostListed)] {
		take(x)
	}
	return nil
}

func textAt(x any, at string) (text string) {
	if v, ok := pointer.Get(x, at); at != "" && ok && v != nil {
		text, _ = pointer.Text(v)
	}
	return text
}

func numberAt(x any, at string) (n float64) {
	if v, ok := pointer.Get(x, at); at != "" && ok {
		if number, is := v.(json.Number); is {
			n, _ = number.Float64()
		}
	}
	return n
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
