package house

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// decider works on one event. It only reads the state.
type decider struct {
	s      *State
	ev     *event.Event
	known  *people.Known
	p      *Plan
	now    time.Time
	late   time.Duration
	isLate bool
	out    []Decision
	added  []pace.Line // planned by this event, not yet in the queue
	live   *bool       // set when this event opens a stream

	dropped map[string]bool // lines that this event took back, by key
	taken   map[string]bool // what was decided, by courtesy and slot

	book  []people.Named        // those of it whom the name behind a command may mean
	meant *people.Named         // whom it does
	heard *event.LookupAnswered // what the platform just told of them

	since    time.Time       // when what waited for an answer came in
	after    time.Duration   // how long what runs waits for what had it run
	hand     bool            // a member asks for it
	try      bool            // and only tries it
	begun    string          // see origin
	closing  bool            // what is done is for the end of the stream
	shoutsTo map[string]bool // accounts that this event shouts out
}

// decide keeps a decision and reports whether it did. The first of a courtesy and
// slot stands; a second one is not made, so that no log ever has to hold two.
func (d *decider) decide(x Decision) bool {
	key := x.Courtesy + "\x00" + x.Slot()
	if d.taken[key] {
		return false
	}
	if d.taken == nil {
		d.taken = map[string]bool{}
	}
	d.taken[key] = true
	d.out = append(d.out, x)
	return true
}

func (d *decider) isLive() bool {
	if d.live != nil {
		return *d.live
	}
	return d.s.Stream.Live()
}

// lineSaid: a first timely line is an arrival; any other line decides nothing.
func lineSaid(d *decider, data *happening.ChatSaid) {
	key := data.Person.Key()
	if d.isLate {
		return
	}
	defer d.releaseIfDue()
	if privacyAsked(d, data) {
		return
	}
	if d.s.arrived(key, d.known) {
		if !command(d, data) {
			sayHello(d, data)
		}
		return
	}
	awaits := arrives(d, data)
	if !command(d, data) && !awaits && !d.greets(key) && d.p.never.Reason(data.Person, d.known) == "" {
		sayHello(d, data)
	}
}

// greets reports whether this event brings somebody a greeting.
func (d *decider) greets(key string) bool {
	return slices.ContainsFunc(d.added, func(l pace.Line) bool { return l.Person == key && l.Greets() })
}

// arrives greets whoever speaks for the first time in this period, and shouts them
// out, as far as courtesies say so. It reports whether that waits for what the platform
// tells about them.
func arrives(d *decider, data *happening.ChatSaid) (awaits bool) {
	key := data.Person.Key()
	standing, why := d.standing()
	name := d.sayName(data.Person)
	arrived := Decision{Kind: Arrive, Output: "arrival", Person: key, Name: name, Standing: standing, Known: d.known, Because: []string{why}}
	if r := d.s.cameWith(key, standing, d.ev.Time); r != nil {
		arrived.With = r.Event
		arrived.Because = append(arrived.Because, "came with the raid of "+plain.Name(r.Person.Shown()))
	}
	never := d.p.never.Reason(data.Person, d.known)
	if never != "" { // the streamer and whoever is never greeted are no newcomers
		arrived.Standing, arrived.Because = "", []string{d.firstLine()}
	}
	d.decide(arrived)
	if never != "" {
		d.decide(Decision{Kind: Refuse, Output: string(happening.Greeting), Person: key, Name: name, Because: []string{never}})
		return false
	}
	if unsureOf(d, data.Person) {
		if hangsOn(d, arriving(d, data)) {
			await(d, data)
			return true
		}
		d.ask(data.Person, "whether they stream, and what")
	}
	welcome(d, data)
	return false
}

// firstLine says what an arrival is the first line of.
func (d *decider) firstLine() string {
	if d.isLive() {
		return "first line in this stream"
	}
	return "first line while no stream is on"
}

// arriving is the cause that an arrival is.
func arriving(d *decider, data *happening.ChatSaid) *courtesy.Meeting {
	c := d.cause(data.Person)
	c.When, c.Quantities, c.Fields = happening.Arrival, nil, nil
	return d.p.Set.Meet(c)
}

