package courtesy

import (
	"fmt"
	"slices"

	"vividporch/core/happening"
	"vividporch/core/occasion"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Fault is something in a courtesy that keeps it from coming into force. At is a
// path into the courtesy; Problem gives the place within a wording.
type Fault struct {
	Courtesy string           `json:"courtesy"`
	At       string           `json:"at"`
	Problem  *wording.Problem `json:"problem,omitempty"`
	What     string           `json:"what"`
	Remedy   string           `json:"remedy"`
	Source   string           `json:"-"` // the wording that Problem is about
}

func (f Fault) Error() string {
	return fmt.Sprintf("%s, %s: %s; %s", f.Courtesy, f.At, f.What, f.Remedy)
}

// Load makes a set ready for use and reports every fault in it; with faults the
// set is nil.
func Load(list []Courtesy, w World) (*Set, []Fault) {
	set := &Set{by: map[string][]*Ready{}, own: map[string]map[string][]*Ready{}, on: map[string]bool{}, asked: map[string][]*Ready{}, phrases: map[string][]*Ready{}}
	var faults []Fault
	ids := map[string]bool{}
	for i := range list {
		r, fs := load(list[i], i, w)
		if ids[r.ID] {
			fs = append(fs, Fault{Courtesy: r.ID, At: "id", What: "stands twice", Remedy: "give each courtesy an id of its own"})
		}
		ids[r.ID] = true
		faults = append(faults, fs...)
		set.add(r)
	}
	if faults = append(faults, circles(list)...); len(faults) > 0 {
		return nil, faults
	}
	return set, nil
}

func (s *Set) add(r *Ready) {
	if r.Away {
		return
	}
	s.all = append(s.all, r)
	s.on[r.When] = s.on[r.When] || r.On
	s.listen(r)
	if r.Who.Account == "" || r.staff != nil {
		s.by[r.When] = append(s.by[r.When], r)
		return
	}
	if s.own[r.When] == nil {
		s.own[r.When] = map[string][]*Ready{}
	}
	s.own[r.When][r.Who.Account] = append(s.own[r.When][r.Who.Account], r)
}

func load(c Courtesy, order int, w World) (*Ready, []Fault) {
	r := &Ready{Courtesy: c, order: order}
	if c.When == happening.Command && !c.Only && c.Who.AboutPeople() {
		w := c.Who.OfTheEvening()
		r.staff = &w
	}
	var faults []Fault
	fault := func(at, what, remedy string) {
		faults = append(faults, Fault{Courtesy: c.ID, At: at, What: what, Remedy: remedy})
	}
	if c.ID == "" || len(c.ID) > mostID {
		fault("id", "is missing or too long", fmt.Sprintf("name the courtesy in at most %d letters", mostID))
	}
	when := happening.Of(c.When)
	if !when.IsWhen() {
		fault("when", fmt.Sprintf("%q never happens", c.When), `use "arrival", "hello", "command", "hand", "neighbour" or a type of the event contract`)
	}
	switch c.Slot {
	case happening.Greeting, happening.ShoutOut, happening.Thanks, happening.Answer, happening.Free:
	default:
		fault("slot", fmt.Sprintf("%q is no slot", c.Slot), "use greeting, shout-out, thanks, answer, or none")
	}
	c.asking(fault)
	c.timing(fault)
	if len(c.Tells) > 200 {
		fault("tells", "is too long for a list", "keep to 200 letters")
	}
	if len(c.Title) > 40 {
		fault("title", "is too long for a button", "keep to 40 letters")
	}
	if b := c.Burst; b != nil && (b.Seconds < 1 || b.Seconds > 120 || b.At < 2 || b.At > 100) {
		fault("burst", "is out of range", "wait 1 to 120 seconds for 2 to 100 at once")
	}
	if c.Cost < 0 || c.Cost > output.MostCost {
		fault("cost", "is out of range", "use 0 to 1000000000 points")
	}
	if c.Delay < 0 || c.Delay > 3600 {
		fault("delaySeconds", "is out of range", "use 0 to 3600 seconds")
	}
	if c.Only && c.When != happening.Command {
		fault("only", "is no matter of this when", "take it out; who may ask is asked of commands")
	}
	c.Who.Each(func(w *who.Who) {
		if d := w.Date; d != nil && when.IsWhen() && (d.Of == occasion.Channel) != (when.Frame == happening.OfStream) {
			if d.Of == occasion.Channel {
				fault("who.date.of", "is the channel's own day, and nobody's", "use it when the stream opens")
			} else {
				fault("who.date", "is a day of somebody's, and nobody comes with this", "ask for the channel's own day, or choose another when")
			}
		}
		if w.Nobody && c.When != happening.Command {
			fault("who.nobody", "would never be met", "use it on a command, or switch the courtesy off")
		}
	})
	c.Who.Check("who", fault)
	if c.Measure != nil {
		c.Measure.Check(fault)
		if of := c.Measure.Of; of != "" && when.IsWhen() && !slices.Contains(when.NumberNames(), of) {
			fault("measure.of", "no "+of+" come with this", "take the measure out, or choose another when")
		}
	}
	faults = r.parseResting(w.Offers(c), faults)
	seen := map[string]bool{}
	for i, o := range c.Do {
		at := fmt.Sprintf("do.%d", i)
		if seen[o.ID] {
			fault(at+".id", "stands twice", "give each output an id of its own")
		}
		if seen[o.ID] = true; o.ID == "" || len(o.ID) > mostID {
			fault(at+".id", "is missing or too long", fmt.Sprintf("name the output in at most %d letters", mostID))
		}
		r.Outputs = append(r.Outputs, ready(o, c, w, func(in, what, remedy string) { fault(at+"."+in, what, remedy) },
			func(in string, srcs []string, offered []wording.FillIn) (out []*wording.Wording) {
				out, faults = parseAll(c.ID, at+"."+in, srcs, offered, faults)
				return out
			}))
	}
	return r, faults
}

func parseAll(id, at string, srcs []string, offered []wording.FillIn, faults []Fault) ([]*wording.Wording, []Fault) {
	var out []*wording.Wording
	for i, src := range srcs {
		w, problems := CheckWording(src, offered)
		for _, p := range problems {
			faults = append(faults, Fault{Courtesy: id, At: fmt.Sprintf("%s.%d", at, i), Problem: &p, What: p.What, Remedy: p.Remedy, Source: src})
		}
		out = append(out, w)
	}
	return out, faults
}

// mostID is how many bytes the id of a courtesy or an output may have.
const mostID = 60

// mostWording is how many bytes a wording may have, its cases included.
const mostWording = 8000

// CheckWording parses one wording and holds it against what is offered; w is nil
// when it cannot be parsed.
func CheckWording(src string, offered []wording.FillIn) (w *wording.Wording, problems []wording.Problem) {
	if len(src) > mostWording {
		return nil, []wording.Problem{{From: mostWording, To: len(src), What: fmt.Sprintf("the wording has %d bytes", len(src)), Remedy: fmt.Sprintf("keep to %d; a line in chat has a few hundred", mostWording)}}
	}
	w, err := wording.Parse(src)
	if err != nil {
		return nil, []wording.Problem{*err.(*wording.Problem)}
	}
	if src == "" {
		return w, []wording.Problem{{What: "the wording is empty", Remedy: "write something, or take this alternative out"}}
	}
	return w, w.Check(offered)
}
