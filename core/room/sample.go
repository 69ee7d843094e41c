package room

import (
	"slices"
	"strconv"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/wording"
)

// Stranger is the sample person whom nobody knows: who a courtesy is tried with when
// nobody is chosen.
var Stranger = event.Person{ID: "nobody-yet", Login: "wrack_wren", Name: "wrack_wren"}

// Sample is a person to try wordings with. Empty fields are not known.
type Sample struct {
	Name     string
	Streams  int64
	Viewers  int64
	Link     string
	Category string
}

// sampleNow is the moment samples are shown at.
var sampleNow = time.Date(2031, 5, 14, 19, 30, 0, 0, time.UTC)

// SampleArgs are the fill-ins a courtesy of this when would get for a sample
// person.
func SampleArgs(p *Plan, when string, who Sample) wording.Args {
	a := wording.Args{"channel": wording.Name(p.Settings.Channel), "platform": wording.Str("Quayside"),
		"name": wording.Name(who.Name), "streams": wording.Num(who.Streams), "viewers": wording.Num(who.Viewers), "raids": wording.Num(1), "now": wording.At(sampleNow.In(p.Zone))}
	h := happening.Of(when)
	for _, f := range h.Offers() {
		if n, err := strconv.ParseInt(f.Example, 10, 64); f.Kind == wording.Number && a[f.Name] == (wording.Value{}) && err == nil {
			a[f.Name] = wording.Num(n)
		}
		if _, has := a[f.Name]; !has && !f.Optional && f.Kind == wording.Text {
			a[f.Name] = wording.Str(f.Example)
		}
		if f.Optional && f.Kind == wording.Text && f.Name != "link" && f.Name != "category" {
			a.Maybe(f.Name, wording.Str(f.Example))
		}
	}
	offered := p.reach.FillIns
	for _, brings := range p.reach.Events {
		offered = slices.Concat(brings, offered)
	}
	for _, f := range offered {
		switch n, err := strconv.ParseInt(f.Example, 10, 64); {
		case f.Kind == wording.Number && err == nil:
			a[f.Name] = wording.Num(n)
		case f.Kind == wording.Moment:
			a[f.Name] = wording.At(sampleNow.In(p.Zone))
		default:
			a.Maybe(f.Name, wording.Str(f.Example))
		}
	}
	if who.Streams > 1 {
		a.Maybe("followed", wording.At(sampleNow.AddDate(-1, -8, -21).In(p.Zone)))
	}
	if h.Frame == happening.OfStream {
		a.Maybe("title", wording.Str("What the tide left in the gully"))
		a.Maybe("category", wording.Str("Field and microscope"))
		a.Maybe("link", wording.Str("https://quayside.example/"+p.Settings.Channel))
		return a
	}
	a.Maybe("link", wording.Str(who.Link))
	a.Maybe("category", wording.Str(who.Category))
	return a
}

// SampleJoinedArgs are the fill-ins of a line for nine people.
func SampleJoinedArgs(p *Plan, when string) wording.Args {
	var lines []pace.Line
	for _, n := range []string{"tidewrack", "mossy_mare", "pebble_june", "grebe_watch", "ottoline_reed", "saltpan_pip", "sandhopper9", "mothlight", "limpet_lena"} {
		lines = append(lines, pace.Line{Name: n})
	}
	total := wording.Num(31)
	if happening.Of(when).Main() == "amount" {
		total = wording.Str("22.50 EUR and 5 USD")
	}
	names, more := pace.Names(lines, max(1, p.Settings.Pace.JoinNames))
	return wording.Args{"channel": wording.Name(p.Settings.Channel), "platform": wording.Str("Quayside"), "names": wording.Str(names),
		"more": wording.Num(int64(more)), "count": wording.Num(int64(len(lines))), "total": total, "now": wording.At(sampleNow.In(p.Zone))}
}
