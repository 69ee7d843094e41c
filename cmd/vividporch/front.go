package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"sync/atomic"
	"time"
)

// Times of serving HTTP.
const (
	headWithin = 10 * time.Second // for the head of a request; its body has a bound of its own, by route
	idleFor    = 2 * time.Minute
	drainFor   = 3 * time.Second
)

// front is what listens: what it shows may change while it does.
type front struct {
	o       *options
	home    *home
	srv     *http.Server
	ln      net.Listener
	handler atomic.Pointer[http.Handler]
	failed  chan error
}

func newFront(ctx context.Context, o *options) *front {
	f := &front{o: o, failed: make(chan error, 1)}
	f.srv = &http.Server{ReadHeaderTimeout: headWithin, IdleTimeout: idleFor, BaseContext: func(net.Listener) context.Context { return ctx },
		Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { (*f.handler.Load()).ServeHTTP(w, r) })}
	f.home = &home{listen: o.home, serve: f.srv.Handler}
	if file, err := o.key(); err == nil {
		f.home.file = strings.TrimSuffix(file, ".key") + ".home.pem"
	}
	f.show(standingBy)
	return f
}

func (f *front) show(h http.Handler) { f.handler.Store(&h) }

// listen begins to listen, if it does not yet; an address that is taken is tried again
// for so long.
func (f *front) listen(ctx context.Context, patience time.Duration) error {
	if f.ln != nil {
		return nil
	}
	for end := time.Now().Add(patience); ; {
		ln, err := net.Listen("tcp", f.o.listen)
		if err == nil {
			f.ln = ln
			break
		}
		if time.Now().After(end) {
			return fmt.Errorf("cannot listen on %s: %w", f.o.listen, err)
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100 * time.Millisecond):
		}
	}
	go func() {
		var err error
		if f.o.cert != "" {
			err = f.srv.ServeTLS(f.ln, f.o.cert, f.o.tlsKey)
		} else {
			err = f.srv.Serve(f.ln)
		}
		if !errors.Is(err, http.ErrServerClosed) {
			f.failed <- err
		}
	}()
	return nil
}

func (f *front) address() string { return f.ln.Addr().String() }

// drain lets what is being answered come to its end.
func (f *front) drain() {
	ctx, cancel := context.WithTimeout(context.Background(), drainFor)
	defer cancel()
	f.srv.Shutdown(ctx)
}

func (f *front) close() { f.srv.Close() }
