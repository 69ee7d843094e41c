package housefile

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode"

	"vividporch/core/attendance"
	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/fitting"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/reading"
	"vividporch/core/spoken"
)

// mostName is how many bytes the name of a door, a place or a fitting may have.
const mostName = 60

// Check holds settings to the bounds of the document: what is missing, out of range or
// leads nowhere. Courtesies and words are checked where they are made ready.
func (s *Settings) Check() []courtesy.Fault {
	var faults []courtesy.Fault
	fault := func(at, what, remedy string) {
		faults = append(faults, courtesy.Fault{At: at, What: what, Remedy: remedy})
	}
	s.checkHouse(fault)
	s.checkDoors(fault)
	s.Announcing.Check(fault)
	for i, pl := range s.Places {
		at := fmt.Sprintf("places.%d", i)
		if pl.Name == "" || len(pl.Name) > mostName {
			fault(at+".name", "a place needs a short name", "fill it in")
		}
		pl.Check(func(in, what, remedy string) { fault(at+"."+in, what, remedy) })
	}
	s.checkFittings(fault)
	s.checkOverlays(fault)
	s.Ear.Check(func(at, what, remedy string) { fault("ear."+at, what, remedy) })
	s.checkGuard(fault)
	return faults
}

func (s *Settings) checkFittings(fault faulter) {
	for i := range s.Fittings {
		f, at := &s.Fittings[i], fmt.Sprintf("fittings.%d", i)
		socket := f.Spoken() != nil && f.Spoken().Way == fitting.WebSocket
		switch {
		case f.Name == "" || len(f.Name) > mostName:
			fault(at+".name", "is missing or too long", "give the fitting a short name")
		case f.URL != "" && !isAddress(f.URL) && !(socket && isSocket(f.URL)):
			fault(at+".url", "is no http(s) address", "write it in full, or none yet; a fitting whose profile speaks over a WebSocket may have a ws(s) address")
		case f.Name == output.Overlay:
			fault(at+".name", "is what the overlays are called", "give it another name")
		case f.Kind != output.Player && f.Kind != output.Lights && f.Kind != output.Scenes:
			fault(at+".kind", fmt.Sprintf("%q is no kind of fitting", f.Kind), "use player, lamp or scenes")
		case f.Own == nil && f.Profile != "" && f.Spoken() == nil:
			fault(at+".profile", fmt.Sprintf("no profile %q ships with the house", f.Profile), "choose another, or give it one of its own")
		case f.Spoken() != nil && f.Spoken().Kind != f.Kind:
			fault(at+".profile", fmt.Sprintf("is of a %s", f.Spoken().Kind), "choose one for a "+f.Kind)
		}
		if f.Own != nil {
			f.Own.Check(func(in, what, remedy string) { fault(at+".own."+in, what, remedy) })
		}
	}
}

func (s *Settings) checkGuard(fault faulter) {
	s.Guard.Check(func(at, what, remedy string) { fault("guard."+at, what, remedy) })
	for i, mode := range s.Guard.Modes {
		if !slices.Contains(output.Modes(), output.Act(mode)) {
			fault(fmt.Sprintf("guard.modes.%d", i), fmt.Sprintf("%q is no mode of a chat", mode), "use slow chat, emote-only chat or subscribers-only chat")
		}
	}
}

func (s *Settings) checkOverlays(fault faulter) {
	if len(s.Overlays) > box.MostOverlays {
		fault("overlays", "are too many", fmt.Sprintf("keep at most %d", box.MostOverlays))
	}
	seen := map[string]bool{}
	for i := range s.Overlays {
		o, at := &s.Overlays[i], fmt.Sprintf("overlays.%d.", i)
		if o.Check(func(in, what, remedy string) { fault(at+in, what, remedy) }); seen[o.ID] {
			fault(at+"id", "stands twice", "give each overlay an id of its own")
		}
		for k, when := range o.Order {
			if !happening.Of(when).IsWhen() {
				fault(fmt.Sprintf("%sorder.%d", at, k), fmt.Sprintf("%q is nothing that happens", when), "take it out")
			}
		}
		seen[o.ID] = true
	}
}

