package house_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
)

// besides is a house beside another assistant, "boatswain".
func besides(list ...courtesy.Courtesy) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		with(list...)(s)
		s.Neighbours = []string{"@Boatswain"}
		s.Pace.PersonSeconds = 0
	}
}

// hearing is a courtesy that says something when a neighbour says such words.
func hearing(id, words, says string) courtesy.Courtesy {
	c := courtesy.Courtesy{ID: id, On: true, When: happening.Neighbour, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{says}}}}
	if words != "" {
		c.Asked = &courtesy.Asking{Words: []string{words}}
	}
	return c
}

func TestANeighbourIsNotGreetedNorAnsweredAndCountsApart(t *testing.T) {
	e := begin(t, besides(answering("tides", []string{"tides"}, &courtesy.Asking{Words: []string{"tide"}}, "High at nine")))
	e.happens(on("quayside"))
	for _, text := range []string{"hello all", "!tides", "what a tide", "evening"} {
		e.happens(line("boatswain", text))
		e.after(30 * time.Second)
	}
	for _, d := range e.said() {
		if d.Person == "quayside:id-boatswain" || d.Courtesy == "tides" {
			t.Errorf("said to a neighbour: %s", d.Text)
		}
	}
	if v := e.s.Evening; v.People != 0 || v.Neighbours != 4 || len(v.Arrivals) != 0 {
		t.Errorf("%+v", v)
	}
	e.happens(line("mossy_mare", "evening"))
	if v := e.s.Evening; v.People != 1 || v.Neighbours != 4 {
		t.Errorf("%+v", v)
	}
}

func TestWhatANeighbourSaysMayBeACauseByItsWords(t *testing.T) {
	e := begin(t, besides(hearing("seals", "seal alarm", "Out with the binoculars: {said}"), hearing("all", "", "{name} speaks")))
	e.happens(on("quayside"))
	e.happens(line("boatswain", "Seal ALARM! 12 on the rocks"))
	e.after(time.Minute)
	e.happens(line("boatswain", "nothing doing"))
	e.after(time.Minute)
	if got := strings.Join(e.texts("seals"), "|"); got != "Out with the binoculars: Seal ALARM! 12 on the rocks" {
		t.Error(got)
	}
	e.wantReason("hears other words")
	e.wantSaid(2, "all")
}

func TestWhatANeighbourAnswersToALineOfOursIsNoCause(t *testing.T) {
	e := begin(t, besides(hearing("all", "", "so it is")), func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, answering("ask", []string{"ask"}, nil, "!weather"))
	})
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "!ask"))
	e.after(2 * time.Second)
	e.happens(line("boatswain", "Fog until ten")) // it answers ours
	e.after(20 * time.Second)
	e.wantSaid(0, "all")
	e.wantReason("within 10s that is no cause")
	e.happens(line("boatswain", "Fog lifts")) // of itself
	e.after(2 * time.Second)
	e.happens(line("boatswain", "so it is what?")) // and about what it had brought on
	e.after(20 * time.Second)
	e.wantSaid(1, "all")
}

func TestACommandThatANeighbourAnswersIsDoneWithoutAWord(t *testing.T) {
	c := answering("vip", []string{"vip"}, &courtesy.Asking{Leaves: "boatswain"}, "You are one")
	c.Do = append(c.Do, output.Output{ID: "lamp", Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}})
	e := begin(t, besides(c))
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "!vip"))
	e.after(time.Minute)
	e.wantSaid(0, "vip")
	if n := len(e.of("lamp")); n != 1 {
		t.Errorf("%d lamps", n)
	}
	e.wantReason("a neighbour answers it: boatswain")
}

// Two houses in one channel hear each other for an hour: whatever they make of it, neither goes on
// for ever.
func TestTwoHousesInOneChannelMakeNoCircle(t *testing.T) {
	for seed := range uint64(12) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			r := rand.New(rand.NewPCG(seed, 7))
			names := [2]string{"porchlamp", "boatswain"}
			var houses [2]*evening
			for i := range houses {
				other := names[1-i]
				houses[i] = begin(t, with(answering("tides", []string{"tides"}, &courtesy.Asking{Words: []string{"high"}}, "High at nine, !lens"), answering("lens", []string{"lens"}, nil, "!tides say I"),
					hearing("echo", "", "!tides"), hearing("too", "high", "it is high, !lens {said}")), func(s *housefile.Settings) {
					s.Neighbours = []string{other}
					for d := range s.Doors {
						if s.Doors[d].Kind == "irc" && s.Doors[d].As == "" {
							s.Doors[d].Account = names[i]
						}
					}
					s.Pace.GapSeconds = float64(r.IntN(4))
				})
				houses[i].happens(on("quayside"))
			}
			heard, spoken := [2]int{}, 0
			for range 3600 {
				if r.IntN(60) == 0 {
					l := line(fmt.Sprint("viewer", r.IntN(5)), []string{"!tides", "is it high?", "!lens", "evening"}[r.IntN(4)])
					spoken++
					for _, e := range houses {
						e.happens(l)
					}
				}
				for i, e := range houses {
					said := e.said()
					for _, d := range said[heard[i]:] {
						if d.Platform == "quayside" {
							houses[1-i].happens(line(names[i], d.Text))
						}
					}
					heard[i] = len(said)
					e.after(time.Second)
				}
			}
			for i, e := range houses {
				// One answer or greeting to each line of a viewer, and of what the other says at most one in ten seconds a cause of two lines.
				if n := len(e.said()); n > 3*spoken+2*3600/10 || n == 0 {
					t.Errorf("%s said %d lines to %d", names[i], n, spoken)
				}
			}
			before := len(houses[0].said()) + len(houses[1].said())
			for range 600 { // and once nobody else speaks, they are silent soon
				for i, e := range houses {
					said := e.said()
					for _, d := range said[heard[i]:] {
						if d.Platform == "quayside" {
							houses[1-i].happens(line(names[i], d.Text))
						}
					}
					heard[i] = len(said)
					e.after(time.Second)
				}
			}
			if after := len(houses[0].said()) + len(houses[1].said()); after-before > 8 {
				t.Errorf("with nobody there they said %d lines more", after-before)
			}
		})
	}
}
