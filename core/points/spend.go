package points

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Charge is what somebody paid for something that a courtesy does. It is settled once something of it came about for good, and owed back
// when nothing of it did: every line was dropped, given up or refused.
type Charge struct {
	ID       string    `json:"id"`
	Event    int64     `json:"event"`
	Courtesy string    `json:"courtesy"`
	Output   string    `json:"output,omitempty"`
	Of       []Part    `json:"of"`
	Name     string    `json:"name,omitempty"`
	At       time.Time `json:"at"`
	Waits    []string  `json:"waits,omitempty"` // lines that are coming up
	Left     []string  `json:"left,omitempty"`  // and those that left, which may still be refused
	Aloud    []string  `json:"aloud,omitempty"` // of those, what is read aloud and not over
	Why      string    `json:"why,omitempty"`   // it is owed back
}

const (
	settledAfter = 15 * time.Minute // nothing is refused any more
	mostCharges  = 5000
)

// pays answers for a bill: before it is done, why it cannot be paid; once it is, it is paid.
func pays(t *room.Turn, s *Section, m *Memory, b *room.Bill) string {
	if !s.On {
		return "it costs points, and points are switched off"
	}
	have := pursesOf(t, b.Person, b.Known)
	if !b.Done {
		if has := have.has(m); has < b.Amount {
			words(t, "short", s.short, b.Person, wording.Args{"cost": wording.Str(s.Counted(b.Amount)), "points": wording.Str(s.Counted(has))})
			return "costs " + s.Counted(b.Amount) + "; they have " + s.Counted(has)
		}
		return ""
	}
	id := t.LineID(b.Courtesy, b.Output) + ".cost"
	for _, part := range have.split(m, b.Person.Key(), b.Amount) {
		enter(t, m, have, t.SayName(b.Person), part.Account, Paid, Entry{Amount: -part.Amount, For: id, Courtesy: b.Courtesy, Output: b.Output}, 0, "paid for "+b.Courtesy)
	}
	return ""
}

// words says something to whoever asked, once for a cause.
func words(t *room.Turn, output string, list []*wording.Wording, p event.Person, args wording.Args) {
	args["name"] = wording.Value{Text: t.SayName(p)}
	t.AsideFor(Name, output, list, args, p, "asked for what costs points")
}

// settle moves charges on by what was decided and by what became of it.
func (m *Memory) settle(l room.Lived) {
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Kind == Kind && x.Room == l.Room && x.Output == Refunded {
			if e, ok := EntryOf(x); ok {
				m.Owed = slices.DeleteFunc(m.Owed, func(c Charge) bool { return c.ID == e.For })
			}
		}
		if x.Kind == Kind && x.Room == l.Room && x.Output == Paid {
			m.charged(x, l)
		}
	}
	for i := range m.Open {
		m.Open[i].move(l)
	}
	m.Open = slices.DeleteFunc(m.Open, func(c Charge) bool {
		switch {
		case len(c.Waits) > 0:
			return false
		case len(c.Left) > 0:
			return l.Now.Sub(c.At) > settledAfter
		case c.Why == "" && c.Event == l.Event.Seq: // of it nothing is said or shown: it was done there and then
			return true
		}
		c.At = l.Now
		m.Owed = append(m.Owed, c)
		return true
	})
}

// charged notes what was paid, from one account or several.
func (m *Memory) charged(x *hall.Decision, l room.Lived) {
	e, ok := EntryOf(x)
	if !ok {
		return
	}
	at := slices.IndexFunc(m.Open, func(c Charge) bool { return c.ID == e.For })
	if at < 0 {
		c := Charge{ID: e.For, Event: l.Event.Seq, Courtesy: e.Courtesy, Output: e.Output, Name: x.Name, At: l.Now}
		m.Open = append(m.Open[max(0, len(m.Open)-mostCharges+1):], c)
		at = len(m.Open) - 1
	}
	m.Open[at].Of = append(m.Open[at].Of, Part{x.Person, -e.Amount})
}

// mine reports whether a line is paid for by a charge.
func (c *Charge) mine(d *hall.Decision) bool {
	return d.Courtesy == c.Courtesy && d.Event == c.Event && (c.Output == "" || d.Output == c.Output)
}

func (c *Charge) move(l room.Lived) {
	has := func(list []string, line string) bool { return slices.Contains(list, line) }
	without := func(list []string, line string) []string {
		return slices.DeleteFunc(list, func(x string) bool { return x == line })
	}
	leaves := func(line string) {
		c.At = l.Now
		if c.Waits = without(c.Waits, line); !has(c.Left, line) {
			c.Left = append(c.Left, line)
		}
	}
	for i := range l.Decisions {
		d := &l.Decisions[i]
		key := d.Line + "@" + d.Platform + d.Place
		switch {
		case d.Kind == hall.Planned && c.mine(d):
			c.Waits = append(c.Waits, key)
		case d.Kind == hall.Drop && has(c.Waits, key):
			c.Waits, c.Why = without(c.Waits, key), "it was dropped"
		case d.Kind == hall.Say || d.Kind == hall.Relay || output.Of(output.Kind(d.Kind)).Way.Staged():
			if c.mine(d) || has(c.Waits, key) {
				leaves(key)
				if d.Kind == hall.Kind(output.KindSpeak) {
					c.Aloud = append(c.Aloud, key)
				}
			}
			for _, j := range d.Joined {
				if joined := j.Line + "@" + d.Platform + d.Place; has(c.Waits, joined) {
					leaves(joined)
				}
			}
		}
	}
	over := func(line string) {
		c.Aloud = slices.DeleteFunc(c.Aloud, func(key string) bool { return strings.HasPrefix(key, line+"@") })
	}
	refused := func(line, to string) { // why, stands in the log, as long as it is kept there: a charge has words of its own
		if key := line + "@" + to; has(c.Left, key) {
			c.Left, c.Why = without(c.Left, key), "it could not be done"
		}
	}
	switch data := l.Event.Data.(type) {
	case *event.SpeechRefused:
		refused(data.Line, data.Platform)
	case *event.ActRefused:
		refused(data.Line, data.To)
	case *event.ActDone:
		over(data.Line)
	case *event.ShowEnded:
		over(data.Show)
	case *event.Silenced: // what was not heard to its end is not paid for
		for _, key := range c.Aloud {
			c.Left, c.Why = without(c.Left, key), "stopped by a member"
		}
		c.Aloud = nil
	}
}

// refunds gives back what came to nothing.
func refunds(t *room.Turn, m *Memory) {
	for i := range m.Owed {
		c := &m.Owed[i]
		givesBack(t, m, c.Of, c.Name, c.ID, c.Why)
	}
}

// givesBack puts points back into the accounts that they came from.
func givesBack(t *room.Turn, m *Memory, parts []Part, name, of, why string) {
	for _, part := range parts {
		p := event.OfKey(part.Account)
		enter(t, m, pursesOf(t, p, t.State.KnownHere(part.Account)), name, part.Account, Refunded, Entry{Amount: part.Amount, For: of}, 0, "given back: "+why)
	}
}
