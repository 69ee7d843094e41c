package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/hello"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/core/wording"
	"vividporch/demo"
)

// full are happenings with everything told that can be told.
var full = map[string]string{
	"porch.stream.changed":     `{"platform": "quayside", "title": "A new pool", "category": "Field and microscope", "url": "https://quayside.example/tidepool_hours"}`,
	"porch.raid.came":          `{"person": P, "viewers": 70}`,
	"porch.raid.went":          `{"person": P, "viewers": 70}`,
	"porch.channel.shown":      `{"person": P, "viewers": 70}`,
	"porch.person.followed":    `{"person": P}`,
	"porch.person.entered":     `{"person": P}`,
	"porch.person.joined":      `{"person": P, "place": "The Boathouse"}`,
	"porch.person.banned":      `{"person": P, "by": "grebe_watch", "reason": "the same line forty times"}`,
	"porch.person.timedout":    `{"person": P, "by": "grebe_watch", "reason": "shouting", "seconds": 600}`,
	"porch.support.subscribed": `{"person": P, "tier": "Harbour", "months": 14}`,
	"porch.support.gifted":     `{"person": P, "tier": "Harbour", "count": 1, "to": [{"platform": "quayside", "id": "2", "login": "mossy_mare"}]}`,
	"porch.chat.removed":       `{"person": P, "by": "grebe_watch", "reason": "the same line forty times"}`,
	"porch.support.tipped":     `{"person": P, "amount": "12.50", "currency": "EUR", "message": "for the anemone"}`,
	"porch.support.credits":    `{"person": P, "amount": 300, "message": "a splash"}`,
	"porch.reward.claimed":     `{"person": P, "reward": "Name a hermit crab", "cost": 400, "text": "Bernard"}`,
	"porch.shop.sold":          `{"person": P, "item": "Enamel mug", "quantity": 2, "amount": "18.00", "currency": "EUR", "message": "for tea"}`,
	"porch.shop.gifted":        `{"person": P, "item": "Enamel mug", "quantity": 2, "amount": "18.00", "currency": "EUR", "message": "for tea"}`,
	"porch.shop.used":          `{"person": P, "item": "Bell", "quantity": 1, "amount": "1.00", "currency": "EUR", "message": "ring"}`,
	"porch.social.followed":    `{"person": P}`,
	"porch.social.liked":       `{"person": P}`,
	"porch.social.reposted":    `{"person": P}`,
	"porch.note.left":          `{"person": P, "text": "the mussels moved", "place": "Newcomers"}`,
	"porch.bookmark.set":       `{"person": P, "label": "the anemone opens"}`,
	"porch.post.asked":         `{"person": P, "place": "skerry", "text": "see https://a.example"}`,
	"porch.draw.opened":        `{"draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.entered":       `{"person": P, "number": 12, "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.reminded":      `{"hint": "it clings", "left": 3, "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.closed":        `{"draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.won":           `{"person": P, "number": 12, "seconds": 60, "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.claimed":       `{"person": P, "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.unclaimed":     `{"person": P, "reason": "away", "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.unwon":         `{"draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.draw.cancelled":     `{"reason": "wet", "draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a"}`,
	"porch.points.levelled":    `{"person": P, "level": 2, "title": "Limpet"}`,
	"porch.points.given":       `{"person": P, "to": {"platform": "quayside", "id": "2", "login": "mossy_mare"}, "amount": 40}`,
	"porch.game.stone":         `{"person": P, "found": "a brittle star", "stake": 20, "won": 40, "one": 1, "in": 8}`,
	"porch.game.race.called":   `{"person": P, "with": {"platform": "quayside", "id": "2", "login": "mossy_mare"}, "stake": 20, "seconds": 60}`,
	"porch.game.race.run":      `{"person": P, "with": {"platform": "quayside", "id": "2", "login": "mossy_mare"}, "stake": 20, "won": 40}`,
	"porch.game.race.lapsed":   `{"person": P, "with": {"platform": "quayside", "id": "2", "login": "mossy_mare"}, "stake": 20}`,
	"porch.game.tide.turns":    `{"lifted": 9, "mark": 12, "prize": 25, "seconds": 90}`,
	"porch.game.tide.in":       `{"lifted": 9, "mark": 12, "prize": 25}`,
	"porch.game.tide.ebbed":    `{"lifted": 9, "mark": 12, "prize": 25}`,
	"porch.game.anemone":       `{"person": P, "question": "will it?", "answer": "Yes", "open": true}`,
	"porch.other":              `{"person": P, "name": "tide.turned"}`,
}

func TestEveryFillInOfferedIsFilledWhenEverythingIsTold(t *testing.T) {
	for _, w := range happening.Whens() {
		doc, ok := full[w.Type]
		switch {
		case w.Type == happening.Arrival, w.Type == happening.Hello, w.Type == happening.Command, w.Type == happening.Hand, w.Type == happening.Day, w.Type == happening.Timer, w.Type == happening.Lull, w.Type == happening.StreamBack, w.Type == happening.DatesWeekType, w.Type == happening.Neighbour, w.Type == "porch.stream.opened", w.Type == "porch.stream.closed":
			continue // said of a person who speaks, or lived in the tests of the stream
		case !ok:
			t.Errorf("%s is not in this test", w.Type)
			continue
		}
		var words strings.Builder
		for _, f := range happening.Of(w.Type).Offers() {
			if f.Optional {
				words.WriteString("{" + wording.Companion(f.Name) + ", select, yes {" + f.Name + " [{" + f.Name + "}]} other {NOTHING for " + f.Name + "}} ")
			} else {
				words.WriteString(f.Name + " [{" + f.Name + "}] ")
			}
		}
		slot, whom := w.Slots[0], who.Who{}
		if w.Frame == happening.OfPerson {
			whom.Date = &who.Date{When: who.Today}
		}
		e := begin(t, func(s *housefile.Settings) {
			s.Along = map[string]string{"quayside": "https://side.example/{login}/{next}"}
			s.Rooms = map[string]json.RawMessage{"points": json.RawMessage(`{"on": true, "levels": {"first": 10, "names": ["Limpet"]}}`)}
			s.Reach = housefile.Reach{How: housefile.Public, Address: "https://porch.example"}
			s.Courtesy = []courtesy.Courtesy{says("it", w.Type, slot, whom, nil, words.String())}
		})
		opens := on("quayside")
		opens.RecordingURL = "https://quayside.example/recordings/88"
		e.happens(opens)
		e.happens(&happening.PostAsked{Member: "Odalys", Place: "skerry", Text: "Low water at nine. Boots on!"})
		e.happens(&event.AlongSet{Logins: []string{"kelpwright"}})
		e.happens(&event.CountsTold{Platform: "quayside", Counts: map[string]int64{"followers": 1204, "subscribers": 38}})
		e.happens(&happening.StreamViewers{Platform: "quayside", Viewers: 61})
		e.happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way": "word", "word": "!tide", "prizes": ["a print"]}`)})
		e.happens(&event.DrawSealed{Draw: draw.Now(e.s.Rooms).ID, Commit: "3f9a"})
		e.happens(&event.PointsGranted{Person: event.Person{Platform: "quayside", ID: "1", Login: "limpet_lena"}, Amount: 40})
		enters := line("limpet_lena", "!tide")
		enters.Person.ID = "1"
		e.happens(enters)
		ev, err := happening.Kinds.Parse([]byte(`{"specversion": "1.0", "id": "e", "source": "test", "type": "` + w.Type + `", "time": "2031-05-14T19:00:00Z", "data": ` +
			strings.ReplaceAll(doc, "P", `{"platform": "quayside", "id": "1", "login": "limpet_lena"}`) + `}`))
		if err != nil {
			t.Fatalf("%s: %v", w.Type, err)
		}
		followed := dusk.AddDate(-1, 0, 0)
		e.happens(ev.Data, &people.Known{Attended: 3, Birthday: &dates.Day{Month: time.May, Day: 14}, FirstSeen: &followed, Followed: &followed, Accounts: []string{"quayside:1"},
			Fetched: &people.Fetched{At: dusk, Link: "https://quayside.example/limpet_lena", Category: "Reedbed at dusk", Streams: true}})
		e.after(time.Minute)
		said := e.wantSaid(1, "it")[0].Text
		if strings.Contains(said, "NOTHING") || strings.Contains(said, "[]") {
			t.Errorf("%s: %s", w.Type, said)
		}
	}
}

func TestWithNothingToldEverySentenceStillStands(t *testing.T) {
	for _, w := range happening.Whens() {
		for _, src := range prose.New(nil, w.Type, w.Slots[0]).Do[0].Alternatives {
			if parsed, problems := courtesy.CheckWording(src, happening.Of(w.Type).Offers()); len(problems) > 0 {
				t.Errorf("%s begins with a wording of faults: %q %v", w.Type, src, problems)
			} else if got := parsed.Render(wording.Args{"name": wording.Str("lena"), "channel": wording.Str("tidepool_hours")}); strings.Contains(got, "{") || got == "" {
				t.Errorf("%q", got)
			}
		}
	}
}

func TestTheStateWithItsRecordsAndHellosSurvivesASnapshot(t *testing.T) {
	e := begin(t, adds(says("answer", happening.Hello, happening.Answer, who.Who{}, nil, "Hello, {name}")))
	e.happens(on("quayside"))
	tip := &happening.Tipped{Amount: "5.00", Currency: "EUR"}
	tip.Person = viewer("saltpan_pip")
	e.happens(tip)
	e.happens(line("mossy_mare", "hm"))
	e.after(time.Hour).happens(line("mossy_mare", "hello"))
	raw, err := json.Marshal(e.s)
	if err != nil {
		t.Fatal(err)
	}
	back, _, ok := house.RestoreState(raw)
	if !ok || back.Largest["porch.support.tipped/amount/EUR"].Ever != 5 || len(hellos(back).Hellos) != 1 || !hellos(back).Last.Equal(hellos(e.s).Last) {
		t.Errorf("%v %+v %v", ok, back.Largest, hellos(back).Hellos)
	}
}

func TestTheStartingSetIsReadyAndNeverSaysTheSameTwiceRunning(t *testing.T) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		t.Fatal(err)
	}
	if _, faults := house.Ready(s, 1); len(faults) > 0 {
		t.Fatal(faults)
	}
	lanes := map[string]bool{}
	for _, c := range s.Courtesy {
		lanes[prose.Lane(c)] = true
		for _, o := range c.Do {
			if o.Worded() && len(o.Alternatives) < 3 {
				t.Errorf("%s %s has %d alternatives", c.ID, o.ID, len(o.Alternatives))
			}
			if c.Burst != nil && o.Joins() && len(o.Joined) < 3 {
				t.Errorf("%s %s has %d for several", c.ID, o.ID, len(o.Joined))
			}
		}
	}
	if len(lanes) != 6 {
		t.Errorf("the starting set stands in %d lanes", len(lanes))
	}
}

// hellos is what the house remembers of hellos.
func hellos(s *house.State) *hello.Memory { return room.Remembered[hello.Memory](s.Rooms, "hello") }