// welcome does what courtesies say of an arrival.
func welcome(d *decider, data *happening.ChatSaid) {
	key, name := data.Person.Key(), d.sayName(data.Person)
	m := arriving(d, data)
	c := m.Cause
	raid := d.s.raidOf(key)
	args := d.about(data.Person)
	for _, slot := range []happening.Slot{happening.Greeting, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		switch {
		case slot == happening.ShoutOut && d.shoutsTo[key]:
		case won != nil && slot == happening.ShoutOut && d.s.shouted(key, d.known):
			d.refuse(slot, won, key, name, ladder, shoutedBefore)
		case won == nil:
			if len(ladder) > 0 {
				why := "no " + string(slot) + " fits"
				if !c.Live && onlyLive(ladder) {
					why = "no stream is on: " + map[happening.Slot]string{happening.Greeting: "greetings are said", happening.ShoutOut: "shout-outs are done"}[slot] + " only while live"
				}
				d.refuse(slot, nil, key, name, ladder, why)
			}
		case len(won.Outputs) == 0:
			d.refuse(slot, won, key, name, ladder, "these are passed over in silence")
		case raid != nil && raid.Thanked && !won.Personal(c): // only words of their own or a crew's go on top
			d.refuse(slot, won, key, name, ladder, "was already thanked for the raid")
		default:
			if slot == happening.ShoutOut {
				d.shoutsOut(data.Person.Key())
			}
			d.fill(c, won, ladder, args, []string{data.Person.Platform})
		}
		d.beside(m, slot, args, []string{data.Person.Platform})
	}
	d.free(m, args, []string{data.Person.Platform})
}

// onlyLive reports whether what is switched on of a ladder is for while a stream is on.
func onlyLive(ladder []courtesy.Rung) bool {
	some := false
	for _, g := range ladder {
		switch g.Why {
		case courtesy.OnlyLive:
			some = true
		case courtesy.SwitchedOff:
		default:
			return false
		}
	}
	return some
}

// woke: what time alone brings.
func woke(d *decider) {
	if end, going := d.s.Stream.EndsAt(d.p.grace); going && !end.After(d.now) {
		closeStream(d, d.s.Stream.Gone, fmt.Sprintf("no platform was live for %s", d.p.grace))
	}
	for i := range d.s.Questions {
		if q := &d.s.Questions[i]; !q.Ends.After(d.now) {
			d.resume(q, nil)
		}
	}
	d.release(d.s.Hush)
}

// thankFor runs the courtesies of an event's type: announcements and the like,
// which have no slot, and thanks.
func thankFor(d *decider, args wording.Args, platform ...string) {
	if args == nil {
		args = d.args()
	}
	if who := d.ev.Who(); who != nil {
		person := *who
		if platform == nil {
			platform = []string{who.Platform}
		}
		for k, v := range d.about(person) {
			args[k] = v
		}
		happening.OfData(d.ev.Data).Tell(d.ev.Data, args)
		m := d.p.Set.Meet(d.cause(person))
		c := m.Cause
		won, ladder := m.Winner(happening.Thanks)
		never := d.p.never.Reason(person, d.known)
		switch {
		case never != "" && len(ladder) > 0:
			d.refuse(happening.Thanks, nil, person.Key(), d.sayName(person), ladder, never)
		case won == nil && len(ladder) > 0:
			d.refuse(happening.Thanks, nil, person.Key(), d.sayName(person), ladder, "no thanks fits")
		case won != nil && len(won.Outputs) == 0:
			d.refuse(happening.Thanks, won, person.Key(), d.sayName(person), ladder, "these are passed over in silence")
		case won != nil:
			d.speakOrWait(c, won, ladder, args, platform, nil)
		}
		if never == "" {
			d.beside(m, happening.Thanks, args, platform)
		}
	} else {
		happening.OfData(d.ev.Data).Tell(d.ev.Data, args)
		if platform == nil {
			platform = d.onAir()
		}
	}
	d.announce(args, platform)
}

