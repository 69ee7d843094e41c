package room

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/occasion"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Days of somebody's: birthdays, years of following and of coming, round numbers of streams. Each is
// kept once a year, by whichever courtesy asks for it: at their arrival, or when they set it or ask for
// it that same day. What was kept is remembered of the account when the line for it leaves, under kind
// and year, so that setting a day anew, another account or a restart keep nothing twice; what is on its
// way counts as kept until it is given up.

// dayRoom is whose settings these are, and the name that it is kept under.
const dayRoom = "day"

// dayKept is what is kept of an account over streams.
type dayKept struct {
	Set  time.Time `json:"set,omitzero"`   // when they set their birthday
	Kept []string  `json:"kept,omitempty"` // what was celebrated, by kind and year; the last mostDays
}

// DaysKept are the days that were celebrated, of what rooms keep of an account.
func DaysKept(kept map[string]json.RawMessage) []string {
	var k dayKept
	if raw := kept[dayRoom]; raw == nil || json.Unmarshal(raw, &k) != nil {
		return nil
	}
	return k.Kept
}

// mostDays is how many are remembered of an account: of four kinds a year, long past any window.
const mostDays = 24

// DayRules are how a channel keeps days.
type DayRules interface {
	Rules() occasion.Rules
	DayFirst() bool            // which order 3/9 is read in
	CorrectFor() time.Duration // how long what somebody set can be corrected
	Began() dates.Day          // the channel's first day; zero where it is not told
}

// days are the rules of the settings.
func (p *Plan) days() DayRules {
	if r, ok := p.sections[dayRoom].(DayRules); ok {
		return r
	}
	return usualDays{}
}

// DayFirst reports whether the day comes first where digits alone leave it open.
func (p *Plan) DayFirst() bool { return p.days().DayFirst() }

// usualDays are those of a house without the room.
type usualDays struct{}

func (usualDays) Rules() occasion.Rules     { return occasion.Rules{} }
func (usualDays) DayFirst() bool            { return true }
func (usualDays) Began() dates.Day          { return dates.Day{} }
func (usualDays) CorrectFor() time.Duration { return 5 * time.Minute }

// DaysOf are the days of somebody that are to be kept and were not yet, those they missed, and those
// ahead. again holds the days of now whether they were kept or not.
func (t *Turn) DaysOf(p event.Person, known *people.Known) (d *who.Dates, again []occasion.Occasion) {
	if known == nil || p.ID == "" {
		return nil, nil
	}
	rules, theirs := t.Plan.days().Rules(), t.theirDates(known)
	since := time.Time{}
	if t.IsLive() {
		since = t.State.Stream.Opened
	}
	kept := t.keptDays(p, known).Kept
	waiting := t.daysOnTheirWay(p, known)
	fresh := func(list []occasion.Occasion) (out []occasion.Occasion) {
		for _, o := range list {
			if !slices.Contains(kept, o.Key()) && !slices.Contains(waiting, o.Key()) {
				out = append(out, o)
			}
		}
		return out
	}
	again = occasion.Now(theirs, t.Now, since, rules)
	return &who.Dates{Today: fresh(again), Belated: fresh(occasion.Belated(theirs, t.Now, since, rules)), Coming: occasion.Coming(theirs, t.Now, 366, rules)}, again
}

// DayOf is which days of somebody's are today, in words; "" for none.
func (t *Turn) DayOf(p event.Person) string {
	_, again := t.DaysOf(p, t.Known)
	return daysInWords(again)
}

func daysInWords(list []occasion.Occasion) string {
	var words []string
	for _, o := range list {
		words = append(words, o.Words())
	}
	return plain.List(words, "and")
}

// DayWaits puts somebody with a day that was not kept yet before the streamer, until it is.
func (t *Turn) DayWaits(p event.Person) {
	d, _ := t.DaysOf(p, t.Known)
	if d == nil || len(d.Today)+len(d.Belated) == 0 {
		return
	}
	var why []string
	if len(d.Today) > 0 {
		why = append(why, "today: "+daysInWords(d.Today))
	}
	if len(d.Belated) > 0 {
		why = append(why, "missed: "+daysInWords(d.Belated))
	}
	name, says := t.SayName(p), strings.Join(why, "; ")
	t.Decide(hall.Decision{Kind: hall.Wait, Output: dayRoom, Person: p.Key(), Name: name, Because: []string{says},
		Item: &hall.Item{ID: dayItem(p.Key()), Kind: dayRoom, Person: &p, Name: name, Why: says, Count: 1, Since: t.Event.Time}})
}

