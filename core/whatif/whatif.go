// Package whatif imagines evenings: so many people a minute, so many of them new, so many lines, a
// raid, support now and then, a drop of the stream. How an evening swells and ebbs, how much people
// say and what they ask for is learned from a channel's own past streams ([Shape]); nobody of these
// is copied. The same seed, shape and dials make the same evening.
package whatif

import (
	"cmp"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/rehearsal"
)

// Parts is into how many parts of one length a stream's shape is cut.
const Parts = 20

// Bounds of the dials: what nobody's channel goes beyond, and no machine minds.
const (
	MostMinutes      = 12 * 60
	MostPeopleMinute = 200
	MostLinesMinute  = 400
	MostRaid         = 20_000
	MostSupportHour  = 600
	mostSpeakers     = 1500 // of a raid, who say something
)

// Shape is what a channel's past streams are like.
type Shape struct {
	Streams   int                // it is learned from so many; 0 is what is taken for a channel that had none
	Minutes   int                // the usual length
	Lines     [Parts]float64     // how lines are spread over a stream: parts of all, that sum to 1
	Arrivals  [Parts]float64     // and first lines
	PeopleMin float64            // first lines a minute
	LinesMin  float64            // lines a minute
	New       float64            // of those who come, how many are new: 0 to 1
	Regular   float64            // and how many regular
	Away      float64            // and how many long away
	Raid      int                // the middle of the raids, in people
	Support   float64            // tips, subscriptions and gifts an hour
	Platforms map[string]float64 // where people are, as parts of all
	Asked     []Asked            // what is asked for, and how often of a thousand lines
}

// Asked is a command as it is asked for, with its sign.
type Asked struct {
	Text        string
	PerThousand float64
}

// Dials say what an imagined evening is to be like.
type Dials struct {
	Seed         uint64
	Minutes      int
	PeopleMinute float64 // first lines a minute
	New          float64 // of them, 0 to 1
	LinesMinute  float64
	RaidOf       int     // people; 0 for no raid
	RaidAt       int     // minute
	SupportHour  float64 // tips, subscriptions, gifts and follows an hour
	DropAt       int     // minute in which the stream drops; 0 for none
	DropMinutes  int     // and for how long
}

// Check names the first dial that is out of its bounds, as a [event.FieldError].
func (d Dials) Check() error {
	for _, c := range []struct {
		field     string
		v         float64
		low, most float64
	}{{"minutes", float64(d.Minutes), 1, MostMinutes}, {"peopleMinute", d.PeopleMinute, 0, MostPeopleMinute}, {"newShare", d.New, 0, 1}, {"linesMinute", d.LinesMinute, 0, MostLinesMinute},
		{"raidOf", float64(d.RaidOf), 0, MostRaid}, {"raidAt", float64(d.RaidAt), 0, MostMinutes}, {"supportHour", d.SupportHour, 0, MostSupportHour}, {"dropAt", float64(d.DropAt), 0, MostMinutes}, {"dropMinutes", float64(d.DropMinutes), 0, MostMinutes}} {
		if math.IsNaN(c.v) || c.v < c.low || c.v > c.most {
			return &event.FieldError{Field: c.field, Remedy: fmt.Sprintf("is out of range; use %g to %g", c.low, c.most)}
		}
	}
	return nil
}

// Plain is the shape of a channel that had no stream yet: a small evening of two hours.
func Plain(platform string) Shape {
	s := Shape{Minutes: 120, PeopleMin: 0.3, LinesMin: 6, New: 0.2, Regular: 0.35, Away: 0.1, Raid: 20, Support: 2, Platforms: map[string]float64{platform: 1}}
	for i := range Parts {
		s.Lines[i], s.Arrivals[i] = 1.0/Parts, 1.0/Parts
	}
	return s
}

// Usual are the dials that make an evening as the channel's usually are.
func (s Shape) Usual() Dials {
	round := func(v float64) float64 { return math.Round(v*10) / 10 }
	return Dials{Seed: 1, Minutes: min(MostMinutes, max(10, s.Minutes)), PeopleMinute: max(0.1, round(s.PeopleMin)), New: math.Round(s.New*100) / 100, LinesMinute: max(1, math.Round(s.LinesMin)),
		RaidOf: s.Raid, RaidAt: min(30, s.Minutes/2), SupportHour: round(s.Support)}
}

