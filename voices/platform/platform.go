// Package platform asks a streaming platform about somebody; the stage acts on
// it. An ask is an effect of the core; its answer comes back as an event.
package platform

import (
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
)

// Asker looks people up over HTTP: GET lookup?id=…&login=… answers with link,
// category and title as JSON, or 404. Of whom only a login is known, it answers id,
// login and name too.
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

// Ask looks somebody up in the background. Without an address nobody is asked,
// and the answer says at once that nothing is known.
func (a *Asker) Ask(lookup string, d hall.Decision) {
	if lookup == "" || d.About == nil {
		a.answer(&event.LookupAnswered{Ask: d.Line, Account: d.Person, Failed: "there is nobody to ask"})
		return
	}
	go func() {
		got, err := a.fetch(lookup, d.About)
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

func (a *Asker) fetch(lookup string, who *event.Person) (*event.LookupAnswered, error) {
	ctx, cancel := context.WithTimeout(context.Background(), AskWithin)
	defer cancel()
	q := url.Values{"id": {who.ID}, "login": {who.Login}}
	if strings.HasPrefix(who.ID, people.Provisional) { // known by login only
		q.Del("id")
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, lookup+"?"+q.Encode(), nil)
	if err != nil {
		return nil, err
	}
	res, err := a.http.Do(req)
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	if res.StatusCode == http.StatusNotFound { // it knows of no stream of theirs
		return &event.LookupAnswered{}, nil
	}
	if res.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the platform answered %d", res.StatusCode)
	}
	var out struct {
		Link, Category, Title string
		ID, Login, Name       string
	}
	if err := json.NewDecoder(io.LimitReader(res.Body, 64<<10)).Decode(&out); err != nil {
		return nil, err
	}
	answer := &event.LookupAnswered{Found: true, Streams: true, Link: out.Link, Category: out.Category, Title: out.Title, ID: out.ID, Login: out.Login, Name: out.Name}
	if answer.Link == "" && answer.Category == "" {
		answer.Found = false
	}
	return answer, nil
}
