package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/core/room"
)

// raided lives what an event raises, and tells whom we went to.
func (e *evening) raided(ds []hall.Decision) (to []string) {
	for _, r := range room.Raised(e.plan, &e.log[len(e.log)-1].ev, ds) {
		if went, ok := r.Data.(*happening.RaidWent); ok {
			to = append(to, went.Person.Login)
		}
		r.Seq, r.Logged = e.s.Seq+1, e.now
		e.keep(r, house.Step(e.s, &r, nil, e.plan))
	}
	return to
}

// goes has a member send the stream on, and the platform do it, and tells whom we went to.
func (e *evening) goes(login string) []string {
	return e.raided(e.happens(&event.ActDone{ActOutcome: e.asksToGo(login)}))
}

// asksToGo has a member send the stream on, and is what the platform answers.
func (e *evening) asksToGo(login string) event.ActOutcome {
	o := event.ActOutcome{Line: "none", To: "quayside", Effect: "platform", Act: string(output.SendRaid), Login: login, About: []string{viewer(login).Key()}}
	for _, d := range e.happens(&event.DeskActed{Act: string(output.SendRaid), Platform: "quayside", Login: login, Person: viewer(login)}) {
		if d.Kind == hall.Kind(output.KindPlatform) {
			o.Line = d.Line
		}
	}
	return o
}

func went(login string) *happening.RaidWent {
	r := &happening.RaidWent{Viewers: 40}
	r.Person = viewer(login)
	return r
}

func (e *evening) passes(d event.Data) bool {
	return e.s.Passes(&event.Event{Door: "quayside", Source: "s", ID: "went", Type: d.Type(), Data: d, Time: e.now}, e.plan)
}

func TestARaidOfOursIsKeptOnceWhoeverTellsOfIt(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	if got := e.goes("kelpwright"); strings.Join(got, " ") != "kelpwright" {
		t.Fatalf("%q", got)
	}
	e.after(time.Minute)
	if !e.passes(went("kelpwright")) {
		t.Error("the platform's own word of it counts a second time")
	}
	if e.passes(went("mossy_mare")) {
		t.Error("a raid on somebody else is passed over")
	}
	e.after(time.Hour)
	if e.passes(went("kelpwright")) {
		t.Error("another raid an hour later is passed over")
	}
	e.happens(went("mossy_mare")) // told before the platform answers what it was asked
	if got := e.goes("mossy_mare"); got != nil {
		t.Errorf("kept twice: %q", got)
	}
}

func TestWhatThePlatformRefusesIsNoRaid(t *testing.T) {
	e := begin(t)
	e.happens(&event.DeskActed{Act: string(output.SendRaid), Platform: "quayside", Login: "kelpwright", Person: viewer("kelpwright")})
	e.wantReason("no stream is on: there is nobody to send on")
	e.happens(on("quayside"))
	o := e.asksToGo("kelpwright")
	o.Reason = "kelpwright is not live"
	e.happens(&event.ActRefused{ActOutcome: o})
	if got := e.raided(e.happens(&event.ActDone{ActOutcome: o})); got != nil {
		t.Errorf("an answer to nothing is a raid on %q", got)
	}
}

// Of a namesake who is forgotten the log keeps no login: an answer without one is still the answer.
func TestAnAnswerWithoutANameIsTheAnswerToWhatWasAsked(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	moss := e.asksToGo("mossy_mare")
	kelp := e.asksToGo("kelpwright")
	kelp.Login, kelp.About = "", nil
	e.happens(&event.ActRefused{ActOutcome: kelp})
	if got := e.raided(e.happens(&event.ActDone{ActOutcome: kelp})); got != nil {
		t.Errorf("answered already, and again a raid on %q", got)
	}
	moss.Login = ""
	if got := e.raided(e.happens(&event.ActDone{ActOutcome: moss})); strings.Join(got, " ") != "mossy_mare" {
		t.Errorf("a raid on %q", got)
	}
}

func TestWhereThePlatformSendsNobodyOnTheRaidIsKeptAllTheSame(t *testing.T) {
	e := begin(t)
	e.happens(on("fernlight"))
	kelp := event.Person{Platform: "fernlight", ID: "id-kelp", Login: "kelp", Name: "kelp"}
	ds := e.happens(&event.DeskActed{Act: string(output.SendRaid), Platform: "fernlight", Login: "kelp", Person: kelp})
	if got := e.raided(ds); strings.Join(got, " ") != "kelp" {
		t.Errorf("%q of %+v", got, ds)
	}
}

func TestWhoeverIsForgottenIsNotKeptAmongThoseWeWentTo(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.goes("kelpwright")
	e.happens(&event.DeskActed{Act: string(output.SendRaid), Platform: "quayside", Login: "kelpwright", Person: viewer("kelpwright")})
	e.happens(&event.BookForgotten{Keys: []string{viewer("kelpwright").Key()}})
	if raw, err := json.Marshal(e.s); err != nil || strings.Contains(string(raw), "kelpwright") {
		t.Errorf("%s %v", raw, err)
	}
}
