package porch

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/spec"
	"vividporch/store"
)

// entriesFirst is how much of the conversation a page gets at first.
const entriesFirst = 1000

// Porch is everything the live screen shows, as of now.
func (h *House) Porch(ctx context.Context) (spec.Porch, error) {
	var p spec.Porch
	err := h.look(ctx, func(s *house.State) { p = h.whole(s) })
	return p, err
}

// whole draws the Porch from the state; only the owner may call it.
func (h *House) whole(s *house.State) spec.Porch {
	plan := h.plan.Load()
	p := spec.Porch{Seq: s.Seq, Now: h.clock.now(), Channel: plan.Settings.Channel, Zone: plan.Settings.Zone, Live: live(s),
		Entries: h.entries.last(entriesFirst), Coming: coming(s, plan), Waiting: waiting(s, plan), Doors: h.Doors(), Evening: evening(s),
		Hush: s.Hush, Held: held(s), DatabaseGone: h.Stalled(), ClockBack: int(h.clock.back().Seconds()), Chat: append([]string{}, plan.Chat()...), Guests: []spec.Guest{},
		Cards: cards(s, plan), Hands: hands(plan), Acts: Acts(plan)}
	gs := s.Between
	if s.Stream.Live() {
		gs = s.Tonight
	}
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		p.Guests = append(p.Guests, guest(s, plan, key, gs[key]))
	}
	for _, r := range s.Raids {
		if key := r.Person.Key(); gs[key] == nil {
			p.Guests = append(p.Guests, guest(s, plan, key, &hall.Guest{}))
		}
	}
	return p
}

func live(s *house.State) spec.Live {
	l := spec.Live{On: s.Stream.Live(), Stream: s.Stream.Number, People: s.Evening.People, House: s.Evening.House}
	if !l.On {
		return l
	}
	l.Opened, l.Dropped = s.Stream.Opened, !s.Stream.Gone.IsZero()
	for _, name := range slices.Sorted(maps.Keys(s.Stream.Platforms)) {
		p := s.Stream.Platforms[name]
		if p.Live {
			l.Platforms = append(l.Platforms, name)
			l.Viewers += p.Viewers
		}
		if l.Title == "" || p.Live {
			l.Title, l.Category = plain.Text(p.Title), plain.Text(p.Category)
		}
	}
	return l
}

func guest(s *house.State, plan *room.Plan, key string, g *hall.Guest) spec.Guest {
	platform, _, _ := strings.Cut(key, ":")
	v := spec.Guest{Account: key, Platform: platform, Login: g.Login, Name: g.Name, Standing: string(g.Standing), Arrived: g.Arrived, Last: g.Last,
		Changed: g.Changed, Lines: g.Lines, Greeted: g.Greeted, Left: g.Left, Nick: g.Nick}
	for _, r := range g.Roles {
		v.Roles = append(v.Roles, string(r))
	}
	if k := g.Known; k != nil {
		v.Streams = k.Attended + 1
		v.Person, v.Fellow, v.Crews, v.Owed, v.Why = k.Person, k.Streams() || g.Fellow, k.Crews, k.Owed, g.Why
		seen, on := k.Recent, 0
		if s.Stream.Live() {
			on = s.Stream.Number
			seen = append(slices.Clip(seen), on)
		}
		v.Strip = attendance.Strip(attendance.MaskOf(s.Stream.Number, seen), s.Past, on)
		v.Date = strings.Join(nearDates(k, plan, s.Clock), ", ")
		if k.Followed != nil {
			v.Followed = *k.Followed
		}
		if k.LastSeen != nil {
			v.LastSeen = *k.LastSeen
		}
	}
	for _, r := range s.Raids {
		if g.With == r.Event && g.With > 0 {
			v.With = plain.Name(r.Person.Shown())
		}
		if r.Person.Key() == key {
			v.Raider = r.Viewers
			if v.Name == "" {
				v.Name, v.Login, v.Last, v.Changed = plain.Name(r.Person.Shown()), r.Person.Login, r.At, r.At
			}
		}
	}
	if v.Name == "" {
		v.Name = v.Login
	}
	return v
}

