package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// Raced is what every happening of a race tells: between whom it is, and for how much.
type Raced struct {
	With  event.Person `json:"with"`
	Stake int64        `json:"stake"`
}

func (r *Raced) race() *Raced { return r }

func raceFillIns(more ...FillIn) []FillIn {
	return append([]FillIn{{wording.FillIn{Name: "with", Kind: wording.Text, Tells: "whose snail runs against theirs", Example: "mossy_mare"}, func(d event.Data) wording.Value {
		return wording.Str(plain.Name(d.(interface{ race() *Raced }).race().With.Shown()))
	}}, pearls("stake", "what each stakes", "20 pearls")}, more...)
}

// RaceCalled: somebody challenges somebody to a race of snails.
type RaceCalled struct {
	by
	Raced
	Seconds int64 `json:"seconds"` // until it lapses
}

// Points are those that it tells of, by fill-in.
func (r *RaceCalled) Points() map[string]int64 { return map[string]int64{"stake": r.Stake} }

// RaceCalledType is the type of it.
const RaceCalledType = "porch.game.race.called"

func (*RaceCalled) Type() string { return RaceCalledType }

var raceCalled = &Happening{Data: func() event.Data { return &RaceCalled{} }, Within: true, Roomed: true, Words: "a challenge to a race", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody calls a race",
	Starters: []string{"{with}: {name} sets a periwinkle beside yours, for {stake}. Ask for the race within {seconds} seconds to set it going.", "{name} would race {with} to the rim of the pool, for {stake}. {seconds} seconds to say yes!", "Two snails, one rim: {name} challenges {with} for {stake}."},
	Told:     "{name} challenged {with} to a race", FillIns: raceFillIns(Count("seconds", "until it lapses", "60", func(d *RaceCalled) int64 { return d.Seconds }))}

// RaceRun: two snails ran, and one was first at the rim.
type RaceRun struct {
	by // who won
	Raced
	Won int64 `json:"won"`
}

// Points are those that it tells of, by fill-in.
func (r *RaceRun) Points() map[string]int64 { return map[string]int64{"stake": r.Stake, "won": r.Won} }

// RaceRunType is the type of it.
const RaceRunType = "porch.game.race.run"

func (*RaceRun) Type() string { return RaceRunType }

var raceRun = &Happening{Data: func() event.Data { return &RaceRun{} }, Within: true, Roomed: true, Words: "a race that is won", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "a race was run",
	Starters: []string{"The snail of {name} is first at the rim, a feeler ahead of the one of {with}: {won}!", "Slow, slow, and there: {name} beats {with} to the rim and takes {won}.", "{with} was close, but the rim is {name}'s. {won}!"},
	Told:     "{name} won a race against {with}", FillIns: raceFillIns(pearls("won", "what the winner takes", "40 pearls"))}

// RaceLapsed: nobody took up a challenge.
type RaceLapsed struct {
	by
	Raced
}

// Points are those that it tells of, by fill-in.
func (r *RaceLapsed) Points() map[string]int64 { return map[string]int64{"stake": r.Stake} }

// RaceLapsedType is the type of it.
const RaceLapsedType = "porch.game.race.lapsed"

func (*RaceLapsed) Type() string { return RaceLapsedType }

var raceLapsed = &Happening{Data: func() event.Data { return &RaceLapsed{} }, Within: true, Roomed: true, Words: "a challenge that nobody took up", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "a challenge lapsed",
	Starters: []string{"{with} was not at the pool: {name} has {stake} back.", "No race, then. {name} picks the snail up again, and {stake}.", "The snail of {name} waited alone. {stake} goes back."},
	Told:     "{with} did not take up the challenge of {name}", FillIns: raceFillIns()}
