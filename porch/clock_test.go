package porch

import (
	"encoding/json"
	"testing"
	"time"
)

func TestTheHousesClockNeverGoesBackAndCatchesUp(t *testing.T) {
	wall := time.Date(2031, 5, 14, 20, 0, 0, 0, time.UTC)
	c := &clock{wall: func() time.Time { return wall }}
	first := c.now()
	if !first.Equal(wall) || c.back() != 0 {
		t.Errorf("%s, %s behind", first, c.back())
	}
	wall = wall.Add(-time.Hour)
	if n := c.now(); n.Before(first) || n.Sub(first) > time.Minute {
		t.Errorf("set back an hour, the house is at %s", n)
	}
	if b := c.back(); b < 59*time.Minute || b > 61*time.Minute {
		t.Errorf("%s behind", b)
	}
	wall = first.Add(5 * time.Second)
	if n := c.now(); !n.Equal(wall) || c.back() != 0 {
		t.Errorf("caught up at %s, %s behind", n, c.back())
	}
	wall = wall.Add(-200 * time.Millisecond) // a clock that is put right a little
	if n := c.now(); n.Before(first.Add(5*time.Second)) || c.back() != 0 {
		t.Errorf("%s, %s behind", n, c.back())
	}
	late := &clock{wall: func() time.Time { return wall }}
	late.begin(wall.Add(time.Hour)) // the log is ahead at a start
	if n := late.now(); n.Before(wall.Add(time.Hour)) || late.back() < 59*time.Minute {
		t.Errorf("started at %s", n)
	}
}

func asJSON(t *testing.T, v any) []byte {
	t.Helper()
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return raw
}