// announce runs the courtesies of an event that have no slot.
func (d *decider) announce(args wording.Args, platforms []string) {
	c := who.Cause{When: d.ev.Type, Live: d.isLive(), At: d.now.In(d.p.Zone), Quantities: d.s.quantities(d.ev.Data), Fields: happening.OfData(d.ev.Data).Asked(d.ev.Data)}
	if len(platforms) == 1 { // where it happened, for those who ask
		c.Person.Platform = platforms[0]
	}
	if who := d.ev.Who(); who != nil {
		c = d.cause(*who)
	}
	if _, ok := d.ev.Data.(*event.StreamDeclared); ok {
		c.When = happening.StreamOpenedType
	}
	d.free(d.p.Set.Meet(c), args, platforms)
	d.release(d.s.Hush)
}

// free runs the courtesies without a slot that fit a cause.
func (d *decider) free(m *courtesy.Meeting, args wording.Args, platforms []string) {
	c := m.Cause
	for _, r := range m.All() {
		if r.Slot != happening.Free {
			continue
		}
		if ok, why := r.Fits(c); !ok {
			d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Because: []string{why}})
			continue
		}
		d.fill(c, r, nil, args, platforms)
	}
}

// beside runs the courtesies that do not mind who fills a slot.
func (d *decider) beside(m *courtesy.Meeting, slot happening.Slot, args wording.Args, platforms []string) {
	c := m.Cause
	again := slot == happening.ShoutOut && d.s.shouted(c.Person.Key(), d.known) // of the house's own accord, and this is
	for _, r := range m.Beside(slot) {
		if again {
			d.refuse(slot, r, personKey(c.Person), d.sayName(c.Person), nil, shoutedBefore)
			continue
		}
		d.fill(c, r, nil, args, platforms)
	}
}

// onAir are the platforms whose chat hears what concerns the whole channel: where the
// stream is, or was to its end; all of them when none is on or none is known.
func (d *decider) onAir() []string {
	if !d.isLive() {
		return d.p.chat
	}
	live := d.s.Stream.OnTo(d.p.grace)
	if out := slices.DeleteFunc(slices.Clone(d.p.chat), func(p string) bool { return !slices.Contains(live, p) }); len(live) > 0 {
		return out
	}
	return d.p.chat
}

// knownOf fills in what a change of one platform's stream leaves out.
func (s *State) knownOf(info happening.StreamInfo) happening.StreamInfo {
	if p := s.Stream.Platforms[info.Platform]; p != nil {
		info.Title, info.Category, info.URL = cmp.Or(info.Title, p.Title), cmp.Or(info.Category, p.Category), cmp.Or(info.URL, p.URL)
	}
	return info
}

// shoutsOut notes that this event shouts somebody out.
func (d *decider) shoutsOut(key string) {
	if d.shoutsTo == nil {
		d.shoutsTo = map[string]bool{}
	}
	d.shoutsTo[key] = true
}