// Evening imagines an evening that opens at a moment. past are the channel's streams until then,
// oldest first: those who are not new have been to some of them.
func Evening(s Shape, d Dials, opens time.Time, past []attendance.Past) *rehearsal.Evening {
	g := &imagining{r: rand.New(rand.NewPCG(d.Seed, 0x707)), s: s, d: d, opens: opens.UTC().Truncate(time.Second), past: past}
	g.book = rehearsal.NewBook()
	g.book.Streams = past
	if n := len(past); n > 0 {
		g.book.LastStream = past[n-1].Number
	}
	g.platforms()
	g.stream()
	g.minutes()
	slices.SortStableFunc(g.script, func(a, b event.Event) int { return cmp.Or(a.Time.Compare(b.Time), cmp.Compare(a.ID, b.ID)) })
	return &rehearsal.Evening{Book: g.book, Script: g.script, Same: true}
}

type imagining struct {
	r     *rand.Rand
	s     Shape
	d     Dials
	opens time.Time
	past  []attendance.Past
	book  *rehearsal.Book

	on     []string // platforms, and up to where of 1 each reaches
	upTo   []float64
	script []event.Event
	here   []event.Person
	talks  []float64 // how much each of those says beside the others
	all    float64
	named  int
}

// platforms puts those of the shape in an order, the one with most people first.
func (g *imagining) platforms() {
	for p := range g.s.Platforms {
		g.on = append(g.on, p)
	}
	slices.SortFunc(g.on, func(a, b string) int {
		return cmp.Or(cmp.Compare(g.s.Platforms[b], g.s.Platforms[a]), cmp.Compare(a, b))
	})
	sum := 0.0
	for _, p := range g.on {
		sum += g.s.Platforms[p]
		g.upTo = append(g.upTo, sum)
	}
	for i := range g.upTo {
		g.upTo[i] /= sum
	}
}

func (g *imagining) platform() string {
	x := g.r.Float64()
	for i, to := range g.upTo {
		if x < to {
			return g.on[i]
		}
	}
	return g.on[len(g.on)-1]
}

// put adds something that happens so many seconds after the opening.
func (g *imagining) put(seconds float64, d event.Data) {
	at := g.opens.Add(time.Duration(seconds * float64(time.Second))).Truncate(time.Millisecond)
	g.script = append(g.script, event.Event{Door: "imagined", Source: "imagined", ID: fmt.Sprintf("imagined-%06d", len(g.script)), Type: d.Type(), Data: d, Time: at})
}

func (g *imagining) stream() {
	info := happening.StreamInfo{Title: "An imagined evening"}
	ends := float64(g.d.Minutes * 60)
	for _, p := range g.on {
		info.Platform = p
		g.put(0, &happening.StreamOpened{StreamInfo: info})
		if from := float64(g.d.DropAt * 60); from > 0 && from < ends && g.d.DropMinutes > 0 {
			g.put(from, &happening.StreamClosed{StreamInfo: info})
			g.put(min(ends, from+float64(g.d.DropMinutes*60)), &happening.StreamOpened{StreamInfo: info})
		}
		g.put(ends, &happening.StreamClosed{StreamInfo: info})
	}
}

// often is how often something happens that happens so often on average: by Knuth's way to draw from a
// Poisson distribution (The Art of Computer Programming 2, 3.4.1), in steps where the average is large.
func (g *imagining) often(mean float64) (n int) {
	for ; mean > 30; mean -= 30 {
		n += g.often(30)
	}
	for p, least := g.r.Float64(), math.Exp(-mean); p > least; n++ {
		p *= g.r.Float64()
	}
	return n
}

func (g *imagining) minutes() {
	for m := range g.d.Minutes {
		part := m * Parts / max(1, g.d.Minutes)
		swell := func(of [Parts]float64) float64 { return of[part] * Parts }
		from := float64(m * 60)
		if g.d.RaidOf > 0 && m == g.d.RaidAt {
			g.raid(from + 10)
		}
		for range g.often(g.d.PeopleMinute * swell(g.s.Arrivals)) {
			g.comes(from+60*g.r.Float64(), g.somebody(g.d.New))
		}
		for range g.often(max(0, g.d.LinesMinute*swell(g.s.Lines)-g.d.PeopleMinute*swell(g.s.Arrivals))) {
			g.says(from + 60*g.r.Float64())
		}
		for range g.often(g.d.SupportHour / 60) {
			g.supports(from + 60*g.r.Float64())
		}
	}
}

