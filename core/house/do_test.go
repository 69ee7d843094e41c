package house_test

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/desk"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/profile"
	"vividporch/core/room"
	"vividporch/core/who"
)

// stage gives the boathouse a player, a lamp and scenes, and Quayside a door that acts.
func stage(s *housefile.Settings) {
	s.Pace.JoinAt, s.Pace.GapSeconds = 0, 0
	s.Fittings = []housefile.Fitting{{Name: "bell", Kind: output.Player, URL: "http://stage.example/bell"}, {Name: "bench-lamp", Kind: output.Lights, URL: "http://stage.example/lamp"},
		{Name: "desk", Kind: output.Scenes, URL: "http://stage.example/desk", Scenes: []string{"Microscope", "Bench"}}}
	s.Doors = slices.DeleteFunc(s.Doors, func(d housefile.Door) bool { return d.As != "" })
	for i := range s.Profiles {
		s.Profiles[i].Acts = profile.Acts{}
		if s.Profiles[i].Platform == "quayside" {
			s.Profiles[i].Acts = profile.Acts{Address: "http://quayside.example/acts", Cannot: map[string]string{"clip": "Quayside keeps no clips"}}
		}
	}
}

// does makes a courtesy of any outputs.
func does(id, when string, slot happening.Slot, outputs ...output.Output) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		for i := range outputs {
			if outputs[i].ID == "" {
				outputs[i].ID = fmt.Sprint("o", i)
			}
		}
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: id, On: true, When: when, Slot: slot, Do: outputs})
	}
}

func follows(login string) *happening.PersonFollowed {
	f := &happening.PersonFollowed{}
	f.Person = viewer(login)
	return f
}

func read(t *testing.T, d hall.Decision) (out output.Told) {
	t.Helper()
	if err := json.Unmarshal(d.Body, &out); err != nil {
		t.Fatal(err)
	}
	return out
}

// tells is what the kind of an effect tells of itself.
func tells[T any](t *testing.T, d hall.Decision) T {
	t.Helper()
	out, ok := read(t, d).Do.(T)
	if !ok {
		t.Fatalf("%s tells %T", d.Kind, read(t, d).Do)
	}
	return out
}

func TestOneCourtesyDoesSeveralThingsEachWithItsOwnDelay(t *testing.T) {
	e := begin(t, stage, does("follow", "porch.person.followed", happening.Thanks,
		output.Output{Do: &output.Say{}, Alternatives: []string{"Welcome aboard, {name}"}, DelaySeconds: 4},
		output.Output{Do: &output.Card{Second: "since tonight", Media: "limpet.png", Seconds: 8}, Alternatives: []string{"{name} follows"}},
		output.Output{Do: &output.Sound{Media: "bell.ogg", Fitting: "bell"}},
		output.Output{Do: &output.Speak{Fitting: "bell", Voice: "warm", Loud: 20}, Alternatives: []string{"Hello {name}"}, DelaySeconds: 2},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c", Seconds: 6}},
		output.Output{Do: &output.Scene{Fitting: "desk", Scene: "Bench"}, DelaySeconds: 3}))
	e.happens(on("quayside"))
	e.happens(follows("pebble_june"))
	if card := e.of("card"); len(card) != 1 || card[0].Platform != output.Overlay || read(t, card[0]).Text != "pebble_june follows" || tells[*output.Card](t, card[0]).Second != "since tonight" {
		t.Errorf("%+v", card)
	}
	if sound := e.of("sound"); len(sound) != 1 || sound[0].Platform != "bell" || tells[*output.Sound](t, sound[0]).Loud != 60 {
		t.Errorf("%+v", sound)
	}
	if n := len(e.of("lamp")); n != 1 || len(e.of("speak")) != 0 || len(e.of("scene")) != 0 {
		t.Errorf("%d lamps; what has a delay went at once", n)
	}
	e.after(2 * time.Second)
	if spoken := e.of("speak"); len(spoken) != 1 || read(t, spoken[0]).Text != "Hello pebble_june" || tells[*output.Speak](t, spoken[0]).Voice != "warm" || tells[*output.Speak](t, spoken[0]).Loud != 20 {
		t.Errorf("%+v", spoken)
	}
	e.after(2 * time.Second)
	e.wantSaid(1, "follow")
	if n := len(e.of("scene")); n != 1 {
		t.Errorf("%d scenes", n)
	}
	if len(overlay.Cards(e.s.Rooms)) != 1 || len(e.s.Queue.Lines) != 0 {
		t.Errorf("%d cards kept, %d lines still wait", len(overlay.Cards(e.s.Rooms)), len(e.s.Queue.Lines))
	}
}