// nearDates are the days of somebody's that are near, in their own zone where it is
// known.
func nearDates(k *people.Known, plan *room.Plan, now time.Time) []string {
	zone := plan.Zone
	if own, err := time.LoadLocation(k.Zone); err == nil && k.Zone != "" {
		zone = own
	}
	var birthday, followed dates.Day
	if k.Birthday != nil {
		birthday = *k.Birthday
	}
	if k.Followed != nil {
		followed = dates.On(*k.Followed, zone)
	}
	return dates.Near(dates.On(now, zone), birthday, followed, plan.Leap())
}

func held(s *house.State) int {
	if !s.Hush {
		return 0
	}
	n := 0
	for i := range s.Queue.Lines {
		if s.Queue.Lines[i].Held(true) {
			n++
		}
	}
	return n
}

func coming(s *house.State, plan *room.Plan) []spec.Coming {
	out := []spec.Coming{}
	leaves := s.Queue.LeavesAt(s.Hush, plan.Rules())
	joins := s.Queue.Joins(s.Hush, plan.Rules())
	at := map[string]int{}
	for i := range s.Queue.Lines {
		l := &s.Queue.Lines[i]
		if k, ok := at[l.ID]; ok {
			out[k].Platforms = append(out[k].Platforms, l.Platform)
			continue
		}
		at[l.ID] = len(out)
		due, ok := leaves[l.Key()]
		if !ok {
			due = l.Due
		}
		out = append(out, spec.Coming{Line: l.ID, Platforms: []string{l.Platform}, Courtesy: l.Courtesy, Label: label(l, plan), Name: l.Name, Text: l.Text,
			Made: l.Made, Due: due, Expires: l.Expires, ByHand: l.Priority == pace.ByHand, Hushed: l.Held(s.Hush),
			Asking: l.Ask != "", Joins: joins[l.Key()], Effect: l.Effect, Burst: l.Burst, Streamer: l.As == output.AsStreamer, Try: l.Try})
		if l.Text == "" {
			out[len(out)-1].Text = effectText(l.Effect, l.Body, plan)
		}
	}
	slices.SortStableFunc(out, func(a, b spec.Coming) int { return a.Due.Compare(b.Due) })
	return out
}

// cards are the last ones shown, oldest first.
func cards(s *house.State, plan *room.Plan) []spec.CardView {
	out := []spec.CardView{}
	for _, c := range overlay.Cards(s.Rooms) {
		v := spec.CardView{Line: c.Line, At: c.At, Courtesy: c.Courtesy, Heading: c.Told.Text, Names: c.Told.Names, Try: c.Told.Try}
		if card, ok := c.Told.Do.(*output.Card); ok {
			v.Second, v.Media, v.Seconds = card.Second, card.Media, card.Seconds
		}
		for _, cy := range plan.Settings.Courtesy {
			if cy.ID == c.Courtesy {
				v.Label = prose.Label(cy)
			}
		}
		out = append(out, v)
	}
	return out
}

// hands are the courtesies that are asked for by hand.
func hands(plan *room.Plan) []spec.HandView {
	out := []spec.HandView{}
	for _, r := range plan.Set.All() {
		if r.When != happening.Hand || !r.On {
			continue
		}
		v := spec.HandView{ID: r.ID, Label: prose.Label(r.Courtesy)}
		for _, o := range r.Outputs {
			for _, w := range o.Alts {
				v.Meant = v.Meant || w.Uses("meant")
			}
		}
		v.Meant = v.Meant && r.Who.Account == ""
		out = append(out, v)
	}
	return out
}

// Acts lists the platform actions, with what keeps each platform from them.
func Acts(p *room.Plan) []spec.ActView {
	out := []spec.ActView{}
	for _, a := range output.Acts() {
		v := spec.ActView{Act: string(a), Undoable: a.Undoable(), OfPerson: a.OfPerson(), Cannot: map[string]string{}}
		for _, platform := range p.Chat() {
			if why := p.Cannot(platform, a); why != "" {
				v.Cannot[platform] = why
			}
		}
		out = append(out, v)
	}
	return out
}

