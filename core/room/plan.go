package room

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/prose"
	"vividporch/core/spoken"
	"vividporch/core/wording"
)

// Plan is a version of the settings made ready for deciding.
type Plan struct {
	Version             int64
	*housefile.Settings                     // as they hold
	Whole               *housefile.Settings // as they were written: the same, but for what is left out
	Left                []courtesy.Fault    // what does not hold any more, and is left out
	Set                 *courtesy.Set
	Zone                *time.Location

	never      people.NeverList
	neverShout people.NeverList
	neighbours people.NeverList
	rules      pace.Rules
	grace      time.Duration
	joined     []*wording.Wording

	stand    people.Rules
	sections map[string]any            // what rooms made ready of their settings, by room
	clocks   map[string]*time.Location // of the own fill-ins
	reach    courtesy.World
	asks     wording.Args    // what viewers can ask, for the answers that tell it
	dated    bool            // some courtesy asks for a day of somebody's
	edits    bool            // some command keeps a birthday
	keeps    bool            // some command has another answer what a line says
	uses     map[string]bool // fill-ins that are worked out only where some wording may have them
	chat     []string        // platforms the house can speak on, in the order of the doors
}

// Ready checks settings and makes them a plan. With faults there is no plan, and
// the version before stays in force.
func Ready(s *housefile.Settings, version int64, rooms []Room) (*Plan, []courtesy.Fault) {
	faults := s.Check()
	fault := func(at, what, remedy string) {
		faults = append(faults, courtesy.Fault{At: at, What: what, Remedy: remedy})
	}
	p := &Plan{Version: version, Settings: s, Whole: s, never: people.MakeNeverList(s.Never), neverShout: people.MakeNeverList(s.ShoutOuts.Never), neighbours: people.MakeNeverList(s.Neighbours), grace: attendance.DefaultGrace, stand: s.Standings.Or(people.DefaultRules), clocks: map[string]*time.Location{}, sections: map[string]any{}}
	if s.Grace != nil {
		p.grace = Seconds(*s.Grace)
	}
	p.Zone, _ = time.LoadLocation(s.Zone)
	for _, r := range rooms {
		p.sections[r.Name] = r.ready(s, func(f courtesy.Fault) { faults = append(faults, f) })
	}
	p.rules = pace.Rules{Gap: Seconds(s.Pace.GapSeconds), JoinAt: s.Pace.JoinAt, JoinEvery: Seconds(s.Pace.JoinEverySeconds), Person: Seconds(s.Pace.PersonSeconds), ShoutOuts: Seconds(s.ShoutOuts.GapSeconds), Limits: map[string]pace.Limit{}, Acts: map[string]pace.ActLimit{}}
	for _, d := range s.Doors {
		if d.Kind == "irc" && d.As == "" {
			if !slices.Contains(p.chat, d.Platform) {
				p.chat = append(p.chat, d.Platform)
			}
			chat := &s.Profile(d.Platform).Chat
			for act, l := range s.Profile(d.Platform).Acts.Limits {
				p.rules.Acts[pace.Acting(d.Platform, act)] = pace.ActLimit{Gap: Seconds(l.Seconds), Person: Seconds(l.PersonSeconds)}
			}
			p.rules.Limits[d.Platform] = pace.Limit{Lines: chat.Lines, Window: Seconds(chat.WindowSeconds), Bytes: s.TextBytes(&d)}
		}
		if d.Account != "" {
			p.never[strings.ToLower(d.Account)] = true
		}
	}
	p.reach = p.world(fault)
	set, more := courtesy.Load(s.Courtesy, p.reach)
	p.Set = set
	faults = append(faults, more...)
	joined := s.JoinWords
	if len(joined) == 0 {
		joined = []string{joinedWords}
	}
	p.joined = Words("joined", joined, happening.Of(happening.Arrival).JoinedOffers(), func(f courtesy.Fault) { faults = append(faults, f) })
	if len(faults) > 0 {
		return nil, faults
	}
	p.uses = usedIn(s)
	p.dated = slices.ContainsFunc(s.Courtesy, func(c courtesy.Courtesy) bool {
		return c.Who.AsksDates() || slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Only != nil && o.Only.AsksDates() })
	})
	p.keeps = slices.ContainsFunc(s.Courtesy, func(c courtesy.Courtesy) bool {
		return slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Kind() == output.KindKeep })
	})
	p.edits = slices.ContainsFunc(s.Courtesy, func(c courtesy.Courtesy) bool {
		return slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Kind() == output.KindBirthday })
	})
	commands, amounts := prose.AskList(s)
	p.asks = wording.Args{}
	p.asks.Maybe("commands", wording.Str(commands))
	p.asks.Maybe("amounts", wording.Str(amounts))
	p.asks.Maybe("list", wording.Str(p.Reachable("/asks")))
	return p, nil
}

