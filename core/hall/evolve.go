package hall

import (
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Evolve moves the state on by one event and what was decided about it. It takes
// everything from its arguments and decides nothing. What a forgetting took out of
// the log is not there to be read: decisions are evolved as far as they tell. It returns
// whoever is forgotten with it, or nil.
func (s *State) Evolve(ev *event.Event, ds []Decision) *Gone {
	s.Seq = ev.Seq
	was := s.Clock
	if s.Clock = s.ClockAt(ev.Logged); s.Clock.Sub(was.Truncate(time.Minute)) >= time.Minute { // once a minute is often enough
		s.Queue.Prune(s.Clock)
	}
	gone := s.Forgets(ev, ds)
	here, live := s.Guests(), s.Stream.Live()
	for i := range ds {
		s.period(ev, &ds[i])
		if ds[i].Kind == Open {
			s.carry(here, live, ds[i].At)
		}
	}
	s.fact(ev)
	said := lineOf(ev, ds)
	for i := range ds {
		s.decided(ev, said, &ds[i])
	}
	if gone != nil {
		s.forget(gone)
	}
	return gone
}

// restAfter is how long the house is not woken after a wake that failed, so that one
// that fails again and again leaves room for everything else.
const restAfter = 10 * time.Second

// remembered takes in streams of the past that an import brought. A house that had
// never streamed goes on counting after them.
func (s *State) remembered(past []event.PastStream) {
	for _, p := range past {
		if p.Number == s.Stream.Number && s.Stream.Live() {
			continue
		}
		s.Past = attendance.Add(s.Past, attendance.Past(p))
	}
	if n := len(s.Past); n > 0 && s.Past[n-1].Number > s.Stream.Number {
		last := s.Past[n-1]
		s.Stream = attendance.Stream{Number: last.Number, Opened: last.Opened, Gone: last.Closed, Ended: true}
	}
}

// CameWith finds the raid of this stream that a newcomer came with, or nil. Whoever
// leads a raid did not come with it.
func (s *State) CameWith(key string, standing people.Standing, first time.Time) *Raid {
	if standing != people.Newcomer {
		return nil
	}
	var at []time.Time
	var of []*Raid
	for i := range s.Raids {
		if r := &s.Raids[i]; r.Person.Key() != key {
			at, of = append(at, r.At), append(of, r)
		}
	}
	if i, ok := attendance.CameWith(first, at); ok {
		return of[i]
	}
	return nil
}

// period applies what opens and closes streams; it comes before the event's own
// facts, which belong to the period that holds afterwards.
func (s *State) period(ev *event.Event, d *Decision) {
	switch d.Kind {
	case Open:
		s.Stream.Begin(d.Stream, d.At)
		s.nightfall()
		maps.DeleteFunc(s.Shouted, func(_ string, at time.Time) bool { return at.Before(d.At) })                        // told late of an opening, what came after it counts
		s.Questions = slices.DeleteFunc(s.Questions, func(q Question) bool { return q.Arrives() && q.At.Before(d.At) }) // they arrive anew
		s.KeptLast, s.Kept = s.Kept, nil
		s.Waiting = slices.DeleteFunc(s.Waiting, func(i Item) bool { return i.Kind == "day" }) // whoever comes again is told of again
		s.Tonight, s.Raids, s.Evening = map[string]*Guest{}, nil, Evening{}
		if _, ok := ev.Data.(*event.StreamDeclared); ok {
			s.Stream.Declared = true
		}
	case Continue:
		s.Stream.Gone, s.Stream.Ended = time.Time{}, false
		s.Past = slices.DeleteFunc(s.Past, func(p attendance.Past) bool { return p.Number == s.Stream.Number })
	case Close:
		s.Stream.End(d.At)
		s.Past = attendance.Add(s.Past, attendance.Past{Number: s.Stream.Number, Opened: s.Stream.Opened, Closed: d.At})
		if _, ok := ev.Data.(*event.StreamDeclared); ok {
			s.Stream.Declared = true // the next opening is a new stream, however soon
		}
		s.Between = map[string]*Guest{}
	}
}

// carry keeps who had arrived already when the house is told late of an opening:
// whoever spoke after it, and was greeted, has arrived in this stream.
func (s *State) carry(here map[string]*Guest, live bool, opened time.Time) {
	for key, g := range here {
		if !g.Arrived.IsZero() && !g.Arrived.Before(opened) && (live || g.Greeted) {
			mine := *g // not shared with the period before, which a snapshot would part
			s.Tonight[key] = &mine
		}
	}
}

// fact applies what an event says by itself.
func (s *State) fact(ev *event.Event) {
	s.measured(ev.Data)
	switch data := ev.Data.(type) {
	case *happening.StreamOpened:
		s.Stream.Up(data.Platform, ev.Time, data.Title, data.Category, data.URL)
		s.Stream.Records(data.Platform, data.RecordingURL)
	case *happening.StreamChanged:
		s.Stream.Tell(data.Platform, data.Title, data.Category, data.URL)
		s.Stream.Records(data.Platform, data.RecordingURL)
	case *happening.StreamClosed:
		s.Stream.Down(data.Platform, ev.Time)
	case *happening.StreamViewers:
		if p := s.Stream.Platforms[data.Platform]; p != nil {
			p.Viewers = data.Viewers
			now := int64(0)
			for _, p := range s.Stream.Platforms {
				now += p.Viewers
			}
			s.Evening.Watched = max(s.Evening.Watched, now)
		}
	case *happening.ChatSaid:
		s.lineSaid(ev, data)
	case *happening.RaidCame:
		s.Raids = append(s.Raids, Raid{Event: ev.Seq, Person: data.Person, Viewers: data.Viewers, At: ev.Time})
		if g := s.Guests()[data.Person.Key()]; g != nil {
			g.Changed = s.Clock
		}
	case *happening.PersonFollowed:
		if g := s.Guests()[data.Person.Key()]; g != nil {
			g.Changed = s.Clock
		}
	case *happening.PersonRenamed:
		if g := s.Guests()[data.Person.Key()]; g != nil {
			g.Name, g.Login, g.Changed = plain.Name(data.Person.Shown()), data.Person.Login, s.Clock
			s.call(data.Person.Key(), g)
		}
	case *happening.PersonLeft:
		if g := s.Guests()[data.Person.Key()]; g != nil {
			g.Left = true
		}
	case *happening.PersonEntered:
		if g := s.Guests()[data.Person.Key()]; g != nil {
			g.Left = false
		}
	case *event.Woke:
		s.Questions = slices.DeleteFunc(s.Questions, func(q Question) bool { return !q.Ends.After(s.Clock) })
	case *event.LookupAnswered:
		s.Questions = slices.DeleteFunc(s.Questions, func(q Question) bool { return q.Ask == data.Ask })
		if g := s.Guests()[data.Account]; g != nil && data.Streams && !g.Fellow {
			g.Fellow, g.Changed = true, s.Clock
		}
	case *event.BookImported:
		if data.Undone && data.Past != nil {
			s.Past = nil
		}
		s.remembered(data.Past)
	case *event.Hushed:
		s.Hush = data.On
	case *event.Rearmed:
		s.rearmed(data)
	case *event.SettingsChanged:
		s.Settings = data.Version
	case *event.DoorChanged:
		s.Doors[data.Name] = data
	case *event.Noticed:
		s.noticed(data)
	case *event.RelayDelayed:
		s.setItem(Item{ID: "post/" + data.Line, Kind: "post", Place: data.Place, Line: data.Line, Text: data.NextTry, Why: data.Reason, About: data.About, Count: data.Attempt, Since: s.Clock})
	case *event.RelayFailed:
		s.setItem(Item{ID: "post/" + data.Line, Kind: "post", Place: data.Place, Line: data.Line, Why: data.Reason, About: data.About, Count: data.Attempt, Since: s.Clock, Final: true})
	case *event.RelayUnclear:
		s.setItem(Item{ID: "post/" + data.Line, Kind: "post", Place: data.Place, Line: data.Line, Why: data.Reason, About: data.About, Count: data.Attempt, Since: s.Clock, Final: true})
	case *event.RelayDelivered:
		s.doneItem("post/" + data.Line)
	case *event.RelayDropped:
		s.doneItem("post/" + data.Line)
	case *event.WaitingDone:
		s.doneItem(data.Item)
	}
	s.lately(ev.Data)
}

// noticed applies what the house noticed by itself.
func (s *State) noticed(n *event.Noticed) {
	if n.Gone {
		s.doneItem(n.Item)
	} else {
		s.setItem(Item{ID: n.Item, Kind: n.Kind, Name: n.Name, Text: n.Text, Why: n.Why, Count: 1, Since: s.Clock})
	}
	if len(n.Lines) > 0 {
		s.Queue.Lines = slices.DeleteFunc(s.Queue.Lines, func(l pace.Line) bool { return slices.Contains(n.Lines, l.Key()) })
	}
	if n.Rest {
		s.RestUntil = s.Clock.Add(restAfter)
	}
}

// rearmed lets greetings or shout-outs be made anew in this period: for somebody, over all their
// accounts, or for all.
func (s *State) rearmed(data *event.Rearmed) {
	gs := s.Guests()
	if data.What == event.ShoutOuts && data.Who() == nil {
		s.Shouted = nil
		return
	}
	keys := slices.Collect(maps.Keys(gs))
	if who := data.Who(); who != nil {
		var known *people.Known
		if g := gs[who.Key()]; g != nil {
			known = g.Known
		}
		keys = known.AccountsWith(who.Key())
	}
	for _, k := range keys {
		if data.What == event.ShoutOuts {
			delete(s.Shouted, k)
		} else if g := gs[k]; g != nil && !g.Arrived.IsZero() {
			g.Again, g.Greeted, g.Welcomed = true, false, false
		}
	}
}

func (s *State) lineSaid(ev *event.Event, data *happening.ChatSaid) {
	if s.Stream.Live() {
		s.Evening.People++
		if m := int(ev.Time.Sub(s.Stream.Opened) / time.Minute); m >= 0 && m < 24*60 {
			for len(s.Evening.Minutes) <= m {
				s.Evening.Minutes = append(s.Evening.Minutes, 0)
			}
			s.Evening.Minutes[m]++
		}
	}
	gs := s.Guests()
	g := gs[data.Person.Key()]
	if g == nil {
		g = &Guest{}
		gs[data.Person.Key()] = g
	}
	if g.Login != data.Person.Login || g.Name == "" || g.Lines == 0 {
		g.Name, g.Login = plain.Name(data.Person.Shown()), data.Person.Login
		s.call(data.Person.Key(), g)
	}
	g.Roles, g.Nick = data.Person.Roles, data.Person.Nick
	g.Lines++
	g.Left = false
	if ev.Time.After(g.Last) {
		g.Last = ev.Time
	}
}

// lineOf is the line of chat that an event is lived as: itself, or the one that was withheld and is allowed with it; nil for none.
func lineOf(ev *event.Event, ds []Decision) *happening.ChatSaid {
	if said, ok := ev.Data.(*happening.ChatSaid); ok {
		return said
	}
	for i := range ds {
		var let struct{ Said *happening.ChatSaid }
		if _, decides := ev.Data.(*event.HeldDecided); decides && len(ds[i].Body) > 0 && json.Unmarshal(ds[i].Body, &let) == nil && let.Said != nil {
			return let.Said
		}
	}
	return nil
}

// decided applies one decision; said is the line that its event is lived as.
func (s *State) decided(ev *event.Event, said *happening.ChatSaid, d *Decision) {
	d.EachKept(func(account string, value json.RawMessage) { s.Kept.Keep(account, d.Room, value) })
	switch d.Kind {
	case Arrive:
		for _, k := range d.Known.AccountsWith(d.Person) {
			if g := s.Guests()[k]; g != nil {
				g.Again = false
			}
		}
		if g := s.Guests()[d.Person]; g != nil {
			g.Arrived, g.Standing, g.Known, g.With, g.Changed = ev.Time, d.Standing, d.Known, d.With, s.Clock
			g.Day = d.Day
			if len(d.Because) > 0 {
				g.Why = d.Because[0]
			}
			s.call(d.Person, g)
		}
		if s.Stream.Live() && !d.Again {
			s.Evening.Arrivals = append(s.Evening.Arrivals, arrivalMark{At: ev.Time, Name: d.Name, Account: d.Person, Standing: d.Standing, Fellow: d.Known.Streams(), Event: ev.Seq})
		}
	case Neighbour:
		if m := int(ev.Time.Sub(s.Stream.Opened) / time.Minute); s.Stream.Live() {
			s.Evening.People--
			s.Evening.Neighbours++
			if m >= 0 && m < len(s.Evening.Minutes) {
				s.Evening.Minutes[m]--
			}
		}
	case Planned:
		if d.Plan == nil {
			return
		}
		s.Queue.Lines = append(s.Queue.Lines, *d.Plan)
		s.promised(d)
	case Reword:
		for _, l := range s.Queue.Find(d.Line) {
			l.Text, l.Ask = d.Text, ""
			if d.Plan != nil {
				l.Due = d.Plan.Due
			}
			l.Because = append(slices.Clone(l.Because), d.Because...)
		}
	case Hurry:
		for _, l := range s.Queue.Find(d.Line) {
			l.Hurried = true
		}
	case Drop:
		s.Queue.Remove(d.Line, d.Platform)
	case Say:
		if d.Plan != nil { // said in the same breath as it was decided
			s.promised(d)
			s.Queue.Spoke(d.Plan, s.Clock)
		}
		s.spoke(d)
		s.Queue.Remove(d.Line, d.Platform)
		for _, j := range d.Joined {
			s.Queue.Remove(j.Line, d.Platform)
		}
		s.Queue.Left(d.Platform, s.Clock, len(d.Joined) > 0 && d.Output == "joined", d.Pieces)
		if !d.Try { // nobody's evening
			s.Evening.House++
		}
		s.Evening.Said = append(s.Evening.Said, SaidMark{At: s.Clock, Line: d.Line})
		if len(d.Joined) > 0 && d.Alt != 0 {
			s.use(d)
		}
	case Relay:
		s.Queue.Remove(d.Line, d.Place)
		if !d.Try {
			s.use(d)
		}
	case "gather": // a room's own kind; its words were chosen with it
		s.use(d)
	case Wait:
		if d.Item == nil {
			return
		}
		if i := s.itemAt(d.Item.ID); i >= 0 {
			n := s.Waiting[i].Count
			s.Waiting[i] = *d.Item
			s.Waiting[i].Count += n
		} else {
			s.Waiting = append(s.Waiting, *d.Item)
		}
	case Ask:
		if said != nil && (d.Output == "whom" || d.Output == "arrival") {
			q := Question{Ask: d.Line, Ends: d.At, Event: ev.Seq, ID: ev.ID, Origin: ev.Digest(), At: ev.Time, Said: *said, Near: d.Near, Room: cmp.Or(d.Room, map[string]string{"arrival": "arrive", "whom": "command"}[d.Output])}
			if d.About != nil && d.Output == "whom" {
				q.Meant = d.About.Login
			}
			s.Questions = append(s.Questions, q)
		}
	case Done:
		if d.Item != nil {
			s.doneItem(d.Item.ID)
		}
	default:
		if d.Way().Staged() {
			s.done(d)
		}
	}
}

// spoke notes whom a line that was coming up speaks to.
func (s *State) spoke(d *Decision) {
	lines := []string{d.Line}
	for _, j := range d.Joined {
		lines = append(lines, j.Line)
	}
	for _, id := range lines {
		for _, l := range s.Queue.Find(id) {
			if l.Platform == d.Platform {
				s.Queue.Spoke(l, s.Clock)
			}
		}
	}
}

// done applies an effect outside chat.
func (s *State) done(d *Decision) {
	switch {
	case d.Plan != nil:
		s.promised(d)
		s.Queue.Spoke(d.Plan, s.Clock)
	case d.Courtesy == "desk": // at once, by hand
		s.Queue.Acted(d.Platform, d.Output, d.Person, d.Event, s.Clock)
	default:
		s.spoke(d)
	}
	s.Queue.Remove(d.Line, d.Platform)
	for _, j := range d.Joined {
		s.Queue.Remove(j.Line, d.Platform)
	}
	if len(d.Joined) > 0 && d.Alt != 0 {
		s.use(d)
	}
}

// promised notes what a line that was decided uses up: the alternative, the
// greeting, the thanks.
func (s *State) promised(d *Decision) {
	if d.Try {
		return
	}
	s.use(d)
	for i := range s.Raids {
		if d.Plan != nil && s.Raids[i].Event == d.Plan.Event && d.Plan.Priority == pace.Thanks {
			s.Raids[i].Thanked = true
		}
	}
	if d.Person != "" && d.Plan != nil && d.Plan.Shouts {
		if s.Shouted == nil {
			s.Shouted = map[string]time.Time{}
		}
		s.Shouted[d.Person] = s.Clock
	}
	if g := s.Guests()[d.Person]; g != nil {
		g.Greeted, g.Changed = true, s.Clock
		g.Welcomed = g.Welcomed || d.Plan != nil && d.Plan.Greets()
	}
}

func (s *State) use(d *Decision) {
	if d.Alt != 0 {
		k := d.Courtesy + "/" + d.Output
		s.Used[k] = s.Used[k].Next(d.Alt, d.Of)
	}
}

func (s *State) itemAt(id string) int {
	return slices.IndexFunc(s.Waiting, func(i Item) bool { return i.ID == id })
}

func (s *State) setItem(it Item) {
	if i := s.itemAt(it.ID); i >= 0 {
		it.Since = s.Waiting[i].Since
		s.Waiting[i] = it
		return
	}
	s.Waiting = append(s.Waiting, it)
}

func (s *State) doneItem(id string) {
	s.Waiting = slices.DeleteFunc(s.Waiting, func(i Item) bool { return i.ID == id })
}