func TestWordsAreReadAloudOnceAMemberAllowsIt(t *testing.T) {
	aloud := output.Output{Do: &output.Speak{Fitting: "bell", Asks: true}, Alternatives: []string{"{name} says {hasRest, select, yes {{rest}} other {nothing}}"}}
	e := begin(t, stage, func(s *housefile.Settings) {
		does("read", happening.Command, happening.Answer, aloud)(s)
		s.Courtesy[len(s.Courtesy)-1].Asks = []string{"read"}
	})
	e.happens(on("quayside"))
	for _, login := range []string{"pebble_june", "mossy_mare", "kelpwright"} {
		e.happens(line(login, "!read the tide is "+login))
	}
	e.after(5 * time.Minute)
	lines := e.s.Queue.Lines
	if len(lines) != 3 || len(e.of("speak")) != 0 {
		t.Fatalf("%d wait, %d were read", len(lines), len(e.of("speak")))
	}
	first, second := lines[0].ID, lines[1].ID
	e.happens(&event.Hushed{On: true}) // whoever allows it means it
	e.happens(&event.LineHurried{LineHand: event.LineHand{Line: second}})
	if spoken := e.of("speak"); len(spoken) != 1 || read(t, spoken[0]).Text != "mossy_mare says the tide is mossy_mare" {
		t.Errorf("%+v", spoken)
	}
	e.happens(&event.LineHurried{LineHand: event.LineHand{Line: second}}) // and by two members at once: once
	e.happens(&event.LineDropped{LineHand: event.LineHand{Line: first}})
	e.happens(&event.Hushed{})
	e.after(5*time.Minute + time.Second)
	e.wantReason("nobody allowed it within 10m0s")
	if len(e.of("speak")) != 1 || len(e.s.Queue.Lines) != 0 {
		t.Errorf("%d were read, %d wait", len(e.of("speak")), len(e.s.Queue.Lines))
	}
}

func TestHushHoldsWhatViewersWouldSeeAndRecordsGoOn(t *testing.T) {
	e := begin(t, stage, does("follow", "porch.person.followed", happening.Free,
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}, WaitSeconds: 600},
		output.Output{Do: &output.Platform{Act: output.SlowChat, Seconds: 30}, WaitSeconds: 600},
		output.Output{Do: &output.Relay{Place: "boathouse-news"}, Alternatives: []string{"{name} follows"}},
		output.Output{Do: &output.Relay{Place: "boathouse-news"}, Alternatives: []string{"{name} follows, a little later"}, DelaySeconds: 5}))
	e.happens(on("quayside"))
	e.after(time.Minute).happens(&event.Hushed{On: true})
	e.happens(follows("pebble_june"))
	e.after(10 * time.Second)
	posts := 0
	for _, d := range e.of(hall.Relay) {
		if d.Courtesy == "follow" {
			posts++
		}
	}
	if len(e.of("lamp")) != 0 || len(e.of(hall.Kind(output.KindPlatform))) != 0 || posts != 2 {
		t.Errorf("%d lamps, %d acts, %d posts", len(e.of("lamp")), len(e.of(hall.Kind(output.KindPlatform))), posts)
	}
	e.happens(&event.Hushed{On: false})
	e.after(time.Second)
	if len(e.of("lamp")) != 1 || len(e.of(hall.Kind(output.KindPlatform))) != 1 {
		t.Error("what was held did not come out when hush was lifted")
	}
}

func TestFortyFollowsAtOnceAreOneLineOneCardAndOneSound(t *testing.T) {
	e := begin(t, stage, does("follow", "porch.person.followed", happening.Thanks,
		output.Output{Do: &output.Say{}, Alternatives: []string{"Welcome, {name}"}, Joined: []string{"Welcome {names}{more, plural, =0 {} other { and # more}}, {count} of you"}},
		output.Output{Do: &output.Card{}, Alternatives: []string{"{name}"}, Joined: []string{"{count} new follows"}},
		output.Output{Do: &output.Sound{Media: "bell.ogg", Fitting: "bell"}}), func(s *housefile.Settings) {
		s.Courtesy[len(s.Courtesy)-1].Burst = &courtesy.Burst{Seconds: 8, At: 3}
	})
	e.happens(on("quayside"))
	e.after(time.Minute)
	for i := range 40 {
		e.happens(follows(fmt.Sprintf("follower_%02d", i)))
		e.after(150 * time.Millisecond)
	}
	e.after(10 * time.Second)
	line := e.wantSaid(1, "follow")[0]
	if len(line.Joined) != 40 || !strings.HasSuffix(line.Text, "and 34 more, 40 of you") || !strings.HasPrefix(line.Text, "Welcome follower_00, follower_01") {
		t.Errorf("%d joined: %s", len(line.Joined), line.Text)
	}
	cards := e.of("card")
	if len(cards) != 1 || read(t, cards[0]).Text != "40 new follows" || len(read(t, cards[0]).Names) != 40 {
		t.Errorf("%d cards", len(cards))
	}
	if n := len(e.of("sound")); n != 1 {
		t.Errorf("the bell rang %d times", n)
	}
	// One alone, later, is greeted by name.
	e.after(time.Minute).happens(follows("late_comer"))
	e.after(10 * time.Second)
	if all := e.wantSaid(2, "follow"); all[1].Text != "Welcome, late_comer" || len(e.of("sound")) != 2 {
		t.Errorf("%q", all[1].Text)
	}
	if n := len(e.s.Queue.Lines); n != 0 {
		t.Errorf("%d lines still wait", n)
	}
}

func TestTipsInQuickSuccessionAreSummedByCurrency(t *testing.T) {
	e := begin(t, stage, does("tip", "porch.support.tipped", happening.Thanks,
		output.Output{Do: &output.Say{}, Alternatives: []string{"Thanks, {name}"}, Joined: []string{"{names} gave {total} in {count} tips"}}), func(s *housefile.Settings) {
		s.Courtesy[len(s.Courtesy)-1].Burst = &courtesy.Burst{Seconds: 5, At: 2}
	})
	e.happens(on("quayside"))
	for _, tip := range [][3]string{{"saltpan_pip", "5.00", "EUR"}, {"mossy_mare", "3", "USD"}, {"saltpan_pip", "2.50", "EUR"}} {
		x := &happening.Tipped{Amount: tip[1], Currency: tip[2]}
		x.Person = viewer(tip[0])
		e.happens(x)
	}
	e.after(10 * time.Second)
	if got := e.wantSaid(1, "tip")[0].Text; got != "saltpan_pip and mossy_mare gave 7.50 EUR and 3 USD in 3 tips" {
		t.Error(got)
	}
}

