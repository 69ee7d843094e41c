package hall

import (
	"slices"

	"vividporch/core/plain"
)

// period names the people who are here: another stream, or the time between two, has others.
type period struct {
	live   bool
	number int
}

// called is who goes by which name, of the people of one period: account keys by names as they are
// compared. It is made from the state when it is first asked for, and added to; whoever looks
// somebody up holds them against the name once more.
type called struct {
	of     period
	byName map[string][]string
}

func (s *State) periodNow() period { return period{s.Stream.Live(), s.Stream.Number} }

// Called lists the accounts of those here who may go by a name, whatever its case: by their login,
// as they are shown, or as the house says it. They are in the order of their keys.
func (s *State) Called(name string) []string {
	gs := s.Guests()
	if s.called.byName == nil || s.called.of != s.periodNow() {
		s.called = called{s.periodNow(), make(map[string][]string, 2*len(gs))}
		for key, g := range gs {
			s.call(key, g)
		}
	}
	var out []string
	for _, key := range s.called.byName[plain.Caseless(name)] {
		if gs[key] != nil {
			out = append(out, key)
		}
	}
	slices.Sort(out)
	return out
}

// call notes the names that somebody goes by now, where those of this period are known already.
func (s *State) call(key string, g *Guest) {
	if s.called.byName == nil || s.called.of != s.periodNow() {
		return
	}
	names := [3]string{g.Login, g.Name}
	if g.Known != nil {
		names[2] = g.Known.SayAs
	}
	for _, n := range names {
		if n = plain.Caseless(n); n != "" && !slices.Contains(s.called.byName[n], key) {
			s.called.byName[n] = append(s.called.byName[n], key)
		}
	}
}
