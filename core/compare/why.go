package compare

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/rehearsal"
)

// whys finds out why two livings differ, from what was not done on the other side, from who is
// in a line for several there, and from how the settings differ.
type whys struct {
	sides   [2]told
	changed map[string][]string // fields of a courtesy that differ, by its id
	house   []string            // and of the rest of the house file
	zone    *time.Location
}

// told is what one side tells of itself.
type told struct {
	settings *housefile.Settings
	undone   map[string]*rehearsal.Effect // what was not done, by cause
	skipped  map[string]*rehearsal.Effect // and the courtesy that was passed over, by happening and person
	among    map[string]*rehearsal.Effect // lines for several, by happening and where they went
	instead  map[string][]*rehearsal.Effect
}

func newWhys(above, below Side, zone *time.Location) *whys {
	w := &whys{changed: map[string][]string{}, zone: zone}
	for i, s := range []Side{above, below} {
		w.sides[i] = tell(s)
	}
	if above.Settings == nil || below.Settings == nil {
		return w
	}
	list, err := housefile.Compare(above.Settings, below.Settings)
	if err != nil {
		return w
	}
	for _, d := range list {
		parts := strings.Split(d.At, ".")
		if parts[0] == "courtesies" && len(parts) > 2 {
			w.changed[parts[1]] = append(w.changed[parts[1]], strings.Join(parts[2:], "."))
			continue
		}
		if parts[0] == "courtesies" || slices.Contains(w.house, d.At) {
			continue
		}
		w.house = append(w.house, d.At)
	}
	return w
}

func tell(s Side) told {
	t := told{settings: s.Settings, undone: map[string]*rehearsal.Effect{}, skipped: map[string]*rehearsal.Effect{}, among: map[string]*rehearsal.Effect{}, instead: map[string][]*rehearsal.Effect{}}
	for i := range s.Effects {
		e := &s.Effects[i]
		if e.Effect == "drop" {
			if e.Output != "" {
				t.undone[cause(e)] = e
			}
			t.skipped[strings.Join([]string{e.Courtesy, e.Event}, "\x00")] = e
			continue
		}
		for _, j := range e.Joined {
			t.among[j.Event+"\x00"+e.To] = e
		}
		if e.Event != "" {
			t.instead[e.Event+"\x00"+e.To+"\x00"+e.Effect] = append(t.instead[e.Event+"\x00"+e.To+"\x00"+e.Effect], e)
		}
	}
	return t
}

// of is why something differs.
func (w *whys) of(d *Difference) string {
	switch d.Kind {
	case OnlyAbove:
		return w.missing(d.Above, &w.sides[1], "the one below")
	case OnlyBelow:
		return w.missing(d.Below, &w.sides[0], "the one above")
	case Words:
		return w.words(d)
	}
	return w.moment(d)
}

// missing is why an effect is not there on the other side.
func (w *whys) missing(e *rehearsal.Effect, other *told, there string) string {
	for _, j := range append(slices.Clone(e.Joined), rehearsal.Joined{Event: e.Event}) {
		if in := other.among[j.Event+"\x00"+e.To]; j.Event != "" && in != nil {
			return fmt.Sprintf("is in the line for %d people at %s there", len(in.Joined), in.At.In(w.zone).Format("15:04:05"))
		}
	}
	if no := other.undone[cause(e)]; no != nil {
		return last(no)
	}
	if why := w.absent(e.Courtesy, other, there); why != "" {
		return why
	}
	if no := other.skipped[e.Courtesy+"\x00"+e.Event]; no != nil && e.Event != "" {
		return last(no)
	}
	if e.Event != "" {
		for _, o := range other.instead[e.Event+"\x00"+e.To+"\x00"+e.Effect] {
			if o.Courtesy != e.Courtesy {
				return fmt.Sprintf("“%s” does it there", o.Courtesy)
			}
		}
	}
	if len(e.Joined) > 0 {
		return "fewer waited at once there, so that each was spoken to alone"
	}
	if why := w.settings(e.Courtesy); why != "" {
		return why
	}
	return follows
}

// follows is why something differs that nobody changed: something before it did.
const follows = "follows from what differs before it"