func TestARaisedEventIsLivedRightAfterItsCause(t *testing.T) {
	e := begin(t, stage,
		does("count", "porch.person.followed", happening.Free, output.Output{Do: &output.Raise{Event: "tide.turned", Fields: map[string]string{"by": "{name}", "height": "3.2"}}}),
		says1("hear", "porch.other", who.Who{Fields: map[string]string{"event": "tide.turned"}}, "The tide turned{hasBy, select, yes { for {by}} other {}}{hasHeight, select, yes {, {height, number} m} other {}}"))
	e.happens(on("quayside"))
	ds := e.happens(follows("pebble_june"))
	evs := room.Raised(e.plan, &e.log[len(e.log)-1].ev, ds)
	if len(evs) != 1 || evs[0].Who().Login != "pebble_june" {
		t.Fatalf("%+v", evs)
	}
	e.happens(evs[0].Data)
	e.after(time.Minute)
	if got := e.wantSaid(1, "hear")[0].Text; got != "The tide turned for pebble_june, 3.2 m" {
		t.Error(got)
	}
}

func says1(id, when string, who who.Who, words string) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, says(id, when, happening.Free, who, nil, words))
	}
}

func TestEventsThatGoInACircleAreRefused(t *testing.T) {
	raises := func(id, hears, event string) courtesy.Courtesy {
		return courtesy.Courtesy{ID: id, On: true, When: "porch.other", Who: who.Who{Fields: map[string]string{"event": hears}},
			Do: []output.Output{{ID: "r", Do: &output.Raise{Event: event}}}}
	}
	for name, list := range map[string][]courtesy.Courtesy{
		"itself":       {raises("a", "ebb", "EBB")},
		"two":          {raises("a", "ebb", "flow"), raises("b", "flow", "ebb")},
		"three":        {raises("a", "ebb", "flow"), raises("b", "flow", "slack"), raises("c", "slack", "ebb")},
		"hears it all": {{ID: "a", On: true, When: "porch.other", Do: []output.Output{{ID: "r", Do: &output.Raise{Event: "ebb"}}}}},
		"through a shout-out": {{ID: "a", On: true, When: "porch.other", Do: []output.Output{{ID: "s", Do: &output.ShoutOut{}}}},
			{ID: "b", On: true, When: "porch.raid.came", Slot: happening.ShoutOut, Do: []output.Output{{ID: "r", Do: &output.Raise{Event: "ebb"}}}}},
		"through a shout-out on arrival": {raises("a", "ebb", "flow"), {ID: "b", On: true, When: "porch.other", Who: who.Who{Fields: map[string]string{"event": "flow"}}, Do: []output.Output{{ID: "s", Do: &output.ShoutOut{}}}},
			{ID: "c", On: true, When: happening.Arrival, Slot: happening.ShoutOut, Do: []output.Output{{ID: "r", Do: &output.Raise{Event: "ebb"}}}}},
		"no way around": {raises("a", "ebb", "flow"), raises("b", "flow", "slack")},
	} {
		_, faults := courtesy.Load(list, courtesy.World{})
		circle := len(faults) == 1 && strings.Contains(faults[0].What, "circle")
		if circle == (name == "no way around") {
			t.Errorf("%s: %v", name, faults)
		}
	}
}

func TestEventsThatRaiseEachOtherGoNoFurtherThanTheBound(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "flow", On: true, OffLine: true, When: "porch.other", Who: who.Who{Fields: map[string]string{"event": "ebb"}},
			Do: []output.Output{{ID: "r", Do: &output.Raise{Event: "flow"}}}})
	})
	deep := event.Event{Door: "quayside", Source: "s", ID: "deep", Type: "porch.other", Data: &happening.Other{Name: "ebb"}, Time: dusk, Logged: dusk, Seq: 1}
	for depth, want := range map[int]hall.Kind{0: hall.Raise, 7: hall.Raise, 8: hall.Refuse} {
		deep.Depth = depth
		ds := house.Decide(e.s, &deep, nil, e.plan)
		if len(ds) != 1 || ds[0].Kind != want || want == hall.Refuse && !strings.Contains(ds[0].Because[0], "8 deep") {
			t.Errorf("at depth %d: %+v", depth, ds)
		}
		for _, r := range room.Raised(e.plan, &deep, ds) {
			if r.Depth != depth+1 {
				t.Errorf("raised at depth %d: %d", depth, r.Depth)
			}
		}
	}
}

