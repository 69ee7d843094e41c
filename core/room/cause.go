package room

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// FirstLine says what an arrival is the first line of.
func (t *Turn) FirstLine() string {
	if t.IsLive() {
		return "first line in this stream"
	}
	return "first line while no stream is on"
}

// Cause is the event as courtesies are matched against it, seen through somebody.
func (t *Turn) Cause(person event.Person) who.Cause {
	standing, _ := t.Standing()
	c := who.Cause{When: t.Event.Type, Person: t.withRoles(person), Known: t.Known, Standing: standing, At: t.Now.In(t.Plan.Zone), Live: t.IsLive(),
		Quantities: t.State.Quantities(t.Event.Data), Fields: happening.OfData(t.Event.Data).Asked(t.Event.Data)}
	if t.Plan.dated {
		c.Dates, _ = t.DaysOf(person, t.Known)
	}
	if t.State.RaidOf(person.Key()) != nil {
		c.Marks = append(c.Marks, people.Raider)
	}
	if t.Known.Streams() {
		c.Marks = append(c.Marks, people.Fellow)
	}
	return c
}

// Standing is how whoever caused it stands, and why.
func (t *Turn) Standing() (people.Standing, string) {
	return t.Plan.stand.Standing(t.Known, t.State.Past, t.Now, t.Plan.Zone)
}

// withRoles adds the roles given by hand where the platform tells none.
func (t *Turn) withRoles(p event.Person) event.Person {
	if !p.Is(event.Streamer) && p.ID != "" && t.IsStreamer(p) { // by the account that lines go out under
		p.Roles = append(slices.Clone(p.Roles), event.Streamer)
	}
	if t.Known.MemberBy(p) == event.CoHost {
		p.Roles = append(slices.Clone(p.Roles), event.CoHost)
	}
	if t.Known == nil || len(t.Known.Roles) == 0 {
		return p
	}
	if t.Plan.DoorFor(p.Platform) != nil && t.Plan.Profile(p.Platform).Chat.RolesTag == "" {
		p.Roles = append(slices.Clone(p.Roles), t.Known.Roles...)
	}
	return p
}

// Args are the fill-ins every when has.
func (t *Turn) Args() wording.Args {
	a := wording.Args{"channel": wording.Name(t.Plan.Channel), "now": wording.At(t.Now.In(t.Plan.Zone))}
	if who := t.Event.Who(); who != nil {
		a["platform"] = wording.Str(plain.Titled(who.Platform))
	}
	t.evening(a)
	t.own(a)
	return a
}

// Askable fills in what viewers can ask.
func (t *Turn) Askable(a wording.Args) { maps.Copy(a, t.Plan.asks) }

// evening are the fill-ins about the evening and the channel, as far as any wording has them.
func (t *Turn) evening(a wording.Args) {
	uses := t.Plan.uses
	if s := &t.State.Stream; t.IsLive() {
		if uses["upTime"] && !s.Opened.IsZero() {
			a.Maybe("upTime", wording.Str(dates.Age(s.Opened, t.Now, t.Plan.Zone)))
		}
		if uses["streamTitle"] || uses["streamCategory"] {
			if p := t.streamOn(); p != nil {
				a.Maybe("streamTitle", wording.Str(plain.Text(p.Title)))
				a.Maybe("streamCategory", wording.Str(plain.Text(p.Category)))
			}
		}
	}
	if uses["evenings"] {
		n := t.State.Stream.Number
		if past := t.State.Past; n == 0 && len(past) > 0 {
			n = past[len(past)-1].Number
		}
		a["evenings"] = wording.Num(int64(n))
	}
	if m, ok := t.Memory["social"].(interface{ LatestPost() string }); ok && uses["latestPost"] {
		a.Maybe("latestPost", wording.Str(m.LatestPost()))
	}
	if uses["together"] || uses["alongside"] {
		t.together(a)
	}
	if d, ok := t.Memory["draw"].(drawing); ok && (uses["draw"] || uses["drawEntries"]) {
		if prize, entries, on := d.GoesOn(); on {
			a.Maybe("draw", wording.Str(prize))
			a.Maybe("drawEntries", wording.Num(entries))
		}
	}
	if r, ok := t.Memory["points"].(rewarding); ok {
		r.Ranking(t, a)
	}
	for _, name := range Counted {
		if uses[name] {
			if n, ok := t.counted(name); ok {
				a.Maybe(name, wording.Num(n))
			}
		}
	}
}

// rewarding is what the room of points fills in: of somebody, and of everybody.
type rewarding interface {
	Purse(t *Turn, p event.Person, a wording.Args)
	Ranking(t *Turn, a wording.Args)
}

// drawing is what the room of draws tells of the one that goes on: what is to be won, how many have entered it, and under which
// number somebody did.
type drawing interface {
	GoesOn() (prize string, entries int64, on bool)
	NumberOf(accounts []string) (n int64, in bool)
}