// effectText says what an effect without words is.
func effectText(effect string, body []byte, plan *room.Plan) string {
	var t output.Told
	if json.Unmarshal(body, &t) != nil {
		return effect
	}
	return t.Coming()
}

// label says in a few words what a line is.
func label(l *pace.Line, plan *room.Plan) string {
	if l.Courtesy == "desk" {
		return "By hand"
	}
	for _, c := range plan.Settings.Courtesy {
		if c.ID == l.Courtesy {
			return prose.Label(c)
		}
	}
	return l.Courtesy
}

func waiting(s *house.State, plan *room.Plan) []spec.Waiting {
	out := []spec.Waiting{}
	for _, it := range s.Waiting {
		w := spec.Waiting{Item: it.ID, Kind: it.Kind, Why: it.Why, Since: it.Since, Count: it.Count, Name: it.Name, Acts: []string{"done"}}
		switch it.Kind {
		case "raid", "late":
			w.Title = fmt.Sprintf("Unthanked: %s", it.Name)
			if it.Viewers > 0 {
				w.Title = fmt.Sprintf("%s brought %d, not thanked", it.Name, it.Viewers)
			}
			w.Acts = []string{"thank", "done"}
		case "regular":
			if w.Title = it.Name + " is a regular now"; it.Count > 1 {
				w.Title = fmt.Sprintf("%d new regulars: %s", it.Count, it.Name)
			}
		case "line":
			w.Title = "Not said on " + plain.Titled(it.Place)
			if it.Text != "" {
				w.Why = "“" + it.Text + "” · " + it.Why
			}
		case "act":
			w.Title = plain.Titled(it.Place) + " refused: " + it.Text
			if f := plan.Settings.FittingNamed(it.Place); f != nil && f.Title != "" {
				w.Title = f.Title + " refused: " + it.Text
			}
		case "aside":
			w.Title, w.Acts = "Set aside: "+happening.Called(it.Name), []string{"again", "done"}
		case "book":
			w.Title = "Left out of the guest book: " + happening.Called(it.Name)
		case "forget":
			w.Title, w.Acts = it.Name+" asks to be forgotten", []string{"forget", "done"}
		case "host":
			w.Title = "Reaches " + it.Name
		case "settings":
			w.Title = "Left out of the settings: " + it.Name
		case "post":
			title := it.Place
			if p := plan.Settings.PlaceNamed(it.Place); p != nil && p.Title != "" {
				title = p.Title
			}
			w.Title = title + " does not take the post"
			if it.Final {
				w.Acts = []string{"again", "done"}
			} else if t, err := time.Parse(time.RFC3339, it.Text); err == nil {
				w.Next = t
			}
		}
		out = append(out, w)
	}
	return out
}

// Doors tells how each door stands. It asks nobody, and the owner's work does not wait.
func (h *House) Doors() []spec.Door {
	out := []spec.Door{}
	for _, d := range h.plan.Load().Settings.Doors {
		v := spec.Door{Door: d.Name, Kind: d.Kind, Platform: d.Platform, State: "open"}
		if d.Kind == "irc" {
			v.State, v.Account = "opening", d.Account
			h.mu.Lock()
			if c := h.chats[d.Name]; c != nil {
				hl := c.client.Health()
				v.State, v.Account, v.MaySpeak, v.MayModerate, v.Reason, v.LastIn, v.LastOut = string(hl.State), hl.Account, hl.MaySpeak, hl.MayModerate, hl.Reason, hl.LastIn, hl.LastOut
			}
			h.mu.Unlock()
		} else if t, ok := h.inboxSeen.Load(d.Name); ok {
			v.LastIn = t.(time.Time)
		}
		out = append(out, v)
	}
	return out
}