func TestACourtesyAskedForByHandKnowsWhoAskedAndWhoIsMeant(t *testing.T) {
	e := begin(t, stage, does("prints", happening.Hand, happening.Free,
		output.Output{Do: &output.Say{}, Alternatives: []string{"{asker} says: {hasMeant, select, yes {the prints tonight are by {meant}} other {look at the wall}}"}},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}}))
	e.happens(on("quayside"))
	e.happens(&event.Hushed{On: true}) // a member's own asking goes through hush
	e.happens(&event.DeskAsked{Act: "courtesy", Courtesy: "prints", Person: viewer("mossy_mare"), Member: "Odalys Brine"})
	e.wantSaid(0, "prints")
	e.after(5 * time.Second)
	if got := e.wantSaid(1, "prints")[0]; got.Text != "Odalys Brine says: the prints tonight are by mossy_mare" || !got.ByHand {
		t.Errorf("%+v", got)
	}
	e.happens(&event.DeskAsked{Act: "courtesy", Courtesy: "prints", Member: "Odalys Brine"})
	e.after(5 * time.Second)
	said := e.wantSaid(3, "prints") // for nobody in particular it goes to every chat
	if said[1].Text != "Odalys Brine says: look at the wall" || len(e.of("lamp")) != 2 {
		t.Errorf("%q, %d lamps", said[1].Text, len(e.of("lamp")))
	}
	e.happens(&event.DeskAsked{Act: "courtesy", Courtesy: "greet-newcomer", Member: "Odalys Brine"})
	e.wantReason("is not one that is asked for by hand")
}

func TestACommandIsAnsweredAndTellsWhoIsMeant(t *testing.T) {
	e := begin(t, stage, func(s *housefile.Settings) {
		c := says("tides", happening.Command, happening.Answer, who.Who{}, nil, "{name} asks{hasMeant, select, yes { {meant}} other {}}{hasRest, select, yes {: {rest}} other {}}")
		c.Asks = []string{"!tides", "!tide"}
		mod := says("tides-mod", happening.Command, happening.Answer, who.Who{Role: event.Moderator}, nil, "Aye, {name}")
		mod.Asks = []string{"!tides"}
		s.Courtesy = append(s.Courtesy, c, mod)
	})
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "evening"))
	e.happens(line("limpet_lena", "!TIDE @Mossy_Mare how high?")) // an arrival and a command: two causes
	e.after(time.Minute)
	if got := e.wantSaid(1, "tides")[0].Text; got != "limpet_lena asks mossy_mare: @Mossy_Mare how high?" {
		t.Error(got)
	}
	e.wantSaid(2, "greet-newcomer")
	mod := line("grebe_watch", "hm")
	mod.Person.Roles = []event.Role{event.Moderator}
	e.happens(mod)
	mod.Text = "!tides"
	e.happens(mod)
	e.after(time.Minute)
	e.wantSaid(1, "tides-mod") // the closer who wins
	e.wantSaid(2, "tides")
	e.happens(line("limpet_lena", "what does !tides do?"))
	e.after(time.Minute)
	e.wantSaid(2, "tides")
	// The streamer may ask although never greeted; another bot may not, or two would talk for ever.
	streamer := line("tidepool_hours", "!tide")
	streamer.Person.Roles = []event.Role{event.Streamer}
	e.happens(streamer)
	e.happens(line("boathouse_bell", "!tide"))
	e.after(time.Minute)
	e.wantSaid(3, "tides")
}

func TestAnOutputKeepsItsOwnCondition(t *testing.T) {
	at := 50.0
	e := begin(t, stage, does("raid-bell", "porch.raid.came", happening.Free,
		output.Output{Do: &output.Sound{Media: "bell.ogg", Fitting: "bell"}, Measure: &who.Measure{AtLeast: &at}},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}, Only: &who.Who{Crews: &who.Crews{Of: []string{"quiet-moths"}}}}))
	e.happens(on("quayside"))
	e.happens(raid("reed_watch", 20), &people.Known{})
	e.happens(raid("mothlight", 20), &people.Known{Crews: []string{"quiet-moths"}})
	e.happens(raid("night_heron_cam", 120), &people.Known{})
	if s, l := len(e.of("sound")), len(e.of("lamp")); s != 1 || l != 1 {
		t.Errorf("%d sounds, %d lamps", s, l)
	}
	e.wantReason("its own condition: is for 50 or more, this is 20")
}

func TestALineGoesOutAsTheStreamerOnlyWhereTheyHaveADoor(t *testing.T) {
	streamer := func(s *housefile.Settings) {
		s.Doors = append(s.Doors, housefile.Door{Name: "odalys", Kind: "irc", Platform: "quayside", Address: "quayside.example:6697", Room: "#tidepool_hours", Account: "tidepool_hours", As: "streamer"})
	}
	e := begin(t, stage, streamer, does("own-voice", "porch.stream.opened", happening.Free, output.Output{Do: &output.Say{As: "streamer"}, On: []string{"quayside"}, Alternatives: []string{"I am here"}}))
	e.happens(on("quayside"))
	if got := e.wantSaid(1, "own-voice")[0]; got.As != "streamer" || got.Platform != "quayside" {
		t.Errorf("%+v", got)
	}
	settings := *e.plan.Settings
	settings.Doors = settings.Doors[:len(settings.Doors)-1]
	if _, faults := house.Ready(&settings, 2); len(faults) == 0 || !strings.Contains(faults[0].What, "streamer's own account") {
		t.Errorf("%v", faults)
	}
}