// Reachable is the address of one of the house's pages, for viewers; "" where they cannot reach it.
func (p *Plan) Reachable(path string) string {
	if p.Settings.Reach.How != housefile.Public {
		return ""
	}
	return strings.TrimRight(p.Settings.Reach.Address, "/") + path
}

// dear are the fill-ins that take some working out.
var dear = slices.Concat([]string{"upTime", "latestPost", "streamTitle", "streamCategory", "evenings", "standing", "inARow", "follows", "followAge", "together", "alongside", "draw", "drawEntries", "drawNumber", "points", "gathered", "level", "levelName", "rank", "ranks", "seasonRanks", "mostActive", "birthday", "birthdayIs", "daysToGo", "years", "daysAgo", "visitAge"}, Counted)

// usedIn tells which of them may stand in some words of a house file.
func usedIn(s *housefile.Settings) map[string]bool {
	out := map[string]bool{}
	raw, err := json.Marshal(s)
	for _, name := range dear {
		out[name] = err != nil || bytes.Contains(raw, []byte(name)) || bytes.Contains(raw, []byte(wording.Companion(name)))
	}
	return out
}

// Uses reports whether some words may have a fill-in that takes some working out.
func (p *Plan) Uses(name string) bool { return p.uses[name] }

// joinedWords greet several people unless the streamer has words of their own: nothing
// may flood for want of words.
const joinedWords = "Welcome {names}{more, plural, =0 {} other { and # more}}!"

// placeCannot is why a place cannot do something; "" where it can, or is not there at all.
func (p *Plan) placeCannot(name, what string) string {
	if pl := p.Settings.PlaceNamed(name); pl != nil {
		return pl.Cannot(what, p.Settings.Profile)
	}
	return ""
}

// fittingCannot is why a fitting cannot do one of the things of its kind; "" where it can, or is not there at all.
func (p *Plan) fittingCannot(name, manner string) string {
	if f := p.Settings.FittingNamed(name); f != nil && f.Spoken() != nil {
		return f.Spoken().Cannot(manner)
	}
	return ""
}

// screenLacks is why something is shown on no overlay, there where it is to be; "" where it is.
func (p *Plan) screenLacks(effect output.Kind, at *output.OnScreen) string {
	for i := range p.Settings.Overlays {
		o := &p.Settings.Overlays[i]
		if at.On != "" && at.On != o.ID {
			continue
		}
		if effect == output.KindSound || effect == output.KindSpeak || slices.ContainsFunc(o.Boxes, func(b box.Box) bool {
			return box.Of(b.Kind()).Takes == string(effect) && (at.Box == "" || at.Box == b.ID)
		}) {
			return ""
		}
	}
	return fmt.Sprintf("no overlay shows a %s in %s", effect, strings.Trim(cmp.Or(at.Box, "a box of its own")+" on "+cmp.Or(at.On, "any of them"), " "))
}

