package screen

import (
	"cmp"
	"fmt"
	"slices"

	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/trouble"
	"vividporch/spec"
)

// entriesKept is how many entries of the conversation the house has at hand.
const EntriesKept = 5000

// entriesOf is what an event and its decisions add to the conversation, or change
// in it: an entry with a known id replaces the one before.
func Entries(ev *event.Event, ds []hall.Decision) []spec.Entry {
	var out []spec.Entry
	_, late := ev.Late()
	base := spec.Entry{ID: fmt.Sprint(ev.Seq), At: ev.Time, Late: late}
	if who := ev.Who(); who != nil {
		base.Account, base.Platform, base.Name = who.Key(), who.Platform, plain.Name(who.Shown())
		if base.Name == "" {
			base.Name = who.Login
		}
	}
	add := func(kind spec.EntryKind, change func(*spec.Entry)) {
		e := base
		e.Kind = kind
		if change != nil {
			change(&e)
		}
		out = append(out, e)
	}
	for i := range ds {
		if d := &ds[i]; d.Kind == hall.Arrive {
			add(spec.EntryKindArrival, func(e *spec.Entry) {
				e.ID += ".arrival"
				e.Standing, e.Streams, e.Day = string(d.Standing), 1, d.Day
				if d.Known != nil {
					e.Streams += d.Known.Attended
				}
			})
		}
	}
	switch d := ev.Data.(type) {
	case *event.ActDone:
		out = append(out, acted(ev, &d.ActOutcome, spec.EntryStateSaid))
	case *event.ActRefused:
		out = append(out, acted(ev, &d.ActOutcome, spec.EntryStateRefused))
	case *event.Hushed:
		add(spec.EntryKindDesk, func(e *spec.Entry) {
			if e.Text = "Hush lifted"; d.On {
				e.Text = "Hush"
			}
		})
	case *event.SpeechSaid:
		out = append(out, outcome(&d.SpeechOutcome, spec.EntryStateSaid))
	case *event.SpeechRefused:
		out = append(out, outcome(&d.SpeechOutcome, spec.EntryStateRefused))
	case *event.SpeechUncertain:
		out = append(out, outcome(&d.SpeechOutcome, spec.EntryStateUncertain))
	case *event.RelayDelivered:
		add(spec.EntryKindPost, func(e *spec.Entry) {
			e.Name, e.Line, e.Text = d.Place, d.Line, "delivered"
		})
	default:
		if h := happening.OfData(d); h.Entry != nil {
			stands := h.Entry(d)
			add(spec.EntryKind(stands.Kind), func(e *spec.Entry) {
				e.Text, e.Message, e.Login, e.Viewers = stands.Text, stands.Message, stands.Login, stands.Viewers
				e.Platform = cmp.Or(stands.Platform, e.Platform)
			})
		}
	}
	for i := range ds {
		if x := guard.TouchOf(&ds[i]); x != nil {
			for k := range out {
				if out[k].Kind == spec.EntryKindLine {
					out[k].Guard = touches[x.Act] + ": " + x.Found
				}
			}
		}
	}
	for i := range ds {
		d := &ds[i]
		switch d.Kind {
		case hall.Open:
			add(spec.EntryKindStream, func(e *spec.Entry) { e.ID += ".open"; e.Text = fmt.Sprintf("Stream %d opens", d.Stream) })
		case hall.Continue:
			add(spec.EntryKindStream, func(e *spec.Entry) { e.ID += ".continue"; e.Text = "The stream goes on: " + d.Because[0] })
		case hall.Close:
			add(spec.EntryKindStream, func(e *spec.Entry) { e.ID += ".close"; e.Text = fmt.Sprintf("Stream %d has ended", d.Stream) })
		case hall.Say:
			e := spec.Entry{ID: d.Line + "@" + d.Platform, Kind: spec.EntryKindHouse, At: ev.Logged, Platform: d.Platform, Text: d.Text, Line: d.Line,
				Courtesy: d.Courtesy, State: spec.EntryStateSending, Account: d.Person,
				Streamer: d.As == output.AsStreamer, Try: d.Try}
			if d.Name != "" {
				e.Names = []string{d.Name}
			}
			for _, j := range d.Joined {
				e.Names = append(e.Names, j.Name)
			}
			out = append(out, e)
		}
	}
	return out
}

// touches are what was done about a line, in words.
var touches = map[trouble.Act]string{trouble.Warn: "they were told", trouble.Hold: "held", trouble.Remove: "taken out", trouble.TimeOut: "taken out, and they are out for a while", trouble.Ban: "taken out, and they are banned"}

// acted is something that was done outside chat, or was refused.
func acted(ev *event.Event, o *event.ActOutcome, state spec.EntryState) spec.Entry {
	what := o.What()
	if o.Off {
		what += ", off"
	}
	link := ": "
	if word := output.Of(output.Kind(o.Effect)).Done; word != "" {
		what, link = word, " "
	}
	e := spec.Entry{ID: o.Line + "@" + o.To + "." + string(state), Kind: spec.EntryKindAct, At: ev.Logged, Line: o.Line, Platform: o.To, Text: what, State: state}
	if len(o.About) > 0 {
		e.Account = o.About[0]
	}
	if o.Text != "" {
		e.Text += link + plain.Text(o.Text)
	}
	if o.Login != "" {
		e.Text += ", " + plain.Name(o.Login)
	}
	if o.Reason != "" {
		e.Text += " · " + plain.Text(o.Reason)
	}
	e.Undo = state == spec.EntryStateSaid && !o.Off && o.Effect == string(output.KindPlatform) && output.Act(o.Act).Undoable()
	return e
}

// outcome changes the state of a house line that stands in the conversation.
func outcome(o *event.SpeechOutcome, state spec.EntryState) spec.Entry {
	return spec.Entry{ID: o.Line + "@" + o.Platform, Kind: spec.EntryKindHouse, Line: o.Line, Platform: o.Platform, Text: o.Text, State: state}
}

// entryRing keeps the newest entries of the conversation.
type Ring struct{ list []spec.Entry }

func (r *Ring) Add(es []spec.Entry) {
	for _, e := range es {
		if e.Kind == spec.EntryKindHouse && e.State != spec.EntryStateSending {
			// Outcomes come soon after their line: look from the end.
			for i := len(r.list) - 1; i >= 0 && i > len(r.list)-600; i-- {
				if r.list[i].ID == e.ID {
					changed := r.list[i]
					changed.State = e.State
					r.list[i] = changed
					break
				}
			}
			continue
		}
		r.list = append(r.list, e)
	}
	if len(r.list) > 2*EntriesKept {
		r.list = slices.Clone(r.list[len(r.list)-EntriesKept:])
	}
}

// forget takes out what people said, and what was said about them; out of what others
// were told it takes their names.
func (r *Ring) Forget(accounts, names []string) {
	r.list = slices.DeleteFunc(slices.Clone(r.list), func(e spec.Entry) bool { return slices.Contains(accounts, e.Account) })
	for i := range r.list {
		if e := &r.list[i]; e.Kind != spec.EntryKindLine { // what is said to others who are called the same stays
			e.Text = plain.Without(e.Text, slices.DeleteFunc(slices.Clone(names), func(n string) bool { return slices.Contains(e.Names, n) || n == e.Name }))
		}
	}
}

// last returns the newest n entries.
func (r *Ring) Last(n int) []spec.Entry {
	return append([]spec.Entry{}, r.list[max(0, len(r.list)-n):]...) // an empty list, never none
}
