package guard

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/trouble"
)

// Memory is what the room remembers.
type Memory struct {
	Lately  []spoken             `json:"lately,omitempty"`  // what was said, oldest first
	Held    []Held               `json:"held,omitempty"`    // lines that wait for a member, oldest first
	Cleared []clearance          `json:"cleared,omitempty"` // lines that their platform lets through now
	Permits map[string]time.Time `json:"permits,omitempty"`
	Flood   time.Time            `json:"flood,omitzero"`  // a flood is held off until then
	Modes   []mode               `json:"modes,omitempty"` // that the key against it brought
	Night   Tally                `json:"night,omitzero"`
}

// spoken is that somebody said something.
type spoken struct {
	At     time.Time `json:"at"`
	Person string    `json:"person"`
	Digest uint64    `json:"digest"`
}

// clearance is that a line is decided, and comes once more as its platform lets it through. One that lapsed is nothing all the same.
type clearance struct {
	spoken
	Lapsed bool `json:"lapsed,omitempty"`
}

// clearedFor is how long a platform may take to let a line through.
const clearedFor = 2 * time.Minute

// cleared is the clearance of a line, or nil.
func (m *Memory) cleared(b *before) *clearance {
	for i := range m.Cleared {
		if c := &m.Cleared[i]; c.Person == b.person && c.Digest == b.digest && b.now.Sub(c.At) < clearedFor {
			return c
		}
	}
	return nil
}

// Held is a line that waits for a member.
type Held struct {
	ID    string             `json:"id"`
	Since time.Time          `json:"since"`
	Ours  bool               `json:"ours,omitempty"`
	Back  bool               `json:"back,omitempty"` // its platform holds it
	Flood bool               `json:"flood,omitempty"`
	Said  happening.ChatSaid `json:"said"`
}

type mode struct {
	Platform string `json:"platform"`
	Act      string `json:"act"`
}

// Tally is what the guard did in a stream.
type Tally struct {
	Warned   int `json:"warned,omitempty"`
	Held     int `json:"held,omitempty"`
	Allowed  int `json:"allowed,omitempty"`
	Removed  int `json:"removed,omitempty"`
	TimedOut int `json:"timedOut,omitempty"`
	Banned   int `json:"banned,omitempty"`
}

// Bounds of what is remembered.
const (
	mostLately = 400 // and up to twice as many, until the oldest are let go of
	mostHeld   = 300
)

// Tonight is what the guard did in this stream, and how many lines it holds now.
func Tonight(m room.Memory) (Tally, int) {
	mine := room.Remembered[Memory](m, name)
	return mine.Night, len(mine.Held)
}

// HeldBy is a line that is held, by its id.
func HeldBy(m room.Memory, id string) (Held, bool) {
	held := room.Remembered[Memory](m, name).Held
	if i := slices.IndexFunc(held, func(h Held) bool { return h.ID == id }); i >= 0 {
		return held[i], true
	}
	return Held{}, false
}

// HeldNow are the lines that wait, oldest first.
func HeldNow(m room.Memory) []Held { return room.Remembered[Memory](m, name).Held }

// HoldsOff reports whether a flood of strangers is held off.
func (m *Memory) HoldsOff(now time.Time) bool { return now.Before(m.Flood) }

// HoldsOff is until when a flood of strangers is held off; the zero time for none.
func HoldsOff(m room.Memory) time.Time { return room.Remembered[Memory](m, name).Flood }

// permits reports whether a member lets one of some accounts do what would be stopped.
func (m *Memory) permits(accounts []string, now time.Time) bool {
	return slices.ContainsFunc(accounts, func(a string) bool { return now.Before(m.Permits[a]) })
}

// before is what was said before a line.
type before struct {
	m      *Memory
	now    time.Time
	person string
	digest uint64
}

// Same is how often its person has said the same.
func (b *before) Same(_ *trouble.Line, seconds float64) (n int) {
	for i := len(b.m.Lately) - 1; i >= 0 && b.now.Sub(b.m.Lately[i].At) <= room.Seconds(seconds); i-- {
		if x := &b.m.Lately[i]; x.Digest == b.digest && x.Person == b.person {
			n++
		}
	}
	return n
}

// Others is how many others have said the same.
func (b *before) Others(_ *trouble.Line, seconds float64) int {
	var who []string
	for i := len(b.m.Lately) - 1; i >= 0 && b.now.Sub(b.m.Lately[i].At) <= room.Seconds(seconds); i-- {
		if x := &b.m.Lately[i]; x.Digest == b.digest && x.Person != b.person && !slices.Contains(who, x.Person) {
			who = append(who, x.Person)
		}
	}
	return len(who)
}