type faulter = func(at, what, remedy string)

// checkHouse checks what is about the whole house.
func (s *Settings) checkHouse(fault faulter) {
	if s.Format != Format {
		fault("format", fmt.Sprintf("is %d", s.Format), ReadsFormats)
	}
	if s.Channel == "" {
		fault("channel", "is missing", "name the channel")
	}
	if len(s.Name) > mostName {
		fault("name", "is too long", fmt.Sprintf("use at most %d letters", mostName))
	}
	switch s.Reach.How {
	case "", Here, Home:
	case Public:
		if a := s.Reach.Address; !isAddress(a) || Origin(a) == "" || strings.ContainsAny(strings.TrimSuffix(strings.SplitN(a, "://", 2)[1], "/"), "/?#@ ") {
			fault("reach.address", "is no address of a house", "write it in full, with nothing behind the name: https://porch.example")
		}
	default:
		fault("reach.how", fmt.Sprintf("%q is no way to reach a house", s.Reach.How), "use here, home or public")
	}
	grace := 0.0
	if s.Grace != nil {
		grace = *s.Grace
	}
	if _, err := time.LoadLocation(s.Zone); err != nil {
		fault("zone", fmt.Sprintf("%q is no time zone", s.Zone), `use an IANA name such as "Europe/Lisbon"`)
	}
	for name, v := range map[string]float64{"graceSeconds": grace, "pace.gapSeconds": s.Pace.GapSeconds, "pace.waitSeconds": s.Pace.WaitSeconds,
		"pace.joinEverySeconds": s.Pace.JoinEverySeconds, "pace.askSeconds": s.Pace.AskSeconds} {
		if v < 0 || v > 86_400 {
			fault(name, "is out of range", "use 0 to 86400 seconds")
		}
	}
	if n := s.Pace.PersonSeconds; n < 0 || time.Duration(n*float64(time.Second)) > pace.MostPerson {
		fault("pace.personSeconds", "is out of range", fmt.Sprintf("use 0 to %d seconds", pace.MostPerson/time.Second))
	}
	if r := s.Standings.Or(people.DefaultRules); r.RegularAttended < 1 || r.RegularOf < r.RegularAttended || r.RegularOf > attendance.StripLength || r.AwayVisits < 1 || r.AwayDays < 1 {
		fault("standings", "cannot hold", fmt.Sprintf("let a regular attend 1 or more of at most %d streams, and count visits and days from 1", attendance.StripLength))
	}
	for _, platform := range slices.Sorted(maps.Keys(s.Commands.Signs)) {
		signs := s.Commands.Signs[platform]
		if signs == "" || len([]rune(signs)) > 8 || strings.ContainsFunc(signs, func(r rune) bool { return !spoken.IsSigned(string(r)) || unicode.IsSpace(r) || r == '/' || r == '@' }) {
			fault("commands.signs."+platform, fmt.Sprintf("%q cannot stand before commands", signs), "write one to eight signs in a row, no letters, digits, blanks, slashes or at-signs")
		}
	}
	for _, platform := range slices.Sorted(maps.Keys(s.Along)) {
		if a := s.Along[platform]; !isAddress(a) || strings.Count(a, "{login}") != 1 || strings.Count(a, "{next}") != 1 || strings.Index(a, "{next}") < strings.Index(a, "{login}") {
			fault("along."+platform, fmt.Sprintf("%q is no address that shows several side by side", a), `write it with {login} where our channel stands, and {next} where each further one does: "https://side.example/{login}/{next}"`)
		}
	}
	for i, n := range s.Neighbours {
		if strings.Trim(n, "@ ") == "" || len(n) > 2*mostName {
			fault(fmt.Sprintf("neighbours.%d", i), "names nobody", "write the login of its account")
		}
	}
	if n := s.ShoutOuts.GapSeconds; n < 0 || time.Duration(n*float64(time.Second)) > pace.MostPerson {
		fault("shoutOuts.gapSeconds", "is out of range", fmt.Sprintf("use 0 to %d seconds", pace.MostPerson/time.Second))
	}
	if n := s.ShoutOuts.PersonHours; n < 0 || n > 8760 {
		fault("shoutOuts.personHours", "is out of range", "use 0 to 8760 hours, which is a year")
	}
	switch s.LeapDay {
	case "", dates.OnFebruary28, dates.OnMarch1:
	default:
		fault("leapDay", fmt.Sprintf("%q is no rule", s.LeapDay), `use "28 February" or "1 March"`)
	}
}

