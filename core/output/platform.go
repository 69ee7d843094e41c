package output

import (
	"encoding/json"
	"fmt"
	"slices"

	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindPlatform is the name of it.
const KindPlatform Kind = "platform"

// Platform has a platform do something. Of a title or category its alternatives are the
// new one.
type Platform struct {
	Act     Act     `json:"act,omitempty" jsonschema:"enum=title,enum=category,enum=clip,enum=advert break,enum=slow chat,enum=emote-only chat,enum=subscribers-only chat,enum=give VIP,enum=take VIP,enum=delete line,enum=platform shout-out,enum=raid,enum=time-out,enum=ban"`
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // how long it lasts
}

// Deed is what a platform is told to do.
type Deed struct {
	Act     Act     `json:"act,omitempty"`
	Seconds float64 `json:"seconds,omitempty"`
	Off     bool    `json:"off,omitempty"`     // it is taken back
	Login   string  `json:"login,omitempty"`   // of whom it is about
	Message string  `json:"message,omitempty"` // id of the line to delete
}

var platform = Spec{New: func() Does { return &Platform{} }, Way: ToPlatform, Told: func() any { return &Deed{} }}

// Act is what a platform is asked to do.
type Act string

// The platform actions. Each but a clip, an advert break, a shout-out, a raid and a removed
// line can be undone.
const (
	SetTitle        Act = "title"
	SetCategory     Act = "category"
	MakeClip        Act = "clip"
	AdvertBreak     Act = "advert break"
	SlowChat        Act = "slow chat"
	EmoteOnly       Act = "emote-only chat"
	SubscribersOnly Act = "subscribers-only chat"
	GiveVIP         Act = "give VIP"
	TakeVIP         Act = "take VIP"
	DeleteLine      Act = "delete line"
	PlatformShout   Act = "platform shout-out"
	SendRaid        Act = "raid" // whoever watches is sent on to somebody
	TimeOut         Act = "time-out"
	Ban             Act = "ban"

	HoldLine   Act = "hold line"  // back, so that nobody sees it; of the guard alone, as those below
	AllowLine  Act = "allow line" // that the platform holds
	RefuseLine Act = "refuse line"
)

// Modes are what the platforms can make of a whole chat.
func Modes() []Act { return []Act{SlowChat, EmoteOnly, SubscribersOnly} }

// Acts lists every platform action.
func Acts() []Act {
	return []Act{SetTitle, SetCategory, MakeClip, AdvertBreak, SlowChat, EmoteOnly, SubscribersOnly, GiveVIP, TakeVIP, DeleteLine, PlatformShout, SendRaid, TimeOut, Ban}
}

// Undoable reports whether an action can be taken back.
func (a Act) Undoable() bool {
	switch a {
	case MakeClip, AdvertBreak, DeleteLine, PlatformShout, SendRaid, HoldLine, AllowLine, RefuseLine:
		return false
	}
	return true
}

// AdvertLength reports whether an advert break may last so many seconds.
func AdvertLength(seconds float64) bool { return seconds >= 30 && seconds <= 180 }

// OfPerson reports whether an action is about somebody.
func (a Act) OfPerson() bool {
	return a == GiveVIP || a == TakeVIP || a == PlatformShout || a == SendRaid || a == TimeOut || a == Ban
}

// Kind is the name of it.
func (*Platform) Kind() Kind { return KindPlatform }

// Says tells what it does.
func (p *Platform) Says(who.Names) string { return string(p.Act) }

// Worded reports whether it says something: a title or a category.
func (p *Platform) Worded() bool { return p.Act == SetTitle || p.Act == SetCategory }

// Concerns reports whether it is about somebody.
func (p *Platform) Concerns() bool { return p.Act.OfPerson() }

// Check reports what no platform here can do, or not about this.
func (p *Platform) Check(o *Output, in In, fault func(at, what, remedy string)) {
	lasts(p.Seconds, fault)
	if !slices.Contains(Acts(), p.Act) {
		fault("act", fmt.Sprintf("%q is no platform action", p.Act), "use one of the actions listed in the schema")
		return
	}
	if p.Act == DeleteLine && in.When != happening.Arrival && in.When != happening.Hello && in.When != happening.Command {
		fault("act", "no line of chat comes with this", "choose another when, or another action")
	}
	if p.Act == AdvertBreak && !AdvertLength(p.Seconds) {
		fault("seconds", "is out of range", "an advert break lasts 30 to 180 seconds")
	}
	if in.Cannot == nil {
		return
	}
	for i, on := range o.On {
		if why := in.Cannot(on, p.Act); why != "" {
			fault(fmt.Sprintf("on.%d", i), why, "choose another platform or action")
		}
	}
	if len(o.On) == 0 && len(in.Chat) > 0 && !slices.ContainsFunc(in.Chat, func(on string) bool { return in.Cannot(on, p.Act) == "" }) {
		fault("act", "no platform of yours can do this: "+in.Cannot(in.Chat[0], p.Act), "choose another action")
	}
}

// Tell is the action, and whom or which line it is about.
func (p *Platform) Tell(t Telling) any {
	d := &Deed{Act: p.Act, Seconds: p.Seconds}
	if p.Act.OfPerson() {
		d.Login = t.Login
	}
	if p.Act == DeleteLine {
		d.Message = t.Message
	}
	return d
}

// DeedOf is what a platform is told by a decision's body; nil where it is told nothing.
func DeedOf(body json.RawMessage) *Deed {
	var told Told
	if json.Unmarshal(body, &told) != nil {
		return nil
	}
	d, _ := told.Do.(*Deed)
	return d
}

// Gist is the action.
func (d *Deed) Gist() string { return string(d.Act) }

// Coming says what it is while it is coming up.
func (d *Deed) Coming() string {
	if d.Off {
		return string(d.Act) + ": off"
	}
	return string(d.Act)
}
