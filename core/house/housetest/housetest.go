// Package housetest makes random houses and random evenings to hold the house's
// promises against: settings that are legal and that nobody would think of, people
// who do everything twice, late and at once, and members whose hands are everywhere.
//
// The same seed makes the same house and the same evening.
package housetest

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/occasion"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/points"
	"vividporch/core/profile"
	"vividporch/core/trouble"
	"vividporch/core/who"
	"vividporch/core/wordlist"
)

// Platforms are where everybody of a random evening is.
var Platforms = []string{"quayside", "fernlight"}

// Demo is the demo house without what goes beyond arrivals, raids and the opening: what
// else stands in the starting set, a test that is about it brings along itself.
func Demo(t testing.TB) *housefile.Settings {
	t.Helper()
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	s, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool {
		return slices.Contains([]string{"thank-follow", "thank-subscription", "thank-gifts", "thank-tip", "print-on-the-wall", "back-in-a-moment", "what-lives-here"}, c.ID)
	})
	return s
}

// Base are settings with doors, places and fittings and no courtesy. Addresses lead
// nowhere.
func Base() *housefile.Settings {
	irc := func(platform string) housefile.Door {
		return housefile.Door{Name: platform + "-chat", Kind: "irc", Platform: platform, Address: "127.0.0.1:1", Room: "#tidepool_hours", Account: "porchlamp"}
	}
	known := func(platform string) profile.Profile {
		return profile.Profile{Format: profile.Format, Platform: platform, Lookup: &profile.Lookup{Address: "http://127.0.0.1:1/lookup"}, Acts: profile.Acts{Address: "http://127.0.0.1:1/acts"},
			Chat: profile.Chat{IDTag: "id", RolesTag: "roles", Roles: map[string]string{"mate": "moderator"}, Lines: 20, WindowSeconds: 30, MaxBytes: 400, Private: platform == "quayside"}}
	}
	inbox := func(platform string) housefile.Door {
		return housefile.Door{Name: platform, Kind: "inbox", Platform: platform}
	}
	return &housefile.Settings{Format: housefile.Format, Channel: "tidepool_hours", Zone: "Europe/Lisbon", Seed: "low water", Grace: new(300.0),
		Pace:  housefile.Pace{GapSeconds: 2, WaitSeconds: 60, JoinAt: 3, JoinNames: 4, JoinEverySeconds: 10, AskSeconds: 2},
		Never: []string{"grebe_watch"},
		Doors: []housefile.Door{irc("quayside"), irc("fernlight"), {Name: "quayside-streamer", Kind: "irc", Platform: "quayside", Address: "127.0.0.1:1", Room: "#tidepool_hours", Account: "tidepool_hours", As: output.AsStreamer},
			inbox("quayside"), inbox("fernlight")},
		Profiles: []profile.Profile{known("quayside"), known("fernlight"), *profile.Of(nil, "boathouse"), *profile.Of(nil, "skerry")},
		Places: []housefile.Place{{Name: "news", URL: "http://127.0.0.1:1/news"}, {Name: "log", URL: "http://127.0.0.1:1/log"},
			{Name: "landing", Kind: "landing", Platform: "boathouse", Landing: "news"}, {Name: "account", Kind: "social", Platform: "skerry", Allows: []string{"message", "banner"}}},
		Fittings:  []housefile.Fitting{{Name: "player", Kind: output.Player, URL: "http://127.0.0.1:1/player"}, {Name: "lamp", Kind: output.Lights, URL: "http://127.0.0.1:1/lamp"}, {Name: "scenes", Kind: output.Scenes, URL: "http://127.0.0.1:1/scenes", Scenes: []string{"Bench"}}},
		JoinWords: []string{"Welcome {names}!"},
		Privacy: housefile.Privacy{Ask: []string{"!kept"}, Forget: []string{"!forget"}, Confirm: []string{"!yes"}, Remember: []string{"!remember"},
			Link: []string{"{name}: {link}"}, Open: []string{"{name}, ask us"}, Sure: []string{"{name}, say {word}"}, Gone: []string{"Gone."}},
		Hello:   housefile.Hello{Words: []string{"hello", "hi"}, RestSeconds: 5, PersonSeconds: 30},
		FillIns: []housefile.FillIn{{Name: "dice", Kind: "dice", From: 1, To: 20}, {Name: "lately", Kind: "last", Who: "followers", Most: 3}},
	}
}

