package prose_test

import (
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/prose"
	"vividporch/core/who"
)

var called = who.Names{
	Place:   func(string) string { return "News at The Boathouse" },
	Crew:    func(id string) string { return map[string]string{"row": "Lantern Row", "moths": "Quiet Moths"}[id] },
	Account: func(string) string { return "Limpet Lena" },
	Fitting: func(string) string { return "the bench lamp" },
}

func sentence(c courtesy.Courtesy) string {
	var b strings.Builder
	for _, p := range prose.Sentence(c, called) {
		b.WriteString(p.Text)
	}
	return b.String()
}

func TestEveryCourtesyReadsAsASentence(t *testing.T) {
	say, post := output.Output{Do: &output.Say{}}, output.Output{Do: &output.Relay{Place: "news"}}
	lamp, scene := output.Output{Do: &output.Lamp{Fitting: "bench"}}, output.Output{Do: &output.Scene{Scene: "Bench"}}
	slow, streamer := output.Output{Do: &output.Platform{Act: output.SlowChat}}, output.Output{Do: &output.Say{As: "streamer"}}
	ten, five := 10.0, 5.0
	both := &who.Crews{Of: []string{"row", "moths"}}
	for want, c := range map[string]courtesy.Courtesy{
		"Greet anyone":                                                                              {When: happening.Arrival, Slot: happening.Greeting, Do: []output.Output{say}},
		"Greet a regular who is a moderator":                                                        {When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Standing: people.Regular, Role: "moderator"}, Do: []output.Output{say}},
		"Shout out anyone in both Lantern Row and Quiet Moths":                                      {When: happening.Arrival, Slot: happening.ShoutOut, Who: who.Who{Crews: both}, Do: []output.Output{say}},
		"Mark the arrival of anyone back after long away":                                           {When: happening.Arrival, Who: who.Who{Standing: people.LongAway}, Do: []output.Output{post}},
		"Pass over Limpet Lena in silence":                                                          {When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Account: "quayside:1"}},
		"Tell News at The Boathouse and chat that we are on":                                        {When: "porch.stream.opened", Do: []output.Output{post, say, say}},
		"When the stream opens, light the bench lamp and go to Bench":                               {When: "porch.stream.opened", Do: []output.Output{lamp, scene}},
		"Thank a raid of 10 or more led by a fellow streamer":                                       {When: "porch.raid.came", Slot: happening.Thanks, Measure: &who.Measure{AtLeast: &ten}, Who: who.Who{Mark: people.Fellow}, Do: []output.Output{say}},
		"Pass over a raid of up to 5 in silence":                                                    {When: "porch.raid.came", Slot: happening.Thanks, Measure: &who.Measure{UpTo: &five}},
		"Shout out the leader of a raid":                                                            {When: "porch.raid.came", Slot: happening.ShoutOut, Do: []output.Output{say}},
		"Thank for a tip of exactly 10 EUR by a VIP":                                                {When: "porch.support.tipped", Slot: happening.Thanks, Measure: &who.Measure{Exactly: &ten, Currency: "EUR"}, Who: who.Who{Role: "vip"}, Do: []output.Output{say}},
		"Answer a hello said to the room":                                                           {When: happening.Hello, Slot: happening.Answer, Do: []output.Output{say}},
		"Answer !tides or !tide asked by anyone tagged owl":                                         {When: happening.Command, Slot: happening.Answer, Asks: []string{"!tides", "!tide"}, Who: who.Who{Tag: "owl"}, Do: []output.Output{say}},
		"When you say so, say in chat as the streamer, slow chat and post to News at The Boathouse": {When: happening.Hand, Do: []output.Output{streamer, slow, post}},
		"Mark a ban":                 {When: "porch.person.banned", Do: []output.Output{post}},
		"Mark the end of the stream": {When: "porch.stream.closed", Do: []output.Output{say}},
		"Mark another service's event by anyone with event “tide.turned”": {When: "porch.other", Who: who.Who{Fields: map[string]string{"event": "tide.turned"}}, Do: []output.Output{say}},
	} {
		if got := sentence(c); got != want {
			t.Errorf("want %q\nhave %q", want, got)
		}
	}
}

func TestWhenOfTheYearAndTheDayIsSaid(t *testing.T) {
	for want, w := range map[string]who.Who{
		"Greet anyone on Friday or Saturday":           {Days: []string{"Friday", "Saturday"}},
		"Greet anyone from 2031-12-01":                 {Since: "2031-12-01"},
		"Greet anyone until 2031-12-24":                {Until: "2031-12-24"},
		"Greet anyone from 2031-12-01 to 2031-12-24":   {Since: "2031-12-01", Until: "2031-12-24"},
		"Greet anyone from 22:00 to 02:00":             {Hours: &who.Hours{From: "22:00", To: "02:00"}},
		"Greet anyone with 10 streams or more":         {Attended: 10},
		"Greet a newcomer or a moderator":              {Any: []who.Who{{Standing: people.Newcomer}, {Role: "moderator"}}},
		"Greet anyone who is trusted but not a raider": {Trusted: true, Not: []who.Who{{Mark: people.Raider}}},
	} {
		if got := sentence(courtesy.Courtesy{When: happening.Arrival, Slot: happening.Greeting, Who: w, Do: []output.Output{{Do: &output.Say{}}}}); got != want {
			t.Errorf("want %q\nhave %q", want, got)
		}
	}
}

func TestEveryOutputSaysWhatItDoes(t *testing.T) {
	for want, o := range map[string]output.Output{
		"say in chat":                   {Do: &output.Say{}},
		"say in chat as the streamer":   {Do: &output.Say{As: "streamer"}},
		"shout them out":                {Do: &output.ShoutOut{}},
		"show a card":                   {Do: &output.Card{}},
		"play bell.ogg":                 {Do: &output.Sound{Media: "bell.ogg"}},
		"show the film tide.webm":       {Do: &output.Film{Media: "tide.webm"}},
		"speak":                         {Do: &output.Speak{}},
		"light the bench lamp":          {Do: &output.Lamp{}},
		"go to Bench":                   {Do: &output.Scene{Scene: "Bench"}},
		"post to News at The Boathouse": {Do: &output.Relay{}},
		"advert break":                  {Do: &output.Platform{Act: output.AdvertBreak}},
		"raise tide.turned":             {Do: &output.Raise{Event: "tide.turned"}},
	} {
		if got := o.Does(called); got != want {
			t.Errorf("want %q, have %q", want, got)
		}
	}
}

func TestEveryWhenHasALaneAndAShortLabel(t *testing.T) {
	lanes := map[string]int{}
	for _, w := range happening.Whens() {
		for _, slot := range w.Slots {
			c := prose.New(nil, w.Type, slot)
			lanes[prose.Lane(c)]++
			if label := prose.Label(c); label == "" || len(label) > 24 {
				t.Errorf("%s, %s: %q", w.Type, slot, label)
			}
			if s := sentence(c); s == "" || strings.Contains(s, "porch.") || strings.HasSuffix(s, " ") || strings.Contains(s, "  ") {
				t.Errorf("%s, %s: %q", w.Type, slot, s)
			}
		}
	}
	if len(lanes) != 6 {
		t.Errorf("%v", lanes)
	}
	if got := prose.Label(courtesy.Courtesy{ID: "for-the-prints", When: happening.Hand}); got != "For the prints" {
		t.Error(got)
	}
	if got := prose.Label(courtesy.Courtesy{ID: "x", When: happening.Hand, Title: "Back in a moment"}); got != "Back in a moment" {
		t.Error(got)
	}
}