// raidCame: thanks in bands of size, and the leader shouted out. The leader's link
// and last category are asked of the platform while the lines wait.
func raidCame(d *decider, data *happening.RaidCame) {
	args := d.about(data.Person)
	args["viewers"] = wording.Num(data.Viewers)
	args["raids"] = wording.Num(raidsBy(d, data.Person.Key()) + 1)
	m := d.p.Set.Meet(d.cause(data.Person))
	c := m.Cause
	name := d.sayName(data.Person)
	if why := d.p.never.Reason(data.Person, d.known); why != "" {
		d.decide(Decision{Kind: Refuse, Output: string(happening.Thanks), Person: data.Person.Key(), Name: name, Because: []string{why}})
		return
	}
	for _, slot := range []happening.Slot{happening.Thanks, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		switch {
		case slot == happening.ShoutOut && d.shoutsTo[data.Person.Key()]:
		case won != nil && slot == happening.ShoutOut && d.s.shouted(data.Person.Key(), d.known):
			d.refuse(slot, won, data.Person.Key(), name, ladder, shoutedBefore)
		case won == nil:
			why := "no " + string(slot) + " fits"
			switch {
			case len(ladder) == 0:
				why = "no courtesy is for the " + string(slot) + " of a raid"
			case !slices.ContainsFunc(ladder, func(g courtesy.Rung) bool { return !g.ByNumber }):
				why += " a raid of this size"
			}
			d.refuse(slot, nil, data.Person.Key(), name, ladder, why)
			if slot == happening.Thanks && len(ladder) > 0 {
				d.waitFor(data.Person, name, "raid", why, data.Viewers)
			}
		case len(won.Outputs) == 0:
			d.refuse(slot, won, data.Person.Key(), name, ladder, "raids of this size are passed over in silence")
		default:
			if slot == happening.ShoutOut {
				d.shoutsOut(data.Person.Key())
			}
			d.speakOrWait(c, won, ladder, args, []string{data.Person.Platform}, &data.Viewers)
		}
		d.beside(m, slot, args, []string{data.Person.Platform})
	}
	d.announce(args, []string{data.Person.Platform})
}

// raidsBy counts the raids somebody brought, tonight's included as far as they are
// in the state.
func raidsBy(d *decider, key string) int64 {
	n := 0
	if d.known != nil {
		n = d.known.Raids
	}
	for _, r := range d.s.Raids {
		if r.Person.Key() == key {
			n++
		}
	}
	return int64(n)
}

// speakOrWait fills a courtesy in, unless the event came too late to speak of by
// itself: then it waits for a person.
func (d *decider) speakOrWait(c who.Cause, r *courtesy.Ready, ladder []courtesy.Rung, args wording.Args, platforms []string, viewers *int64) {
	if !d.isLate {
		d.fill(c, r, ladder, args, platforms)
		return
	}
	person := c.Person
	name := d.sayName(person)
	why := "came " + d.late.Round(time.Second).String() + " late"
	d.refuse(r.Slot, r, person.Key(), name, ladder, why+"; only what is under two minutes old is spoken of by itself")
	if r.Slot == happening.Thanks {
		n := int64(0)
		if viewers != nil {
			n = *viewers
		}
		d.waitFor(person, name, "late", why, n)
	}
	d.records(c, r, args)
}

func (d *decider) waitFor(person event.Person, name, kind, why string, viewers int64) {
	d.waits(person, name, kind, d.ev.Type, why, viewers)
}

// waits puts somebody unthanked before the streamer. of is the type of what they
// were to be thanked for.
func (d *decider) waits(person event.Person, name, kind, of, why string, viewers int64) {
	d.decide(Decision{Kind: Wait, Person: person.Key(), Name: name, Because: []string{why}, Item: &Item{
		ID: kind + "/" + of + "/" + person.Key(), Kind: kind, Person: &person, Name: name, Type: of, Why: why,
		Viewers: viewers, Count: 1, Since: d.ev.Time}})
}

func (d *decider) refuse(slot happening.Slot, r *courtesy.Ready, key, name string, ladder []courtesy.Rung, why string) {
	x := Decision{Kind: Refuse, Output: string(slot), Person: key, Name: name, Ladder: ladder, Because: []string{why}}
	if r != nil {
		x.Courtesy, x.Passed = r.ID, len(r.Outputs) == 0
	}
	d.decide(x)
}

func (d *decider) cause(person event.Person) who.Cause {
	standing, _ := d.standing()
	c := who.Cause{When: d.ev.Type, Person: d.withRoles(person), Known: d.known, Standing: standing, At: d.now.In(d.p.Zone), Live: d.isLive(),
		Quantities: d.s.quantities(d.ev.Data), Fields: happening.OfData(d.ev.Data).Asked(d.ev.Data)}
	if d.s.raidOf(person.Key()) != nil {
		c.Marks = append(c.Marks, people.Raider)
	}
	if d.known.Streams() {
		c.Marks = append(c.Marks, people.Fellow)
	}
	return c
}

