package happening

import "vividporch/core/event"

// DrawOpened: a draw is open, and its secret committed to.
type DrawOpened struct{ DrawTold }

// DrawOpenedType is the type of it.
const DrawOpenedType = "porch.draw.opened"

func (*DrawOpened) Type() string { return DrawOpenedType }

var drawOpened = &Happening{Data: func() event.Data { return &DrawOpened{} }, Within: true, Words: "the opening of a draw", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream,
	Starters: []string{"Tonight there is {prize} to be had!{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}{hasChecked, select, yes { Anyone can check it: {checked}} other {{hasProof, select, yes { (Proof: {proof})} other {}}}}", "A draw is open, for {prize}.{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}{hasChecked, select, yes { Anyone can check it: {checked}} other {{hasProof, select, yes { (Proof: {proof})} other {}}}}", "Who would like {prize}?{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}{hasChecked, select, yes { Anyone can check it: {checked}} other {{hasProof, select, yes { (Proof: {proof})} other {}}}}"},
	Told:     "{channel}: a draw for {prize} is open", Reason: "a draw was opened", FillIns: drawFillIns(), Entry: aboutDraw("A draw is open")}
