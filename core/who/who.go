// Package who is the conditions on a person and a cause: whom a courtesy is for, and by
// which number.
//
// A [Who] is matched against a [Cause]: [Who.Match] says how close it came, or why it does
// not hold. A [Measure] is the same for the number that came with a happening. Both tell
// themselves in words, and whether two of them can ever hold at once.
package who

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Who narrows a courtesy to some people and some hours. Everything given must
// hold; of Any at least one, of Not none. Empty fields do not narrow.
type Who struct {
	Nobody   bool              `json:"nobody,omitempty"`  // of a command: it is for courtesies to say, not for people to ask
	Account  string            `json:"account,omitempty"` // account key, "platform:id"; any account of that person's record will do
	Crews    *Crews            `json:"crews,omitempty"`
	Mark     people.Mark       `json:"mark,omitempty" jsonschema:"enum=raider,enum=fellow streamer"`
	Role     event.Role        `json:"role,omitempty" jsonschema:"enum=streamer,enum=co-host,enum=moderator,enum=vip,enum=subscriber,enum=follower"`
	OrAbove  bool              `json:"orAbove,omitempty"` // of a role: it, or one above it
	Tag      string            `json:"tag,omitempty"`
	Trusted  bool              `json:"trusted,omitempty"`
	Standing people.Standing   `json:"standing,omitempty" jsonschema:"enum=newcomer,enum=returning,enum=regular,enum=long away"`
	Platform string            `json:"platform,omitempty"`
	Date     *Date             `json:"date,omitempty"`                            // a day of theirs
	Attended int               `json:"attended,omitempty" jsonschema:"minimum=0"` // at least so many streams, tonight included
	Days     []string          `json:"days,omitempty"`                            // English weekday names
	Hours    *Hours            `json:"hours,omitempty"`
	Since    string            `json:"since,omitempty" jsonschema:"format=date"` // first day, YYYY-MM-DD, in the channel's zone
	Until    string            `json:"until,omitempty" jsonschema:"format=date"` // last day
	Fields   map[string]string `json:"fields,omitempty"`                         // texts of a happening's own fields, in any case
	All      []Who             `json:"all,omitempty"`
	Any      []Who             `json:"any,omitempty"`
	Not      []Who             `json:"not,omitempty"`
}

// Crews asks for membership: with In "all" in every one named (the default), with
// "one" in exactly one of them, with "any" in at least one.
type Crews struct {
	Of []string `json:"of"` // ids
	In string   `json:"in,omitempty" jsonschema:"enum=all,enum=one,enum=any"`
}

// Hours is a window of the day, "HH:MM" in the channel's zone: From included, To
// not. A window that ends before it begins runs over midnight.
type Hours struct {
	From string `json:"from" jsonschema:"pattern=^([01][0-9]|2[0-3]):[0-5][0-9]$"`
	To   string `json:"to" jsonschema:"pattern=^([01][0-9]|2[0-3]):[0-5][0-9]$"`
}

// Closeness is how near a who comes to a single person; the nearer wins.
type Closeness int

const (
	ForAnyone Closeness = iota
	ForStanding
	ForKind // by mark, role, tag or trust
	ForCrew
	ForCombination
	ForDate // on a day of theirs
	ForPerson
)

// Held is how a who that matched did so: how close it came, for a combination how
// many crews it took, how many conditions held, and which, in words.
type Held struct {
	Close      Closeness
	Crews      int
	Conditions int
	Says       []string
}

func (h *Held) take(c Closeness, crews int, says string) {
	h.Conditions++
	h.Says = append(h.Says, says)
	h.reach(c, crews)
}

// reach keeps the closest that was come.
func (h *Held) reach(c Closeness, crews int) {
	if c > h.Close || c == h.Close && crews > h.Crews {
		h.Close, h.Crews = c, crews
	}
}

func (h *Held) join(o Held) {
	h.reach(o.Close, o.Crews)
	h.Conditions += o.Conditions
	h.Says = append(h.Says, o.Says...)
}

