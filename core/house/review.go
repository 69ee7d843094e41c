package house

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Shelf tells what a review cannot know of the settings alone. Nil functions know
// of everything.
type Shelf struct {
	Media func(name string) bool // is on the shelf
	Crew  func(id string) bool   // is in the book
}

// Longest is the sample person with the longest name and the longest of all else,
// to hold wordings against the limits of a network.
var Longest = room.Sample{Name: "the_very_long_named_seaweed_printmaker_of_the_outer_skerries_", Streams: 1234, Viewers: 12345,
	Category: "Pressing, printing and naming the seaweeds of a whole coast", Link: "https://quayside.example/the_very_long_named_seaweed_printmaker"}

// Review looks at the whole set as things stand: what can never happen, what ties,
// which numbers nobody answers to, what is stopped and by which switch, right or
// door, and which wordings would not come out as meant.
func Review(s *State, p *room.Plan, shelf Shelf) []courtesy.Finding {
	out := p.Set.Review(s.Clock.In(p.Zone), p.Chat())
	add := func(id, kind, what, remedy string) {
		f := courtesy.Finding{Courtesy: id, Kind: kind, What: what, Remedy: remedy}
		if !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	if s.Hush {
		add("", "stopped", "hush is on: nothing that viewers would see is done by itself", "lift it on the Porch")
	}
	for _, r := range p.Set.All() {
		if !r.On {
			add(r.ID, "stopped", "is switched off", "switch it on in the list")
			continue
		}
		r.Who.Each(func(w *who.Who) {
			if w.Crews != nil && shelf.Crew != nil {
				for _, id := range w.Crews.Of {
					if !shelf.Crew(id) {
						add(r.ID, "missing", "asks for the crew "+id+", which is not in the guest book", "make the crew, or choose another")
					}
				}
			}
		})
		for i := range r.Outputs {
			o := &r.Outputs[i]
			if shelf.Media != nil && o.Media() != "" && !shelf.Media(o.Media()) {
				add(r.ID, "missing", o.Media()+" is not on the shelf", "put it there, or choose another")
			}
			for _, stop := range stops(p, &s.State, o) {
				add(r.ID, "stopped", stop.What, stop.Remedy)
			}
			if what, remedy := overlay.Stopped(s.Rooms, p, &o.Output, s.Stream.Live()); what != "" {
				add(r.ID, "stopped", what, remedy)
			}
			if o.Way() == output.ToChat {
				lengths(p, r, o, add)
				letters(p, r, o, add)
				links(p, r, o, add)
			}
		}
	}
	return out
}

func withReason(why string) string {
	if why == "" {
		return ""
	}
	return ": " + why
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:40]) + "…"
	}
	return s
}

// Doing is one thing that would be done, or would not, and why.
type Doing struct {
	hall.Decision
	After float64 // seconds until it may go out
}

// DryRun works out what a courtesy would do for a person and a number if its
// happening came now, while live. Nothing leaves.
func DryRun(s *State, p *room.Plan, r *courtesy.Ready, person event.Person, known *people.Known, quantity *who.Quantity) []Doing {
	ev := event.Event{Seq: s.Seq + 1, ID: "dry", Type: r.When, Data: &event.Woke{}, Time: s.Clock, Logged: s.Clock}
	d := s.Asking(p, &ev, known)
	c := d.Cause(person)
	c.When = r.When
	args := d.Args()
	if person.ID != "" {
		args = d.About(person)
	}
	sample := room.Sample{Name: args["name"].Text, Streams: 1, Viewers: 1}
	if quantity != nil {
		sample.Viewers = int64(quantity.N)
		c.Quantities = []who.Quantity{*quantity}
	}
	for k, v := range room.SampleArgs(p, r.When, sample) {
		if _, has := args[k]; !has {
			args[k] = v
		}
	}
	if quantity != nil {
		switch {
		case quantity.Of == "amount":
			args["amount"] = wording.Str(fmt.Sprintf("%.2f %s", quantity.N, quantity.Currency))
		default:
			args[quantity.Of] = wording.Num(int64(quantity.N))
		}
	}
	platforms := p.Chat()
	if person.ID != "" {
		platforms = []string{person.Platform}
	}
	d.Fill(c, r, nil, args, platforms)
	var out []Doing
	for _, x := range d.Decided {
		if x.Kind == hall.Ask {
			continue
		}
		doing := Doing{Decision: x}
		if x.Plan != nil {
			doing.After = x.Plan.Due.Sub(d.Now).Seconds()
			if x.Plan.Effect != "" {
				doing.Kind, doing.Body = hall.Kind(x.Plan.Effect), room.Told(x.Plan, nil)
			}
		}
		out = append(out, doing)
	}
	return out
}