func evolve(m *Memory, l room.Lived) {
	if l.Opened != nil {
		m.Night = Tally{}
	}
	switch data := l.Event.Data.(type) {
	case *happening.ChatSaid:
		if data.Person.ID == "" { // whoever it was is forgotten
			break
		}
		if len(m.Lately) >= 2*mostLately { // not with every line: there are many in an evening
			m.Lately = slices.Clone(m.Lately[len(m.Lately)-mostLately+1:])
		}
		m.Lately = append(m.Lately, spoken{l.Now, data.Person.Key(), (&trouble.Line{Text: data.Text}).Digest()})
	case *event.Permitted:
		next := maps.Clone(m.Permits)
		if next == nil {
			next = map[string]time.Time{}
		}
		maps.DeleteFunc(next, func(_ string, until time.Time) bool { return !l.Now.Before(until) })
		if next[data.Person.Key()] = l.Now.Add(room.Seconds(data.Seconds)); data.Seconds == 0 || data.Person.ID == "" {
			delete(next, data.Person.Key())
		}
		m.Permits = next
	}
	for i := range l.Decisions {
		d := &l.Decisions[i]
		if d.Room != name {
			continue
		}
		switch d.Kind {
		case Touched:
			m.touched(d, l.Now)
		case Let:
			m.let(d, l.Now)
		case HoldOff:
			m.Flood = d.At
		}
	}
	for _, modes := range room.Noted[[]mode](l, "modes") {
		m.Modes = modes
	}
}

func (m *Memory) touched(d *hall.Decision, now time.Time) {
	switch trouble.Act(d.Output) { // what was done is counted, whoever is forgotten
	case trouble.Warn:
		m.Night.Warned++
	case trouble.Remove:
		m.Night.Removed++
	case trouble.TimeOut:
		m.Night.TimedOut++
	case trouble.Ban:
		m.Night.Banned++
	case trouble.Hold:
		m.Night.Held++
		x := TouchOf(d)
		if x == nil || x.Said == nil || x.Said.Person.ID == "" {
			return
		}
		from := max(0, len(m.Held)-mostHeld+1)
		m.Held = append(m.Held[from:len(m.Held):len(m.Held)], Held{ID: x.ID, Since: now, Ours: x.Ours, Back: x.Back, Flood: x.Flood, Said: *x.Said})
	}
}

// letting is how a held line ended.
type letting struct {
	Allowed bool                `json:"allowed,omitempty"`
	Said    *happening.ChatSaid `json:"said,omitempty"` // what is lived now
}

// Admitted is the line that is lived now because a member allowed it; nil for none.
func Admitted(ds []hall.Decision) *happening.ChatSaid {
	for i := range ds {
		var how letting
		if ds[i].Kind == Let && json.Unmarshal(ds[i].Body, &how) == nil && how.Said != nil {
			return how.Said
		}
	}
	return nil
}

// Withheld reports whether a line of chat was held or taken out.
func Withheld(ds []hall.Decision) bool {
	return slices.ContainsFunc(ds, func(d hall.Decision) bool {
		x := TouchOf(&d)
		return x != nil && x.Withholds()
	})
}

func (m *Memory) let(d *hall.Decision, now time.Time) {
	if strings.HasPrefix(d.Output, letAs[allowedLine]) {
		m.Night.Allowed++
	}
	m.Cleared = slices.DeleteFunc(slices.Clone(m.Cleared), func(c clearance) bool { return now.Sub(c.At) >= clearedFor })
	for i := range m.Held {
		if h := &m.Held[i]; h.ID == d.Line && h.Back && !strings.HasPrefix(d.Output, letAs[goneLine]) {
			line := trouble.Line{Text: h.Said.Text}
			m.Cleared = append(m.Cleared, clearance{spoken{now, h.Said.Person.Key(), line.Digest()}, !strings.HasPrefix(d.Output, letAs[allowedLine])})
		}
	}
	m.Held = slices.DeleteFunc(slices.Clone(m.Held), func(h Held) bool { return h.ID == d.Line })
}

// forget takes out what somebody said, and what they are permitted.
func forget(m *Memory, gone *hall.Gone) {
	m.Lately = slices.DeleteFunc(slices.Clone(m.Lately), func(s spoken) bool { return gone.Mine(s.Person) })
	m.Held = slices.DeleteFunc(slices.Clone(m.Held), func(h Held) bool { return gone.Mine(h.Said.Person.Key()) })
	for i := range m.Held {
		said := &m.Held[i].Said
		said.Text = plain.Without(said.Text, gone.Sparing(said.Person.Shown()))
	}
	m.Cleared = slices.DeleteFunc(slices.Clone(m.Cleared), func(c clearance) bool { return gone.Mine(c.Person) })
	m.Permits = maps.Clone(m.Permits)
	maps.DeleteFunc(m.Permits, func(key string, _ time.Time) bool { return gone.Mine(key) })
}
