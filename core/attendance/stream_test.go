package attendance_test

import (
	"testing"
	"time"

	"vividporch/core/attendance"
)

const grace = attendance.DefaultGrace

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func at(minutes int) time.Time { return dusk.Add(time.Duration(minutes) * time.Minute) }

func TestAStreamLivesUntilTheLastPlatformIsGoneForTheGraceTime(t *testing.T) {
	var s attendance.Stream
	if s.Live() || s.Continues(dusk, grace) {
		t.Fatal("a channel that never streamed is not live")
	}
	s.Begin(1, at(0))
	s.Up("quayside", at(0), "Gully", "Field", "")
	s.Up("fernlight", at(1), "", "", "")
	s.Down("quayside", at(20))
	if _, going := s.EndsAt(grace); going || !s.Live() {
		t.Error("fernlight is still live")
	}
	s.Down("fernlight", at(30))
	if end, going := s.EndsAt(grace); !going || !end.Equal(at(40)) {
		t.Errorf("ends at %s", end)
	}
	for minutes, goesOn := range map[int]bool{31: true, 39: true, 40: false, 90: false} {
		if s.Continues(at(minutes), grace) != goesOn {
			t.Errorf("a return after %d minutes", minutes-30)
		}
	}
	s.End(at(30))
	if s.Live() || !s.Continues(at(34), grace) {
		t.Error("what was taken for ended goes on when the drop turns out to have been short")
	}
	s.Declared = true
	if s.Continues(at(34), grace) {
		t.Error("what a member closed stays closed")
	}
}

func TestAPlatformThatWasNeverUpCannotEndAStream(t *testing.T) {
	var s attendance.Stream
	s.Begin(1, at(0))
	s.Up("quayside", at(0), "Gully", "", "")
	s.Down("fernlight", at(5))
	if !s.LivePlatform("quayside") || !s.Gone.IsZero() {
		t.Errorf("%+v", s)
	}
	s.Tell("quayside", "", "Field", "")
	if p := s.Platforms["quayside"]; p.Title != "Gully" || p.Category != "Field" {
		t.Errorf("an empty title wipes nothing out: %+v", p)
	}
}
