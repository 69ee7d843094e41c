package happening

import (
	"strings"
	"time"

	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/occasion"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// DatesWeek: the days of people of a week, at the weekday and hour that the settings name. The house
// tells it of itself, from the guest book.
type DatesWeek struct {
	From dates.Day `json:"from"`           // its first day
	Days []WeekDay `json:"days"`           // in their order
	More int       `json:"more,omitempty"` // further ones, of a week with very many
}

// WeekDay is one day of somebody's.
type WeekDay struct {
	Person event.Person  `json:"person"`
	Kind   occasion.Kind `json:"kind"`
	On     dates.Day     `json:"on"`
	Years  int           `json:"years,omitempty"`
}

// DatesWeekType is the type of it.
const DatesWeekType = "porch.dates.week"

func (*DatesWeek) Type() string { return DatesWeekType }

// mostWeekDays bounds what one week tells.
const mostWeekDays = 500

func (d *DatesWeek) Validate() error {
	if len(d.Days) > mostWeekDays {
		return event.Wrong("data.days", "are more than %d; count the rest in more", mostWeekDays)
	}
	for i := range d.Days {
		if err := d.Days[i].Person.Validate("data.days.person"); err != nil {
			return err
		}
	}
	return nil
}

// Words are the days in words, a weekday at a time: "Thursday 3 December: limpet_lena (birthday)".
func (d *DatesWeek) Words() string {
	var parts []string
	for i := 0; i < len(d.Days); {
		on, said := d.Days[i].On, []string(nil)
		for ; i < len(d.Days) && d.Days[i].On == on; i++ {
			w := &d.Days[i]
			if name := plain.Name(w.Person.Shown()); name != "" { // nobody, once forgotten
				said = append(said, name+" ("+occasion.Occasion{Kind: w.Kind, Years: w.Years}.Words()+")")
			}
		}
		if len(said) > 0 {
			parts = append(parts, on.At(time.UTC).Format("Monday 2 January")+": "+strings.Join(said, ", "))
		}
	}
	return strings.Join(parts, "; ")
}

var datesWeek = &Happening{Data: func() event.Data { return &DatesWeek{} }, Within: true, Words: "the week’s dates", Verb: "Tell ", Lane: Opens, Slots: []Slot{Free}, Frame: OfStream, Reason: "the week’s dates are due",
	FillIns: []FillIn{
		{wording.FillIn{Name: "week", Kind: wording.Text, Tells: "whose days are in the week ahead, a weekday at a time", Example: "Thursday 3 December: limpet_lena (birthday); Saturday 5 December: mossy_mare (2 years of following)", Optional: true},
			func(d event.Data) wording.Value { return wording.Str(d.(*DatesWeek).Words()) }},
		Count("dates", "how many there are", "2", func(d *DatesWeek) int64 { return int64(len(d.Days) + d.More) }),
	}}
