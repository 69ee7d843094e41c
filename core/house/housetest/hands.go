package housetest

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/who"
)

// Hand makes one thing a member does at the desk; lines are ids of lines coming up.
func Hand(r *rand.Rand, lines []string, courtesies []courtesy.Courtesy) event.Data {
	line := "7.c1.o0"
	if len(lines) > 0 {
		line = pick(r, lines...)
	}
	id := "c0"
	if len(courtesies) > 0 {
		id = pick(r, courtesies...).ID
	}
	act := event.LineHand{Line: line, Member: "Odalys Brine"}
	switch r.IntN(25) {
	case 22, 23:
		return &event.PointsGranted{Person: Somebody(r), Amount: pick(r, 5, 40, -3, int64(1_000_000_000_000)), Reason: Odd(r), Member: "Odalys Brine"}
	case 24:
		return &event.PointsReset{Season: r.IntN(2) == 0, Undo: r.IntN(2) == 0, Member: "Odalys Brine"}
	case 19, 20:
		return Drawing(r)
	case 21:
		return &event.DrawBarred{Person: Somebody(r), On: r.IntN(3) > 0, Reason: "is family " + Odd(r), Member: "Odalys Brine"}
	case 16:
		return &event.Silenced{Member: "Odalys Brine"}
	case 17:
		return &event.CountdownSet{Box: "countdown", Act: pick(r, event.CountdownGo, event.CountdownPause, event.CountdownAt, event.CountdownAdd, event.CountdownAnew), Seconds: pick(r, 0, 1, 90.0, 1e5), Member: "Odalys Brine"}
	case 18:
		if id := fmt.Sprintf("screen-%d", r.IntN(3)); r.IntN(3) > 0 {
			return &event.OverlayOpened{Overlay: id}
		} else {
			return &event.OverlayClosed{Overlay: id}
		}
	case 14:
		who := Somebody(r)
		return &event.DeskPosted{Item: fmt.Sprintf("social/%d", r.IntN(60)), Place: "account", Text: "Low water " + Odd(r), Person: &who, Member: "Odalys Brine"}
	case 15:
		return &happening.PostAsked{Member: "Odalys Brine", Place: "account", Text: pick(r, "low water", "see https://a.example", strings.Repeat("tide ", 70))}
	case 12:
		return &event.Rearmed{What: pick(r, event.Greetings, event.ShoutOuts), Person: pick(r, event.Person{}, Somebody(r))}
	case 13:
		return &event.CounterSet{Courtesy: id, Times: int64(r.IntN(90))}
	case 0:
		return &event.Hushed{On: r.IntN(2) == 0}
	case 1:
		return &event.LineHurried{LineHand: act}
	case 2:
		return &event.LineDropped{LineHand: act}
	case 3:
		return &event.LineReworded{LineHand: act, Text: "Say this: " + Odd(r)}
	case 4:
		return &event.StreamDeclared{Act: pick(r, "opened", "closed", "new")}
	case 5:
		return &event.DeskSaid{Text: "From the desk", To: pick(r, [][]string{nil, {"quayside"}, {"quayside", "quayside"}, {"fernlight", "quayside", "fernlight"}}...)}
	case 6, 7:
		return &event.DeskAsked{Act: pick(r, "shoutout", "greet", "thank"), Person: Somebody(r)}
	case 8:
		return &event.DeskAsked{Act: "try", Courtesy: id, Person: Somebody(r), Number: pick(r, Numbers...)}
	case 9:
		return &event.DeskAsked{Act: "courtesy", Courtesy: id, Person: Somebody(r)}
	case 10:
		return &event.DeskActed{Act: string(pick(r, output.Acts()...)), Platform: pick(r, Platforms...), Text: "Low water", Seconds: 60, Login: "limpet1", Message: "m1", Off: r.IntN(2) == 0}
	}
	return &event.DeskUndone{LineHand: act}
}

// Drawing makes one thing that a member does about draws.
func Drawing(r *rand.Rand) event.Data {
	d := &event.DrawCalled{Act: pick(r, event.DrawActs...), Account: Somebody(r).Key(), Reason: "because " + Odd(r), Member: "Odalys Brine"}
	if r.IntN(2) == 0 {
		d.Act = pick(r, event.DrawOpen, event.DrawDraw)
	}
	if d.Act == event.DrawOpen {
		t := giveaway.Terms{Way: pick(r, giveaway.Ways...), Prizes: pick(r, []string{"a print"}, []string{"a print", "{name}"}, []string{"a", "a", "<b>"}), Word: "!tide", Minutes: pick(r, 1, 10.0), Answers: []string{"brittle star"}, Loose: r.IntN(2) == 0,
			From: 1, To: pick(r, 9, int64(1_000_000)), Exact: r.IntN(2) == 0, Guesses: r.IntN(3), ClaimIn: pick(r, 0, 5.0, 60), CloseIn: pick(r, 0, 0.5, 2), RemindIn: pick(r, 0, 0.3), Hint: "it clings", HintIn: pick(r, 0, 0.2), Rest: pick(r, 0, 2)}
		if r.IntN(2) == 0 {
			n := int64(7)
			t.Number = &n
		}
		if r.IntN(3) == 0 {
			t.Who = &who.Who{Role: event.Follower, OrAbove: true}
		}
		d.Terms, _ = json.Marshal(t)
	}
	return d
}

// Guarding makes one thing a member does about trouble; held are the ids of what waits.
func Guarding(r *rand.Rand, held []string) event.Data {
	id := "nothing.guard.line"
	if len(held) > 0 && r.IntN(5) > 0 {
		id = pick(r, held...)
	}
	switch r.IntN(4) {
	case 0:
		return &event.Permitted{Person: Somebody(r), Seconds: pick(r, 0, 60.0, 600), Member: "Odalys Brine"}
	case 1:
		return &event.FloodKey{On: r.IntN(3) > 0, Member: "Odalys Brine"}
	}
	return &event.HeldDecided{Held: id, Allow: r.IntN(2) == 0, Member: "Odalys Brine"}
}