// Random makes legal settings out of chance: what Ready refuses is left out.
func Random(r *rand.Rand) *housefile.Settings {
	s := Base()
	if r.IntN(3) == 0 {
		s.Pace.GapSeconds = 0
	}
	if r.IntN(2) == 0 {
		s.Pace.PersonSeconds = 8
	}
	if r.IntN(2) == 0 {
		s.ShoutOuts = housefile.ShoutOuts{GapSeconds: pick(r, 0, 7.0, 60), PersonHours: pick(r, 0, 1.0, 100)}
	}
	if r.IntN(3) == 0 {
		s.Neighbours = []string{"limpet5"}
	}
	if r.IntN(3) == 0 {
		s.Commands.Signs = map[string]string{"fernlight": "!~"}
	}
	if r.IntN(4) == 0 {
		s.Grace = new(1.0)
	}
	if r.IntN(2) == 0 {
		s.Announcing = output.Announcing{HoldSeconds: pick(r, 0, 20.0, 120), Late: pick(r, "drop", "follow up")}
	}
	for i := range r.IntN(4) {
		s.Overlays = append(s.Overlays, randomOverlay(r, i))
	}
	for i := range 3 + r.IntN(14) {
		s.Courtesy = append(s.Courtesy, randomCourtesy(r, i))
	}
	if r.IntN(3) == 0 {
		rewards(r, s)
	}
	return Legal(s)
}

// rewards are points in a house: some of what it does costs, and there are games.
func rewards(r *rand.Rand, s *housefile.Settings) {
	section := points.Section{On: true, One: "pearl", Here: pick(r, 0, int64(5)), Line: pick(r, 0, int64(1)), Visit: pick(r, 0, int64(7)), Evening: pick(r, 0, 3), Support: []points.Support{{When: "porch.support.gifted", Points: 3, Each: true}},
		Levels: points.Levels{First: pick(r, 0, int64(10)), Tell: pick(r, "", points.TellSaid)}}
	raw, _ := json.Marshal(section)
	s.Rooms = map[string]json.RawMessage{points.Name: raw}
	for i := range s.Courtesy {
		c := &s.Courtesy[i]
		c.Cost = pick(r, 0, 0, 0, int64(4))
		for k := range c.Do {
			c.Do[k].Cost = pick(r, 0, 0, 0, int64(2))
		}
	}
	for name, does := range map[string]output.Does{"stone": &output.Stone{Edge: 5}, "race": &output.Race{Seconds: 20}, "tidein": &output.Tide{People: 3, Seconds: 20, Prize: 4}, "anemone": &output.Anemone{}, "give": &output.Give{}, "offlist": &output.Unlisted{}} {
		c := Asked(name, output.Output{Do: does})
		s.Courtesy = append(s.Courtesy, c)
	}
	slices.SortFunc(s.Courtesy, func(a, b courtesy.Courtesy) int { return strings.Compare(a.ID, b.ID) })
	for _, when := range happening.Rewards() {
		if r.IntN(2) == 0 {
			s.Courtesy = append(s.Courtesy, Says(when, "{channel} tells of it"))
		}
	}
}

