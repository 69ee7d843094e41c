package who

import (
	"fmt"
	"slices"

	"vividporch/core/occasion"
)

// Date asks for a day of somebody's: "it is their birthday", "their 50th stream", "it passed while
// they were away". A day that was kept already is asked for in vain.
type Date struct {
	Of    occasion.Kind `json:"of,omitempty" jsonschema:"enum=birthday,enum=follow,enum=first visit,enum=round number,enum=channel"` // none is any
	When  string        `json:"when" jsonschema:"enum=today,enum=belated,enum=within"`
	Days  int           `json:"days,omitempty" jsonschema:"minimum=0,maximum=366"` // ahead, of within
	Years int           `json:"years,omitempty" jsonschema:"minimum=0"`            // it makes exactly so many, or so many streams; 0 is any number
}

// When a day of somebody's is asked for.
const (
	Today   = "today"
	Belated = "belated" // it passed, and nobody kept it
	Within  = "within"  // it comes within so many days
)

// Dates are the days of whoever is behind a cause: which are to be kept and were not yet, which passed
// so, and which are ahead.
type Dates struct {
	Today, Belated, Coming []occasion.Occasion
}

// Of are those that a condition asks for.
func (d *Dates) Of(w *Date) []occasion.Occasion {
	if d == nil {
		return nil
	}
	from := d.Today
	switch w.When {
	case Belated:
		from = d.Belated
	case Within:
		from = d.Coming
	}
	var out []occasion.Occasion
	for _, o := range from {
		if (w.Of == "" || w.Of == o.Kind) && (w.Years == 0 || w.Years == o.Years) && (w.When != Within || o.Days <= w.Days) {
			out = append(out, o)
		}
	}
	return out
}

// Keeps lists the days that a who asks for and that a cause has: what is kept where it is met. A day
// that is only ahead is not.
func (w *Who) Keeps(d *Dates) (out []occasion.Occasion) {
	if d == nil {
		return nil
	}
	w.Each(func(w *Who) {
		if w.Date == nil || w.Date.When == Within {
			return
		}
		for _, o := range d.Of(w.Date) {
			if !slices.Contains(out, o) {
				out = append(out, o)
			}
		}
	})
	return out
}

// AsksDates reports whether a who asks for a day of somebody's.
func (w *Who) AsksDates() (yes bool) {
	w.Each(func(w *Who) { yes = yes || w.Date != nil })
	return yes
}

// what is the day in words, to stand after "it is": "their birthday".
func (d *Date) what() string {
	switch d.Of {
	case occasion.Birthday:
		if d.Years > 0 {
			return fmt.Sprintf("their birthday number %d", d.Years)
		}
		return "their birthday"
	case occasion.Follow:
		if d.Years > 0 {
			return fmt.Sprintf("the day they followed %s ago", years(d.Years))
		}
		return "the day they followed"
	case occasion.FirstVisit:
		if d.Years > 0 {
			return fmt.Sprintf("the day they first came %s ago", years(d.Years))
		}
		return "the day they first came"
	case occasion.Channel:
		if d.Years > 0 {
			return fmt.Sprintf("the day the channel began %s ago", years(d.Years))
		}
		return "the day the channel began"
	case occasion.Streams:
		if d.Years > 0 {
			return fmt.Sprintf("stream number %d of theirs", d.Years)
		}
		return "a round number of streams of theirs"
	}
	return "a day of theirs"
}

func years(n int) string {
	if n == 1 {
		return "1 year"
	}
	return fmt.Sprintf("%d years", n)
}

// String is the condition in words, to stand after "whom": "it is their birthday".
func (d *Date) String() string {
	if d.Of == occasion.Channel {
		return "keeps " + d.what()
	}
	switch d.When {
	case Belated:
		return "has missed " + d.what()
	case Within:
		if d.Days == 1 {
			return "has " + d.what() + " by tomorrow"
		}
		return fmt.Sprintf("has %s within %d days", d.what(), d.Days)
	}
	return "has " + d.what() + " today"
}

// rank puts a day of today before one that was missed, and that before one ahead.
func (d *Date) rank() int {
	switch d.When {
	case Within:
		return 0
	case Belated:
		return 1
	}
	return 2
}

// misfit says that a cause has no such day.
func (d *Date) misfit() string {
	switch d.When {
	case Belated:
		return "has not missed " + d.what() + ", or it was kept already"
	case Within:
		return fmt.Sprintf("has not %s within %d days", d.what(), d.Days)
	}
	return "it is not " + d.what() + ", or it was kept already"
}

func (d *Date) check(at string, fault func(at, what, remedy string)) {
	if d.Of != "" && !slices.Contains(occasion.Kinds(), d.Of) {
		fault(at+".of", fmt.Sprintf("%q is no day of anybody's", d.Of), "use birthday, follow, first visit, round number or channel")
	}
	switch d.When {
	case Today, Belated:
		if d.Days != 0 {
			fault(at+".days", "is no matter of "+d.When, "take it out, or ask for what comes within so many days")
		}
	case Within:
		if d.Days < 0 || d.Days > 366 {
			fault(at+".days", "is out of range", "use 0 to 366 days")
		}
		if d.Of == occasion.Streams || d.Of == occasion.Channel {
			fault(at+".of", "does not come on a day that is known ahead", "ask for it today, or for another kind of day")
		}
	default:
		fault(at+".when", fmt.Sprintf("%q is no time", d.When), "use today, belated or within")
	}
	if d.Years < 0 {
		fault(at+".years", "is below zero", "count years from 1, or take it out")
	}
	if d.When == Belated && d.Of == occasion.Channel {
		fault(at+".of", "is not made up for", "ask for it today")
	}
	if d.When == Belated && d.Of == occasion.Streams {
		fault(at+".of", "is never missed: it is a stream they are at", "ask for it today, or for another kind of day")
	}
}

// apart reports whether no day is asked for by both.
func (d *Date) apart(o *Date) bool {
	return d.When != Within && o.When != Within && d.Of != "" && d.Of == o.Of && d.Years > 0 && o.Years > 0 && d.Years != o.Years
}

// embody makes a cause have such a day.
func (d *Date) embody(c *Cause) {
	if c.Dates == nil {
		c.Dates = &Dates{}
	}
	o := occasion.Occasion{Kind: d.Of, Years: max(1, d.Years)}
	if o.Kind == "" {
		o.Kind = occasion.Birthday
	}
	switch d.When {
	case Belated:
		o.Days = -1
		c.Dates.Belated = append(c.Dates.Belated, o)
	case Within:
		c.Dates.Coming = append(c.Dates.Coming, o)
	default:
		c.Dates.Today = append(c.Dates.Today, o)
	}
}