// Each visits a who and all that stand within it.
func (w *Who) Each(f func(*Who)) {
	f(w)
	for _, inner := range [][]Who{w.All, w.Any, w.Not} {
		for i := range inner {
			inner[i].Each(f)
		}
	}
}

// Closest is how close a who can come at most.
func (w *Who) Closest() Closeness {
	var h Held
	w.count(&h)
	for _, inner := range [][]Who{w.All, w.Any} {
		for i := range inner {
			h.reach(inner[i].Closest(), 0)
		}
	}
	return h.Close
}

// Compare puts the more specific of two first.
func (h Held) Compare(o Held) (int, string) {
	if d := cmp.Or(cmp.Compare(h.Close, o.Close), cmp.Compare(h.Crews, o.Crews)); d != 0 {
		return d, "the closer who wins"
	}
	return 0, ""
}

// Match tells how a who holds for a cause, or why it does not.
func (w *Who) Match(c *Cause) (h Held, misfit string) {
	switch {
	case w.Nobody:
		return h, "is for nobody to ask"
	case w.Account != "" && !c.is(w.Account):
		return h, "is for somebody else"
	case w.Crews != nil && !w.Crews.hold(c.crews()):
		return h, "is for those " + w.Crews.String()
	case w.Standing != "" && w.Standing != c.Standing:
		return h, "is for one who " + aStanding(w.Standing) + "; this one " + aStanding(c.Standing)
	case w.Mark != "" && !slices.Contains(c.Marks, w.Mark):
		return h, "is for a " + string(w.Mark)
	case w.Role != "" && !c.Person.Is(w.Role) && !(w.OrAbove && c.Person.IsOrAbove(w.Role)):
		return h, "is for a " + w.roleWords()
	case w.Tag != "" && !c.tagged(w.Tag):
		return h, "is for those tagged " + w.Tag
	case w.Trusted && (c.Known == nil || !c.Known.Trusted):
		return h, "is for the trusted"
	case w.Date != nil && len(c.Dates.Of(w.Date)) == 0:
		return h, w.Date.misfit()
	case w.Platform != "" && w.Platform != c.Person.Platform:
		return h, "is for " + w.Platform + " only"
	case w.Attended > 0 && c.attended() < w.Attended:
		return h, fmt.Sprintf("is for those at %d streams or more, this is their %d.", w.Attended, c.attended())
	case len(w.Days) > 0 && !slices.ContainsFunc(w.Days, func(d string) bool { return strings.EqualFold(d, c.At.Weekday().String()) }):
		return h, "is for " + plain.List(w.Days, "or") + "; this is a " + c.At.Weekday().String()
	case w.Hours != nil && !w.Hours.Hold(c.At):
		return h, "is for " + w.Hours.String() + "; it is " + c.At.Format("15:04")
	case w.Since != "" && c.At.Format(time.DateOnly) < w.Since:
		return h, "begins on " + w.Since
	case w.Until != "" && c.At.Format(time.DateOnly) > w.Until:
		return h, "ended on " + w.Until
	}
	for _, k := range sortedKeys(w.Fields) {
		if !strings.EqualFold(strings.TrimSpace(c.Fields[k]), w.Fields[k]) {
			return h, fmt.Sprintf("is for %s “%s”", k, w.Fields[k])
		}
	}
	for i := range w.All {
		o, why := w.All[i].Match(c)
		if why != "" {
			return h, why
		}
		h.join(o)
	}
	for i := range w.Not {
		if o, why := w.Not[i].Match(c); why == "" {
			return h, "is not for one who " + strings.Join(o.Says, " and ")
		}
	}
	if len(w.Any) > 0 {
		best, found, whys := Held{}, false, []string{}
		for i := range w.Any {
			o, why := w.Any[i].Match(c)
			if why != "" {
				whys = append(whys, why)
				continue
			}
			if d, _ := o.Compare(best); !found || d > 0 || d == 0 && o.Conditions > best.Conditions {
				best, found = o, true
			}
		}
		if !found {
			return h, strings.Join(whys, ", and ")
		}
		h.join(best)
	}
	w.count(&h)
	return h, ""
}