// stops lists the doors, rights and places that keep an output from happening.
func stops(p *room.Plan, s *hall.State, o *courtesy.ReadyOutput) []courtesy.Finding {
	var out []courtesy.Finding
	stop := func(what, remedy string) { out = append(out, courtesy.Finding{What: what, Remedy: remedy}) }
	platforms := o.On
	if len(platforms) == 0 {
		platforms = p.Chat()
	}
	act, _ := o.Do.(*output.Platform)
	switch o.Way() {
	case output.ToChat:
		if len(p.Chat()) == 0 {
			stop("there is no chat door", "add one")
		}
		for _, platform := range platforms {
			door := p.DoorFor(platform)
			if o.Voice() == output.AsStreamer {
				door = p.StreamerDoor(platform)
			}
			if door == nil {
				continue
			}
			switch state := s.Doors[door.Name]; {
			case state == nil:
			case state.State != "open":
				stop("the door to "+plain.Titled(platform)+" is "+state.State+withReason(state.Reason), "see the lamp in the top bar")
			case !state.MaySpeak:
				stop("the house may not speak on "+plain.Titled(platform)+withReason(state.Reason), "give "+state.Account+" the right to speak there")
			}
		}
	case output.ToPlatform:
		for _, platform := range platforms {
			if why := p.Cannot(platform, act.Act); why != "" {
				stop(string(act.Act)+" on "+plain.Titled(platform)+": "+why, "say on which platforms it is done")
			}
		}
	}
	if pl := p.PlaceNamed(o.Place()); pl != nil && !pl.Ready() {
		stop("the place "+o.Place()+" has no address yet", "say where it leads")
	}
	if f := p.FittingNamed(o.Fitting()); f != nil && f.URL == "" {
		stop(o.Fitting()+" has no address yet", "say where it leads")
	}
	for _, it := range s.Waiting {
		switch {
		case it.Kind == "post" && o.Way() == output.ToPlace && it.Place == o.Place():
			stop("the place "+o.Place()+" does not take posts: "+it.Why, "mend the place, or send again from Waiting for you")
		case it.Kind == "act" && (it.Place == o.Fitting() && it.Place != "" || act != nil && it.Text == string(act.Act)):
			stop(it.Place+" refused the last time: "+it.Why, "see Waiting for you")
		}
	}
	return out
}

// lengths finds wordings that would be too long for a network with the longest of
// everything filled in.
func lengths(p *room.Plan, r *courtesy.Ready, o *courtesy.ReadyOutput, add func(id, kind, what, remedy string)) {
	platforms := o.On
	if len(platforms) == 0 {
		platforms = p.Chat()
	}
	args := room.SampleArgs(p, r.When, Longest)
	for _, list := range []struct {
		ws   []*wording.Wording
		args wording.Args
	}{{o.Alts, args}, {o.Joined, room.SampleJoinedArgs(p, r.When)}} {
		for _, w := range list.ws {
			n := len(w.Render(list.args))
			for _, platform := range platforms {
				if most := p.Limit(platform); n > most {
					add(r.ID, "long", fmt.Sprintf("“%s” can come to %d bytes; %s takes %d", short(w.String()), n, plain.Titled(platform), most), "shorten it; the line would be cut in two")
				}
			}
		}
	}
}

// links finds wordings in which a link touches a comma, a full stop or a bracket: most
// chats take that for a part of it.
func links(p *room.Plan, r *courtesy.Ready, o *courtesy.ReadyOutput, add func(id, kind, what, remedy string)) {
	const mark = "https://quayside.example/night_heron_cam"
	all := room.SampleArgs(p, r.When, room.Sample{Name: "night_heron_cam", Streams: 2, Viewers: 40, Link: mark, Category: "Reedbed at dusk"})
	bare := wording.Args{}
	for _, f := range p.World().Offers(r.Courtesy) {
		if v, ok := all[f.Name]; ok && !f.Optional {
			bare[f.Name] = v
		}
	}
	for _, args := range []wording.Args{all, bare} {
		args.Maybe("link", wording.Str(mark))
	}
	for _, w := range o.Alts {
		if !w.Uses("link") {
			continue
		}
		for _, args := range []wording.Args{all, bare} {
			before, after, found := strings.Cut(w.Render(args), mark)
			last, _ := utf8.DecodeLastRuneInString(before)
			next, _ := utf8.DecodeRuneInString(after)
			if found && (before != "" && !unicode.IsSpace(last) || after != "" && !unicode.IsSpace(next)) {
				add(r.ID, "link", fmt.Sprintf("in “%s” the link touches other signs", short(w.String())), "set it free with a space before and after; most chats take a comma or full stop for a part of the link")
				break
			}
		}
	}
}

// letters finds emotes that would print as letters on a platform.
func letters(p *room.Plan, r *courtesy.Ready, o *courtesy.ReadyOutput, add func(id, kind, what, remedy string)) {
	platforms := o.On
	if len(platforms) == 0 {
		platforms = p.Chat()
	}
	for _, w := range slices.Concat(o.Alts, o.Joined) {
		words := strings.FieldsFunc(w.String(), func(r rune) bool { return strings.ContainsRune(" {},.!?", r) })
		for _, e := range p.Settings.Emotes {
			if !slices.Contains(words, e.Word) {
				continue
			}
			for _, platform := range platforms {
				if !slices.Contains(e.Platforms, platform) {
					add(r.ID, "letters", e.Word+" prints as letters on "+plain.Titled(platform), "say this line only where it is a picture, or leave it out")
				}
			}
		}
	}
}