// world is what the courtesies of these settings can reach and offer.
func (p *Plan) world(fault func(at, what, remedy string)) courtesy.World {
	s := p.Settings
	w := courtesy.World{World: output.World{Places: map[string]bool{}, Fittings: map[string]string{}, Scenes: map[string][]string{}, Chat: p.chat, Cannot: p.Cannot, PlaceCannot: p.placeCannot, Overlays: len(s.Overlays) > 0, ScreenLacks: p.screenLacks, FittingCannot: p.fittingCannot, Commands: map[string]bool{}}, Events: map[string][]wording.FillIn{}}
	for _, pl := range s.Places {
		w.Places[pl.Name] = true
	}
	for _, f := range s.Fittings {
		w.Fittings[f.Name], w.Scenes[f.Name] = f.Kind, f.Scenes
	}
	for _, d := range s.Doors {
		if d.As == output.AsStreamer {
			w.Streamer = append(w.Streamer, d.Platform)
		}
	}
	taken := map[string]bool{}
	for _, f := range slices.Concat(happening.Of(happening.RaidCameType).Offers(), happening.Of(happening.StreamOpenedType).Offers(), happening.Of(happening.RaidCameType).JoinedOffers()) {
		taken[f.Name] = true
	}
	for i := range s.FillIns {
		f, at := &s.FillIns[i], fmt.Sprintf("fillIns.%d", i)
		what, remedy := f.Fault()
		switch {
		case what != "":
			fault(at, what, remedy)
			continue
		case taken[f.Name]:
			fault(at+".name", "{"+f.Name+"} is there already", "give it a name of its own")
			continue
		case f.Kind == "clock":
			zone, _ := time.LoadLocation(f.Zone)
			p.clocks[f.Zone] = zone
		}
		taken[f.Name] = true
		w.FillIns = append(w.FillIns, f.Offer())
		if f.Kind == "fetched" {
			w.FillIns = append(w.FillIns, f.Age())
		}
	}
	for _, o := range s.Own {
		w.Events[o.Event] = append(w.Events[o.Event], o.Brings()...)
	}
	for _, c := range s.Courtesy {
		if c.When == happening.Command {
			w.Commands[c.ID] = true
		}
		for _, o := range c.Do {
			if raises, ok := o.Do.(*output.Raise); ok {
				w.Events[raises.Event] = append(w.Events[raises.Event], housefile.Raises(raises, slices.Concat(happening.Of(c.When).Offers(), w.FillIns))...)
			}
		}
	}
	return w
}

// World is what the courtesies of this plan can reach and offer.
func (p *Plan) World() courtesy.World { return p.reach }

// ChannelOn is the channel's own login on a platform: that of the door that speaks as the streamer, else
// the channel's name.
func (p *Plan) ChannelOn(platform string) string {
	if s := p.StreamerDoor(platform); s != nil {
		return s.Account
	}
	return p.Channel
}

// IsNeighbour reports whether somebody is another assistant in the channel.
func (p *Plan) IsNeighbour(who event.Person) bool {
	return len(p.neighbours) > 0 && p.neighbours.Has(who)
}

// IsOwn reports whether somebody is an account of the house's own.
func (p *Plan) IsOwn(who event.Person) bool {
	return slices.ContainsFunc(p.Settings.Doors, func(d housefile.Door) bool {
		return d.Platform == who.Platform && plain.Same(d.Account, who.Login)
	})
}

// Hears is what a line said on a platform asks for.
func (p *Plan) Hears(line, platform string) spoken.Heard {
	h := p.Set.Hears().Read(line, p.Commands.SignsOn(platform))
	h.Platform = platform
	return h
}

// LinkOf is whose channel an address leads to, by what the platforms say of theirs.
func (p *Plan) LinkOf(address string) (platform, login string, ok bool) {
	for i := range p.Doors {
		d := &p.Doors[i]
		if login, ok = p.Profile(d.Platform).LoginOf(address); ok {
			return d.Platform, login, true
		}
	}
	return "", "", false
}

