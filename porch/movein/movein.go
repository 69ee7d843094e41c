// Package movein is the first setting up of a house: which steps there are and what proves each
// ([Steps]), and whose account in chat is whose, proven by a phrase ([Claims]).
package movein

import (
	"fmt"
	"slices"

	"vividporch/core/housefile"
	"vividporch/spec"
)

// The states of a step.
const (
	Open    = "open"    // still to do
	Done    = "done"    // and the proof can be seen
	Skipped = "skipped" // for now; it can be done later
)

// Begun is the step that says a house has begun to move in; it is no step to be done.
const Begun = "begun"

// The steps, in the order in which they are done.
const (
	Channel    = "channel"
	Chat       = "chat"
	Streamer   = "streamer"
	Happenings = "happenings"
	People     = "people"
	Courtesies = "courtesies"
	Place      = "place"
)

// Order is the order of the steps.
var Order = []string{Channel, Chat, Streamer, Happenings, People, Courtesies, Place}

// Facts are what can be seen of a house.
type Facts struct {
	Settings *housefile.Settings
	Doors    []spec.Door
	Streamer string            // what the account is called that is the streamer's; "" for none
	People   int64             // in the guest book
	Brought  bool              // a file of people was taken in
	Heard    bool              // something came in at a door for happenings, ever
	Said     map[string]string // about steps, by a member: done or skipped
}

// Step is how a step stands.
type Step struct {
	Name, State string
	Proof       string // what is seen of it, in words
}

// Steps tells how each step stands. What is seen counts for more than what was said.
func Steps(f Facts) []Step {
	out := make([]Step, 0, len(Order))
	for _, name := range Order {
		s := Step{Name: name, State: Open}
		var done bool
		s.Proof, done = proofs[name](&f)
		switch {
		case done:
			s.State = Done
		case f.Said[name] == Skipped:
			s.State = Skipped
		}
		out = append(out, s)
	}
	return out
}

// Left is how many steps are still to do, in a house that has begun to move in.
func Left(f Facts) int {
	if f.Said[Begun] == "" {
		return 0
	}
	n := 0
	for _, s := range Steps(f) {
		if s.State == Open {
			n++
		}
	}
	return n
}

// proofs tell what is seen of each step, and whether that is enough.
var proofs = map[string]func(*Facts) (string, bool){
	Channel: func(f *Facts) (string, bool) {
		if f.Settings.Channel == housefile.Unnamed {
			return "nobody has named the channel yet", false
		}
		return f.Settings.Channel + ", in " + f.Settings.Zone, true
	},
	Chat: func(f *Facts) (string, bool) {
		told := "the house is in no chat yet"
		for _, d := range f.Doors {
			if d.Kind != "irc" || f.isStreamers(d.Door) {
				continue
			}
			switch {
			case d.State == "open" && d.MaySpeak:
				return fmt.Sprintf("the house is in chat as %s, and may speak", d.Account), true
			case d.State == "open":
				told = fmt.Sprintf("the house is in chat as %s, and may not speak", d.Account)
			case d.Reason != "":
				told = d.Reason
			default:
				told = "the door is " + d.State
			}
		}
		return told, false
	},
	Streamer: func(f *Facts) (string, bool) {
		if f.Streamer == "" {
			return "the house does not know which account is the streamer's", false
		}
		return f.Streamer + " is the streamer", true
	},
	Happenings: func(f *Facts) (string, bool) {
		told := "there is no door for happenings yet"
		for _, d := range f.Doors {
			if d.Kind == "inbox" && !d.LastIn.IsZero() {
				return "events came in at " + d.Door, true
			}
			if d.Kind == "inbox" {
				told = "nothing has come in at " + d.Door + " yet"
			}
		}
		if f.Heard {
			told = "events came in"
		}
		return told, f.Heard || f.Said[Happenings] == Done
	},
	People: func(f *Facts) (string, bool) {
		told := "the guest book is empty"
		if f.People > 0 {
			told = fmt.Sprintf("%d in the guest book", f.People)
		}
		return told, f.Brought || f.Said[People] == Done
	},
	Courtesies: func(f *Facts) (string, bool) {
		on := 0
		for _, c := range f.Settings.Courtesy {
			if c.On {
				on++
			}
		}
		return fmt.Sprintf("%d courtesies are on", on), f.Said[Courtesies] == Done
	},
	Place: func(f *Facts) (string, bool) {
		if len(f.Settings.Places) == 0 {
			return "there is no place for the announcement yet", false
		}
		return "a try arrived", f.Said[Place] == Done
	},
}

// isStreamers reports whether a door speaks as the streamer.
func (f *Facts) isStreamers(door string) bool {
	return slices.ContainsFunc(f.Settings.Doors, func(d housefile.Door) bool { return d.Name == door && d.As != "" })
}
