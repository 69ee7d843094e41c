package store

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/store/book"
	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// warmed is how many connections are made ready: the owner's, and that on which the book is
// written meanwhile.
const warmed = 2

// errWarm takes back what was written to make a connection ready.
var errWarm = errors.New("store: warm")

// Warm plans the statements that every batch needs, on the connections that it goes through,
// so that the first lines of an evening do not wait for it. Nothing of it stays.
func (s *Store) Warm(ctx context.Context, channel, epoch int64, k record.Reckoning) error {
	var wg sync.WaitGroup
	errs := make([]error, warmed)
	begun := make(chan bool, warmed) // all are taken before the first is given back
	for n := range warmed {
		wg.Go(func() {
			errs[n] = s.Log.Hot.InTx(ctx, channel, func(tx pg.Tx) error {
				begun <- true
				for len(begun) < warmed && ctx.Err() == nil {
					time.Sleep(time.Millisecond)
				}
				return s.warm(tx, int64(-1-n), epoch, k)
			})
			if errors.Is(errs[n], errWarm) {
				errs[n] = nil
			}
		})
	}
	wg.Wait()
	return errors.Join(errs...)
}

// warm lives the arrival and a further line of somebody who is nobody, under a number that no
// event has.
func (s *Store) warm(tx pg.Tx, n, epoch int64, k record.Reckoning) error {
	said := &happening.ChatSaid{Text: "…"}
	said.Person = event.Person{Platform: "…", ID: fmt.Sprint(n), Login: "…"}
	entry := log.Entry{Event: event.Event{Seq: n, Door: "house", Source: "house", ID: fmt.Sprint("warm", n), Type: said.Type(), Time: k.Now, Logged: k.Now, Data: said}, Stream: 0}
	key := said.Person.Key()
	entry.Decisions = []hall.Decision{{Kind: hall.Say, Line: "…", Person: key, Platform: "…", Text: "…", Courtesy: "…", Output: "…"}}
	arrival := &log.Batch{Entries: []log.Entry{entry}, Fresh: map[string]int64{key: n}, Claims: map[string]string{}, Unsettled: map[string]bool{key: true}, Reckoning: k, Epoch: epoch}
	outcome := &event.SpeechSaid{SpeechOutcome: event.SpeechOutcome{Line: "…", Platform: "…"}}
	further := &log.Batch{Entries: []log.Entry{{Event: entry.Event}}, Reckoning: k}
	for _, step := range []func() error{
		func() error {
			_, err := log.Repeats(tx, []string{"house"}, []string{"house"}, []string{entry.Event.ID})
			return err
		},
		func() error {
			_, _, err := book.Known(tx, []event.Person{said.Person}, k.Before())
			return err
		},
		func() error { return s.Log.Within(tx, arrival) },
		func() error { return s.Book.Within(tx, arrival) },
		func() error { return s.Book.Within(tx, further) },
		func() error {
			return s.Log.Within(tx, &log.Batch{Entries: []log.Entry{{Event: event.Event{Seq: n - warmed, Door: "house", Source: "house", ID: fmt.Sprint("warm", n-warmed), Type: outcome.Type(), Time: k.Now, Logged: k.Now, Data: outcome}}}})
		},
	} {
		if err := step(); err != nil {
			return err
		}
	}
	return errWarm
}
