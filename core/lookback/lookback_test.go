package lookback_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/lookback"
	"vividporch/core/output"
	"vividporch/core/rehearsal"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// evening lives things, half a minute apart, in a house that greets everybody and answers !tide.
func evening(t *testing.T, things ...event.Data) *lookback.Evening {
	t.Helper()
	return eveningUntil(t, time.Time{}, 0, things...)
}

// eveningUntil is one that is read at a moment, where greetings wait for so many seconds.
func eveningUntil(t *testing.T, until time.Time, delay float64, things ...event.Data) *lookback.Evening {
	t.Helper()
	s := housetest.Base()
	s.Pace.GapSeconds, s.Pace.JoinAt = 0, 0
	s.Courtesy = []courtesy.Courtesy{
		{ID: "greet", On: true, When: happening.Arrival, Slot: happening.Greeting, Delay: delay, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Hello {name}."}}}},
		housetest.Asked("tide", output.Output{Do: &output.Say{}, Alternatives: []string{"Low at nine."}})}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	opened := &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside", Title: "Low water"}}
	ev := &rehearsal.Evening{Book: rehearsal.NewBook(), Same: true, Until: until}
	for i, d := range append([]event.Data{opened}, things...) {
		door := "quayside"
		if strings.HasPrefix(d.Type(), "porch.desk.") {
			door = "desk"
		}
		ev.Script = append(ev.Script, event.Event{Door: door, Source: "evening", ID: fmt.Sprint("e", i), Type: d.Type(), Data: d, Time: dusk.Add(time.Duration(i) * 30 * time.Second)})
	}
	lived, err := rehearsal.Live(context.Background(), plan, ev, nil)
	if err != nil {
		t.Fatal(err)
	}
	return lived.Evening
}

func says(who, text string) event.Data {
	d := &happening.ChatSaid{Text: text}
	d.Person = event.Person{Platform: "quayside", ID: who, Login: who}
	return d
}

func TestWhoeverIsMetInSilenceIsToldOfWithTheReason(t *testing.T) {
	e := evening(t, says("limpet_lena", "hello"), &event.Hushed{On: true}, says("kelpwright", "evening"), says("grebe_watch", "hi"))
	if len(e.Arrivals) != 3 || e.Greeted() != 1 {
		t.Fatalf("%d arrived, %d greeted", len(e.Arrivals), e.Greeted())
	}
	why := map[string]string{}
	for _, a := range e.Silent() {
		why[a.Account] = a.Why
	}
	if len(why) != 2 || why["quayside:kelpwright"] == "" || why["quayside:grebe_watch"] == "" || why["quayside:kelpwright"] == why["quayside:grebe_watch"] {
		t.Errorf("%v", why)
	}
	if len(e.Hushes) != 1 || !e.Hushes[0].From.Equal(dusk.Add(time.Minute)) || !e.Hushes[0].To.IsZero() {
		t.Errorf("%+v", e.Hushes)
	}
}

func TestWhoeverIsYetToBeGreetedIsToldOfAsThat(t *testing.T) {
	said := []event.Data{says("limpet_lena", "hello"), says("kelpwright", "evening")}
	if e := eveningUntil(t, dusk.Add(time.Minute), 40, said...); e.Greeted() != 0 || len(e.Silent()) != 2 || e.Silent()[1].Why != "what greets them is still coming up" {
		t.Errorf("%d greeted, %+v", e.Greeted(), e.Silent())
	}
	if e := eveningUntil(t, dusk.Add(time.Hour), 40, said...); e.Greeted() != 2 {
		t.Errorf("%+v", e.Silent())
	}
}

func TestTheStreamerIsNotAmongThoseMetInSilence(t *testing.T) {
	own := says("odalys", "evening all").(*happening.ChatSaid)
	own.Person.Roles = []event.Role{event.Streamer}
	e := evening(t, &event.Hushed{On: true}, own, says("kelpwright", "evening"))
	if silent := e.Silent(); len(silent) != 1 || silent[0].Account != "quayside:kelpwright" {
		t.Errorf("%+v", silent)
	}
}

func TestWhatIsAskedIsCountedAndWhatHasNoAnswerApart(t *testing.T) {
	e := evening(t, says("a", "!tide"), says("b", "!tide please"), says("c", "!schedule"), says("a", "!Schedule again"), says("b", "!"), says("b", "no command!"), says("c", "!!!"))
	if fmt.Sprint(e.Asked) != "map[tide:2]" || fmt.Sprint(e.Unanswered) != "map[!schedule:2]" {
		t.Errorf("asked %v, in vain %v", e.Asked, e.Unanswered)
	}
}

func TestTheHouseShareIsOfAllLines(t *testing.T) {
	e := evening(t, says("a", "hello"), says("a", "one"), says("a", "two"))
	if e.People != 3 || e.House != 1 || e.Share() != 0.25 {
		t.Errorf("%d by people, %d by the house, share %v", e.People, e.House, e.Share())
	}
	minutes := 0
	for _, m := range e.Minutes {
		minutes += m.People + m.House
	}
	if minutes != 4 {
		t.Errorf("%d lines minute by minute: %+v", minutes, e.Minutes)
	}
}

func TestTextsAndNamesCanBeTakenOut(t *testing.T) {
	e := evening(t, says("limpet_lena", "!limpet_lena"), says("grebe_watch", "hi"))
	e.Nameless()
	e.Without(func(text string) string { return strings.ReplaceAll(text, "limpet_lena", "somebody") })
	for _, a := range e.Arrivals {
		if a.Name != "" {
			t.Errorf("%s is named", a.Name)
		}
	}
	if fmt.Sprint(e.Unanswered) != "map[!somebody:1]" {
		t.Errorf("%v", e.Unanswered)
	}
}

func TestAStreamIsCalledWhatItWasCalledLastAlsoByWhatGoesOnWithIt(t *testing.T) {
	called := func(title string) happening.StreamInfo {
		return happening.StreamInfo{Platform: "quayside", Title: title}
	}
	changed, over := &happening.StreamChanged{StreamInfo: called("Brittle stars")}, &event.StreamDeclared{Act: "closed"}
	late, again := &happening.StreamChanged{StreamInfo: called("Between the tides")}, &happening.StreamOpened{StreamInfo: called("Once more")}
	for name, test := range map[string]struct {
		things []event.Data
		want   string
	}{
		"while it is on":         {[]event.Data{changed}, "Brittle stars"},
		"what is told after it":  {[]event.Data{changed, over, late}, "Brittle stars"},
		"a drop goes on with it": {[]event.Data{changed, &happening.StreamClosed{StreamInfo: called("")}, again}, "Once more"},
	} {
		t.Run(name, func(t *testing.T) {
			if e := evening(t, test.things...); e.Title != test.want {
				t.Errorf("%q", e.Title)
			}
		})
	}
}

func TestAPlatformThatToldLateIsAmongThoseItWasSeenOn(t *testing.T) {
	r := lookback.New("")
	tells := func(platform, title string, minutes int, ds ...hall.Decision) {
		d := &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: platform, Title: title}}
		r.Take(&event.Event{Type: d.Type(), Data: d, Time: dusk.Add(time.Duration(minutes) * time.Minute)}, ds)
	}
	tells("quayside", "Low water", 0, hall.Decision{Kind: hall.Open, At: dusk})
	r.Take(&event.Event{Data: &event.StreamDeclared{Act: "closed"}}, []hall.Decision{{Kind: hall.Close, At: dusk.Add(time.Hour)}})
	tells("fernlight", "Low water there too", 10)
	tells("skerry", "Between the tides", 70)
	if e := r.Evening(); e.Title != "Low water" || !slices.Equal(e.Platforms, []string{"quayside", "fernlight"}) {
		t.Errorf("%q on %v", e.Title, e.Platforms)
	}
}
