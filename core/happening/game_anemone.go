package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// AnemoneAsked: somebody asked the anemone something, and it opened or stayed shut.
type AnemoneAsked struct {
	by
	Question string `json:"question,omitempty"`
	Answer   string `json:"answer"`
	Open     bool   `json:"open"`
}

// Validate refuses a question that is too long.
func (a *AnemoneAsked) Validate() error {
	return event.FirstOf(a.by.Validate(), event.Short("question", a.Question, 2000), event.Short("answer", a.Answer, 400))
}

// AnemoneAskedType is the type of it.
const AnemoneAskedType = "porch.game.anemone"

func (*AnemoneAsked) Type() string { return AnemoneAskedType }

var anemoneAsked = &Happening{Data: func() event.Data { return &AnemoneAsked{} }, Within: true, Roomed: true, Words: "a question to the anemone", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "the anemone was asked",
	Starters: []string{"The anemone {opens, select, yes {opens} other {stays shut}}, {name}: {answer}.", "{opens, select, yes {It opens} other {It stays shut}} for {name}. {answer}.", "{name} asks the anemone. {answer}."}, Told: "{name} asked the anemone: {answer}",
	FillIns: []FillIn{Says("question", "what was asked", "will it move tonight?", func(d *AnemoneAsked) string { return plain.Text(d.Question) }),
		{wording.FillIn{Name: "answer", Kind: wording.Text, Tells: "what it answers", Example: "Not before the tide turns"}, func(d event.Data) wording.Value { return wording.Str(plain.Text(d.(*AnemoneAsked).Answer)) }},
		{wording.FillIn{Name: "opens", Kind: wording.Text, Tells: "for a choice: yes or no", Example: "yes"}, func(d event.Data) wording.Value {
			if d.(*AnemoneAsked).Open {
				return wording.Str("yes")
			}
			return wording.Str("no")
		}}}}
