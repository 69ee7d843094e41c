package people_test

import (
	"testing"

	"vividporch/core/event"
	"vividporch/core/people"
)

func TestStandingGoesByStreamsAttendedBefore(t *testing.T) {
	for attended, want := range map[int]people.Standing{0: people.Newcomer, 1: people.Returning, 40: people.Returning} {
		if got, why := (&people.Known{Attended: attended}).Standing(); got != want || why == "" {
			t.Errorf("%d streams: %s (%s)", attended, got, why)
		}
	}
	if got, _ := (*people.Known)(nil).Standing(); got != people.Newcomer {
		t.Errorf("nobody knows them: %s", got)
	}
}

func TestTheNeverListTakesNamesAsTheyAreTyped(t *testing.T) {
	never := people.MakeNeverList([]string{" @Boathouse_Bell ", "quayside:77", "", "PLAIN"})
	for _, c := range []struct {
		p      event.Person
		k      *people.Known
		listed bool
	}{
		{event.Person{Platform: "fernlight", ID: "1", Login: "boathouse_bell"}, nil, true},
		{event.Person{Platform: "quayside", ID: "77", Login: "anything"}, nil, true},
		{event.Person{Platform: "mynet", ID: "plain"}, nil, true},
		{event.Person{Platform: "fernlight", ID: "77", Login: "limpet_lena"}, nil, false},
		{event.Person{Platform: "fernlight", ID: "78", Login: "limpet_lena"}, &people.Known{LeaveBe: true}, true},
		{event.Person{Platform: "quayside", ID: "1", Login: "odalys", Roles: []event.Role{event.Streamer}}, nil, true},
	} {
		if why := never.Reason(c.p, c.k); (why != "") != c.listed {
			t.Errorf("%s %s: %q", c.p.Key(), c.p.Login, why)
		}
	}
}
