package house

import (
	"fmt"
	"slices"
	"strings"
	"time"
	_ "time/tzdata" // zones are part of the rules, not of the machine

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/pace"
	"vividporch/core/people"
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

	never  people.NeverList
	rules  pace.Rules
	grace  time.Duration
	joined []*wording.Wording

	unclear []*wording.Wording
	alsoOn  []*wording.Wording
	stand   people.Rules
	words   privacyWords
	hello   helloWords
	clocks  map[string]*time.Location // of the own fill-ins
	reach   courtesy.World
	chat    []string // platforms the house can speak on, in the order of the doors
}

// Ready checks settings and makes them a plan. With faults there is no plan, and
// the version before stays in force.
func Ready(s *housefile.Settings, version int64) (*Plan, []courtesy.Fault) {
	faults := s.Check()
	fault := func(at, what, remedy string) {
		faults = append(faults, courtesy.Fault{At: at, What: what, Remedy: remedy})
	}
	p := &Plan{Version: version, Settings: s, Whole: s, never: people.MakeNeverList(s.Never), grace: attendance.DefaultGrace, stand: s.Standings.Or(people.DefaultRules), clocks: map[string]*time.Location{}}
	if s.Grace != nil {
		p.grace = secs(*s.Grace)
	}
	p.Zone, _ = time.LoadLocation(s.Zone)
	faults = append(faults, p.words.load(s.Privacy)...)
	faults = append(faults, p.hello.load(s.Hello)...)
	faults = append(faults, p.loadUnclear(s.Unclear)...)
	faults = append(faults, p.loadAlsoOn(s.AlsoOn)...)
	p.rules = pace.Rules{Gap: secs(s.Pace.GapSeconds), JoinAt: s.Pace.JoinAt, JoinEvery: secs(s.Pace.JoinEverySeconds), Person: secs(s.Pace.PersonSeconds), Limits: map[string]pace.Limit{}}
	for _, d := range s.Doors {
		if d.Kind == "irc" && d.As == "" {
			if !slices.Contains(p.chat, d.Platform) {
				p.chat = append(p.chat, d.Platform)
			}
			p.rules.Limits[d.Platform] = pace.Limit{Lines: d.Profile.Lines, Window: secs(d.Profile.WindowSeconds)}
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
	for i, src := range joined {
		w, probs := courtesy.CheckWording(src, happening.Of(happening.Arrival).JoinedOffers())
		for _, pr := range probs {
			faults = append(faults, courtesy.Fault{At: fmt.Sprintf("joined.%d", i), Problem: &pr, What: pr.What, Remedy: pr.Remedy})
		}
		p.joined = append(p.joined, w)
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return p, nil
}

// joinedWords greet several people unless the streamer has words of their own: nothing
// may flood for want of words.
const joinedWords = "Welcome {names}{more, plural, =0 {} other { and # more}}!"

// World is what the courtesies of this plan can reach and offer.
func (p *Plan) World() courtesy.World { return p.reach }

// Grace is how long every platform may be gone before a stream has ended.
func (p *Plan) Grace() time.Duration { return p.grace }

// Rules are the bounds of the house's speech under this plan.
func (p *Plan) Rules() pace.Rules { return p.rules }

// Standings are the rules that standings go by under this plan.
func (p *Plan) Standings() people.Rules { return p.stand }

// Chat lists the platforms the house can speak on.
func (p *Plan) Chat() []string { return p.chat }

func secs(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }
