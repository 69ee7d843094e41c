package box

import (
	"fmt"
	"slices"

	"vividporch/core/people"
)

// Ear is what is worth a word in the streamer's ear, which no overlay shows and no viewer hears.
type Ear struct {
	Standings []string `json:"standings,omitempty"` // whose arrivals are told
	NoDays    bool     `json:"noDays,omitempty"`    // not of people whose day it is
	NoFellows bool     `json:"noFellows,omitempty"` // nor of fellow streamers
	Waiting   bool     `json:"waiting,omitempty"`   // what comes to wait for the streamer is told, too
	Voice     string   `json:"voice,omitempty" jsonschema:"maxLength=60"`
}

// Check reports what cannot be told.
func (e *Ear) Check(fault func(at, what, remedy string)) {
	for i, name := range e.Standings {
		if !slices.Contains(people.Standings, people.Standing(name)) {
			fault(fmt.Sprintf("standings.%d", i), fmt.Sprintf("%q is no standing", name), "use newcomer, returning, regular or long away")
		}
	}
}
