package room_test

import (
	"fmt"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/room"
)

// A room that counts follows: it decides what is worth a note, and its memory moves on by
// what was decided alone, so that a log brings it back as it was. To be lived in, a room is
// named in the list of the house.
func ExampleOf() {
	type memory struct{ Follows int }
	type follow struct{ Who string }
	house.Rooms = append(house.Rooms, room.Of(room.Spec[struct{}, memory]{Name: "counting", Version: 1,
		Hears: []string{new(happening.PersonFollowed).Type()},
		Decide: func(t *room.Turn, _ *struct{}, m *memory) {
			room.Note(t, "follow", follow{t.Event.Who().Login}, fmt.Sprintf("number %d of this stream", m.Follows+1))
		},
		Evolve: func(m *memory, l room.Lived) { m.Follows += len(room.Noted[follow](l, "follow")) },
	}))
	plan, faults := house.Ready(&housefile.Settings{Format: housefile.Format, Channel: "tidepool_hours", Zone: "UTC", Seed: "low water"}, 1)
	if len(faults) > 0 {
		fmt.Println(faults[0].Error())
		return
	}
	state := house.NewState()
	for n, login := range []string{"limpet_lena", "kelpwright"} {
		data := &happening.PersonFollowed{}
		data.Person = event.Person{Platform: "quayside", ID: fmt.Sprint(n), Login: login}
		at := time.Date(2031, 5, 14, 19, n, 0, 0, time.UTC)
		ev := event.Event{Seq: int64(n + 1), Door: "quayside", Source: "quayside", ID: fmt.Sprint(n), Type: data.Type(), Time: at, Logged: at, Data: data}
		for _, d := range house.Step(state, &ev, nil, plan) {
			fmt.Println(d.Room, d.Kind, d.Because)
		}
	}
	fmt.Println(room.Remembered[memory](state.Rooms, "counting").Follows, "follows")
	// Output:
	// counting note [number 1 of this stream]
	// counting note [number 2 of this stream]
	// 2 follows
}