func dayItem(account string) string { return dayRoom + "/" + account }

// channelDays are the days of the channel itself that are to be kept and were not yet.
func (t *Turn) channelDays() *who.Dates {
	since := time.Time{}
	if t.IsLive() {
		since = t.State.Stream.Opened
	}
	d := &who.Dates{}
	m, _ := t.Memory[dayRoom].(interface{ Kept(key string) bool })
	for _, o := range occasion.OfChannel(t.Plan.days().Began(), t.Now, since, t.Plan.Zone, t.Plan.days().Rules()) {
		waits := func(l pace.Line) bool { return slices.Contains(l.Days, o.Key()) && !l.Try }
		if (m == nil || !m.Kept(o.Key())) && !slices.ContainsFunc(t.State.Queue.Lines, waits) {
			d.Today = append(d.Today, o)
		}
	}
	return d
}

// ChannelKept is what the room of days notes of a day of the channel that was kept.
const ChannelKept = "channel's day"

// theirDates are what is known of somebody's days; of a birthday that they hide, nothing.
func (t *Turn) theirDates(known *people.Known) occasion.Dates {
	d := occasion.Dates{Zone: t.zoneOf(known)}
	if known.Birthday != nil && !known.HideDay {
		d.Birthday = *known.Birthday
	}
	if known.Followed != nil {
		d.Followed = *known.Followed
	}
	if known.FirstSeen != nil {
		d.First = *known.FirstSeen
	}
	if t.IsLive() {
		d.Streams = known.Attended + 1
	}
	return d
}

// zoneOf is somebody's time zone, else the channel's.
func (t *Turn) zoneOf(known *people.Known) *time.Location {
	if known != nil && known.Zone != "" {
		if z, err := time.LoadLocation(known.Zone); err == nil {
			return z
		}
	}
	return t.Plan.Zone
}

// keptDays is what is kept of a person, over all their accounts.
func (t *Turn) keptDays(p event.Person, known *people.Known) dayKept {
	was := t.room
	defer func() { t.room = was }()
	t.room = dayRoom
	return KeptOf(t, p, known, func(all []dayKept) (out dayKept) {
		for _, k := range all {
			out.Kept = append(out.Kept, k.Kept...)
			if k.Set.After(out.Set) {
				out.Set = k.Set
			}
		}
		return out
	})
}

// daysOnTheirWay are what lines that are coming up will keep.
func (t *Turn) daysOnTheirWay(p event.Person, known *people.Known) (out []string) {
	mine := known.AccountsWith(p.Key())
	for _, list := range [][]pace.Line{t.State.Queue.Lines, t.added} {
		for i := range list {
			if l := &list[i]; len(l.Days) > 0 && slices.Contains(mine, l.Person) && !l.Try && !t.dropped[l.Key()] {
				out = append(out, l.Days...)
			}
		}
	}
	return out
}

// keepDays keeps that days of somebody's were celebrated, once a line for it leaves.
func (t *Turn) keepDays(l *pace.Line) {
	if len(l.Days) > 0 && l.Person == "" && !l.Try {
		was := t.room
		t.room = dayRoom
		Note(t, ChannelKept, l.Days[0], "kept the channel's own day")
		t.room = was
	}
	if len(l.Days) > 0 && l.Person != "" && !l.Try {
		t.keepDay(l.Person, "celebrated a day of theirs", func(k *dayKept) {
			for _, d := range l.Days {
				if !slices.Contains(k.Kept, d) {
					k.Kept = append(k.Kept[max(0, len(k.Kept)-mostDays+1):], d)
				}
			}
		})
		t.dayDone(l)
	}
}

// dayDone takes away what was put before the streamer about a day that is kept now, over all accounts.
func (t *Turn) dayDone(l *pace.Line) {
	waits := func(i *hall.Item) bool { return i != nil && i.Kind == dayRoom && i.Person != nil }
	var items []hall.Item
	for i := range t.State.Waiting {
		if waits(&t.State.Waiting[i]) {
			items = append(items, t.State.Waiting[i])
		}
	}
	for i := range t.Decided {
		if x := &t.Decided[i]; x.Kind == hall.Wait && waits(x.Item) {
			items = append(items, *x.Item)
		}
	}
	for _, it := range items {
		if key := it.Person.Key(); key == l.Person || l.Whose != "" && slices.Contains(t.State.KnownHere(key).AccountsWith(key), l.Person) {
			t.Decide(hall.Decision{Kind: hall.Done, Output: dayRoom, Person: l.Person, Item: &hall.Item{ID: it.ID}, Because: []string{"is celebrated"}})
		}
	}
}