func evening(s *house.State) spec.Evening {
	e := spec.Evening{Minutes: slices.Clone(s.Evening.Minutes), Arrivals: []spec.Mark{}, Raids: []spec.Mark{}, Said: []spec.Mark{}}
	if e.Minutes == nil {
		e.Minutes = []int{}
	}
	for _, a := range s.Evening.Arrivals {
		e.Arrivals = append(e.Arrivals, spec.Mark{At: a.At, ID: fmt.Sprintf("%d.arrival", a.Event), Name: a.Name, Standing: string(a.Standing), Fellow: a.Fellow})
	}
	for _, r := range s.Raids {
		e.Raids = append(e.Raids, spec.Mark{At: r.At, ID: fmt.Sprint(r.Event), Name: plain.Name(r.Person.Shown()), Viewers: r.Viewers})
	}
	for _, m := range s.Evening.Said {
		e.Said = append(e.Said, spec.Mark{At: m.At, ID: m.Line})
	}
	return e
}

// show tells whoever watches what a batch changed.
func (h *House) show(b *store.Batch) {
	fresh := false
	var entries []spec.Entry
	touched := map[string]bool{}
	var add spec.Evening
	s := h.state
	for i := range b.Entries {
		en := &b.Entries[i]
		es := entriesOf(&en.Event, en.Decisions)
		h.entries.add(es)
		entries = append(entries, es...)
		if who := en.Event.Who(); who != nil {
			touched[who.Key()] = true
		}
		for j := range en.Decisions {
			d := &en.Decisions[j]
			fresh = fresh || d.Kind == hall.Open || d.Kind == hall.Close
			if d.Person != "" {
				touched[d.Person] = true
			}
			for _, x := range d.Joined {
				touched[x.Person] = true
			}
			switch d.Kind {
			case hall.Arrive:
				add.Arrivals = append(add.Arrivals, spec.Mark{At: en.Event.Time, ID: fmt.Sprintf("%d.arrival", en.Event.Seq), Name: d.Name, Standing: string(d.Standing), Fellow: d.Known.Streams()})
			case hall.Say:
				add.Said = append(add.Said, spec.Mark{At: en.Event.Logged, ID: d.Line})
			}
		}
		if r, ok := en.Event.Data.(*happening.RaidCame); ok {
			add.Raids = append(add.Raids, spec.Mark{At: en.Event.Time, ID: fmt.Sprint(en.Event.Seq), Name: plain.Name(r.Person.Shown()), Viewers: r.Viewers})
		}
	}
	if !h.hub.wanted() {
		h.hub.forget()
		return
	}
	plan := h.plan.Load()
	c := spec.Change{Seq: s.Seq, Now: h.clock.now(), Live: live(s), Entries: entries, Coming: coming(s, plan), Waiting: waiting(s, plan), Doors: h.Doors(),
		Hush: s.Hush, Held: held(s), Fresh: fresh, DatabaseGone: h.Stalled(), ClockBack: int(h.clock.back().Seconds()), Cards: cards(s, plan)}
	if fresh {
		w := h.whole(s)
		c.Guests, c.Evening = w.Guests, w.Evening
	} else {
		gs := s.Between
		if s.Stream.Live() {
			gs = s.Tonight
		}
		for key := range touched {
			if g := gs[key]; g != nil {
				c.Guests = append(c.Guests, guest(s, plan, key, g))
			} else if slices.ContainsFunc(s.Raids, func(r hall.Raid) bool { return r.Person.Key() == key }) {
				c.Guests = append(c.Guests, guest(s, plan, key, &hall.Guest{}))
			}
		}
		add.Minutes, add.Added = slices.Clone(s.Evening.Minutes), true
		c.Evening = add
		for _, l := range []*[]spec.Mark{&c.Evening.Arrivals, &c.Evening.Raids, &c.Evening.Said} {
			if *l == nil {
				*l = []spec.Mark{}
			}
		}
		if c.Evening.Minutes == nil {
			c.Evening.Minutes = []int{}
		}
	}
	h.hub.send("change", b.Entries[0].Event.Seq-1, s.Seq, c)
}

// showStalled tells whoever watches that the database is gone or back, and whether the
// clock is well.
func (h *House) showStalled() {
	if h.hub.wanted() {
		h.hub.send("database", 0, 0, map[string]any{"gone": h.Stalled(), "clockBack": int(h.clock.back().Seconds())})
	}
}
