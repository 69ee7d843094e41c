package ear_test

import (
	"slices"
	"testing"

	"vividporch/core/box"
	"vividporch/core/ear"
	"vividporch/core/hall"
	"vividporch/core/people"
)

func arrival(name string, standing people.Standing, attended int, day string) hall.Decision {
	return hall.Decision{Kind: hall.Arrive, Name: name, Met: hall.Met{Standing: standing, Day: day, Known: &people.Known{Attended: attended}}}
}

func TestWhatIsWorthItIsTold(t *testing.T) {
	e := &box.Ear{Standings: []string{"newcomer", "long away"}, Waiting: true}
	for want, d := range map[string]hall.Decision{
		"Lena, birthday, 41st stream":                   arrival("Lena", people.Regular, 40, "birthday"),
		"moss mare, for the first time":                 arrival("moss_mare", people.Newcomer, 0, ""),
		"night heron cam, after long away, 12th stream": arrival("night_heron_cam", people.LongAway, 11, ""),
		"a raid of 42 waits, kelpwright":                {Kind: hall.Wait, Item: &hall.Item{Kind: "raid", Name: "kelpwright", Viewers: 42}},
		"a note from sandhopper9":                       {Kind: hall.Wait, Item: &hall.Item{Kind: "note", Name: "sandhopper9"}},
	} {
		if got := ear.Words(e, []hall.Decision{d}); !slices.Equal(got, []string{want}) {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

func TestWhatIsNotWorthItIsNot(t *testing.T) {
	e := &box.Ear{NoDays: true}
	for _, d := range []hall.Decision{
		arrival("Lena", people.Regular, 40, "birthday"),
		arrival("moss_mare", people.Newcomer, 0, ""),
		{Kind: hall.Wait, Item: &hall.Item{Kind: "raid", Name: "kelpwright"}},
		{Kind: hall.Say, Text: "hello"},
	} {
		if got := ear.Words(e, []hall.Decision{d}); len(got) > 0 {
			t.Errorf("%q", got)
		}
	}
}