// keepDay changes what is kept of an account. Several changes of one event are one decision.
func (t *Turn) keepDay(account, why string, change func(*dayKept)) {
	for i := range t.Decided {
		x := &t.Decided[i]
		if x.Kind != hall.Keep || x.Room != dayRoom || x.Person != account {
			continue
		}
		var k dayKept
		_ = json.Unmarshal(x.Kept, &k) // as it was written here
		change(&k)
		if raw, err := json.Marshal(k); err == nil {
			x.Kept = raw
		}
		return
	}
	was := t.room
	defer func() { t.room = was }()
	t.room = dayRoom
	k := KeptOf(t, event.OfKey(account), t.keptBy(account), func(all []dayKept) (k dayKept) {
		if len(all) > 0 {
			k = all[0]
		}
		return k
	})
	change(&k)
	Keep(t, account, k, why)
}

// keptBy is what the book told of an account's keeping, of whoever is at hand: the account alone.
func (t *Turn) keptBy(account string) *people.Known {
	for _, k := range []*people.Known{t.Known, t.meantKnown(), t.State.KnownHere(account)} {
		if k != nil && k.Kept[account] != nil {
			return &people.Known{Accounts: []string{account}, Kept: people.Kept{account: k.Kept[account]}}
		}
	}
	return nil
}

func (t *Turn) meantKnown() *people.Known {
	if t.Meant == nil {
		return nil
	}
	return t.Meant.Known
}

// aboutDays are the fill-ins about somebody's days that some wording has.
func (t *Turn) aboutDays(p event.Person, known *people.Known, a wording.Args) {
	uses := t.Plan.uses
	if uses["birthday"] || uses["birthdayIs"] || uses["daysToGo"] {
		t.aboutBirthday(p, known, a)
	}
	if known != nil && known.FirstSeen != nil {
		a.Maybe("firstCame", wording.At(known.FirstSeen.In(t.Plan.Zone)))
		if uses["visitAge"] {
			a.Maybe("visitAge", wording.Str(dates.Age(*known.FirstSeen, t.Now, t.Plan.Zone)))
		}
	}
	if uses["years"] {
		a["years"] = wording.Num(0)
	}
	if uses["daysAgo"] {
		a["daysAgo"] = wording.Num(0)
	}
}

func (t *Turn) aboutBirthday(p event.Person, known *people.Known, a wording.Args) {
	a["daysToGo"] = wording.Num(0)
	switch {
	case known == nil || known.Birthday == nil:
		a["birthdayIs"] = wording.Str("none")
	case known.HideDay && t.Meant != nil && p.Key() == t.Meant.Person.Key(): // of another, nobody is told that there is one
		a["birthdayIs"] = wording.Str("none")
	case known.HideDay:
		a["birthdayIs"] = wording.Str("hidden")
	default:
		day := dates.Day{Month: known.Birthday.Month, Day: known.Birthday.Day}
		_, left := day.Next(dates.On(t.Now, t.zoneOf(known)), cmp.Or(t.Plan.days().Rules().Leap, dates.OnFebruary28))
		a.Maybe("birthday", wording.Str(day.Spelled()))
		a["daysToGo"], a["birthdayIs"] = wording.Num(int64(left)), wording.Str("known")
		if left == 0 {
			a["birthdayIs"] = wording.Str("today")
		}
	}
}

// dayChoices are the words by which a wording chooses among kinds.
var dayChoices = map[occasion.Kind]string{occasion.Birthday: "birthday", occasion.Follow: "follow", occasion.FirstVisit: "first", occasion.Streams: "round", occasion.Channel: "channel"}

// whichDays fills in which days a courtesy keeps of a cause. What is ahead is told too.
func whichDays(r *courtesy.Ready, c who.Cause, args wording.Args) wording.Args {
	if c.Dates == nil || !r.Who.AsksDates() {
		return args
	}
	list := r.Who.Keeps(c.Dates)
	r.Who.Each(func(w *who.Who) {
		if len(list) == 0 && w.Date != nil {
			list = c.Dates.Of(w.Date)
		}
	})
	if len(list) == 0 {
		return args
	}
	out := wording.Args{}
	for k, v := range args {
		out[k] = v
	}
	out.Maybe("day", wording.Str(dayChoices[list[0].Kind]))
	out.Maybe("days", wording.Str(daysInWords(list)))
	out["years"], out["daysAgo"] = wording.Num(int64(list[0].Years)), wording.Num(int64(max(0, -list[0].Days)))
	return out
}

