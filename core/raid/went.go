package raid

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
)

// Where we went: what a platform was had to do is kept as a raid of ours, once, whether the platform
// tells of it itself or not.

// Memory is who is to be raided, and who was.
type Memory struct {
	Going []onward `json:"going,omitempty"` // asked of a platform that has not answered yet
	Went  []visit  `json:"went,omitempty"`  // oldest first
}

// onward is who is to be raided. The platform's answer tells of the line that asked it: whoever has a namesake that was forgotten may have
// no name left in it.
type onward struct {
	Line string       `json:"line"`
	To   event.Person `json:"to"`
}

// asked reports whether an answer is to this.
func (w *onward) asked(o *event.ActOutcome) bool { return w.Line == o.Line && w.To.Platform == o.To }

// visit is one raid of ours.
type visit struct {
	Key   string    `json:"key"`
	Login string    `json:"login,omitempty"`
	At    time.Time `json:"at"`
}

const (
	mostVisits = 40
	mostGoing  = 10

	// sameRaid is how far apart two words of one raid are: what a platform tells, and what it was asked for.
	sameRaid = 15 * time.Minute
)

// of reports whether a visit was to somebody, by account or, where only that is known, by login.
func (v *visit) of(p event.Person) bool {
	platform, id, _ := strings.Cut(v.Key, ":")
	byLogin := strings.HasPrefix(id, people.Provisional) || strings.HasPrefix(p.ID, people.Provisional)
	return v.Key == p.Key() || byLogin && platform == p.Platform && v.Login != "" && strings.EqualFold(v.Login, p.Login)
}

// been reports whether we went to somebody about then.
func (m *Memory) been(p event.Person, at time.Time) bool {
	return slices.ContainsFunc(m.Went, func(v visit) bool { return v.of(p) && v.At.Sub(at).Abs() < sameRaid })
}

// Told reports whether an event tells of a raid of ours that is known already.
func Told(m room.Memory, ev *event.Event, now time.Time) bool {
	went, ok := ev.Data.(*happening.RaidWent)
	if !ok || ev.Door == "house" {
		return false
	}
	at := ev.Time
	if at.IsZero() {
		at = now
	}
	return room.Remembered[Memory](m, name).been(went.Person, at)
}

// sent keeps that a platform sent whoever watches on to somebody.
func (m *Memory) sent(t *room.Turn, o *event.ActOutcome) {
	if o.Act != string(output.SendRaid) || o.Off {
		return
	}
	at := slices.IndexFunc(m.Going, func(w onward) bool { return w.asked(o) })
	if at < 0 || m.been(m.Going[at].To, t.Now) {
		return
	}
	went := &happening.RaidWent{Viewers: t.Watching()}
	went.Person = m.Going[at].To
	t.Happens("raid", went, "the platform sent everybody on")
}

// evolve keeps who is to be raided, and who was.
func (m *Memory) evolve(l room.Lived) {
	switch data := l.Event.Data.(type) {
	case *event.ActDone:
		m.answered(&data.ActOutcome)
	case *event.ActRefused:
		m.answered(&data.ActOutcome)
	case *happening.RaidWent:
		m.Went = append(m.Went[max(0, len(m.Went)-mostVisits+1):], visit{data.Person.Key(), data.Person.Login, l.Event.Time})
	}
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Kind != hall.Kind(output.KindPlatform) || x.Person == "" {
			continue
		}
		deed := output.DeedOf(x.Body)
		if deed == nil || deed.Act != output.SendRaid || deed.Login == "" {
			continue
		}
		p := event.Person{Login: deed.Login, Name: x.Name}
		p.Platform, p.ID, _ = strings.Cut(x.Person, ":")
		if asked, ok := l.Event.Data.(*event.DeskActed); ok && asked.Person.Key() == x.Person {
			p = asked.Person
		}
		m.Going = append(m.Going[max(0, len(m.Going)-mostGoing+1):], onward{x.Line, p})
	}
}

// answered takes out of who is to be raided whom a platform answered about.
func (m *Memory) answered(o *event.ActOutcome) {
	if o.Act == string(output.SendRaid) {
		m.Going = slices.DeleteFunc(m.Going, func(w onward) bool { return w.asked(o) })
	}
}

func (m *Memory) forget(gone *hall.Gone) {
	m.Going = slices.DeleteFunc(m.Going, func(w onward) bool { return gone.Mine(w.To.Key()) })
	m.Went = slices.DeleteFunc(m.Went, func(v visit) bool { return gone.Mine(v.Key) })
}
