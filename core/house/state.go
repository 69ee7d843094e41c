package house

import (
	"encoding/json"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/raid"
	"vividporch/core/room"
)

// hallVersion is the version of what all rooms share; a snapshot of another one is not
// used.
const hallVersion = 3

// State is everything the house must remember to decide the next event: what all rooms
// share, and what each remembers. It is one serialisable value; only Evolve changes it.
type State struct {
	hall.State
	Rooms room.Memory

	wake alarm // when to be woken, as long as nothing moved that it depends on
}

// alarm is a remembered answer of Wake. It is worked out again whenever the state
// has moved in a way that could change it, or another plan asks.
type alarm struct {
	plan *room.Plan
	at   time.Time
	due  bool
}

// NewState is a channel on its first day.
func NewState() *State { return &State{State: *hall.NewState(), Rooms: room.Fresh(Rooms)} }

// snapshot is how a state is kept.
type snapshot struct {
	Version int                        `json:"version"`
	Hall    *hall.State                `json:"hall"`
	Rooms   map[string]json.RawMessage `json:"rooms"`
}

// MarshalJSON writes a snapshot, with the version of each room's memory.
func (s *State) MarshalJSON() ([]byte, error) {
	rooms, err := s.Rooms.Write(Rooms)
	if err != nil {
		return nil, err
	}
	return json.Marshal(snapshot{hallVersion, &s.State, rooms})
}

// RestoreState reads a snapshot; ok is false when it is of another version than this house
// keeps. Rooms that it holds nothing of, or in another shape, are named: they are evolved
// from the log alone ([State.CatchUp]), and the others taken as they are.
func RestoreState(raw []byte) (s *State, anew []string, ok bool) {
	s = &State{State: *hall.NewState()}
	in := snapshot{Hall: &s.State}
	if json.Unmarshal(raw, &in) != nil || in.Version != hallVersion {
		return nil, nil, false
	}
	s.Rooms, anew = room.Read(Rooms, in.Rooms)
	return s, anew, true
}

// Evolve moves the state on by one event and what was decided about it. It takes
// everything from its arguments and decides nothing.
func (s *State) Evolve(ev *event.Event, ds []hall.Decision) {
	if _, chat := ev.Data.(*happening.ChatSaid); !chat || len(ds) > 0 {
		s.wake = alarm{} // a further line of chat moves nothing that waits
	}
	gone := s.State.Evolve(ev, ds)
	s.Rooms.Evolve(Rooms, lived(ev, s.Clock, ds), gone)
}

func lived(ev *event.Event, now time.Time, ds []hall.Decision) room.Lived {
	l := room.Lived{Event: ev, Now: now, Decisions: ds}
	for i := range ds {
		if ds[i].Kind == hall.Open {
			l.Opened = &ds[i].At
		}
	}
	return l
}

// CatchUp evolves the memory of some rooms from the log alone, from its first event to the
// one that the state stands at; live is called with each.
func (s *State) CatchUp(anew []string) (live func(*event.Event, []hall.Decision)) {
	rooms := slices.DeleteFunc(slices.Clone(Rooms), func(r room.Room) bool { return !slices.Contains(anew, r.Name) })
	past := hall.NewState()
	return func(ev *event.Event, ds []hall.Decision) {
		gone := past.Forgets(ev, ds)
		past.Clock = past.ClockAt(ev.Logged)
		s.Rooms.Evolve(rooms, lived(ev, past.Clock, ds), gone)
	}
}

// Wake is when the house next wants to be woken; false when nothing waits.
func (s *State) Wake(p *room.Plan) (time.Time, bool) {
	if s.wake.plan == p {
		return s.wake.at, s.wake.due
	}
	at, due := s.Queue.Wake(s.Hush, p.Rules())
	sooner := func(t time.Time, wants bool) {
		if wants && (!due || t.Before(at)) {
			at, due = t, true
		}
	}
	sooner(s.Stream.EndsAt(p.Grace()))
	for i := range s.Questions {
		sooner(s.Questions[i].Ends, true)
	}
	sooner(s.Rooms.Wake(Rooms, p))
	if due && at.Before(s.Clock) { // it has been so for a while
		at = s.Clock
	}
	if due && at.Before(s.RestUntil) {
		at = s.RestUntil
	}
	s.wake = alarm{p, at, due}
	return at, due
}

// Passes reports whether an event is not worth a line in the log: comings and goings of
// people who are not here, unless some courtesy is for whoever comes in, and raids of ours that are
// known already.
func (s *State) Passes(ev *event.Event, p *room.Plan) bool {
	switch ev.Data.(type) {
	case *happening.PersonEntered:
		if p.Set.Has(ev.Type) {
			return false
		}
	case *happening.PersonLeft:
	case *happening.RaidWent: // told by the platform, too
		return raid.Told(s.Rooms, ev, s.Clock)
	default:
		return false
	}
	key := ev.Who().Key()
	return s.Tonight[key] == nil && s.Between[key] == nil
}

// Wants reports whether deciding an event asks the guest book who somebody is: before their
// arrival, for everything that is no chat line, and whenever a room asks.
func (s *State) Wants(ev *event.Event, p *room.Plan) bool {
	return s.NeedsKnown(ev) || ev.Who() != nil && slices.ContainsFunc(Rooms, func(r room.Room) bool { return r.Asks(p, ev) })
}

// Asking is a turn in which nothing happens, for whoever wants to know what would: as if a
// stream were on.
func (s *State) Asking(p *room.Plan, ev *event.Event, known *people.Known) *room.Turn {
	live := true
	t := room.NewTurn(&s.State, s.Rooms, p, Rooms, ev, known, nil)
	t.Now, t.Live = s.Clock, &live
	t.Late, t.IsLate = 0, false
	return t
}
