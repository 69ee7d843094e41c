// Package compare tells how two livings of one evening differ: what was said or done in one
// only, what was said in other words, what came at another moment, and why.
//
// What belongs together is found by what brought it about: the same courtesy, output, happening,
// person and platform. What time alone brings has no happening; of it the nearest belong
// together. A line for several people belongs with the one that shares most of them.
package compare

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
)

// Kind is how something differs.
type Kind string

// The kinds of differences. Above is the first of the two livings.
const (
	OnlyAbove Kind = "only above"
	OnlyBelow Kind = "only below"
	Words     Kind = "words"
	Sooner    Kind = "sooner" // in the one below
	Later     Kind = "later"
)

// Difference is one. What is on one side only has no other.
type Difference struct {
	Kind  Kind
	Above *rehearsal.Effect
	Below *rehearsal.Effect
	By    time.Duration // how much sooner or later, at least 0
	Why   string
}

// At is the moment it stands at: the earlier of both.
func (d *Difference) At() time.Time {
	switch {
	case d.Above == nil:
		return d.Below.At
	case d.Below == nil || d.Above.At.Before(d.Below.At):
		return d.Above.At
	}
	return d.Below.At
}

// Side is one of the two: what it did, and under which settings; nil where they are not known.
type Side struct {
	Effects  []rehearsal.Effect
	Settings *housefile.Settings
}

// sameMoment is what nobody in chat would call another moment.
const sameMoment = time.Second

// apart is how far two that time alone brings may be from each other and still be the same.
const apart = 15 * time.Minute

// Two lists how two sides differ, in the order of time; whys tell the time of the zone.
func Two(above, below Side, zone *time.Location) []Difference {
	w := newWhys(above, below, zone)
	var out []Difference
	add := func(a, b *rehearsal.Effect) {
		if d, differs := one(a, b); differs {
			d.Why = w.of(&d)
			out = append(out, d)
		}
	}
	as, bs := groups(above.Effects), groups(below.Effects)
	joinedA, joinedB := as.take(joined), bs.take(joined)
	for _, k := range slices.Sorted(maps.Keys(as)) {
		alike(as[k], bs[k], add)
		delete(bs, k)
	}
	for _, k := range slices.Sorted(maps.Keys(bs)) {
		alike(nil, bs[k], add)
	}
	together(joinedA, joinedB, add)
	slices.SortStableFunc(out, func(a, b Difference) int { return a.At().Compare(b.At()) })
	return out
}

// one compares two that belong together, or one without the other.
func one(a, b *rehearsal.Effect) (Difference, bool) {
	d := Difference{Above: a, Below: b}
	switch {
	case b == nil:
		d.Kind = OnlyAbove
		return d, true
	case a == nil:
		d.Kind = OnlyBelow
		return d, true
	}
	by := b.At.Sub(a.At)
	d.By = by.Abs()
	switch {
	case a.Text != b.Text:
		d.Kind = Words
	case by >= sameMoment:
		d.Kind = Later
	case by <= -sameMoment:
		d.Kind = Sooner
	default:
		return d, false
	}
	return d, true
}

type grouped map[string][]*rehearsal.Effect

const joined = "joined"

// groups puts together what one cause could have brought about. What was not done is none of it.
func groups(list []rehearsal.Effect) grouped {
	out := grouped{}
	for i := range list {
		e := &list[i]
		switch {
		case e.Effect == "drop":
			continue
		case len(e.Joined) > 0:
			out[joined] = append(out[joined], e)
		default:
			out[e.Effect+"\x00"+cause(e)] = append(out[e.Effect+"\x00"+cause(e)], e)
		}
	}
	return out
}

// cause names what brought an effect about, and where it goes.
func cause(e *rehearsal.Effect) string {
	return strings.Join([]string{e.Courtesy, e.Output, e.Event, e.Person, e.To}, "\x00")
}

func (g grouped) take(k string) []*rehearsal.Effect {
	out := g[k]
	delete(g, k)
	return out
}

// alike pairs what one cause brought about: as many of either side are in their order the
// same; else those that are nearest in time.
func alike(as, bs []*rehearsal.Effect, add func(a, b *rehearsal.Effect)) {
	if len(as) == len(bs) {
		for i := range as {
			add(as[i], bs[i])
		}
		return
	}
	i, k := 0, 0
	for i < len(as) && k < len(bs) {
		by := bs[k].At.Sub(as[i].At)
		nextA := i+1 < len(as) && bs[k].At.Sub(as[i+1].At).Abs() < by.Abs() && len(as)-i > len(bs)-k
		nextB := k+1 < len(bs) && bs[k+1].At.Sub(as[i].At).Abs() < by.Abs() && len(bs)-k > len(as)-i
		switch {
		case by > apart || nextA:
			add(as[i], nil)
			i++
		case by < -apart || nextB:
			add(nil, bs[k])
			k++
		default:
			add(as[i], bs[k])
			i, k = i+1, k+1
		}
	}
	for ; i < len(as); i++ {
		add(as[i], nil)
	}
	for ; k < len(bs); k++ {
		add(nil, bs[k])
	}
}

// together pairs lines for several people: those that share most of them.
func together(as, bs []*rehearsal.Effect, add func(a, b *rehearsal.Effect)) {
	in := map[string][]int{} // which of those below speak of a happening
	for i, b := range bs {
		for _, j := range b.Joined {
			in[j.Event+"\x00"+b.To+"\x00"+b.Effect] = append(in[j.Event+"\x00"+b.To+"\x00"+b.Effect], i)
		}
	}
	taken := make([]bool, len(bs))
	for _, a := range as {
		shares := map[int]int{}
		for _, j := range a.Joined {
			for _, i := range in[j.Event+"\x00"+a.To+"\x00"+a.Effect] {
				if !taken[i] {
					shares[i]++
				}
			}
		}
		best := -1
		for _, i := range slices.Sorted(maps.Keys(shares)) {
			if best < 0 || shares[i] > shares[best] {
				best = i
			}
		}
		if best < 0 {
			add(a, nil)
			continue
		}
		taken[best] = true
		add(a, bs[best])
	}
	for i, b := range bs {
		if !taken[i] {
			add(nil, b)
		}
	}
}

// Counted is how many there are of each kind.
func Counted(list []Difference) map[Kind]int {
	out := map[Kind]int{}
	for i := range list {
		out[list[i].Kind]++
	}
	return out
}

// span writes a time that something came sooner or later by.
func span(d time.Duration) string {
	switch {
	case d < time.Minute:
		return fmt.Sprintf("%d s", int(d.Round(time.Second)/time.Second))
	case d < time.Hour:
		return fmt.Sprintf("%d min", int(d.Round(time.Minute)/time.Minute))
	}
	return fmt.Sprintf("%d h %02d", int(d/time.Hour), int(d/time.Minute)%60)
}

// Says is a difference in a few words: "29 s sooner", "other words".
func (d *Difference) Says() string {
	switch d.Kind {
	case OnlyAbove:
		return "only above"
	case OnlyBelow:
		return "only below"
	case Words:
		return "other words"
	}
	return span(cmp.Or(d.By, time.Second)) + " " + string(d.Kind)
}
