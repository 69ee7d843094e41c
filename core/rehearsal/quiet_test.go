package rehearsal_test

import (
	"bytes"
	"context"
	"errors"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
	"vividporch/demo"
)

// sample is the sample house, which has timers, dates and a digest that wake it in a quiet.
func sample(t *testing.T) (*room.Plan, *rehearsal.Book) {
	t.Helper()
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		t.Fatal(err)
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	b, err := rehearsal.ReadBook(bytes.NewReader(demo.People))
	if err != nil {
		t.Fatal(err)
	}
	return plan, b
}

func hello(id string) *happening.ChatSaid {
	d := &happening.ChatSaid{Text: "hello"}
	d.Person = event.Person{Platform: "quayside", ID: id, Login: id}
	return d
}

func TestAScriptWithMonthsOfQuietInItIsLivedThroughThem(t *testing.T) {
	plan, b := sample(t)
	closed := &happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: "quayside"}}
	const later = 120 * 24 * time.Hour
	got, err := rehearsal.Live(t.Context(), plan, &rehearsal.Evening{Book: b, Script: []event.Event{
		open(0), at(time.Minute, hello("wrack_wren")), at(2*time.Minute, closed),
		open(later), at(later+time.Minute, hello("wrack_wren")),
	}}, nil)
	if err != nil {
		t.Fatal(err)
	}
	greeted := 0
	for _, e := range got.Effects {
		if e.Effect == "say" && e.Person == "quayside:wrack_wren" {
			greeted++
		}
	}
	if got.Streams != 2 || greeted != 2 {
		t.Errorf("%d streams, greeted %d times", got.Streams, greeted)
	}
}

func TestAQuietOfAHundredYearsCanBeCalledOff(t *testing.T) {
	plan, b := sample(t)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	asked := 0
	_, err := rehearsal.Live(ctx, plan, &rehearsal.Evening{Book: b, Script: []event.Event{open(0), at(time.Minute, hello("wrack_wren")), at(100*365*24*time.Hour, hello("wrack_wren"))}}, func(int) {
		if asked++; asked == 3 {
			cancel()
		}
	})
	if !errors.Is(err, context.Canceled) || asked != 3 {
		t.Errorf("asked %d times whether to go on: %v", asked, err)
	}
}
