package output

import (
	"fmt"
	"slices"

	"vividporch/core/who"
)

// KindSay is the name of it.
const KindSay Kind = "say"

// AsStreamer is the voice of an output that speaks as the streamer.
const AsStreamer = "streamer"

// Say is a line of chat.
type Say struct {
	As string `json:"as,omitempty" jsonschema:"enum=streamer"` // whose voice it is in; "" the house's
}

var say = Spec{New: func() Does { return &Say{} }, Way: ToChat, Worded: true, Joins: true}

// Kind is the name of it.
func (*Say) Kind() Kind { return KindSay }

// Says tells what it does.
func (s *Say) Says(who.Names) string {
	if s.As == AsStreamer {
		return "say in chat as the streamer"
	}
	return "say in chat"
}

// Voice is whose voice an output speaks in; "" is the house's.
func (o *Output) Voice() string {
	if s, ok := o.Do.(*Say); ok {
		return s.As
	}
	return ""
}

// Check reports platforms where it cannot be said.
func (s *Say) Check(o *Output, in In, fault func(at, what, remedy string)) {
	if s.As != "" && s.As != AsStreamer {
		fault("as", fmt.Sprintf("%q speaks for nobody", s.As), `use "streamer", or leave it out`)
	}
	for i, p := range o.On {
		from, what := in.Chat, "the house has no chat door on "+p
		if s.As == AsStreamer {
			from, what = in.Streamer, "no door of the streamer's own account is on "+p
		}
		if !slices.Contains(from, p) {
			fault(fmt.Sprintf("on.%d", i), what, "choose another platform, or open that door")
		}
	}
	if s.As == AsStreamer && len(in.Streamer) == 0 {
		fault("as", "the house has no door of the streamer's own account", "open one, or let the house say it")
	}
}
