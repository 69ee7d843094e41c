package onemore_test

import (
	"fmt"
	"maps"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/housefile"
	"vividporch/core/room"
	"vividporch/core/who"
)

// sluice is the room at the sluice: it counts who sees the tide turn, tells it again a
// while later, and keeps for ever how often each has seen it.
var sluice = room.Of(room.Spec[section, memory]{Name: "sluice", Version: 2,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) section {
		s := room.ReadSection[section](f, "sluice", fault)
		if s.AgainSeconds < 0 || s.AgainSeconds > 3600 {
			fault(courtesy.Fault{At: "rooms.sluice.againSeconds", What: "is out of range", Remedy: "use 0 to 3600 seconds"})
		}
		return s
	},
	Hears: []string{"porch.tide.turned", "porch.house.woke"},
	Decide: func(t *room.Turn, s *section, m *memory) {
		switch data := t.Event.Data.(type) {
		case *TideTurned:
			seen := room.KeptOf(t, data.Person, t.Known, func(all []keeps) (k keeps) {
				for _, a := range all {
					k.Seen += a.Seen
				}
				return k
			})
			mine := room.KeptOf(t, data.Person, nil, func(all []keeps) (k keeps) {
				for _, a := range all {
					k = a
				}
				return k
			})
			room.Keep(t, data.Person.Key(), keeps{mine.Seen + 1}, "saw the tide turn")
			room.Note(t, "turn", turn{data.Person.Key(), seen.Seen + 1, t.Now.Add(time.Duration(s.AgainSeconds) * time.Second)}, fmt.Sprintf("the tide turned; they saw it %d times", seen.Seen+1))
		case *event.Woke:
			if !m.Again.IsZero() && !m.Again.After(t.Now) {
				room.Note(t, "again", struct{}{}, "the tide is told again")
				t.Free(t.Plan.Set.Meet(who.Cause{When: "porch.tide.turned", Live: t.IsLive(), At: t.Now.In(t.Plan.Zone)}), t.Args(), t.Plan.Chat())
			}
		}
	},
	Evolve: func(m *memory, l room.Lived) {
		if l.Opened != nil {
			*m = memory{Ever: m.Ever}
		}
		for _, n := range room.Noted[turn](l, "turn") {
			m.Seen = maps.Clone(m.Seen)
			if m.Seen == nil {
				m.Seen = map[string]int{}
			}
			m.Seen[n.Account], m.Again = n.Times, n.Again
			m.Ever++
		}
		for range room.Noted[struct{}](l, "again") {
			m.Again = time.Time{}
		}
	},
	Wake: func(s *section, m *memory) (time.Time, bool) { return m.Again, s.AgainSeconds > 0 && !m.Again.IsZero() },
	Forget: func(m *memory, gone *hall.Gone) {
		maps.DeleteFunc(m.Seen, func(account string, _ int) bool { return gone.Mine(account) })
	}})

type section struct {
	AgainSeconds int `json:"againSeconds"`
}

// memory is who saw it in this stream, and how often ever; when it is told again; how often
// it turned at all.
type memory struct {
	Seen  map[string]int `json:"seen,omitempty"`
	Again time.Time      `json:"again,omitzero"`
	Ever  int            `json:"ever"`
}

type keeps struct {
	Seen int `json:"seen"`
}

type turn struct {
	Account string    `json:"account"`
	Times   int       `json:"times"`
	Again   time.Time `json:"again"`
}