// OnScreen are settings in which most of what happens is shown on some overlay.
func OnScreen(r *rand.Rand) *housefile.Settings {
	s := Base()
	for i := range 1 + r.IntN(3) {
		s.Overlays = append(s.Overlays, randomOverlay(r, i))
	}
	words := []string{"{name} is here"}
	for i, when := range []string{happening.Arrival, "porch.person.followed", "porch.raid.came", "porch.support.tipped", "porch.support.gifted", happening.Hello} {
		c := courtesy.Courtesy{ID: fmt.Sprintf("c%d", i), On: true, When: when, OffLine: true, Slot: pick(r, happening.Free, happening.Thanks, happening.Greeting)}
		c.Do = []output.Output{
			{ID: "card", Do: &output.Card{Seconds: pick(r, 0, 3.0, 20)}, Alternatives: words, DelaySeconds: pick(r, 0, 0, 2.0)},
			{ID: "bell", Do: &output.Sound{Media: "bell.ogg"}},
			{ID: "film", Do: &output.Film{Media: "heron.webm", Whole: r.IntN(2) == 0, OnScreen: output.OnScreen{On: pick(r, "", "screen-0")}}},
			{ID: "voice", Do: &output.Speak{}, Alternatives: words},
		}[r.IntN(3):]
		if r.IntN(3) == 0 {
			c.Burst = &courtesy.Burst{Seconds: float64(1 + r.IntN(5)), At: 2}
			for k := range c.Do {
				if c.Do[k].Joins() {
					c.Do[k].Joined = []string{"{names} are here"}
				}
			}
		}
		s.Courtesy = append(s.Courtesy, c)
	}
	return Legal(s)
}

// Guarded are settings under which much of what is said breaks some rule.
func Guarded(r *rand.Rand) *housefile.Settings {
	s := Random(r)
	for i, k := range trouble.Catalogue {
		rule := trouble.Rule{ID: fmt.Sprint("r", i), On: r.IntN(3) > 0, Do: k.New(), Days: pick(r, 0, 1, 90)}
		if r.IntN(3) == 0 {
			rule.Not = []string{trouble.VIPs}
		}
		for range 1 + r.IntN(4) {
			rule.Then = append(rule.Then, trouble.Step{Act: pick(r, trouble.Acts()...), Seconds: pick(r, 0, 60.0)})
		}
		switch does := rule.Do.(type) {
		case *trouble.Words:
			does.Words = []wordlist.Word{{Text: "dog"}, {Text: "hi", Part: true}}
		case *trouble.Again:
			does.Times, does.From = 2, 0
		case *trouble.Several:
			does.People, does.From = 2, 0
		case *trouble.Emote:
			does.Named = []string{":limpet:"}
		}
		s.Guard.Rules = append(s.Guard.Rules, rule)
	}
	s.Guard.HeldMinutes, s.Guard.FloodMinutes = pick(r, 0, 1.0), pick(r, 0, 1.0)
	s.Guard.Modes = pick(r, nil, []string{"slow chat", "subscribers-only chat"})
	s.Profiles[r.IntN(2)].Acts.Holds = r.IntN(2) == 0
	if r.IntN(3) == 0 {
		s.Profiles[r.IntN(2)].Acts.Cannot = map[string]string{"delete line": "nothing is taken out there", "time-out": "nobody is sent out there"}
	}
	return Legal(s)
}

// Legal leaves out the courtesies that keep settings from coming into force. It
// panics when that does not help: the rest is this package's own.
func Legal(s *housefile.Settings) *housefile.Settings {
	for {
		_, faults := house.Ready(s, 1)
		if len(faults) == 0 {
			return s
		}
		n := len(s.Courtesy)
		bad := map[string]bool{}
		for _, f := range faults {
			bad[f.Courtesy] = true
		}
		if s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return bad[c.ID] }); len(s.Courtesy) == n {
			panic(fmt.Sprintf("housetest: %v", faults[0]))
		}
	}
}

