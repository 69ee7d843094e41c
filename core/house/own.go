package house

import (
	"fmt"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// own fills in the channel's own fill-ins.
func (d *decider) own(a wording.Args) {
	for i := range d.p.FillIns {
		f := &d.p.FillIns[i]
		chance := func(n uint64) uint64 { return wording.Seed(d.p.Seed, d.chanceOf(), "fill-in", f.Name) % n }
		switch f.Kind {
		case "dice":
			a[f.Name] = wording.Num(f.From + int64(chance(uint64(f.To-f.From+1))))
		case "list":
			a[f.Name] = wording.Str(f.List[chance(uint64(len(f.List)))])
		case "clock":
			if zone := d.p.clocks[f.Zone]; zone != nil {
				a[f.Name] = wording.At(d.now.In(zone))
			}
		case "last":
			var names []string
			for _, r := range d.s.Latest[f.Who] {
				if len(names) < f.Most {
					names = append(names, r.Name)
				}
			}
			a.Maybe(f.Name, wording.Value{Text: plain.List(names, "and")})
		}
	}
}

// lately keeps who followed, subscribed, gave, tipped and raided last.
func (s *State) lately(data event.Data) {
	kind := happening.OfData(data).Latest
	of, ok := data.(interface{ Who() *event.Person })
	if kind == "" || !ok {
		return
	}
	who := of.Who()
	r := Recent{who.Key(), plain.Name(who.Shown())}
	list := slices.DeleteFunc(slices.Clone(s.Latest[kind]), func(o Recent) bool { return o.Account == r.Account })
	list = append([]Recent{r}, list...)
	if s.Latest == nil {
		s.Latest = map[string][]Recent{}
	}
	s.Latest[kind] = list[:min(len(list), housefile.LastMost)]
}

// world is what the courtesies of these settings can reach and offer.
func (p *Plan) world(fault func(at, what, remedy string)) courtesy.World {
	s := p.Settings
	w := courtesy.World{World: output.World{Places: map[string]bool{}, Fittings: map[string]string{}, Scenes: map[string][]string{}, Chat: p.chat, Cannot: p.Cannot}, Events: map[string][]wording.FillIn{}}
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
	}
	for _, o := range s.Own {
		w.Events[o.Event] = append(w.Events[o.Event], housefile.Brings(o.Fields)...)
	}
	for _, c := range s.Courtesy {
		for _, o := range c.Do {
			if raises, ok := o.Do.(*output.Raise); ok {
				w.Events[raises.Event] = append(w.Events[raises.Event], housefile.Raises(raises, slices.Concat(happening.Of(c.When).Offers(), w.FillIns))...)
			}
		}
	}
	return w
}