func (s *Settings) checkDoors(fault faulter) {
	seen := map[string]bool{}
	for i, d := range s.Doors {
		at := fmt.Sprintf("doors.%d", i)
		switch {
		case d.Name == "" || len(d.Name) > mostName || strings.ContainsAny(d.Name, "/?# "):
			fault(at+".name", "is missing, too long, or holds a blank or slash", fmt.Sprintf("use at most %d letters, digits and dashes", mostName))
		case d.Platform == "" || len(d.Platform) > mostName:
			fault(at+".platform", "is missing or too long", fmt.Sprintf("name it in at most %d letters", mostName))
		case seen[d.Name]:
			fault(at+".name", "stands twice", "give each door a name of its own")
		case !slices.Contains(kinds, d.Kind):
			fault(at+".kind", fmt.Sprintf("%q is no kind of door", d.Kind), "use "+strings.Join(kinds, ", "))
		case d.Kind == "irc" && (d.Address == "" || d.Room == "" || d.Account == ""):
			fault(at, "a chat door needs address, room and account", "fill them in")
		}
		seen[d.Name] = true
		switch service := d.Service; {
		case d.IsService() && service != nil:
			service.Check(d.Kind, func(field, what, remedy string) { fault(at+".service."+field, what, remedy) })
		case service != nil:
			fault(at+".service", "is for doors of other services", "take it out")
		}
		if d.As != "" && (d.As != output.AsStreamer || d.Kind != "irc") {
			fault(at+".as", fmt.Sprintf("%q speaks for nobody", d.As), `use "streamer" on a chat door, or leave it out`)
		}
	}
	s.checkProfiles(fault)
	s.checkReadings(fault)
}

// kinds are the kinds of doors: a chat, our own events, another service's messages sent here, and
// another service that is listened to.
var kinds = []string{"irc", "inbox", "hook", "listen"}

func (s *Settings) checkReadings(fault faulter) {
	if len(s.Readings) > reading.MostReadings {
		fault("readings", "are too many", fmt.Sprintf("keep at most %d", reading.MostReadings))
	}
	seen := map[string]bool{}
	for i := range s.Readings {
		at, r := fmt.Sprintf("readings.%d.", i), &s.Readings[i]
		if r.Check(func(field, what, remedy string) { fault(at+field, what, remedy) }); seen[r.Name] {
			fault(at+"name", "stands twice", "give each reading a name of its own")
		}
		seen[r.Name] = true
	}
}

func (s *Settings) checkProfiles(fault faulter) {
	var acts []string
	for _, a := range output.Acts() {
		acts = append(acts, string(a))
	}
	seen := map[string]bool{}
	for i := range s.Profiles {
		at, p := fmt.Sprintf("profiles.%d.", i), &s.Profiles[i]
		if p.Check(acts, func(field, what, remedy string) { fault(at+field, what, remedy) }); seen[p.Platform] {
			fault(at+"platform", "stands twice", "keep one profile of each platform")
		}
		seen[p.Platform] = true
	}
}

func isSocket(s string) bool {
	return strings.HasPrefix(s, "ws://") || strings.HasPrefix(s, "wss://")
}

func isAddress(s string) bool {
	return strings.HasPrefix(s, "http://") || strings.HasPrefix(s, "https://")
}
