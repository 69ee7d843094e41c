package points

import (
	"fmt"
	"math"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// Levels are how far somebody has come, by what they gathered. Level n takes First × n^Bend points, rounded: with Bend 1 every level takes
// as many, with more each takes more than the one before. There are none without First.
type Levels struct {
	First int64    `json:"first,omitempty" jsonschema:"minimum=0,maximum=1000000000"`
	Bend  float64  `json:"bend,omitempty" jsonschema:"minimum=0,maximum=4"`           // 0 is 1.5
	Names []string `json:"names,omitempty"`                                           // from level 1 on; the last goes on
	Tell  string   `json:"tell,omitempty" jsonschema:"enum=said,enum=gathered,enum="` // none is silence
}

// How a level that is reached is told.
const (
	TellSaid     = "said"     // at once
	TellGathered = "gathered" // several at once: its courtesies gather
)

const (
	usualBend = 1.5
	mostLevel = 1000
	mostNames = 100
)

func (l *Levels) bend() float64 {
	if l.Bend == 0 {
		return usualBend
	}
	return l.Bend
}

func (l *Levels) check(at func(field, what, remedy string)) {
	if l.First < 0 || l.First > 1_000_000_000 || !(l.bend() >= 0.5 && l.bend() <= 4) {
		at("levels.first", "is out of range", "use up to 1000000000 points for the first level, and a bend of 0.5 to 4")
	}
	if l.Tell != "" && l.Tell != TellSaid && l.Tell != TellGathered {
		at("levels.tell", fmt.Sprintf("%q is no way to tell", l.Tell), "use said, gathered, or nothing for silence")
	}
	if len(l.Names) > mostNames {
		at("levels.names", "are too many", fmt.Sprintf("name at most %d levels", mostNames))
	}
	for i, n := range l.Names {
		if n == "" || len(n) > 60 {
			at(fmt.Sprintf("levels.names.%d", i), "is missing or too long", "name a level in at most 60 letters")
		}
	}
}

// Needs is how many points a level takes.
func (l *Levels) Needs(level int) int64 {
	if l.First <= 0 || level <= 0 {
		return 0
	}
	return int64(min(math.Round(float64(l.First)*math.Pow(float64(level), l.bend())), event.MostPoints))
}

// Of is the level that so many points make; 0 before the first.
func (l *Levels) Of(points int64) int {
	if l.First <= 0 || points < l.First {
		return 0
	}
	low, high := 1, mostLevel
	for low < high {
		if mid := (low + high + 1) / 2; l.Needs(mid) <= points {
			low = mid
		} else {
			high = mid - 1
		}
	}
	return low
}

// Name is what a level is called; "" where it has no name.
func (l *Levels) Name(level int) string {
	if level <= 0 || len(l.Names) == 0 {
		return ""
	}
	return l.Names[min(level, len(l.Names))-1]
}

// levelled tells of a level that somebody reached, if it is to be told of.
func levelled(t *room.Turn, s *Section, p event.Person, was, now int64) {
	level := s.Levels.Of(now)
	if s.Levels.Tell == "" || level <= s.Levels.Of(was) {
		return
	}
	told := &happening.LevelReached{Level: int64(level), Title: s.Levels.Name(level)}
	told.Person = p
	t.HappensAs(Name, fmt.Sprintf("level-%s-%d-%d", p.Key(), level, t.Now.UnixMilli()), told, "reached a level")
}
