package happening

import "vividporch/core/wording"

// Day is a day of somebody's that is kept when they set it or ask for it, and not at an arrival.
const Day = "day"

var day = &Happening{Type: Day, Words: "a day of theirs, set or asked for", Lane: Asks, Slots: []Slot{Greeting, Free}}

// theirDays are the fill-ins about somebody's days.
var theirDays = []wording.FillIn{
	{Name: "day", Kind: wording.Text, Tells: "for a choice: the day that is kept: birthday, follow, first or round", Example: "birthday", Optional: true},
	{Name: "days", Kind: wording.Text, Tells: "the days that are kept, in words", Example: "birthday", Optional: true},
	{Name: "years", Kind: wording.Number, Tells: "how many years that makes, or streams of a round number; 0 where it is not known", Example: "3"},
	{Name: "daysAgo", Kind: wording.Number, Tells: "how many days ago it was", Example: "2"},
	{Name: "birthday", Kind: wording.Text, Tells: "their birthday, spelled out", Example: "9 March", Optional: true},
	{Name: "birthdayIs", Kind: wording.Text, Tells: "for a choice: today, known, hidden or none", Example: "known"},
	{Name: "daysToGo", Kind: wording.Number, Tells: "days until their birthday", Example: "12"},
	{Name: "firstCame", Kind: wording.Moment, Tells: "when they first came", Example: "Mar 3, 2025", Optional: true},
	{Name: "visitAge", Kind: wording.Text, Tells: "how long ago they first came", Example: "2 years, 3 days and 4 hours", Optional: true},
}

// DayFillIns lists their names.
func DayFillIns() (names []string) {
	for _, f := range theirDays {
		names = append(names, f.Name)
	}
	return names
}
