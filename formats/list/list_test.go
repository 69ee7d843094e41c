package list_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"vividporch/core/people"
	"vividporch/formats/list"
)

func TestAPastedListIsUnderstoodAsPeopleWriteIt(t *testing.T) {
	own := people.MakeNeverList([]string{"tidepool_hours"})
	entries := list.Read("\ufeff1. @Limpet_Lena, kelpwright;KELPWRIGHT\n\nhttps://fernlight.example/moss_and_maud/clips fernlight:ottoline_reed\n- quayside.example/night_heron_cam\n@tidepool_hours\nwhat!ever <mothlight>",
		"quayside", []string{"quayside", "fernlight"}, own)
	var got []string
	for _, l := range entries {
		got = append(got, fmt.Sprintf("%d %s:%s %s", l.Line, l.Platform, l.Login, l.Why))
	}
	want := []string{"1 quayside:limpet_lena ", "1 quayside:kelpwright ", "1 quayside:kelpwright stands in line 1 already", "3 fernlight:moss_and_maud ", "3 fernlight:ottoline_reed ",
		"4 quayside:night_heron_cam ", "5 quayside:tidepool_hours is the streamer's own", "6 quayside: is no account's name", "6 quayside:mothlight "}
	if !slices.Equal(got, want) {
		t.Errorf("understood\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
}