// streamOn is the stream on the platform that the event is of, else on the first by name that is
// live; or nil.
func (t *Turn) streamOn() *attendance.Platform {
	all := t.State.Stream.Platforms
	if p := all[t.platform()]; p != nil && p.Live {
		return p
	}
	for _, name := range slices.Sorted(maps.Keys(all)) {
		if all[name].Live {
			return all[name]
		}
	}
	return nil
}

// platform is where the event's person is, or "".
func (t *Turn) platform() string {
	if who := t.Event.Who(); who != nil {
		return who.Platform
	}
	return ""
}

// Counted are the fill-ins that platforms are asked for.
var Counted = []string{"followers", "subscribers", "watching"}

// Watching is how many watch now, as the platforms told it lately; 0 where they did not.
func (t *Turn) Watching() int64 {
	n, _ := t.counted("watching")
	return n
}

// counted is a number that platforms told lately: of the one it happened on, else of all of them
// together.
func (t *Turn) counted(name string) (int64, bool) {
	c, ok := t.Memory["count"].(interface {
		Count(t *Turn, platform, name string) (int64, bool)
	})
	if !ok {
		return 0, false
	}
	return c.Count(t, t.platform(), name)
}

// About are the fill-ins about a person.
func (t *Turn) About(person event.Person) wording.Args {
	a := t.Args()
	a["name"] = wording.Value{Text: t.SayName(person)}
	n := int64(1)
	if t.Known != nil {
		n += int64(t.Known.Attended)
	}
	a["streams"] = wording.Num(n)
	if t.Known != nil && t.Known.Followed != nil {
		a.Maybe("followed", wording.At(t.Known.Followed.In(t.Plan.Zone)))
	}
	t.theirs(person, a)
	t.aboutDays(person, t.Known, a)
	t.found(person, a)
	return a
}

// theirs are the fill-ins about somebody that some wording has.
func (t *Turn) theirs(person event.Person, a wording.Args) {
	uses := t.Plan.uses
	if uses["standing"] {
		standing, _ := t.Standing()
		a["standing"] = wording.Str(string(standing))
	}
	if uses["inARow"] {
		var recent []int
		if t.Known != nil {
			recent = t.Known.Recent
		}
		a["inARow"] = wording.Num(int64(attendance.Streak(recent, t.State.Past, true)))
	}
	if uses["follows"] {
		switch {
		case t.IsStreamer(person):
			a["follows"] = wording.Str("streamer")
		case t.Known != nil && t.Known.Followed != nil || person.Is(event.Follower):
			a["follows"] = wording.Str("yes")
		default:
			a["follows"] = wording.Str("no")
		}
	}
	if r, ok := t.Memory["points"].(rewarding); ok {
		r.Purse(t, person, a)
	}
	if d, ok := t.Memory["draw"].(drawing); ok && uses["drawNumber"] {
		if n, in := d.NumberOf(t.Known.AccountsWith(person.KeyOrNone())); in {
			a.Maybe("drawNumber", wording.Num(n))
		}
	}
	if uses["followAge"] && t.Known != nil && t.Known.Followed != nil {
		a.Maybe("followAge", wording.Str(dates.Age(*t.Known.Followed, t.Now, t.Plan.Zone)))
	}
}

// found are the fill-ins about where somebody streams: as their platform told it
// lately, else where its streams are to be found.
func (t *Turn) found(person event.Person, a wording.Args) {
	if t.Known != nil && t.Known.Fetched != nil && t.Known.Fetched.Link != "" {
		a.Maybe("link", wording.Str(t.Known.Fetched.Link))
		a.Maybe("category", wording.Str(t.Known.Fetched.Category))
	} else if link := t.Plan.Profile(person.Platform).Link; link != "" && PlainLogin(person.Login) {
		a.Maybe("link", wording.Str(strings.ReplaceAll(link, "{login}", person.Login)))
	}
}

// AboutStream are the fill-ins about a stream.
func (t *Turn) AboutStream(info happening.StreamInfo) wording.Args {
	a := t.Args()
	a["platform"] = wording.Str(plain.Titled(info.Platform))
	a["years"] = wording.Num(0)
	a.Maybe("title", wording.Str(info.Title))
	a.Maybe("category", wording.Str(info.Category))
	a.Maybe("link", wording.Str(info.URL))
	return a
}

