package room

import (
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// firstLine says what an arrival is the first line of.
func (d *Turn) FirstLine() string {
	if d.IsLive() {
		return "first line in this stream"
	}
	return "first line while no stream is on"
}

func (d *Turn) Cause(person event.Person) who.Cause {
	standing, _ := d.Standing()
	c := who.Cause{When: d.Event.Type, Person: d.withRoles(person), Known: d.Known, Standing: standing, At: d.Now.In(d.Plan.Zone), Live: d.IsLive(),
		Quantities: d.State.Quantities(d.Event.Data), Fields: happening.OfData(d.Event.Data).Asked(d.Event.Data)}
	if d.State.RaidOf(person.Key()) != nil {
		c.Marks = append(c.Marks, people.Raider)
	}
	if d.Known.Streams() {
		c.Marks = append(c.Marks, people.Fellow)
	}
	return c
}

func (d *Turn) Standing() (people.Standing, string) {
	return d.Plan.stand.Standing(d.Known, d.State.Past, d.Now, d.Plan.Zone)
}

// withRoles adds the roles given by hand where the platform tells none.
func (d *Turn) withRoles(p event.Person) event.Person {
	if !p.Is(event.Streamer) && p.ID != "" && d.IsStreamer(p) { // by the account that lines go out under
		p.Roles = append(slices.Clone(p.Roles), event.Streamer)
	}
	if d.Known.MemberBy(p) == event.CoHost {
		p.Roles = append(slices.Clone(p.Roles), event.CoHost)
	}
	if d.Known == nil || len(d.Known.Roles) == 0 {
		return p
	}
	if door := d.Plan.DoorFor(p.Platform); door != nil && door.Profile.RolesTag == "" {
		p.Roles = append(slices.Clone(p.Roles), d.Known.Roles...)
	}
	return p
}

// args are the fill-ins every when has.
func (d *Turn) Args() wording.Args {
	a := wording.Args{"channel": wording.Name(d.Plan.Channel), "now": wording.At(d.Now.In(d.Plan.Zone))}
	if who := d.Event.Who(); who != nil {
		a["platform"] = wording.Str(plain.Titled(who.Platform))
	}
	d.own(a)
	return a
}

// about are the fill-ins about a person.
func (d *Turn) About(person event.Person) wording.Args {
	a := d.Args()
	a["name"] = wording.Value{Text: d.SayName(person)}
	n := int64(1)
	if d.Known != nil {
		n += int64(d.Known.Attended)
	}
	a["streams"] = wording.Num(n)
	if d.Known != nil && d.Known.Followed != nil {
		a.Maybe("followed", wording.At(d.Known.Followed.In(d.Plan.Zone)))
	}
	d.found(person, a)
	return a
}

// found are the fill-ins about where somebody streams: as their platform told it
// lately, else where its streams are to be found.
func (d *Turn) found(person event.Person, a wording.Args) {
	if d.Known != nil && d.Known.Fetched != nil && d.Known.Fetched.Link != "" {
		a.Maybe("link", wording.Str(d.Known.Fetched.Link))
		a.Maybe("category", wording.Str(d.Known.Fetched.Category))
	} else if door := d.Plan.LinkDoor(person.Platform); door != nil && PlainLogin(person.Login) {
		a.Maybe("link", wording.Str(strings.ReplaceAll(door.Profile.Link, "{login}", person.Login)))
	}
}

// told are the fill-ins about a stream.
func (d *Turn) AboutStream(info happening.StreamInfo) wording.Args {
	a := d.Args()
	a["platform"] = wording.Str(plain.Titled(info.Platform))
	a.Maybe("title", wording.Str(info.Title))
	a.Maybe("category", wording.Str(info.Category))
	a.Maybe("link", wording.Str(info.URL))
	return a
}

// sayName is how the house says somebody's name: as set by hand, else as shown,
// cleaned; a name of nothing but harm falls back to the login, then to "friend".
func (d *Turn) SayName(p event.Person) string {
	if d.Known != nil && d.Known.SayAs != "" {
		return d.Known.SayAs
	}
	for _, n := range []string{p.Shown(), p.Login, p.ID} {
		if c := plain.Name(n); c != "" {
			return c
		}
	}
	return "friend"
}

// isStreamer reports whether somebody is the streamer, by their role, as the owner who
// linked this account, or by the account that lines go out under.
func (d *Turn) IsStreamer(who event.Person) bool {
	door := d.Plan.StreamerDoor(who.Platform)
	return who.Is(event.Streamer) || d.Known.MemberBy(who) == event.Streamer || door != nil && strings.EqualFold(door.Account, who.Login)
}

// plainLogin reports whether a name could be a login that a platform is asked for.
func PlainLogin(name string) bool {
	return name != "" && len(name) <= 60 && !strings.ContainsFunc(name, func(r rune) bool {
		return r != '_' && r != '-' && r != '.' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z')
	})
}

// meantBy is the cause as whoever a command names is behind it; false where it names nobody.
func (d *Turn) meantBy(c who.Cause) (who.Cause, bool) {
	if c.When != happening.Command || d.Meant == nil {
		return c, false
	}
	was := d.Known
	d.Known = d.Meant.Known
	about := d.Cause(d.Meant.Person)
	d.Known = was
	about.When, about.Quantities, about.Fields = c.When, c.Quantities, c.Fields
	return about, true
}

// aboutMeant are the fill-ins about whom a command means, in place of those about the
// asker.
func (d *Turn) AboutMeant(args wording.Args) wording.Args {
	was := d.Known
	d.Known = d.Meant.Known
	about := d.About(d.Meant.Person)
	d.Known = was
	about.Maybe("asker", args["name"])
	d.more(about)
	return about
}

// more fills in what a platform just told of whom a command means.
func (d *Turn) more(args wording.Args) {
	if d.Heard != nil {
		args.Maybe("link", wording.Str(d.Heard.Link))
		args.Maybe("category", wording.Str(d.Heard.Category))
	}
}

// own fills in the channel's own fill-ins.
func (d *Turn) own(a wording.Args) {
	for i := range d.Plan.FillIns {
		f := &d.Plan.FillIns[i]
		chance := func(n uint64) uint64 { return wording.Seed(d.Plan.Seed, d.chanceOf(), "fill-in", f.Name) % n }
		switch f.Kind {
		case "dice":
			a[f.Name] = wording.Num(f.From + int64(chance(uint64(f.To-f.From+1))))
		case "list":
			a[f.Name] = wording.Str(f.List[chance(uint64(len(f.List)))])
		case "clock":
			if zone := d.Plan.clocks[f.Zone]; zone != nil {
				a[f.Name] = wording.At(d.Now.In(zone))
			}
		case "last":
			var names []string
			for _, r := range d.State.Latest[f.Who] {
				if len(names) < f.Most {
					names = append(names, r.Name)
				}
			}
			a.Maybe(f.Name, wording.Value{Text: plain.List(names, "and")})
		}
	}
}