// absent is why a courtesy does nothing at all on a side.
func (w *whys) absent(id string, side *told, there string) string {
	if side.settings == nil || id == "" || id == "desk" {
		return ""
	}
	own := slices.ContainsFunc(w.sides[0].courtesies(), func(c courtesy.Courtesy) bool { return c.ID == id }) ||
		slices.ContainsFunc(w.sides[1].courtesies(), func(c courtesy.Courtesy) bool { return c.ID == id })
	if !own { // a room's own words
		return ""
	}
	for _, c := range side.courtesies() {
		if c.ID != id {
			continue
		}
		switch {
		case c.Away:
			return "is put away in " + there
		case !c.On:
			return "is switched off in " + there
		}
		return ""
	}
	return "is not in the settings of " + there
}

func (t *told) courtesies() []courtesy.Courtesy {
	if t.settings == nil {
		return nil
	}
	return t.settings.Courtesy
}

// words is why the words differ.
func (w *whys) words(d *Difference) string {
	switch {
	case len(d.Above.Joined) != len(d.Below.Joined):
		return fmt.Sprintf("speaks to %d above and to %d below", max(1, len(d.Above.Joined)), max(1, len(d.Below.Joined)))
	case slices.ContainsFunc(w.changed[d.Above.Courtesy], func(f string) bool {
		return strings.HasSuffix(f, "alternatives") || strings.HasSuffix(f, "joined") || strings.HasSuffix(f, "weights")
	}):
		return "its wording is another"
	}
	if why := w.settings(d.Above.Courtesy); why != "" {
		return why
	}
	return "the same wording, filled in or chosen otherwise: " + follows
}

// moment is why the moment differs.
func (w *whys) moment(d *Difference) string {
	if len(d.Above.Joined) != len(d.Below.Joined) {
		if why := w.changedIn("pace.joinAt"); why != "" {
			return why
		}
	}
	for _, f := range w.changed[d.Above.Courtesy] {
		if strings.HasSuffix(strings.ToLower(f), "delayseconds") {
			return "its delay is another"
		}
		if strings.HasPrefix(f, "timer") {
			return "its timing is another"
		}
		if strings.HasPrefix(f, "burst") {
			return "its burst is another"
		}
	}
	if why := w.changedIn("pace"); why != "" {
		return why
	}
	if a, b := last(d.Above), last(d.Below); a != b {
		return b
	}
	return follows
}

// settings tells which part of a courtesy's settings is another.
func (w *whys) settings(id string) string {
	var parts []string
	for _, f := range w.changed[id] {
		part, _, _ := strings.Cut(f, ".")
		if part = fieldWords[part]; part != "" && !slices.Contains(parts, part) {
			parts = append(parts, part)
		}
	}
	if len(parts) > 0 {
		return "its " + plain.List(parts, "and") + map[bool]string{true: " are others", false: " is another"}[len(parts) > 1]
	}
	return ""
}

// fieldWords are the parts of a courtesy as the screens call them.
var fieldWords = map[string]string{"on": "switch", "when": "when", "asks": "name", "asked": "way of asking", "who": "who", "only": "who", "measure": "measure", "slot": "slot", "also": "slot",
	"offLine": "when", "delaySeconds": "delay", "timer": "timing", "cost": "cost", "burst": "burst", "do": "outputs"}

// changedIn tells of a part of the house file, beside the courtesies, that is another.
func (w *whys) changedIn(part string) string {
	for _, at := range w.house {
		if strings.HasPrefix(at, part) {
			if says := paceWords[at]; says != "" {
				return says + " is another"
			}
		}
	}
	return ""
}

// paceWords are the measures of pace as the screens call them.
var paceWords = map[string]string{"pace.gapSeconds": "the time between two lines", "pace.waitSeconds": "the longest wait", "pace.joinAt": "from how many on greetings are joined", "pace.joinNames": "how many names are said",
	"pace.joinEverySeconds": "the rest after a joined greeting", "pace.askSeconds": "the wait for a look-up", "pace.timersApartMinutes": "the time between two timers", "pace.sharePercent": "the house share that holds timers", "pace.personSeconds": "the time between two lines to one person"}

// last is the reason that was told last.
func last(e *rehearsal.Effect) string {
	if len(e.Because) == 0 {
		return ""
	}
	return e.Because[len(e.Because)-1]
}