// randomOverlay is one of up to three, which may share boxes, or lack them.
func randomOverlay(r *rand.Rand, i int) box.Overlay {
	o := box.Overlay{ID: fmt.Sprintf("screen-%d", i), Title: "Over the microscope", Wide: 1920, High: 1080, Most: pick(r, 0, 1, 3), WaitSeconds: pick(r, 0, 5.0, 40),
		Order: pick(r, nil, []string{"porch.person.followed", happening.Arrival}), Silent: r.IntN(6) == 0}
	for _, k := range box.Catalogue {
		b := k.Fresh()
		b.Off = r.IntN(8) == 0
		if g, ok := b.Do.(*box.Goal); ok && r.IntN(2) == 0 {
			g.Counted = box.Counted{What: "tips", Currency: "EUR", Of: "a lamp"}
		}
		if c, ok := b.Do.(*box.Countdown); ok {
			c.Adds = []box.Add{{For: "month", Seconds: 60}, {For: "unit", Currency: "EUR", Seconds: 1.5}, {For: "gift", Seconds: 30}, {For: "credit", Seconds: 1}}
			c.Most = pick(r, 0, 90.0, 3600)
			c.Until = pick(r, "", "", "2031-06-01T23:00:00Z")
			c.Stop = pick(r, "", "2031-06-02T00:00:00Z")
		}
		if r.IntN(5) > 0 {
			o.Boxes = append(o.Boxes, b)
		}
	}
	return o
}

func pick[T any](r *rand.Rand, list ...T) T { return list[r.IntN(len(list))] }

// raised are the names of events that courtesies raise for each other.
var raised = []string{"tide.turned", "lamp.lit", "gull.came"}

func randomCourtesy(r *rand.Rand, i int) courtesy.Courtesy {
	w := pick(r, happening.Whens()...)
	when := w.Type
	if r.IntN(2) == 0 {
		when = pick(r, happening.Arrival, "porch.raid.came", "porch.other", "porch.support.gifted", happening.Command, happening.Hello, happening.Neighbour)
	}
	c := courtesy.Courtesy{ID: fmt.Sprintf("c%d", i), On: r.IntN(8) > 0, When: when, Also: r.IntN(5) == 0, OffLine: r.IntN(3) == 0,
		Slot: pick(r, happening.Free, happening.Greeting, happening.ShoutOut, happening.Thanks, happening.Answer)}
	if when == happening.Command {
		c.Asks, c.Slot, c.Only = []string{pick(r, "!tides", "!lamp", "tides", "lamp")}, happening.Answer, r.IntN(3) == 0
		if r.IntN(2) == 0 {
			c.Asked = &courtesy.Asking{Words: pick(r, nil, []string{"what a tide"}, []string{"a tide", "hi all"}), Rest: pick(r, 0, 5.0, 40), Person: pick(r, 0, 20.0, 300), Resting: pick(r, nil, []string{"Later, {name}."})}
		}
		switch r.IntN(6) {
		case 0:
			c.Who.Nobody = true
		case 1:
			c.Who.Role, c.Who.OrAbove = pick(r, event.Moderator, event.CoHost, event.VIP), r.IntN(2) == 0
		}
	}
	switch r.IntN(8) {
	case 0:
		c.Who.Account = pick(r, Platforms...) + ":1"
	case 1:
		c.Who.Standing = pick(r, people.Newcomer, people.Returning, people.Regular, people.LongAway)
	case 2:
		c.Who.Crews = &who.Crews{Of: []string{"low-water"}}
	case 3:
		c.Who.Mark = pick(r, people.Raider, people.Fellow)
	case 4:
		c.Who.Date = &who.Date{Of: pick(r, "", occasion.Birthday, occasion.Follow, occasion.FirstVisit), When: pick(r, who.Today, who.Belated)}
	}
	if when == "porch.other" && r.IntN(3) > 0 {
		c.Who.Fields = map[string]string{"event": pick(r, raised...)}
	}
	if when == happening.Timer || when == happening.Lull {
		c.Slot, c.Who, c.Timer = happening.Free, who.Who{}, &courtesy.Timer{Minutes: pick(r, 1, 2.5, 20), Lines: pick(r, 0, 3)}
		if c.Timer.OffMinutes = pick(r, 0, 5.0); when == happening.Lull {
			c.Timer.Lines, c.Timer.OffMinutes = 0, 0
		}
	}
	if r.IntN(4) == 0 {
		least := float64(r.IntN(10))
		c.Measure = &who.Measure{AtLeast: &least}
	}
	if r.IntN(4) == 0 {
		c.Burst = &courtesy.Burst{Seconds: float64(1 + r.IntN(10)), At: 2 + r.IntN(3)}
	}
	for n := range r.IntN(4) {
		c.Do = append(c.Do, randomOutput(r, n, c.Burst != nil))
	}
	if when == happening.Command && r.IntN(3) == 0 { // birthdays are set and asked for
		c.Do = append(c.Do, output.Output{ID: "bday", Do: &output.Birthday{Act: pick(r, output.SetBirthday, output.SetBirthday, output.HideBirthday, output.ShowBirthday, output.ForgetBirthday, output.ClearBirthday)}},
			output.Output{ID: "told", Do: &output.Say{}, Alternatives: []string{"{hasRefused, select, yes {{refused}} other {{birthdayIs} {hasBirthday, select, yes {{birthday}} other {}} {daysToGo}}}"}},
			output.Output{ID: "kept-day", Do: &output.Celebrate{Missed: r.IntN(2) == 0}})
	}
	if when == happening.Command && r.IntN(4) == 0 { // answers are changed from chat
		c.Do = append(c.Do, output.Output{ID: "keeps", Do: &output.Keep{}}, output.Output{ID: "kept", Do: &output.Say{}, Alternatives: []string{"{hasKept, select, yes {{kept} says so} other {{hasUnkept, select, yes {{unkept}} other {no}}}}"}})
	}
	return c
}