// AboutAir fills what every wording about the stream has, of all platforms that are live: in the order in which they
// came.
func (t *Turn) AboutAir() wording.Args {
	on := t.State.Stream.Platforms
	names := slices.SortedFunc(maps.Keys(on), func(a, b string) int { return cmp.Or(on[a].Since.Compare(on[b].Since), strings.Compare(a, b)) })
	names = slices.DeleteFunc(names, func(name string) bool { return !on[name].Live })
	info := happening.StreamInfo{}
	var titles, links []string
	for _, name := range names {
		p := on[name]
		info.Platform, info.Title, info.Category = cmp.Or(info.Platform, name), cmp.Or(info.Title, p.Title), cmp.Or(info.Category, p.Category)
		titles = append(titles, plain.Titled(name))
		if p.URL != "" {
			links = append(links, p.URL)
		}
	}
	info.URL = plain.List(links, "and")
	a := t.AboutStream(info)
	if len(titles) > 0 {
		a["platform"] = wording.Str(plain.List(titles, "and"))
	}
	return a
}

// SayName is how the house says somebody's name: as set by hand, else as shown,
// cleaned; a name of nothing but harm falls back to the login, then to "friend".
func (t *Turn) SayName(p event.Person) string {
	if t.Known != nil && t.Known.SayAs != "" {
		return t.Known.SayAs
	}
	for _, n := range []string{p.Shown(), p.Login, p.ID} {
		if c := plain.Name(n); c != "" {
			return c
		}
	}
	return "friend"
}

// IsStreamer reports whether somebody is the streamer, by their role, as the owner who
// linked this account, or by the account that lines go out under.
func (t *Turn) IsStreamer(who event.Person) bool {
	door := t.Plan.StreamerDoor(who.Platform)
	return who.Is(event.Streamer) || t.Known.MemberBy(who) == event.Streamer || door != nil && strings.EqualFold(door.Account, who.Login)
}

// PlainLogin reports whether a name could be a login that a platform is asked for.
func PlainLogin(name string) bool {
	return name != "" && len(name) <= 60 && !strings.ContainsFunc(name, func(r rune) bool {
		return r != '_' && r != '-' && r != '.' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z')
	})
}

// Knowing runs f as if the event were of somebody else, whom the house knows so.
func (t *Turn) Knowing(known *people.Known, f func()) {
	was := t.Known
	t.Known = known
	f()
	t.Known = was
}

// meantBy is the cause as whoever a command names is behind it; false where it names nobody.
func (t *Turn) meantBy(c who.Cause) (who.Cause, bool) {
	if c.When != happening.Command || t.Meant == nil {
		return c, false
	}
	var about who.Cause
	t.Knowing(t.Meant.Known, func() { about = t.Cause(t.Meant.Person) })
	about.When, about.Quantities, about.Fields, about.Heard = c.When, c.Quantities, c.Fields, c.Heard
	return about, true
}

// AboutMeant are the fill-ins about whom a command means, in place of those about the
// asker.
func (t *Turn) AboutMeant(args wording.Args) wording.Args {
	var about wording.Args
	t.Knowing(t.Meant.Known, func() { about = t.About(t.Meant.Person) })
	about.Maybe("asker", args["name"])
	for k, v := range args { // what was asked, whoever is meant
		if _, has := about[k]; !has && !happening.IsAboutThem(k) {
			about[k] = v
		}
	}
	t.more(about)
	return about
}

// more fills in what a platform just told of whom a command means.
func (t *Turn) more(args wording.Args) {
	if t.Heard != nil {
		args.Maybe("link", wording.Str(t.Heard.Link))
		args.Maybe("category", wording.Str(t.Heard.Category))
	}
}

// fetched fills in the last good text of an address, and how old it is.
func (t *Turn) fetched(f *housefile.FillIn, a wording.Args) {
	m, ok := t.Memory["fetched"].(interface {
		Fetched(name, address string, now time.Time) (string, time.Duration, bool)
	})
	if !ok {
		return
	}
	if text, age, known := m.Fetched(f.Name, f.Address, t.Now); known {
		a.Maybe(f.Name, wording.Str(plain.Text(text)))
		a.Maybe(f.Name+"Age", wording.Str(dates.Age(t.Now.Add(-age), t.Now, t.Plan.Zone)))
	}
}

// own fills in the channel's own fill-ins.
func (t *Turn) own(a wording.Args) {
	for i := range t.Plan.FillIns {
		f := &t.Plan.FillIns[i]
		chance := func(n uint64) uint64 { return wording.Seed(t.Plan.Seed, t.chanceOf(), "fill-in", f.Name) % n }
		switch f.Kind {
		case "dice":
			a[f.Name] = wording.Num(f.From + int64(chance(uint64(f.To-f.From+1))))
		case "list":
			a[f.Name] = wording.Str(f.List[chance(uint64(len(f.List)))])
		case "clock":
			if zone := t.Plan.clocks[f.Zone]; zone != nil {
				a[f.Name] = wording.At(t.Now.In(zone))
			}
		case "fetched":
			t.fetched(f, a)
		case "last":
			var names []string
			for _, r := range t.State.Latest[f.Who] {
				if len(names) < f.Most {
					names = append(names, r.Name)
				}
			}
			a.Maybe(f.Name, wording.Value{Text: plain.List(names, "and")})
		}
	}
}
