package happening

import "vividporch/core/event"

// PersonTimedOut: somebody may not speak for a while. Seconds is how long.
type PersonTimedOut struct {
	by
	By      string `json:"by,omitempty"`
	Seconds int64  `json:"seconds"`
	Reason  string `json:"reason,omitempty"`
}

func (p *PersonTimedOut) Validate() error {
	return event.FirstOf(p.by.Validate(), event.AtLeast("seconds", p.Seconds, 1))
}

func (*PersonTimedOut) Type() string { return "porch.person.timedout" }

var personTimedOut = &Happening{Data: func() event.Data { return &PersonTimedOut{} }, Within: true, Words: "a time-out", Slots: []Slot{Thanks, Free},
	Told:    "{name} was timed out for {seconds, plural, one {# second} other {# seconds}}{hasBy, select, yes { by {by}} other {}}{hasReason, select, yes {: {reason}} other {}}",
	FillIns: []FillIn{Count("seconds", "how long", "600", func(d *PersonTimedOut) int64 { return d.Seconds }), Says("by", "who did it", "grebe_watch", func(d *PersonTimedOut) string { return d.By }), Says("reason", "the reason given", "the same line forty times", func(d *PersonTimedOut) string { return d.Reason })},
	Entry:   Happened(func(d *PersonTimedOut) string { return "was timed out for " + many(d.Seconds, "second") })}
