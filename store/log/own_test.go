package log_test

import (
	"context"
	"errors"
	"testing"

	"vividporch/store/log"
	"vividporch/store/storetest"
)

func TestAStopInTheMiddleOfALookKeepsTheLockUntilItIsGivenBack(t *testing.T) {
	s := storetest.Open(t)
	id, err := s.Channel(t.Context(), "owned")
	if err != nil {
		t.Fatal(err)
	}
	o, err := s.Log.Hold(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	if err := o.Look(stopped); err != nil {
		t.Error(err)
	}
	if _, err := s.Log.Lock(t.Context(), id); !errors.Is(err, log.ErrHeld) {
		t.Errorf("the lock is gone: %v", err)
	}
	o.Release()
	next, err := s.Log.Lock(t.Context(), id)
	if err != nil {
		t.Fatal(err)
	}
	next.Release()
}