func randomOutput(r *rand.Rand, n int, burst bool) output.Output {
	kind := pick(r, output.KindSay, output.KindSay, output.KindAnswer, output.KindShoutOut, output.KindCard, output.KindSound, output.KindSpeak, output.KindFilm, output.KindLamp, output.KindMusic, output.KindScene, output.KindRelay, output.KindRelay, output.KindPlatform, output.KindRaise, output.KindSocial, output.KindNote, output.KindBookmark)
	o := output.Output{ID: fmt.Sprintf("o%d", n), Do: output.Of(kind).New()}
	words := []string{"Hello {name}, {dice}", "{channel} waves", "{now, time, short} on the porch"}
	if o.Worded() {
		o.Alternatives = words[:1+r.IntN(3)]
	}
	if o.Joins() && (burst || r.IntN(3) == 0) {
		o.Joined = []string{"{names}{more, plural, =0 {} other { and # more}}: {count, plural, one {# came} other {# came}}"}
		if r.IntN(2) == 0 {
			o.Joined[0] += "{total, plural, one { with #} other { with #}}"
		}
	}
	if r.IntN(3) == 0 {
		o.DelaySeconds = float64(r.IntN(20))
	}
	if r.IntN(4) == 0 {
		o.WaitSeconds = float64(1 + r.IntN(9))
	}
	o.Ask = kind == output.KindSay && r.IntN(4) == 0
	if r.IntN(3) == 0 {
		o.On = pick(r, [][]string{{"quayside"}, {"quayside", "fernlight"}, {"quayside", "quayside"}}...)
	}
	switch does := o.Do.(type) {
	case *output.Say:
		if r.IntN(5) == 0 {
			does.As, o.On = output.AsStreamer, []string{"quayside"}
		}
	case *output.Answer:
		does.Of = fmt.Sprintf("c%d", r.IntN(6))
	case *output.Relay:
		does.Place, does.Paused = pick(r, "news", "log", "landing", "account"), r.IntN(12) == 0
		switch does.Place {
		case "landing":
			does.Onto, does.Call = pick(r, "", "", "edit", "under"), pick(r, "", "", "all")
			if r.IntN(3) == 0 {
				does.Drawing = &output.Drawing{Wording: "is here, {channel}", Ground: pick(r, "", "tide")}
			}
		case "account":
			if does.Does = pick(r, "", "", "message", "banner"); does.Does == "banner" {
				does.Media = "lantern.png"
			}
		}
		if r.IntN(3) == 0 {
			does.Gather = &output.Gather{Minutes: float64(1 + r.IntN(20)), Count: r.IntN(4)}
		}
		if r.IntN(4) == 0 {
			does.Quiet = &output.Quiet{Hours: who.Hours{From: pick(r, "19:10", "21:00"), To: pick(r, "19:40", "08:00")}, Drop: r.IntN(2) == 0}
		}
	case *output.Social:
		does.Place, does.Approval, does.Links = "account", pick(r, "always", "never"), r.IntN(2) == 0
	case *output.Sound:
		does.Fitting, does.Media = pick(r, "player", "", ""), "bell"
	case *output.Speak:
		does.Fitting, does.Asks = pick(r, "player", ""), r.IntN(3) == 0
	case *output.Music:
		does.Fitting, does.Act = "player", pick(r, output.MusicActs...)
	case *output.Film:
		does.Fitting, does.Media = pick(r, "player", "", ""), "heron.webm"
	case *output.Lamp:
		does.Fitting, does.Colour = "lamp", "#f2a541"
		if does.How = pick(r, "", output.Flash, output.Pulse, output.Run); does.How != "" {
			does.Seconds, does.Colours = 5, []string{"#f2a541", "#7fb7b2"}
		}
	case *output.Scene:
		does.Fitting, does.Scene = "scenes", "Bench"
	case *output.Platform:
		if does.Act = pick(r, output.Acts()...); does.Act == output.AdvertBreak {
			does.Seconds = 60
		}
		if does.Worded() {
			o.Alternatives = words[1:2]
		}
	case *output.Raise:
		does.Event, does.Fields = pick(r, raised...), map[string]string{"height": "3.2", "by": "{channel}"}
	}
	return o
}