// keysOf is what a courtesy keeps of a cause, as it is remembered.
func keysOf(r *courtesy.Ready, c *who.Cause) (out []string) {
	if c.Dates == nil {
		return nil
	}
	for _, o := range r.Who.Keeps(c.Dates) {
		out = append(out, o.Key())
	}
	return out
}

// celebrate runs whichever courtesy keeps a day of somebody's.
func (t *Turn) celebrate(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args, told wording.Args, platforms []string) {
	does, _ := o.Do.(*output.Celebrate)
	asker, known := t.Event.Who(), c.Known
	own := asker != nil && asker.Key() == c.Person.Key()
	why := ""
	switch {
	case !does.Missed && t.Meant != nil && !(asker != nil && t.Meant.Person.Key() == asker.Key()):
		why = "somebody else's day was asked for"
	case own:
		known = t.Known // who may just have set it
	}
	if why == "" {
		why = t.Celebrates(c, known, args, platforms, does.Missed)
	}
	if why != "" {
		t.not(c, r, o, "", why)
		return
	}
	told.Maybe("celebrated", wording.Str("yes"))
}

// Celebrates runs whichever courtesy keeps a day of somebody's, one that they missed too where missed says
// so: in full as long as none was kept, else its line alone. quietly says that it is somebody else's to
// keep. It says why nothing is done, or "".
func (t *Turn) Celebrates(c who.Cause, known *people.Known, args wording.Args, platforms []string, missed bool) string {
	if c.Person.ID == "" {
		return "there is nobody to celebrate"
	}
	if why := t.Plan.never.Reason(c.Person, known); why != "" {
		return why
	}
	dates, again := t.DaysOf(c.Person, known)
	if dates == nil {
		return "no day of theirs is known"
	}
	c.Known, c.Dates, c.Quantities, c.Fields = known, dates, nil, nil
	inFull := len(dates.Today) > 0 || missed && len(dates.Belated) > 0
	switch {
	case inFull && !missed:
		c.Dates = &who.Dates{Today: dates.Today}
	case inFull:
	case len(again) == 0:
		return "it is no day of theirs"
	default:
		c.Dates = &who.Dates{Today: again}
	}
	won, cause := t.whatKeeps(c)
	switch {
	case won == nil && !c.Live && !t.Hand:
		return "no courtesy that is on celebrates it while no stream is on"
	case won == nil:
		return "no courtesy that is on celebrates it"
	}
	before := len(t.added)
	t.quiet, t.asked = !inFull, true
	t.Fill(cause, won, nil, args, platforms)
	t.quiet, t.asked = false, false
	if len(t.added) == before {
		return "what celebrates it came to nothing"
	}
	return ""
}

// whatKeeps is the courtesy that keeps the days of a cause: of those that are asked for, else of those
// of arrivals.
func (t *Turn) whatKeeps(c who.Cause) (*courtesy.Ready, who.Cause) {
	c.Heard, c.Line = who.Cause{}.Heard, ""
	for _, when := range []string{happening.Day, happening.Arrival} {
		at := c
		at.When = when
		if won := t.Plan.Set.Keeper(at); won != nil {
			return won, at
		}
	}
	return nil, c
}

