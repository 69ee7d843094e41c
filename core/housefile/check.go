package housefile

import (
	"fmt"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
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
	for i, pl := range s.Places {
		at := fmt.Sprintf("places.%d", i)
		if pl.Name == "" || len(pl.Name) > mostName || pl.URL != "" && !isAddress(pl.URL) {
			fault(at+".url", "a place needs a short name, and an http(s) address or none yet", "fill them in")
		}
		if _, err := pl.Render(nil); err != nil {
			fault(at+".body", err.Error(), "write JSON whose texts are wordings")
		}
	}
	for i, f := range s.Fittings {
		at := fmt.Sprintf("fittings.%d", i)
		switch {
		case f.Name == "" || len(f.Name) > mostName || f.URL != "" && !isAddress(f.URL):
			fault(at+".url", "a fitting needs a short name, and an http(s) address or none yet", "fill them in")
		case f.Kind != output.Player && f.Kind != output.Lights && f.Kind != output.Scenes:
			fault(at+".kind", fmt.Sprintf("%q is no kind of fitting", f.Kind), "use player, lamp or scenes")
		}
	}
	return faults
}

type faulter = func(at, what, remedy string)

// checkHouse checks what is about the whole house.
func (s *Settings) checkHouse(fault faulter) {
	if s.Format != Format {
		fault("format", fmt.Sprintf("is %d", s.Format), readsFormats)
	}
	if s.Channel == "" {
		fault("channel", "is missing", "name the channel")
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
		case d.Kind != "irc" && d.Kind != "inbox":
			fault(at+".kind", fmt.Sprintf("%q is no kind of door", d.Kind), "use irc or inbox")
		case d.Kind == "irc" && (d.Address == "" || d.Room == "" || d.Account == ""):
			fault(at, "a chat door needs address, room and account", "fill them in")
		case d.Profile.Lines < 0 || d.Profile.Lines > pace.MostLines:
			fault(at+".profile.lines", "is out of range", fmt.Sprintf("use 0 to %d", pace.MostLines))
		}
		seen[d.Name] = true
		if d.As != "" && (d.As != output.AsStreamer || d.Kind != "irc") {
			fault(at+".as", fmt.Sprintf("%q speaks for nobody", d.As), `use "streamer" on a chat door, or leave it out`)
		}
		if d.Acts != "" && !isAddress(d.Acts) {
			fault(at+".acts", "is no http(s) address", "write it in full")
		}
		if l := d.Profile.Link; l != "" && (!isAddress(l) || !strings.Contains(l, "{login}")) {
			fault(at+".profile.link", "leads nowhere", `write the address in full with {login} where the login goes: "https://quayside.example/{login}"`)
		}
	}
}

func isAddress(s string) bool {
	return strings.HasPrefix(s, "http://") || strings.HasPrefix(s, "https://")
}