// Somebody is one of a few people, some of whom share ids, logins and odd names.
func Somebody(r *rand.Rand) event.Person {
	n := 1 + r.IntN(9)
	p := event.Person{Platform: pick(r, Platforms...), ID: fmt.Sprint(n), Login: fmt.Sprintf("limpet%d", n)}
	switch n {
	case 7:
		p.Login = "grebe_watch"
	case 8:
		p.Name = Odd(r)
	case 6:
		p.Roles = []event.Role{event.Moderator}
	case 9:
		p.Roles = []event.Role{event.Streamer}
	}
	return p
}

// Odd is text nobody would write: bytes that are no characters, half surrogates,
// controls, right-to-left marks, very long words, what looks like a wording or a
// command.
func Odd(r *rand.Rand) string {
	return pick(r, "", "\x00", "Caf\xe9", "\ufeff", "a\u202eb", "{name", "/ban all", "!tides", strings.Repeat("潮", 700), strings.Repeat("x", 3000), "\xed\xa0\x80", "\ue000", "=1+1", "@everyone", "\r\nQUIT", "’'{}#|")
}

// Numbers are amounts at and beyond what anybody gives.
var Numbers = []int64{0, 1, 2, 5, 100, 1 << 31, 1 << 53, 9223372036854775807}

// Happening makes one event from outside, not yet stamped.
func Happening(r *rand.Rand) event.Data {
	p := Somebody(r)
	n := pick(r, Numbers...)
	text := pick(r, "hello", "hi all", "!tides @limpet1", "~tides", "heyyy hiiii", "!tides LIMPET4", "!lamp limpet5, please", "!lamp", "!tides limp", "!lamp nobody_here", "!tides lens It is {not} said raw", "!lamp tides high at four", "!tides lens", "!lens", "!tides 9 March", "!lamp 31/02", "!tides 3/9", "!lamp 14 May", "!kept", "!forget", "!yes", "!tide", "!tide", "!tide", "brittle star", "7", "8", "!stone 2", "!stone all", "!race @limpet2 2", "!race", "!tidein", "!give limpet3 1", "!give limpet3 -4", "!anemone will it?", "!offlist", "what a tide", "what a tide", Odd(r))
	switch r.IntN(24) {
	case 0:
		return with(&happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: p.Platform, Title: text}}, p)
	case 1:
		return &happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: p.Platform}}
	case 2, 3:
		return with(&happening.RaidCame{Viewers: n}, p)
	case 4:
		return with(&happening.PersonFollowed{}, p)
	case 5:
		return with(&happening.Gifted{Count: max(1, n), To: []event.Person{Somebody(r)}}, p)
	case 6:
		return with(&happening.Subscribed{Months: n, Tier: text}, p)
	case 7:
		return with(&happening.Tipped{Amount: "999999999999.99", Currency: pick(r, "EUR", "USD"), Message: text}, p)
	case 8:
		return with(&happening.Credits{Amount: max(1, n), Message: text}, p)
	case 9:
		return &happening.Other{Name: pick(r, raised...), Person: &p, Fields: map[string]any{"height": float64(n), "by": text}}
	case 10:
		return &happening.Other{Name: pick(r, raised...)}
	case 11:
		return with(&happening.PersonRenamed{Was: "was_" + p.Login}, p)
	case 12:
		return with(&happening.RaidWent{Viewers: n}, p)
	case 13:
		return with(&happening.RewardClaimed{Reward: "crab", Cost: n, Text: text}, p)
	case 14:
		return &happening.StreamChanged{StreamInfo: happening.StreamInfo{Platform: p.Platform, Title: text}}
	case 15:
		return with(&happening.PersonTimedOut{Seconds: max(1, n)}, p)
	case 16:
		return with(&happening.PersonLeft{}, p)
	case 17:
		return with(&happening.PersonEntered{}, p)
	case 18:
		return with(&happening.PersonJoined{Place: "The Boathouse"}, p)
	}
	return with(&happening.ChatSaid{Text: text, MessageID: fmt.Sprint(r.IntN(1000))}, p)
}