// AboutPeople reports whether a who, or any that stands within it, asks anything of the
// person, and not of the evening alone.
func (w *Who) AboutPeople() (yes bool) {
	w.Each(func(w *Who) {
		yes = yes || w.Nobody || w.Account != "" || w.Crews != nil || w.Mark != "" || w.Role != "" || w.Tag != "" || w.Trusted || w.Standing != "" || w.Attended > 0 || w.Date != nil
	})
	return yes
}

// OfTheEvening is what is left of a who for somebody who may always ask: where and when,
// but not whom. A branch that asks nothing else holds then, and an exception for some
// people excepts nobody.
func (w *Who) OfTheEvening() Who {
	out := Who{Platform: w.Platform, Days: w.Days, Hours: w.Hours, Since: w.Since, Until: w.Until, Fields: w.Fields}
	for i := range w.All {
		out.All = append(out.All, w.All[i].OfTheEvening())
	}
	for i := range w.Any {
		out.Any = append(out.Any, w.Any[i].OfTheEvening())
	}
	for i := range w.Not {
		if !w.Not[i].AboutPeople() {
			out.Not = append(out.Not, w.Not[i])
		}
	}
	return out
}

// count adds this who's own conditions to what holds.
func (w *Who) count(h *Held) {
	if w.Account != "" {
		h.take(ForPerson, 0, "these words are this person's own")
	}
	if w.Crews != nil {
		if len(w.Crews.Of) > 1 && w.Crews.In != "any" {
			h.take(ForCombination, len(w.Crews.Of), "is "+w.Crews.String())
		} else {
			h.take(ForCrew, 0, "is "+w.Crews.String())
		}
	}
	if w.Date != nil {
		h.take(ForDate, w.Date.rank(), w.Date.String())
	}
	if w.Mark != "" {
		h.take(ForKind, 0, "is a "+string(w.Mark))
	}
	if w.Role != "" {
		h.take(ForKind, 0, "is a "+w.roleWords())
	}
	if w.Tag != "" {
		h.take(ForKind, 0, "is tagged "+w.Tag)
	}
	if w.Trusted {
		h.take(ForKind, 0, "is trusted")
	}
	if w.Standing != "" {
		h.take(ForStanding, 0, aStanding(w.Standing))
	}
	if w.Platform != "" {
		h.take(ForAnyone, 0, "is on "+w.Platform)
	}
	if w.Attended > 0 {
		h.take(ForAnyone, 0, fmt.Sprintf("was at %d streams or more", w.Attended))
	}
	if len(w.Days) > 0 {
		h.take(ForAnyone, 0, "comes on "+plain.List(w.Days, "or"))
	}
	if w.Hours != nil {
		h.take(ForAnyone, 0, "comes "+w.Hours.String())
	}
	if w.Since != "" || w.Until != "" {
		h.take(ForAnyone, 0, "comes "+w.season())
	}
	for _, k := range sortedKeys(w.Fields) {
		h.take(ForAnyone, 0, fmt.Sprintf("has %s “%s”", k, w.Fields[k]))
	}
}

func (w *Who) season() string {
	switch {
	case w.Until == "":
		return "from " + w.Since
	case w.Since == "":
		return "until " + w.Until
	}
	return "from " + w.Since + " to " + w.Until
}

func (k *Crews) hold(in []string) bool {
	n := 0
	for _, c := range k.Of {
		if slices.Contains(in, c) {
			n++
		}
	}
	switch k.In {
	case "one":
		return n == 1
	case "any":
		return n > 0
	}
	return n == len(k.Of)
}

// String is the membership in words, to stand after "is" or "those".
func (k *Crews) String() string {
	switch {
	case len(k.Of) == 1:
		return "in " + k.Of[0]
	case k.In == "one":
		return "in exactly one of " + plain.List(k.Of, "and")
	case k.In == "any":
		return "in " + plain.List(k.Of, "or")
	case len(k.Of) == 2:
		return "in both " + plain.List(k.Of, "and")
	}
	return "in all of " + plain.List(k.Of, "and")
}

// Hold reports whether a moment is within the hours, in its zone.
func (o *Hours) Hold(at time.Time) bool {
	now := at.Format("15:04")
	if o.From <= o.To {
		return o.From <= now && now < o.To
	}
	return now >= o.From || now < o.To
}