func TestAPlatformActionIsDoneRefusedAndUndone(t *testing.T) {
	e := begin(t, stage, does("title", "porch.raid.came", happening.Free, output.Output{Do: &output.Platform{Act: output.SetTitle}, Alternatives: []string{"With {name} and friends"}}))
	e.happens(on("quayside"))
	e.happens(raid("mothlight", 20))
	acts := e.of(hall.Kind(output.KindPlatform))
	if len(acts) != 1 || acts[0].Platform != "quayside" || tells[*output.Deed](t, acts[0]).Act != output.SetTitle || read(t, acts[0]).Text != "With mothlight and friends" {
		t.Fatalf("%+v", acts)
	}
	done := event.ActOutcome{Line: acts[0].Line, To: "quayside", Effect: "platform", Act: "title", Text: "With mothlight and friends", Was: "What the tide left"}
	e.happens(&event.ActDone{ActOutcome: done})
	e.happens(&event.DeskUndone{LineHand: event.LineHand{Line: acts[0].Line}})
	if back := e.of(hall.Kind(output.KindPlatform)); len(back) != 2 || read(t, back[1]).Text != "What the tide left" {
		t.Fatalf("%+v", back)
	}
	e.happens(&event.DeskActed{Act: "give VIP", Platform: "quayside", Login: "mossy_mare"})
	vip := e.of(hall.Kind(output.KindPlatform))[2]
	e.happens(&event.ActDone{ActOutcome: event.ActOutcome{Line: vip.Line, To: "quayside", Effect: "platform", Act: "give VIP", Login: "mossy_mare"}})
	e.happens(&event.DeskUndone{LineHand: event.LineHand{Line: vip.Line}})
	if got := tells[*output.Deed](t, e.of(hall.Kind(output.KindPlatform))[3]); got.Act != output.TakeVIP || got.Login != "mossy_mare" {
		t.Errorf("%+v", got)
	}
	e.happens(&event.DeskActed{Act: "clip", Platform: "quayside"})
	e.wantReason("Quayside keeps no clips")
	e.happens(&event.DeskActed{Act: "clip", Platform: "fernlight"})
	e.wantReason("no door of Fernlight says where it can be asked to act")
	e.happens(&event.ActRefused{ActOutcome: event.ActOutcome{Line: "x", To: "quayside", Effect: "platform", Act: "advert break", Reason: "the last one was two minutes ago"}})
	if n := len(e.s.Waiting); n != 1 || e.s.Waiting[0].Kind != "act" || e.s.Waiting[0].Why != "the last one was two minutes ago" {
		t.Errorf("%+v", e.s.Waiting)
	}
	e.happens(&event.DeskUndone{LineHand: event.LineHand{Line: "nothing"}})
	e.wantReason("cannot be undone, or was already")
}

func TestWhatAPlatformCannotDoCannotBeChosenForIt(t *testing.T) {
	s := begin(t, stage).plan.Settings
	for what, out := range map[string]output.Output{
		"Quayside keeps no clips":                 {Do: &output.Platform{Act: output.MakeClip}, On: []string{"quayside"}},
		"no door of Fernlight":                    {Do: &output.Platform{Act: output.SlowChat}, On: []string{"fernlight"}},
		"no platform of yours can do this":        {Do: &output.Platform{Act: output.MakeClip}},
		"no line of chat comes with this":         {Do: &output.Platform{Act: output.DeleteLine}},
		"the house has no chat door on elsewhere": {Do: &output.Say{}, Alternatives: []string{"hm"}, On: []string{"elsewhere"}},
		`"tug" is no player`:                      {Do: &output.Sound{Fitting: "tug", Media: "bell.ogg"}},
		`there is no scene "Cellar"`:              {Do: &output.Scene{Fitting: "desk", Scene: "Cellar"}},
		`"amber" is no colour`:                    {Do: &output.Lamp{Fitting: "bench-lamp", Colour: "amber"}},
		`there is no fill-in {viewers} here`:      {Do: &output.Card{Second: "{viewers} of them"}, Alternatives: []string{"hm"}},
		"an advert break":                         {Do: &output.Platform{Act: output.AdvertBreak, Seconds: 5}},
		`"dance" is no platform action`:           {Do: &output.Platform{Act: "dance"}},
		"do not fit the alternatives":             {Do: &output.Say{}, Alternatives: []string{"hm"}, Weights: []int{1, 2}},
		`no standing`:                             {Do: &output.Say{}, Alternatives: []string{"hm"}, Only: &who.Who{Standing: "king"}},
		"is missing; choose what is played":       {Do: &output.Film{Fitting: "bell"}},
		"is missing or too long":                  {Do: &output.Raise{}},
	} {
		bad := *s
		out.ID = "o"
		bad.Courtesy = []courtesy.Courtesy{{ID: "x", On: true, When: "porch.person.followed", Do: []output.Output{out}}}
		_, faults := house.Ready(&bad, 2)
		text := fmt.Sprint(faults)
		if len(faults) == 0 || !strings.Contains(strings.ReplaceAll(text, "; an advert", " an advert"), what) {
			t.Errorf("want %q, got %s", what, text)
		}
	}
}

