package overlay

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/box"
	"vividporch/core/command"
	"vividporch/core/count"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// What boxes show of the channel: what has been counted, who did something last, who is here. It is kept whether a
// box shows it or not, so that a new one begins with what is so.

// Did is who did something last, and how much it was.
type Did struct {
	Account string `json:"account"`
	Name    string `json:"name"`
	Much    string `json:"much,omitempty"`
}

// told are the types of what is counted.
func told() []string {
	var out []string
	for _, h := range happening.Catalogue {
		if h.Latest != "" {
			out = append(out, h.Type)
		}
	}
	return out
}

// count keeps what an event adds up to.
func (m *Memory) count(ev *event.Event) {
	kind := happening.OfData(ev.Data).Latest
	who := ev.Who()
	if kind == "" || who == nil {
		return
	}
	did := Did{Account: who.Key(), Name: plain.Name(who.Shown())}
	switch data := ev.Data.(type) {
	case *happening.PersonFollowed:
		m.add("followers", 1)
	case *happening.Subscribed:
		if data.Months <= 1 {
			m.add("subscribers", 1)
		}
	case *happening.Tipped:
		did.Much = data.Amount + " " + data.Currency
		if n, err := strconv.ParseFloat(data.Amount, 64); err == nil {
			m.add(sumOf(data.Currency, ""), n)
		}
	case *happening.RaidCame:
		did.Much = strconv.FormatInt(data.Viewers, 10)
	}
	if who.ID == "" { // whoever it was is forgotten
		return
	}
	if m.Last == nil {
		m.Last = map[string][]Did{}
	}
	list := append([]Did{did}, slices.DeleteFunc(slices.Clone(m.Last[kind]), func(d Did) bool { return d.Account == did.Account })...)
	m.Last[kind] = list[:min(len(list), housefile.LastMost)]
}

func (m *Memory) add(key string, n float64) {
	if m.Sums == nil {
		m.Sums = map[string]float64{}
	}
	if m.Night == nil {
		m.Night = map[string]float64{}
	}
	m.Sums[key] += n
	m.Night[key] += n
}

// counted is what is noted of a tip for a campaign that some box counts: what the campaign was called is forgotten with
// whoever gave, and that it counts is not.
type counted struct {
	Key string  `json:"key"`
	N   float64 `json:"n"`
}

const countsFor = "counts"

// campaign notes a tip that counts for a campaign of a box.
func campaign(t *room.Turn, s *Section) {
	data, ok := t.Event.Data.(*happening.Tipped)
	if !ok {
		return
	}
	for _, name := range s.campaigns {
		n, err := strconv.ParseFloat(data.Amount, 64)
		if key := sumOf(data.Currency, name); err == nil && key == sumOf(data.Currency, data.Campaign) {
			room.Note(t, countsFor, counted{key, n}, "counts for "+name)
			return
		}
	}
}

// sumOf names the tips of a currency, of a campaign or of all.
func sumOf(currency, campaign string) string {
	return strings.TrimRight("tips "+strings.ToUpper(currency)+" "+strings.ToLower(strings.TrimSpace(campaign)), " ")
}

// Board is what stands in the boxes of an overlay now, by their ids; those whose content is told as it comes
// are left out.
func Board(s *hall.State, m room.Memory, o *box.Overlay, p *room.Plan, now time.Time) map[string]any {
	out := map[string]any{}
	f := facts{s, room.Remembered[Memory](m, name), m, room.Section[Section](p, name), now}
	for i := range o.Boxes {
		if b := &o.Boxes[i]; b.Do != nil && !b.Off {
			if v := b.Do.Shows(b.ID, f); v != nil {
				out[b.ID] = v
			}
		}
	}
	return out
}

type facts struct {
	s       *hall.State
	m       *Memory
	rooms   room.Memory
	section *Section
	now     time.Time
}

// Reached is how far something has come. What a platform tells itself is taken as it tells it.
func (f facts) Reached(c box.Counted) float64 {
	of := f.m.Sums
	if c.Tonight {
		of = f.m.Night
	}
	switch c.What {
	case "lanterns":
		return c.Start + float64(len(f.here()))
	case "command":
		if n := command.Counts(f.rooms)[c.Command]; n != nil && c.Tonight {
			return c.Start + float64(n.Tonight)
		} else if n != nil {
			return c.Start + float64(n.Times)
		}
		return c.Start
	case "tips":
		return c.Start + of[sumOf(c.Currency, c.Of)]
	}
	if n, ok := count.Known(f.rooms, c.What, f.now); ok && !c.Tonight {
		return float64(n)
	}
	return c.Start + of[c.What]
}

// Last is who did something last.
func (f facts) Last(kind string) (name, much string) {
	if list := f.m.Last[kind]; len(list) > 0 {
		return list[0].Name, list[0].Much
	}
	return "", ""
}

// here are the accounts that have arrived tonight, in the order in which they did.
func (f facts) here() []string {
	if !f.s.Stream.Live() {
		return nil
	}
	var out []string
	for key, g := range f.s.Tonight {
		if !g.Arrived.IsZero() {
			out = append(out, key)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		return cmp.Or(f.s.Tonight[a].Arrived.Compare(f.s.Tonight[b].Arrived), cmp.Compare(a, b))
	})
	return out
}

// Lit are tonight's people.
func (f facts) Lit(most int) (lights []box.Light, more int) {
	keys := f.here()
	more = max(0, len(keys)-most)
	lights = []box.Light{}
	for _, key := range keys[more:] {
		g := f.s.Tonight[key]
		lights = append(lights, box.Light{Name: g.Name, Shape: f.shape(key, g)})
	}
	return lights, more
}

// shape is the first of what somebody is, as lanterns show it.
func (f facts) shape(key string, g *hall.Guest) string {
	switch {
	case f.s.RaidOf(key) != nil:
		return "wave"
	case g.Fellow || g.Known.Streams():
		return "sail"
	}
	return map[string]string{"long away": "moon", "regular": "ring", "returning": "leaf", "newcomer": "seed"}[string(g.Standing)]
}

// forget takes out the cards about somebody, those that name them among several, and their
// names out of the others: what is left is what a log that was forgotten in comes to.
func forget(m *Memory, gone *hall.Gone) {
	m.forgetCards(gone)
	mine := func(w *Waiting) bool { return slices.ContainsFunc(w.Whom(), gone.Mine) }
	clean := func(w *Waiting) {
		w.Parts = slices.Clone(w.Parts)
		for i := range w.Parts {
			for _, text := range w.Parts[i].Told.Texts() {
				*text = plain.Without(*text, gone.Sparing(w.Name))
			}
		}
	}
	line := slices.DeleteFunc(slices.Clone(m.Line), func(w Waiting) bool { return mine(&w) })
	for i := range line {
		clean(&line[i])
	}
	m.Line = line
	for _, s := range m.Screens { // the pages are told to take it off, too
		switch {
		case s.On == nil:
		case mine(&s.On.Waiting):
			s.On = nil
		default:
			clean(&s.On.Waiting)
		}
	}
	for kind, list := range m.Last {
		if m.Last[kind] = slices.DeleteFunc(slices.Clone(list), func(d Did) bool { return gone.Mine(d.Account) }); len(m.Last[kind]) == 0 {
			delete(m.Last, kind)
		}
	}
}