// with says whom a happening is about.
func with(d event.Data, p event.Person) event.Data {
	if w, ok := d.(interface{ Who() *event.Person }); ok {
		if who := w.Who(); who != nil {
			*who = p
		}
	}
	return d
}

// Known is what the guest book might tell of somebody; nil for a newcomer.
func Known(r *rand.Rand, p event.Person, now time.Time) *people.Known {
	if r.IntN(3) == 0 {
		return nil
	}
	other := pick(r, Platforms...)
	k := &people.Known{Person: 1, Accounts: slices.Compact([]string{p.Key(), other + ":" + p.ID}), Attended: r.IntN(12), Fellow: r.IntN(4) == 0, LeaveBe: r.IntN(12) == 0}
	if r.IntN(3) == 0 {
		k.Crews = []string{"low-water"}
	}
	if r.IntN(2) == 0 {
		on := now.AddDate(0, 0, -r.IntN(4))
		k.Birthday, k.HideDay = &dates.Day{Month: on.Month(), Day: on.Day()}, r.IntN(6) == 0
	}
	if r.IntN(3) == 0 {
		at := now.AddDate(-1-r.IntN(3), 0, -r.IntN(4))
		k.Followed, k.FirstSeen = &at, &at
	}
	if r.IntN(5) == 0 {
		k.Zone = pick(r, "Pacific/Kiritimati", "Etc/GMT+12")
	}
	if r.IntN(2) == 0 {
		k.Fetched = &people.Fetched{At: now.Add(-time.Hour), Streams: r.IntN(2) == 0}
	}
	return k
}