func TestAShoutOutAsAnOutputIsMadeOnce(t *testing.T) {
	e := begin(t, stage, func(s *housefile.Settings) {
		s.Courtesy = []courtesy.Courtesy{says("lift", "porch.raid.came", happening.ShoutOut, who.Who{}, nil, "Go and see {name}"),
			{ID: "thanks", On: true, When: "porch.raid.came", Slot: happening.Thanks, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Thank you, {name}"}}, {ID: "lift", Do: &output.ShoutOut{}}}},
			{ID: "tip", On: true, When: "porch.support.tipped", Do: []output.Output{{ID: "lift", Do: &output.ShoutOut{}}}}}
	})
	e.happens(on("quayside"))
	e.happens(raid("mothlight", 20))
	e.after(time.Minute)
	e.wantSaid(1, "lift")
	e.wantSaid(1, "thanks")
	tip := &happening.Tipped{Amount: "5.00", Currency: "EUR"}
	tip.Person = viewer("night_heron_cam")
	e.happens(tip)
	e.after(time.Minute)
	if got := e.wantSaid(2, "lift")[1].Text; got != "Go and see night_heron_cam" {
		t.Error(got)
	}
}

func TestFillInsWithSettingsOfTheirOwn(t *testing.T) {
	mine := func(s *housefile.Settings) {
		s.FillIns = []housefile.FillIn{{Name: "dice", Kind: "dice", From: 1, To: 20}, {Name: "latest", Kind: "last", Who: "followers", Most: 2}, {Name: "lisbon", Kind: "clock", Zone: "Pacific/Auckland"},
			{Name: "creature", Kind: "list", List: []string{"a limpet", "a blenny"}}}
	}
	words := "{dice}|{hasLatest, select, yes {{latest}} other {nobody}}|{lisbon, time, short}|{creature}"
	tell := func() []string {
		e := begin(t, stage, mine, says1("tell", "porch.person.followed", who.Who{}, words))
		e.happens(on("quayside"))
		for _, f := range []string{"a", "b", "c", "b"} {
			e.happens(follows(f))
			e.after(time.Second)
		}
		var out []string
		for _, d := range e.wantSaid(4, "tell") {
			out = append(out, d.Text)
		}
		return out
	}
	first := tell()
	if again := tell(); fmt.Sprint(first) != fmt.Sprint(again) {
		t.Errorf("the same evening told otherwise: %v %v", first, again)
	}
	for i, text := range first {
		p := strings.Split(text, "|")
		n := 0
		fmt.Sscan(p[0], &n)
		if n < 1 || n > 20 || p[1] != []string{"nobody", "a", "b and a", "c and b"}[i] || p[2] != "7:00 AM" || p[3] != "a limpet" && p[3] != "a blenny" {
			t.Errorf("%q", text)
		}
	}
	for _, bad := range []housefile.FillIn{{Name: "name", Kind: "dice", From: 1, To: 6}, {Name: "d", Kind: "dice", From: 6, To: 6}, {Name: "d d", Kind: "dice", From: 1, To: 6}, {Name: "z", Kind: "clock", Zone: "Nowhere"},
		{Name: "l", Kind: "list"}, {Name: "f", Kind: "last", Who: "kings", Most: 2}, {Name: "x", Kind: "oracle"}} {
		s := *begin(t, stage).plan.Settings
		s.FillIns = []housefile.FillIn{bad}
		if _, faults := house.Ready(&s, 2); len(faults) != 1 || !strings.HasPrefix(faults[0].At, "fillIns.0") || faults[0].Remedy == "" {
			t.Errorf("%+v: %v", bad, faults)
		}
	}
}

func TestAnotherServicesEventBringsItsDescribedFields(t *testing.T) {
	own := func(s *housefile.Settings) {
		s.Own = []housefile.OtherEvent{{Event: "tide.turned", Fields: map[string]string{"height": "3.2", "place": "the gully"}}}
	}
	who := who.Who{Fields: map[string]string{"event": "tide.turned"}}
	e := begin(t, stage, own, says1("tide", "porch.other", who, "{hasHeight, select, yes {{height, number} m} other {Some}} at {hasPlace, select, yes {{place}} other {the shore}}"))
	e.happens(on("quayside"))
	e.happens(&happening.Other{Name: "tide.turned", Fields: map[string]any{"height": 2.75}})
	e.after(time.Second)
	if got := e.wantSaid(1, "tide")[0].Text; got != "2.75 m at the shore" {
		t.Error(got)
	}
	s := *e.plan.Settings
	s.Own = nil
	if _, faults := house.Ready(&s, 2); len(faults) == 0 || !strings.Contains(faults[0].What, "height") && !strings.Contains(faults[0].What, "Height") {
		t.Errorf("a field nobody described was let through: %v", faults)
	}
}

func TestANumberFromAnotherServiceIsCounted(t *testing.T) {
	own := func(s *housefile.Settings) {
		s.Own = []housefile.OtherEvent{{Event: "flock.seen", Fields: map[string]string{"birds": "12"}}}
	}
	one, many := who.Who{Fields: map[string]string{"event": "flock.seen", "birds": "1"}}, who.Who{Fields: map[string]string{"event": "flock.seen", "birds": "1250000"}}
	words := "{birds, plural, one {# bird} other {# birds}} over the mud"
	e := begin(t, stage, own, says1("one", "porch.other", one, words), says1("many", "porch.other", many, words))
	e.happens(on("quayside"))
	e.happens(&happening.Other{Name: "flock.seen", Fields: map[string]any{"birds": 1.0}})
	e.happens(&happening.Other{Name: "flock.seen", Fields: map[string]any{"birds": 1.25e6}})
	e.after(time.Minute)
	if got := e.wantSaid(1, "one")[0].Text; got != "1 bird over the mud" {
		t.Error(got)
	}
	if got := e.wantSaid(1, "many")[0].Text; got != "1,250,000 birds over the mud" {
		t.Error(got)
	}
}

func TestANumberThatIsRaisedStaysOne(t *testing.T) {
	e := begin(t, stage,
		does("tell", "porch.raid.came", happening.Free, output.Output{Do: &output.Raise{Event: "boats.came", Fields: map[string]string{"boats": "{viewers}", "from": "{name}", "berths": "4"}}}),
		says1("hear", "porch.other", who.Who{Fields: map[string]string{"event": "boats.came"}}, "{boats, plural, one {# boat} other {# boats}}{hasFrom, select, yes { from {from}} other {}} for {berths, plural, one {# berth} other {# berths}}"))
	e.happens(on("quayside"))
	ds := e.happens(raid("kelpwright", 3))
	for _, ev := range room.Raised(e.plan, &e.log[len(e.log)-1].ev, ds) {
		e.happens(ev.Data)
	}
	e.after(time.Minute)
	if got := e.wantSaid(1, "hear")[0].Text; got != "3 boats from kelpwright for 4 berths" {
		t.Error(got)
	}
}

func TestOtherServicesEventsAreDescribedByWhatCame(t *testing.T) {
	came := []*happening.Other{ // newest first
		{Name: "tide.turned", Fields: map[string]any{"height": 3.0, "gone": nil}},
		{Name: "bell.rung"},
		{Name: "known.one", Fields: map[string]any{"a": "b"}},
		{Name: "Tide.Turned", Fields: map[string]any{"height": 2.5, "place": "the gully", "spring": true}},
	}
	got := housefile.Describe(came, []housefile.OtherEvent{{Event: "Known.One"}})
	want := []housefile.OtherEvent{{Event: "tide.turned", Fields: map[string]string{"height": "3", "place": "the gully", "spring": "true"}}, {Event: "bell.rung", Fields: map[string]string{}}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%+v", got)
	}
}

func TestATryIsMarkedAndUsesNothingUp(t *testing.T) {
	e := begin(t, stage, func(s *housefile.Settings) { s.Courtesy[1].Do[0].DelaySeconds = 0 })
	e.happens(on("quayside"))
	e.after(time.Minute)
	before := fmt.Sprint(e.s.Used)
	e.happens(&event.DeskAsked{Act: "try", Courtesy: "greet-newcomer", Person: viewer("mossy_mare"), Member: "Odalys Brine"})
	e.happens(&event.DeskAsked{Act: "try", Courtesy: "announce-opening", Member: "Odalys Brine"})
	e.after(10 * time.Second)
	if got := e.wantSaid(1, "greet-newcomer")[0]; !got.Try || !strings.HasPrefix(got.Text, "(a try) ") {
		t.Errorf("%+v", got)
	}
	post := e.of(hall.Relay)
	if last := post[len(post)-1]; !last.Try || !strings.Contains(string(last.Body), "(a try) ") {
		t.Errorf("%+v", last)
	}
	if after := fmt.Sprint(e.s.Used); after != before {
		t.Errorf("the try used something up: %s, %s", before, after)
	}
	e.happens(line("mossy_mare", "evening"))
	e.after(time.Minute)
	e.wantSaid(2, "greet-newcomer")
}

func TestATryWithNobodyChosenNamesAPersonAllTheSame(t *testing.T) {
	e := begin(t, stage, func(s *housefile.Settings) { s.Courtesy[1].Do[0].DelaySeconds = 0 })
	e.happens(on("quayside"))
	for _, c := range e.plan.Settings.Courtesy {
		e.happens(&event.DeskAsked{Act: "try", Courtesy: c.ID, Number: 12, Member: "Odalys Brine"})
	}
	e.after(3 * time.Minute)
	named := 0
	for _, d := range e.all {
		if !d.Try || d.Text == "" {
			continue
		}
		if strings.Contains(strings.ReplaceAll(d.Text, "friends", ""), "friend") || strings.Contains(d.Text, "{") || strings.Contains(d.Text, " ,") {
			t.Errorf("%s: %q", d.Courtesy, d.Text)
		}
		if strings.Contains(d.Text, room.Stranger.Name) {
			named++
		}
	}
	if named < 6 {
		t.Errorf("only %d tries name anybody", named)
	}
}

func TestTheEndOfTheStreamHasItsCourtesies(t *testing.T) {
	e := begin(t, stage, says1("bye", "porch.stream.closed", who.Who{}, "Good night from{hasTitle, select, yes { “{title}”} other { the porch}}"))
	e.happens(on("quayside"))
	e.happens(off("quayside"))
	e.after(9 * time.Minute)
	e.wantSaid(0, "bye") // the grace time is not over
	e.after(2 * time.Minute)
	if got := e.wantSaid(1, "bye")[0].Text; got != "Good night from “What the tide left”" {
		t.Error(got)
	}
	e.wantReason("the stream ended")
	e.happens(on("quayside"))
	e.happens(&event.StreamDeclared{Act: "closed"})
	e.after(time.Second)
	e.wantSaid(2, "bye")
}

func TestARoundOfAlternativesGoesOnAfterARestart(t *testing.T) {
	for night := range 10 {
		e := begin(t, stage, does("follow", "porch.person.followed", happening.Free, output.Output{Do: &output.Card{}, Alternatives: []string{"one", "two", "three", "four"}}))
		e.n = 100 * night // other ids, another chance
		e.happens(on("quayside"))
		for i := range 4 {
			e.happens(follows(fmt.Sprint("f", i)))
			raw, err := json.Marshal(e.s)
			if err != nil {
				t.Fatal(err)
			}
			e.s, _, _ = house.RestoreState(raw)
		}
		said := map[string]bool{}
		for _, d := range e.of("card") {
			said[d.Text] = true
		}
		if len(said) != 4 {
			t.Errorf("night %d: a repeat before all were used: %v", night, said)
		}
	}
}

func TestTheStageSurvivesASnapshot(t *testing.T) {
	e := begin(t, stage, does("follow", "porch.person.followed", happening.Thanks, output.Output{Do: &output.Card{}, Alternatives: []string{"{name}"}},
		output.Output{Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c"}, DelaySeconds: 60}))
	e.happens(on("quayside"))
	e.happens(follows("pebble_june"))
	e.happens(&event.ActDone{ActOutcome: event.ActOutcome{Line: "l", To: "quayside", Effect: "platform", Act: "slow chat"}})
	raw, err := json.Marshal(e.s)
	if err != nil {
		t.Fatal(err)
	}
	back, _, ok := house.RestoreState(raw)
	if !ok || len(overlay.Cards(back.Rooms)) != 1 || len(desk.Acts(back.Rooms)) != 1 || back.Latest["followers"][0].Name != "pebble_june" || len(back.Queue.Lines) == 0 {
		t.Fatalf("%v %s", ok, raw)
	}
	e.s = back
	e.after(2 * time.Minute)
	if n := len(e.of("lamp")); n != 1 {
		t.Errorf("%d lamps after a restart", n)
	}
	e.happens(&event.BookForgotten{Keys: []string{"quayside:id-pebble_june"}})
	if raw, _ = json.Marshal(e.s); strings.Contains(string(raw), "pebble_june") {
		t.Errorf("the house still has the name in mind: %s", raw)
	}
}

func TestALineThatTheNetworkCutsCountsAsManyAsItIs(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		for i := range s.Profiles {
			s.Profiles[i].Chat.MaxBytes = 60
		}
	})
	e.happens(on("quayside"))
	e.happens(&event.DeskSaid{Text: strings.TrimSpace(strings.Repeat("brittle stars ", 12)), To: []string{"quayside"}}) // 167 bytes
	said := e.of(hall.Say)
	if last := said[len(said)-1]; last.Pieces != 3 {
		t.Errorf("counts as %d", last.Pieces)
	}
	if n := len(e.s.Queue.Gates["quayside"].Sent); n != 3+len(said)-1 {
		t.Errorf("%d were sent for %d lines", n, len(said))
	}
}

func TestWhatSomebodyGivesOnAnotherServiceIsThankedWhereTheStreamIs(t *testing.T) {
	e := begin(t, stage, adds(says("tip", "porch.support.tipped", happening.Thanks, who.Who{}, nil, "Thanks {name}")),
		does("honour", "porch.support.tipped", happening.Free, output.Output{ID: "vip", Do: &output.Platform{Act: output.GiveVIP}}))
	e.happens(on("quayside"))
	tipped := &happening.Tipped{Amount: "5.00", Currency: "GBP"}
	tipped.Person = event.Person{Platform: "tin", ID: "88", Login: "limpet_lena"}
	e.happens(tipped)
	said := e.of(hall.Say)
	if len(said) != 1 || said[0].Platform != "quayside" || said[0].Text != "Thanks limpet_lena" || said[0].Person != "tin:88" {
		t.Errorf("%+v", said)
	}
	// Whoever goes by that login on Quayside is somebody else, and gets nothing by it.
	if acts := e.of(hall.Kind(output.KindPlatform)); len(acts) != 0 {
		t.Errorf("%+v", acts)
	}
	e.wantReason("no door of Tin")
}

func TestWhatCameLateWhileNobodyWasLiveWaitsForThanksAllTheSame(t *testing.T) {
	e := begin(t, adds(says("tip", "porch.support.tipped", happening.Thanks, who.Who{}, nil, "Thanks {name}"), says("raid", happening.RaidCameType, happening.Thanks, who.Who{}, nil, "Ahoy {name}")))
	tipped := &happening.Tipped{Amount: "5.00", Currency: "GBP"}
	tipped.Person = event.Person{Platform: "quayside", ID: "88", Login: "limpet_lena"}
	e.happened(10*time.Minute, tipped)
	e.happened(10*time.Minute, raid("kelpwright", 20))
	if got := e.s.Waiting; len(got) != 2 || got[0].Kind != "late" || got[0].Type != "porch.support.tipped" || got[1].Kind != "late" || got[1].Viewers != 20 {
		t.Fatalf("%+v", got)
	}
	e.happens(tipped) // in time, and nobody is live: it is not thanked for, and waits for nobody
	if got := e.s.Waiting; len(got) != 2 || len(e.of(hall.Say)) != 0 {
		t.Errorf("%+v", got)
	}
	e.happens(&event.DeskAsked{Act: "thank", Of: "porch.support.tipped", Person: tipped.Person, Member: "Odalys Brine"})
	e.after(30 * time.Second)
	if got := e.of(hall.Say); len(got) != 1 || got[0].Text != "Thanks limpet_lena" || len(e.s.Waiting) != 1 {
		t.Errorf("%+v, and wait %+v", got, e.s.Waiting)
	}
}
