package onward_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/onward"
)

var (
	tuesday = time.Date(2031, 5, 13, 21, 30, 0, 0, time.UTC)
	yes, no = true, false
)

func ago(days int) *time.Time { t := tuesday.AddDate(0, 0, -days); return &t }

func names(list []onward.Suggestion) string {
	var out []string
	for _, s := range list {
		out = append(out, s.Name)
	}
	return strings.Join(out, ", ")
}

func TestWhomToGoOnTo(t *testing.T) {
	habit := []attendance.Usual{{Day: time.Tuesday, From: 21, To: 23, Times: 3}}
	other := []attendance.Usual{{Day: time.Friday, From: 21, To: 23, Times: 3}}
	for _, c := range []struct {
		name string
		of   []onward.Fellow
		to   string
		why  string // of the first
	}{
		{"whoever is live before whoever usually is", []onward.Fellow{{Name: "heron", Usual: habit}, {Name: "kelp", Live: &yes, Category: "Cold frame kelp"}}, "kelp, heron", "live now with Cold frame kelp"},
		{"whoever is told not to be live is left out, whatever is owed", []onward.Fellow{{Name: "heron", Came: 5, Live: &no, Usual: habit}}, "", ""},
		{"of those who are live whom we owe", []onward.Fellow{{Name: "heron", Live: &yes}, {Name: "kelp", Live: &yes, Came: 2, LastCame: ago(9)}}, "kelp, heron", "live now; they came twice, we have not gone yet, last on 4 May"},
		{"of equals whoever was not visited for longest", []onward.Fellow{{Name: "heron", Live: &yes, Came: 1, Went: 1, LastWent: ago(20)}, {Name: "kelp", Live: &yes, Came: 1, Went: 1, LastWent: ago(40)}, {Name: "moss", Live: &yes}}, "moss, kelp, heron", "live now"},
		{"whoever was visited this week after the others", []onward.Fellow{{Name: "heron", Live: &yes, Came: 1, Went: 1, LastWent: ago(3)}, {Name: "kelp", Live: &yes}}, "kelp, heron", "live now"},
		{"the hour of another day is no habit", []onward.Fellow{{Name: "heron", Usual: other}}, "", ""},
		{"much that is owed is not more than being live", []onward.Fellow{{Name: "heron", Came: 40, LastCame: ago(9)}, {Name: "kelp", Live: &yes}}, "kelp, heron", "live now"},
		{"three at most", []onward.Fellow{{Name: "d", Live: &yes}, {Name: "c", Live: &yes}, {Name: "b", Live: &yes}, {Name: "a", Live: &yes}}, "a, b, c", "live now"},
		{"nobody for whom nothing speaks", []onward.Fellow{{Name: "heron"}, {Name: "kelp", Came: 1, Went: 3}}, "", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			got := onward.Suggest(c.of, tuesday, time.UTC)
			if names(got) != c.to {
				t.Fatalf("%q", names(got))
			}
			if c.to != "" && strings.Join(got[0].Why, "; ") != c.why {
				t.Errorf("%q", got[0].Why)
			}
		})
	}
}

func ExampleSuggest() {
	live := true
	for _, s := range onward.Suggest([]onward.Fellow{
		{Name: "night_heron_cam", Usual: []attendance.Usual{{Day: time.Tuesday, From: 21, To: 23, Times: 4}}},
		{Name: "kelpwright", Came: 1, Live: &live, Category: "Cold frame kelp"},
	}, tuesday, time.UTC) {
		fmt.Println(s.Name+":", strings.Join(s.Why, "; "))
	}
	// Output:
	// kelpwright: live now with Cold frame kelp; they came once, we have not gone yet
	// night_heron_cam: usually live now: Tuesday, 21:00 to 23:00
}