// setBirthday keeps, clears, hides or shows a birthday, as a line asks for it.
func (t *Turn) setBirthday(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) {
	does, _ := o.Do.(*output.Birthday)
	no := func(why string) {
		t.not(c, r, o, "", why)
		args.Maybe("refused", wording.Str(why))
	}
	rules := t.Plan.days()
	args["correctFor"] = wording.Num(int64(rules.CorrectFor() / time.Minute))
	_, said := t.Event.Data.(*happening.ChatSaid)
	asker := t.Event.Who()
	own := asker != nil && asker.Key() == c.Person.Key()
	switch {
	case t.Try:
		no("a try changes nothing")
		return
	case !said || t.Hand || t.within > 0:
		no("only whoever asks for it in chat changes a birthday")
		return
	case !own && !t.withRoles(*asker).IsOrAbove(event.Moderator) && !t.IsStreamer(*asker):
		no("only a moderator clears the birthday of another")
		return
	case c.Person.ID == "" || !own && c.Known == nil:
		no("the guest book knows nobody of that name")
		return
	case t.edited:
		no("one line changes one birthday")
		return
	}
	known := c.Known
	if own {
		known = t.Known
	}
	if c.Person.Nick && own && len(known.AccountsWith(c.Person.Key())) > 2 {
		no("the network does not vouch for whose nick this is: ask a moderator")
		return
	}
	var edit event.Edit
	yes := true
	switch does.Act {
	case output.SetBirthday:
		day, why := readBirthday(args["rest"].Text, rules.DayFirst(), dates.On(t.Now, t.zoneOf(known)))
		if why == "" {
			why = t.locked(c.Person, known, day)
		}
		if why != "" {
			no(why)
			return
		}
		t.keepDay(c.Person.Key(), "set their birthday", func(k *dayKept) {
			if known == nil || known.Birthday == nil || k.Set.IsZero() {
				k.Set = t.Now
			}
		})
		edit.Set.Birthday = &day
	case output.ClearBirthday, output.ForgetBirthday:
		if known == nil || known.Birthday == nil {
			no("no birthday is kept")
			return
		}
		edit.Set.Birthday = &dates.Day{} // none, whatever another record of theirs says
	case output.HideBirthday:
		edit.Set.HideDay = &yes
	default:
		no := false
		edit.Set.HideDay = &no
	}
	t.edits(c.Person, known, edit, r, o)
	now := people.Known{}
	if known != nil {
		now = *known
	}
	switch does.Act {
	case output.SetBirthday:
		now.Birthday = edit.Set.Birthday
	case output.ClearBirthday, output.ForgetBirthday:
		now.Birthday = nil
	default:
		now.HideDay = does.Act == output.HideBirthday
	}
	if own {
		t.Known = &now
	}
	for _, f := range []string{"birthday", wording.Companion("birthday"), "birthdayIs", "daysToGo"} {
		delete(args, f)
	}
	t.aboutBirthday(c.Person, &now, args)
}

// locked says why somebody cannot set their birthday any more, or "".
func (t *Turn) locked(p event.Person, known *people.Known, day dates.Day) string {
	if known == nil || known.Birthday == nil || *known.Birthday == day {
		return ""
	}
	if set := t.keptDays(p, known).Set; !set.IsZero() && t.Now.Sub(set) <= t.Plan.days().CorrectFor() {
		return ""
	}
	if known.HideDay {
		return "it is kept already; a moderator can clear it"
	}
	return "it is kept as " + dates.Day{Month: known.Birthday.Month, Day: known.Birthday.Day}.Spelled() + " already; a moderator can clear it"
}

// longestLife bounds the year of a birthday.
const longestLife = 120

// readBirthday reads a birthday as somebody writes it, or says what is wrong with an example.
func readBirthday(text string, dayFirst bool, today dates.Day) (dates.Day, string) {
	if strings.TrimSpace(text) == "" {
		return dates.Day{}, "the day is missing: write it behind the command, like 9 March"
	}
	day, err := dates.Parse(text, dayFirst)
	if err != nil {
		return dates.Day{}, fmt.Sprintf("“%s” is no day of the calendar: write it like 9 March", plain.Name(text))
	}
	if y := day.Year; y != 0 && (y > today.Year || y < today.Year-longestLife || day.At(time.UTC).After(today.At(time.UTC))) {
		return dates.Day{}, fmt.Sprintf("%d is no year of birth: write all four digits of it, or leave it out", y)
	}
	return day, ""
}

// edits changes the guest book as a line asks: by an event that is lived right after this one.
func (t *Turn) edits(about event.Person, known *people.Known, edit event.Edit, r *courtesy.Ready, o *courtesy.ReadyOutput) {
	t.edited = true
	by := *t.Event.Who()
	data := &event.BookEdited{Edit: edit, By: &by, Accounts: []string{about.Key()}}
	if known != nil {
		data.Persons = []int64{known.Person}
	}
	raw, err := json.Marshal(data)
	if err != nil {
		return
	}
	body, _ := json.Marshal(happened{data.Type(), raw})
	t.Decide(hall.Decision{Kind: happens, Courtesy: r.ID, Output: o.ID + " " + data.Type(), Line: t.LineID(r.ID, o.ID), Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Person: about.Key(), Name: plain.Name(about.Shown()), Because: []string{"was asked in chat"}})
}
