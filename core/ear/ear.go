// Package ear says what of an evening is worth a word in the streamer's ear: who arrives, and what waits. It is told to nobody
// else, and is no part of the stream.
package ear

import (
	"fmt"
	"strings"

	"vividporch/core/box"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Words are what is said of the decisions about one event; none where nothing of them is worth it.
func Words(e *box.Ear, ds []hall.Decision) []string {
	var out []string
	for i := range ds {
		switch d := &ds[i]; d.Kind {
		case hall.Arrive:
			if worth(e, d) {
				out = append(out, arrives(d))
			}
		case hall.Wait:
			if e.Waiting && d.Item != nil && !d.Try {
				out = append(out, waits(d.Item))
			}
		}
	}
	return out
}

// worth reports whether an arrival is told.
func worth(e *box.Ear, d *hall.Decision) bool {
	switch {
	case d.Day != "" && !e.NoDays:
		return true
	case d.Known.Streams() && !e.NoFellows:
		return true
	}
	for _, s := range e.Standings {
		if people.Standing(s) == d.Standing {
			return true
		}
	}
	return false
}

// arrives is who it is and why that is worth a word: "Lena, birthday, 41st stream".
func arrives(d *hall.Decision) string {
	parts := []string{spoken(d.Name)}
	if d.Day != "" {
		parts = append(parts, d.Day)
	}
	if d.Known.Streams() {
		parts = append(parts, string(people.Fellow))
	}
	n := 1
	if d.Known != nil {
		n += d.Known.Attended
	}
	switch {
	case d.Standing == people.LongAway:
		parts = append(parts, "after long away")
	case n == 1:
		return strings.Join(append(parts, "for the first time"), ", ")
	}
	return strings.Join(append(parts, ordinal(n)+" stream"), ", ")
}

// waits is what waits for the streamer.
func waits(it *hall.Item) string {
	who := spoken(it.Name)
	switch it.Kind {
	case "note":
		return "a note from " + who
	case "raid":
		return fmt.Sprintf("a raid of %d waits, %s", it.Viewers, who)
	case "day":
		return who + ", a missed day"
	}
	if who == "" {
		return "something waits for you"
	}
	return who + " waits for you"
}

// spoken is a name as it can be spoken.
func spoken(name string) string {
	return strings.TrimSpace(strings.NewReplacer("_", " ", "-", " ").Replace(plain.Name(name)))
}

// ordinal is a number as a rank: "41st".
func ordinal(n int) string {
	end := "th"
	if n%100 < 11 || n%100 > 13 {
		switch n % 10 {
		case 1:
			end = "st"
		case 2:
			end = "nd"
		case 3:
			end = "rd"
		}
	}
	return fmt.Sprint(n) + end
}
