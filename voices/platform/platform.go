// Package platform asks a streaming platform about somebody; the stage acts on
// it. An ask is an effect of the core; its answer comes back as an event.
package platform

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/pointer"
	"vividporch/core/profile"
)

// Asker looks people up over HTTP, where a platform's profile says: the answer is JSON, in
// which the profile points at link, category and title, or 404. Of whom only a login is known,
// id, login and name are read too.
type Asker struct {
	answer func(event.Data)
	http   *http.Client
}

// AskWithin is how long an ask may take; the core waits less.
const AskWithin = 5 * time.Second

// NewAsker makes an asker that hands answers to a function and goes out through a client.
func NewAsker(client *http.Client, answer func(event.Data)) *Asker {
	return &Asker{answer: answer, http: client}
}

// Ask looks somebody up in the background. A platform that tells nothing is not asked,
// and the answer says at once that nothing is known.
func (a *Asker) Ask(of *profile.Profile, d hall.Decision) {
	if of.Lookup == nil || d.About == nil {
		a.answer(&event.LookupAnswered{Ask: d.Line, Account: d.Person, Failed: "there is nobody to ask"})
		return
	}
	go func() {
		got, err := a.fetch(of, d.About)
		if err != nil {
			got = &event.LookupAnswered{Failed: err.Error()}
		}
		got.Ask = d.Line
		if d.About.ID != "" {
			got.Account, got.ID, got.Login, got.Name = d.About.Key(), "", "", ""
		}
		got.Bound()
		a.answer(got)
	}()
}

// Told is what a platform tells of somebody just now.
type Told struct {
	Link, Category string
	Live           *bool // nil: it does not tell
	Picture        string
}

// Look asks a platform about somebody, for whoever waits for the answer. Nothing is logged.
func (a *Asker) Look(ctx context.Context, of *profile.Profile, who *event.Person) (Told, error) {
	if of.Lookup == nil {
		return Told{}, nil
	}
	raw, err := a.told(ctx, of, who)
	if err != nil {
		return Told{}, err
	}
	var out Told
	if raw != nil {
		got, err := understood(of.Lookup, raw)
		if err != nil {
			return Told{}, err
		}
		out.Link, out.Category = got.Link, got.Category
	}
	if of.Lookup.Picture != "" {
		if v, ok := pointer.Get(raw, of.Lookup.Picture); ok && v != nil {
			out.Picture, _ = pointer.Text(v)
		}
	}
	if of.Lookup.Live != "" {
		live := false
		if v, ok := pointer.Get(raw, of.Lookup.Live); ok && v != nil {
			text, plain := pointer.Text(v)
			live = !plain || text != "" && text != "false" && text != "0"
		}
		out.Live = &live
	}
	return out, nil
}

func (a *Asker) fetch(of *profile.Profile, who *event.Person) (*event.LookupAnswered, error) {
	ctx, cancel := context.WithTimeout(context.Background(), AskWithin)
	defer cancel()
	told, err := a.told(ctx, of, who)
	if err != nil {
		return nil, err
	}
	if told == nil { // it knows of no stream of theirs
		return &event.LookupAnswered{}, nil
	}
	return understood(of.Lookup, told)
}

// told is what a platform answers about somebody; nil where it knows of no stream of theirs.
func (a *Asker) told(ctx context.Context, of *profile.Profile, who *event.Person) (any, error) {
	id := who.ID
	if strings.HasPrefix(id, people.Provisional) { // known by login only
		id = ""
	}
	at := strings.NewReplacer("{id}", url.QueryEscape(id), "{login}", url.QueryEscape(who.Login)).Replace(of.Where(of.Lookup.Address))
	status, raw, err := read(ctx, a.http, at, answerMost)
	if err != nil {
		return nil, err
	}
	if status == http.StatusNotFound {
		return nil, nil
	}
	if status != http.StatusOK {
		return nil, fmt.Errorf("the platform answered %d", status)
	}
	told, err := pointer.Read(raw)
	if err != nil {
		return nil, fmt.Errorf("the platform answered what cannot be read: %w", err)
	}
	return told, nil
}

// read gets what stands at an address, at most so many bytes and one more, by which whoever asks can
// tell that there is more.
func read(ctx context.Context, client *http.Client, at string, most int64) (status int, raw []byte, err error) {
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return 0, nil, err
	}
	res, err := client.Do(req)
	if err != nil {
		return 0, nil, err
	}
	defer res.Body.Close()
	raw, err = io.ReadAll(io.LimitReader(res.Body, most+1))
	return res.StatusCode, raw, err
}

// answerMost is how many bytes of an answer are read.
const answerMost = 64 << 10

// understood reads an answer by the profile's pointers; those it does not give are as our own
// stand-ins answer.
func understood(l *profile.Lookup, told any) (*event.LookupAnswered, error) {
	out := &event.LookupAnswered{Streams: true}
	for usual, x := range map[string]struct {
		at string
		to *string
	}{"/link": {l.Link, &out.Link}, "/category": {l.Category, &out.Category}, "/title": {l.Title, &out.Title}, "/id": {l.ID, &out.ID}, "/login": {l.Login, &out.Login}, "/name": {l.Name, &out.Name}} {
		v, ok := pointer.Get(told, cmp.Or(x.at, usual))
		if !ok || v == nil {
			continue
		}
		if _, number := v.(json.Number); number && usual != "/id" {
			return nil, fmt.Errorf("the platform answered with a number at %s", cmp.Or(x.at, usual))
		}
		*x.to, _ = pointer.Text(v)
	}
	out.Found = out.Link != "" || out.Category != ""
	return out, nil
}