func (d *decider) standing() (people.Standing, string) {
	return d.p.stand.Standing(d.known, d.s.Past, d.now, d.p.Zone)
}

// withRoles adds the roles given by hand where the platform tells none.
func (d *decider) withRoles(p event.Person) event.Person {
	if !p.Is(event.Streamer) && p.ID != "" && d.isStreamer(p) { // by the account that lines go out under
		p.Roles = append(slices.Clone(p.Roles), event.Streamer)
	}
	if d.known.MemberBy(p) == event.CoHost {
		p.Roles = append(slices.Clone(p.Roles), event.CoHost)
	}
	if d.known == nil || len(d.known.Roles) == 0 {
		return p
	}
	if door := d.p.DoorFor(p.Platform); door != nil && door.Profile.RolesTag == "" {
		p.Roles = append(slices.Clone(p.Roles), d.known.Roles...)
	}
	return p
}

// settledRegulars: a stream's end made some people regulars; the streamer is told once.
func settledRegulars(d *decider, data *event.BookSettled) {
	if len(data.Regulars) == 0 {
		return
	}
	var names []string
	for _, r := range data.Regulars {
		names = append(names, r.Name)
	}
	why := data.Regulars[0].Why
	if len(names) > 1 {
		why = fmt.Sprintf("at least %d of the last %d streams", d.p.stand.RegularAttended, d.p.stand.RegularOf)
	}
	d.decide(Decision{Kind: Wait, Output: "settled", Because: []string{why}, Item: &Item{ID: "regular/" + strconv.Itoa(data.Stream), Kind: "regular",
		Name: strings.Join(names, ", "), Why: why, Count: len(names), Since: d.now}})
}

// args are the fill-ins every when has.
func (d *decider) args() wording.Args {
	a := wording.Args{"channel": wording.Name(d.p.Channel), "now": wording.At(d.now.In(d.p.Zone))}
	if who := d.ev.Who(); who != nil {
		a["platform"] = wording.Str(plain.Titled(who.Platform))
	}
	d.own(a)
	return a
}

// about are the fill-ins about a person.
func (d *decider) about(person event.Person) wording.Args {
	a := d.args()
	a["name"] = wording.Value{Text: d.sayName(person)}
	n := int64(1)
	if d.known != nil {
		n += int64(d.known.Attended)
	}
	a["streams"] = wording.Num(n)
	if d.known != nil && d.known.Followed != nil {
		a.Maybe("followed", wording.At(d.known.Followed.In(d.p.Zone)))
	}
	d.found(person, a)
	return a
}

// found are the fill-ins about where somebody streams: as their platform told it
// lately, else where its streams are to be found.
func (d *decider) found(person event.Person, a wording.Args) {
	if d.known != nil && d.known.Fetched != nil && d.known.Fetched.Link != "" {
		a.Maybe("link", wording.Str(d.known.Fetched.Link))
		a.Maybe("category", wording.Str(d.known.Fetched.Category))
	} else if door := d.p.LinkDoor(person.Platform); door != nil && plainLogin(person.Login) {
		a.Maybe("link", wording.Str(strings.ReplaceAll(door.Profile.Link, "{login}", person.Login)))
	}
}

// told are the fill-ins about a stream.
func (d *decider) told(info happening.StreamInfo) wording.Args {
	a := d.args()
	a["platform"] = wording.Str(plain.Titled(info.Platform))
	a.Maybe("title", wording.Str(info.Title))
	a.Maybe("category", wording.Str(info.Category))
	a.Maybe("link", wording.Str(info.URL))
	return a
}

// sayName is how the house says somebody's name: as set by hand, else as shown,
// cleaned; a name of nothing but harm falls back to the login, then to "friend".
func (d *decider) sayName(p event.Person) string {
	if d.known != nil && d.known.SayAs != "" {
		return d.known.SayAs
	}
	for _, n := range []string{p.Shown(), p.Login, p.ID} {
		if c := plain.Name(n); c != "" {
			return c
		}
	}
	return "friend"
}