// comes is somebody's first line.
func (g *imagining) comes(at float64, p event.Person) {
	if at >= float64(g.d.Minutes*60) {
		return
	}
	g.line(at, p, first[g.r.IntN(len(first))])
	w := g.r.ExpFloat64() + 0.1 // a few say most of it
	g.here, g.talks, g.all = append(g.here, p), append(g.talks, w), g.all+w
}

// says is a line of somebody who is here.
func (g *imagining) says(at float64) {
	if len(g.here) == 0 {
		return
	}
	x := g.r.Float64() * g.all
	who := len(g.here) - 1
	for i, w := range g.talks {
		if x -= w; x < 0 {
			who = i
			break
		}
	}
	text := later[g.r.IntN(len(later))]
	ask := g.r.Float64() * 1000
	for _, a := range g.s.Asked {
		if ask -= a.PerThousand; ask < 0 {
			text = a.Text
			break
		}
	}
	g.line(at, g.here[who], text)
}

func (g *imagining) line(at float64, p event.Person, text string) {
	d := &happening.ChatSaid{Text: text, MessageID: fmt.Sprint("imagined-line-", len(g.script))}
	d.Person = p
	g.put(at, d)
}

// raid is one, with those who speak: about every third within three minutes, nearly all of them new.
func (g *imagining) raid(at float64) {
	lead := g.made(g.platform())
	d := &happening.RaidCame{Viewers: int64(g.d.RaidOf)}
	d.Person = lead
	g.put(at, d)
	for range min(mostSpeakers, g.often(float64(g.d.RaidOf)*0.32)) {
		g.comes(at+2+min(170, g.r.ExpFloat64()*45), g.somebody(max(g.d.New, 0.85)))
	}
}

// supports is something that somebody here gives.
func (g *imagining) supports(at float64) {
	if len(g.here) == 0 {
		return
	}
	p := g.here[g.r.IntN(len(g.here))]
	switch g.r.IntN(5) {
	case 0:
		d := &happening.Tipped{Amount: []string{"2.00", "5.00", "10.00", "25.00"}[g.r.IntN(4)], Currency: "EUR"}
		d.Person = p
		g.put(at, d)
	case 1:
		d := &happening.Subscribed{Months: int64(1 + g.r.IntN(24)), Tier: "usual"}
		d.Person = p
		g.put(at, d)
	case 2:
		d := &happening.Gifted{Count: int64([]int{1, 1, 1, 5, 10}[g.r.IntN(5)]), Tier: "usual"}
		d.Person = p
		g.put(at, d)
	default:
		d := &happening.PersonFollowed{}
		d.Person = p
		g.put(at, d)
	}
}

// somebody is who comes next: new by so much of one, else somebody of the imagined book.
func (g *imagining) somebody(new float64) event.Person {
	p := g.made(g.platform())
	if g.r.Float64() < new || len(g.past) == 0 {
		return p
	}
	c := card.Card{Accounts: []card.Account{{Person: p}}}
	last := g.past[max(0, len(g.past)-10):]
	switch x := g.r.Float64(); {
	case x < g.s.Regular:
		for _, s := range last {
			if g.r.Float64() < 0.85 {
				c.Streams = append(c.Streams, s.Number)
			}
		}
	case x < g.s.Regular+g.s.Away && len(g.past) > 20:
		c.Streams = []int{g.past[g.r.IntN(len(g.past)-15)].Number}
	default:
		c.Streams = []int{last[g.r.IntN(len(last))].Number}
	}
	if len(c.Streams) == 0 {
		c.Streams = []int{last[len(last)-1].Number}
	}
	g.book.People = append(g.book.People, c)
	return p
}

// made is a made-up person, with a name that no other has.
func (g *imagining) made(platform string) event.Person {
	g.named++
	a, b := before[g.r.IntN(len(before))], after[g.r.IntN(len(after))]
	login := fmt.Sprintf("%s_%s%d", a, b, g.named)
	return event.Person{Platform: platform, ID: fmt.Sprint("imagined-", g.named), Login: login, Name: login}
}
