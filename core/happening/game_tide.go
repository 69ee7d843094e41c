package happening

import "vividporch/core/event"

// tideTold is what every happening of the tide tells.
type tideTold struct {
	Lifted int64 `json:"lifted"` // so many different people lifted it
	Mark   int64 `json:"mark"`   // and so many it takes
	Prize  int64 `json:"prize"`  // for each who lifts it
}

func (d *tideTold) tide() *tideTold { return d }

// Validate takes any.
func (*tideTold) Validate() error { return nil }

// Points are those that it tells of, by fill-in.
func (d *tideTold) Points() map[string]int64 { return map[string]int64{"prize": d.Prize} }

func tideFillIns(more ...FillIn) []FillIn {
	n := func(name, tells, example string, of func(*tideTold) int64) FillIn {
		return Count(name, tells, example, func(d interface {
			event.Data
			tide() *tideTold
		}) int64 {
			return of(d.tide())
		})
	}
	return append([]FillIn{n("lifted", "how many lifted the water", "9", func(d *tideTold) int64 { return d.Lifted }), n("mark", "how many it takes", "12", func(d *tideTold) int64 { return d.Mark }),
		pearls("prize", "what each of them has of it", "25 pearls")}, more...)
}

// TideTurns: the room is asked to bring in the tide.
type TideTurns struct {
	tideTold
	Seconds int64 `json:"seconds"`
}

// TideTurnsType is the type of it.
const TideTurnsType = "porch.game.tide.turns"

func (*TideTurns) Type() string { return TideTurnsType }

var tideTurns = &Happening{Data: func() event.Data { return &TideTurns{} }, Within: true, Words: "a tide that turns", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "the tide turns",
	Starters: []string{"The tide turns! Whoever says anything lifts it: {mark, plural, one {# voice} other {# voices}} within {seconds} seconds bring it in, {prize} for each.", "Bring in the tide: {mark, plural, one {one of you has} other {# of you have}} to speak within {seconds} seconds. {prize} each!", "Low water. {mark, plural, one {# voice} other {# voices}} would bring it in, in {seconds} seconds, for {prize} each."},
	Told:     "{channel}: the tide turned", FillIns: tideFillIns(Count("seconds", "how long there is", "90", func(d *TideTurns) int64 { return d.Seconds }))}

// TideIn: the room brought the tide in.
type TideIn struct{ tideTold }

// TideInType is the type of it.
const TideInType = "porch.game.tide.in"

func (*TideIn) Type() string { return TideInType }

var tideIn = &Happening{Data: func() event.Data { return &TideIn{} }, Within: true, Words: "a tide that came in", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "the tide came in",
	Starters: []string{"High water! {lifted, plural, one {# of you} other {All # of you}} brought it in: {prize} each.", "The pool is full. {prize} for each of the {lifted}.", "In it comes, lifted by {lifted, plural, one {one voice} other {# voices}}: {prize} each!"},
	Told:     "{channel}: the tide came in", FillIns: tideFillIns()}

// TideEbbed: too few spoke.
type TideEbbed struct{ tideTold }

// TideEbbedType is the type of it.
const TideEbbedType = "porch.game.tide.ebbed"

func (*TideEbbed) Type() string { return TideEbbedType }

var tideEbbed = &Happening{Data: func() event.Data { return &TideEbbed{} }, Within: true, Words: "a tide that ebbed", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "the tide ebbed",
	Starters: []string{"The tide ebbs: {lifted} of {mark} lifted it. Another time.", "Not quite: {lifted} of {mark}, and out it goes.", "Out goes the water, with {lifted} of {mark} voices."},
	Told:     "{channel}: the tide ebbed", FillIns: tideFillIns()}