// Grace is how long every platform may be gone before a stream has ended.
func (p *Plan) Grace() time.Duration { return p.grace }

// Rules are the bounds of the house's speech under this plan.
func (p *Plan) Rules() pace.Rules { return p.rules }

// Standings are the rules that standings go by under this plan.
func (p *Plan) Standings() people.Rules { return p.stand }

// Chat lists the platforms the house can speak on.
func (p *Plan) Chat() []string { return p.chat }

// Words makes wordings of settings ready; at is the list they stand in.
func Words(at string, texts []string, offered []wording.FillIn, fault func(courtesy.Fault)) []*wording.Wording {
	var out []*wording.Wording
	for i, src := range texts {
		w, problems := courtesy.CheckWording(src, offered)
		for _, p := range problems {
			fault(courtesy.Fault{At: fmt.Sprintf("%s.%d", at, i), Problem: &p, What: p.What, Remedy: p.Remedy})
		}
		out = append(out, w)
	}
	return out
}

// Seconds is a setting in seconds as a span.
func Seconds(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

// usualLine is how many bytes a line may have where a door does not say.
const usualLine = 400

// Limit is how many bytes a line may have on a platform.
func (p *Plan) Limit(platform string) int {
	if most := p.Profile(platform).Chat.MaxBytes; most > 0 && p.DoorFor(platform) != nil {
		return most
	}
	return usualLine
}

// MostBytes is how many bytes a line may have that goes to some platforms, or to all
// when none is named: what the strictest of them takes.
func (p *Plan) MostBytes(platforms []string) int {
	if len(platforms) == 0 {
		platforms = p.chat
	}
	least := usualLine
	for i, platform := range platforms {
		if n := p.Limit(platform); i == 0 || n < least {
			least = n
		}
	}
	return least
}

// Loosely makes a plan of settings that were in force once, whatever has been made
// stricter since: what no longer holds is left out and told in [Plan.Left], the rest
// stands. There is always a plan; of settings in which nothing holds it is an empty one.
func Loosely(s *housefile.Settings, version int64, rooms []Room) *Plan {
	part := s.Clone()
	for i := range part.Courtesy {
		for k := range part.Courtesy[i].Do { // once allowed, and the same as naming it once
			o := &part.Courtesy[i].Do[k]
			slices.Sort(o.On)
			o.On = slices.Compact(o.On)
		}
	}
	var left []courtesy.Fault
	for range 100 { // leaving one thing out may bring down another
		p, faults := Ready(part, version, rooms)
		if len(faults) == 0 {
			p.Whole, p.Left = s, left
			return p
		}
		for _, f := range faults {
			if !slices.ContainsFunc(left, func(g courtesy.Fault) bool { return sameFault(f, g) }) {
				left = append(left, f)
			}
		}
		part.LeaveOut(faults)
	}
	p, _ := Ready(&housefile.Settings{Format: housefile.Format, Channel: part.Channel, Zone: "UTC", Seed: part.Seed}, version, rooms)
	p.Whole, p.Left = s, left
	return p
}

// sameFault reports whether two faults are one, wherever in its list the thing stands.
func sameFault(a, b courtesy.Fault) bool {
	return a.Courtesy == b.Courtesy && a.What == b.What && noNumbers(a.At) == noNumbers(b.At)
}

func noNumbers(at string) string {
	parts := strings.Split(at, ".")
	for i, p := range parts {
		if _, err := strconv.Atoi(p); err == nil {
			parts[i] = "#"
		}
	}
	return strings.Join(parts, ".")
}

// NewFaults are the faults of settings that are not left out already: what is broken
// and was not touched keeps nobody from changing something else.
func (p *Plan) NewFaults(faults []courtesy.Fault) []courtesy.Fault {
	return slices.DeleteFunc(slices.Clone(faults), func(f courtesy.Fault) bool {
		return slices.ContainsFunc(p.Left, func(g courtesy.Fault) bool { return sameFault(f, g) })
	})
}
