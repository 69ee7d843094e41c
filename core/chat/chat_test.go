package chat

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/profile"
)

// quayside tells ids, names, roles and times in tags; harbour is a plain network.
func quayside() *Ear {
	return &Ear{Door: housefile.Door{Name: "quayside", Kind: "irc", Platform: "quayside"}, Chat: profile.Chat{IDTag: "user-id", NameTag: "display", RolesTag: "marks",
		Roles: map[string]string{"lamp": "moderator", "ring": "subscriber"}, MessageTag: "msg", TimeTag: "time"}}
}

func harbour() *Ear {
	return &Ear{Door: housefile.Door{Name: "harbour", Kind: "irc", Platform: "harbour"}}
}

func TestThePlatformsOwnIdIsWhoSomebodyIs(t *testing.T) {
	said, id, at := quayside().Said(Line{Nick: "limpet_lena", Account: "lena", Text: "low water at nine",
		Tags: map[string]string{"user-id": "8841", "display": "Limpet Lena", "marks": "ring,gull,lamp", "msg": "m-1", "time": "2026-03-01T20:04:05.250Z"}})
	if said.Person.Key() != "quayside:8841" || said.Person.Login != "limpet_lena" || said.Person.Name != "Limpet Lena" || said.Person.Nick || said.Text != "low water at nine" {
		t.Errorf("%+v", said)
	}
	if !slices.Equal(said.Person.Roles, []event.Role{"subscriber", "moderator"}) { // what the profile does not name is no role
		t.Errorf("%v", said.Person.Roles)
	}
	if id != "m-1" || said.MessageID != "m-1" || !at.Equal(time.Date(2026, 3, 1, 20, 4, 5, 250e6, time.UTC)) {
		t.Errorf("%s %s %s", id, said.MessageID, at)
	}
}

func TestOnAPlainNetworkItIsTheAccountAndElseANickThatNobodyVouchesFor(t *testing.T) {
	e := harbour()
	if said, id, at := e.Said(Line{Nick: "Moss_Mare", Account: "Mossy", Text: "evening"}); said.Person.ID != "mossy" || said.Person.Nick || id != "" || !at.IsZero() {
		t.Errorf("%+v %q %s", said.Person, id, at)
	}
	if said, _, _ := e.Said(Line{Nick: "Moss_Mare", Text: "evening", Tags: map[string]string{"user-id": "7"}}); said.Person.ID != "moss_mare" || !said.Person.Nick {
		t.Errorf("%+v", said.Person)
	}
}

func TestAnotherNickIsNoOtherPerson(t *testing.T) {
	e := harbour()
	id := func(nick string) string {
		said, _, _ := e.Said(Line{Nick: nick, Text: "here"})
		return said.Person.ID
	}
	data := e.Renamed(Nicked{From: "Ada", To: "ada_away"}).(*happening.PersonRenamed)
	if data.Person.ID != "ada" || data.Was != "Ada" || data.Person.Login != "ada_away" || id("Ada_Away") != "ada" {
		t.Errorf("%+v, %s", data, id("ada_away"))
	}
	if id("ada") != "ada~" { // somebody else took the nick meanwhile
		t.Error(id("ada"))
	}
	if d := e.Renamed(Nicked{From: "ada_away", To: "ADA"}).(*happening.PersonRenamed); d.Person.ID != "ada" || len(e.first) != 0 {
		t.Errorf("%+v %v", d, e.first)
	}
	e.Renamed(Nicked{From: "ada", To: "ada_away"})
	if d := e.Moved(Moved{Nick: "ada_away"}).(*happening.PersonLeft); d.Person.ID != "ada" {
		t.Errorf("%+v", d)
	}
	if id("ada") != "ada" {
		t.Error(id("ada"))
	}
	if d := e.Renamed(Nicked{From: "ada", To: "ada_b", Account: "Ada"}).(*happening.PersonRenamed); d.Person.ID != "ada" || d.Person.Nick {
		t.Errorf("%+v", d)
	}
	if quayside().Renamed(Nicked{From: "a", To: "b", Tags: map[string]string{"user-id": "1"}}) != nil {
		t.Error("the platform's own id goes on")
	}
}

func TestTheStreamersDoorHearsNothing(t *testing.T) {
	e := quayside()
	if said, _, _ := e.Said(Line{Nick: "porch", Text: "hello", Own: true}); said != nil {
		t.Errorf("the house hears itself: %+v", said)
	}
	e.Door.As = output.AsStreamer
	said, _, _ := e.Said(Line{Nick: "lena", Text: "hello"})
	if said != nil || e.Moved(Moved{Nick: "lena", Entered: true}) != nil || e.Renamed(Nicked{From: "a", To: "b"}) != nil {
		t.Error("what the house's own door hears too came in twice")
	}
}

// Whatever a network makes of a line said as the streamer, every piece of it is known for the
// house's own, once; and what the streamer says is not.
func TestALineSaidAsTheStreamerComesBackInPiecesOfAnySize(t *testing.T) {
	words := strings.Fields("the tide goes out and /the !pools stay behind, with 🦀🦀 and «ölige» weed . . ebb")
	at := time.Date(2026, 3, 1, 20, 0, 0, 0, time.UTC)
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 3))
		var e Echoes
		var lines [][]string
		for n := range 1 + r.IntN(3) {
			text := fmt.Sprintf("line %d of a long evening:", n) // no line begins another
			for range r.IntN(60) {
				text += " " + words[r.IntN(len(words))]
			}
			e.Expect("quayside", "Tidepool_Hours", text, at)
			lines = append(lines, plain.Split(text, 80+r.IntN(300), plain.CommandSigns))
		}
		for len(lines) > 0 {
			if r.IntN(3) == 0 {
				for _, own := range []Line{{Nick: "tidepool_hours", Text: "the tide"}, {Nick: "tidepool_hours", Text: "line"}, {Nick: "limpet_lena", Text: lines[0][0]}} {
					if e.Heard("quayside", own, at) {
						t.Fatalf("%d: %q is somebody's own", seed, own.Text)
					}
				}
			}
			n := r.IntN(len(lines))
			piece := lines[n][0]
			last := len(lines[n]) == 1
			if len(piece) < pieceLeast && !last {
				t.Fatalf("%d: cut at %q", seed, piece)
			}
			if e.Heard("fernlight", Line{Nick: "tidepool_hours", Text: piece}, at) {
				t.Fatalf("%d: said on another platform", seed)
			}
			if !e.Heard("quayside", Line{Nick: "TIDEPOOL_hours", Text: piece}, at.Add(EchoFor)) {
				t.Fatalf("%d: %q is the house's own", seed, piece)
			}
			if lines[n] = lines[n][1:]; last {
				lines = slices.Delete(lines, n, n+1)
				if e.Heard("quayside", Line{Nick: "tidepool_hours", Text: piece}, at) {
					t.Fatalf("%d: %q said again is the streamer's", seed, piece)
				}
			}
		}
		if len(e.list) > 0 {
			t.Fatalf("%d: still waits for %+v", seed, e.list)
		}
	}
}

func TestAnEchoIsWaitedForALittleWhileOnly(t *testing.T) {
	at := time.Date(2026, 3, 1, 20, 0, 0, 0, time.UTC)
	var e Echoes
	e.Expect("quayside", "tidepool_hours", "back in five", at)
	if e.Heard("quayside", Line{Nick: "tidepool_hours", Text: "back in five"}, at.Add(EchoFor+time.Second)) {
		t.Error("after so long it is the streamer's own")
	}
}
