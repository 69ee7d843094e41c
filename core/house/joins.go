package house

import (
	"fmt"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

const alsoOnWords = "{channel} is live on {platform} too{hasLink, select, yes {: {link}} other {}}"

func (p *Plan) loadAlsoOn(a housefile.AlsoOn) []courtesy.Fault {
	var faults []courtesy.Fault
	switch a.How {
	case "", housefile.FollowUp, housefile.EachOwn, housefile.NoFollow:
	default:
		faults = append(faults, courtesy.Fault{At: "alsoOn.how", What: fmt.Sprintf("%q is not known", a.How), Remedy: `use "follow up", "each" or "nothing"`})
	}
	if len(a.Words) == 0 {
		a.Words = []string{alsoOnWords}
	}
	for i, src := range a.Words {
		w, problems := courtesy.CheckWording(src, happening.Of(happening.StreamOpenedType).Offers())
		for _, pr := range problems {
			faults = append(faults, courtesy.Fault{At: fmt.Sprintf("alsoOn.words.%d", i), Problem: &pr, What: pr.What, Remedy: pr.Remedy})
		}
		p.alsoOn = append(p.alsoOn, w)
	}
	return faults
}

// platformJoins: a platform goes live while the stream is on. Once a stream it is told of, as
// the settings say.
func platformJoins(d *decider, args wording.Args, platform, why string) {
	how := d.p.AlsoOn.How
	if d.s.Stream.Platforms[platform] != nil || how == housefile.NoFollow {
		notAnnounced(d, why)
		return
	}
	c := who.Cause{When: happening.StreamOpenedType, Live: true, At: d.now.In(d.p.Zone)}
	c.Person.Platform = platform
	if how == housefile.EachOwn {
		d.free(d.p.Set.Meet(c), args, []string{platform})
		d.release(d.s.Hush)
		return
	}
	for _, r := range d.p.Set.For(c) {
		fits, no := r.Fits(c)
		if r.Slot != happening.Free || !fits {
			if r.Slot == happening.Free {
				d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Because: []string{no}})
			}
			continue
		}
		for i := range r.Outputs {
			o := r.Outputs[i]
			if ok, _ := o.Fits(c); !ok {
				continue
			}
			switch {
			case o.Way() == output.ToChat && (len(o.On) == 0 || slices.Contains(o.On, platform)):
				o.On = nil
				d.do(c, r, &o, nil, args, []string{platform})
			case o.Way() == output.ToPlace:
				o.ID, o.Alts, o.Weights = o.ID+" too", d.p.alsoOn, nil
				d.do(c, r, &o, nil, args, nil)
			}
		}
	}
	d.release(d.s.Hush)
}