// Ends is when hours end that a moment lies in, in its zone. On a night in which that time of day does not come it
// is the next that does.
func (o *Hours) Ends(at time.Time) time.Time {
	to, err := time.Parse("15:04", o.To)
	if err != nil {
		return at
	}
	end := time.Date(at.Year(), at.Month(), at.Day(), to.Hour(), to.Minute(), 0, 0, at.Location())
	if !end.After(at) {
		end = time.Date(at.Year(), at.Month(), at.Day()+1, to.Hour(), to.Minute(), 0, 0, at.Location())
	}
	return end
}

// Check reports hours that are no times of day.
func (o *Hours) Check(at string, fault func(at, what, remedy string)) {
	for name, s := range map[string]string{".from": o.From, ".to": o.To} {
		if _, err := time.Parse("15:04", s); err != nil || len(s) != 5 {
			fault(at+name, fmt.Sprintf("%q is no time of day", s), `write hours and minutes, such as "18:30"`)
		}
	}
}

func (o *Hours) String() string { return "from " + o.From + " to " + o.To }

// roleWord is what a role is called.
func roleWord(r event.Role) string {
	if r == event.VIP {
		return "VIP"
	}
	return string(r)
}

// roleWords is the role somebody must have, in words.
func (w *Who) roleWords() string {
	if w.OrAbove {
		return roleWord(w.Role) + " or above"
	}
	return roleWord(w.Role)
}

func sortedKeys(m map[string]string) []string {
	if len(m) == 0 {
		return nil
	}
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	return keys
}

// Check reports what in a who can never be meant.
func (w *Who) Check(at string, fault func(at, what, remedy string)) {
	switch w.Role {
	case "", event.Streamer, event.CoHost, event.Moderator, event.VIP, event.Subscriber, event.Follower:
	default:
		fault(at+".role", fmt.Sprintf("%q is no role", w.Role), "use streamer, co-host, moderator, vip, subscriber or follower")
	}
	if w.Standing != "" && !slices.Contains(people.Standings, w.Standing) {
		fault(at+".standing", fmt.Sprintf("%q is no standing", w.Standing), "use newcomer, returning, regular or long away")
	}
	if w.Mark != "" && w.Mark != people.Raider && w.Mark != people.Fellow {
		fault(at+".mark", fmt.Sprintf("%q is no mark", w.Mark), "use raider or fellow streamer")
	}
	if k := w.Crews; k != nil {
		if len(k.Of) == 0 {
			fault(at+".crews.of", "names no crew", "name one or more, or take the condition out")
		}
		if k.In != "" && k.In != "all" && k.In != "one" && k.In != "any" {
			fault(at+".crews.in", fmt.Sprintf("%q is no way to be in crews", k.In), "use all, one or any")
		}
	}
	if w.Date != nil {
		w.Date.check(at+".date", fault)
	}
	if w.Attended < 0 {
		fault(at+".attended", "is below zero", "count streams from 1")
	}
	for _, d := range w.Days {
		if !slices.ContainsFunc(weekdays, func(k string) bool { return strings.EqualFold(k, d) }) {
			fault(at+".days", fmt.Sprintf("%q is no weekday", d), "write them out, such as Thursday")
		}
	}
	if w.Hours != nil {
		w.Hours.Check(at+".hours", fault)
	}
	for name, s := range map[string]string{".since": w.Since, ".until": w.Until} {
		if _, err := time.Parse(time.DateOnly, s); s != "" && err != nil {
			fault(at+name, fmt.Sprintf("%q is no day", s), `write year, month and day, such as "2026-11-24"`)
		}
	}
	if w.Since != "" && w.Until != "" && w.Until < w.Since {
		fault(at+".until", "comes before it begins", "let until be the later day")
	}
	for name, inner := range map[string][]Who{"all": w.All, "any": w.Any, "not": w.Not} {
		for i := range inner {
			inner[i].Check(fmt.Sprintf("%s.%s.%d", at, name, i), fault)
		}
	}
}

var weekdays = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}
