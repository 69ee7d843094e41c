package api

import (
	"context"
	"net/http"
	"sync"
)

// How many pages may follow the Porch at once.
const (
	streamsEach = 20  // of one session
	streamsAll  = 200 // of all
)

// streams are the live streams that are open, so that they end when their session does.
type streams struct {
	mu   sync.Mutex
	next int
	open map[int]stream
}

type stream struct {
	session string
	member  int64
	end     context.CancelFunc
}

// begin opens a stream of a session; done closes it.
func (s *streams) begin(ctx context.Context, w caller) (_ context.Context, done func(), err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	mine := 0
	for _, x := range s.open {
		if x.session == w.Session.Hash {
			mine++
		}
	}
	if mine >= streamsEach || len(s.open) >= streamsAll {
		return nil, nil, problem(http.StatusTooManyRequests, "Too many pages follow the Porch", "Close some of them; one session may have 20 open.")
	}
	ctx, cancel := context.WithCancel(ctx)
	if s.open == nil {
		s.open = map[int]stream{}
	}
	s.next++
	n := s.next
	s.open[n] = stream{w.Session.Hash, w.ID, cancel}
	return ctx, func() {
		cancel()
		s.mu.Lock()
		delete(s.open, n)
		s.mu.Unlock()
	}, nil
}

// endIf ends the streams of sessions that are over.
func (s *streams) endIf(over func(session string, member int64) bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, x := range s.open {
		if over(x.session, x.member) {
			x.end()
		}
	}
}
