package porch_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

func viewer(login string) standin.Viewer {
	return standin.Viewer{ID: "v-" + login, Login: login, Name: login}
}

func platform(b *porchtest.Boat, name string) (modes, vips []string, title string) {
	st := b.Street.Platforms[name].State()
	return st.Modes, st.VIPs, st.Title
}

func entry(b *porchtest.Boat, part string) (spec.Entry, bool) {
	es := b.Porch().Entries
	i := slices.IndexFunc(es, func(e spec.Entry) bool { return strings.Contains(e.Text, part) })
	if i < 0 {
		return spec.Entry{}, false
	}
	return es[i], true
}

func TestACourtesyByHandSpeaksAsTheStreamerGoesToASceneAndSlowsChat(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Pace.GapSeconds = 0 })
	b.SignIn()
	b.Until("the streamer's own door is open", func() bool {
		return slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "tidepool_hours")
	})
	var d spec.Deed
	if s := b.Do("POST", "/api/desk/ask", spec.AskCourtesy{Act: "courtesy", Courtesy: "back-in-a-moment"}, &d); s != 200 || !d.Done {
		t.Fatalf("%d %+v", s, d)
	}
	for _, c := range b.Porch().Coming {
		b.Do("POST", "/api/desk/line", spec.LineAct{Line: c.Line, Act: "hurry"}, &d)
	}
	b.Until("the streamer says so in chat", func() bool { return len(b.Street.Platforms["quayside"].Chat.Heard("tidepool_hours", time.Time{})) == 1 })
	b.Until("the scene changes", func() bool {
		told := b.Street.Stage.State().Fittings["scenes"]
		return len(told) == 1 && told[0].Scene == "Back in a moment"
	})
	b.Until("chat is slow", func() bool { m, _, _ := platform(b, "quayside"); return slices.Contains(m, "slow chat") })
	if said := b.Said("quayside"); len(said) != 0 {
		t.Errorf("the house said it too: %v", said)
	}
	var act spec.Entry
	b.Until("the Porch tells", func() bool { var ok bool; act, ok = entry(b, "slow chat"); return ok })
	if !act.Undo || act.Kind != spec.EntryKindAct {
		t.Errorf("%+v", act)
	}
	d = spec.Deed{}
	if s := b.Do("POST", "/api/desk/undo", spec.UndoAct{Line: act.Line}, &d); s != 200 || !d.Done {
		t.Errorf("%d %+v %+v", s, d, act)
	}
	b.Until("chat is as it was", func() bool { m, _, _ := platform(b, "quayside"); return len(m) == 0 })
	// What was said as the streamer comes back in at the house's own door, and is not taken for a line of theirs.
	b.Street.Platforms["quayside"].Chat.Say(viewer("mossy_mare"), "take your time")
	b.Until("the chat goes on", func() bool { _, ok := entry(b, "take your time"); return ok })
	for _, e := range b.Porch().Entries {
		if e.Kind == spec.EntryKindLine && e.Login == "tidepool_hours" {
			t.Errorf("the house heard itself: %+v", e)
		}
	}
}

func TestAPlatformActionIsRefusedWithItsReasonAndWaitsForAHand(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var d spec.Deed
	b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "clip", Platform: "fernlight"}, &d)
	if d.Done || d.Because[0] != "Fernlight keeps no clips" {
		t.Errorf("%+v", d)
	}
	b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "clip", Platform: "quayside"}, &d)
	b.Until("Quayside says why not", func() bool {
		return slices.ContainsFunc(b.Porch().Waiting, func(w spec.Waiting) bool {
			return strings.Contains(w.Why, "not live") && strings.Contains(w.Title, "clip")
		})
	})
	b.Street.Platforms["quayside"].Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "title", Platform: "quayside", Text: "Brittle stars, closer"}, &d)
	b.Until("the title is another", func() bool { _, _, title := platform(b, "quayside"); return title == "Brittle stars, closer" })
	b.Until("the Porch shows it", func() bool { return b.Porch().Live.Title == "Brittle stars, closer" })
	act, _ := entry(b, "title: Brittle stars, closer")
	b.Do("POST", "/api/desk/undo", spec.UndoAct{Line: act.Line}, &d)
	b.Until("the title is the old one", func() bool { _, _, title := platform(b, "quayside"); return title == "Brittle stars" })
	b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "give VIP", Platform: "quayside", Login: "mossy_mare"}, &d)
	b.Until("she is one", func() bool { _, vips, _ := platform(b, "quayside"); return slices.Contains(vips, "mossy_mare") })
	b.Street.Platforms["quayside"].Chat.Say(viewer("mossy_mare"), "buy cheap limpets")
	var line spec.Entry
	b.Until("the line is there", func() bool { var ok bool; line, ok = entry(b, "cheap limpets"); return ok })
	b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "delete line", Platform: "quayside", Message: line.Message, Login: line.Login}, &d)
	b.Until("the line is gone from chat", func() bool { return len(b.Street.Platforms["quayside"].Chat.Heard("mossy_mare", time.Time{})) == 0 })
}

func TestARaisedEventIsLoggedRightAfterItsCauseUnderTheSamePerson(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) {
		s.Pace.GapSeconds = 0
		s.Courtesy = append(s.Courtesy,
			courtesy.Courtesy{ID: "ask", On: true, When: happening.Command, Asks: []string{"!bell"}, OffLine: true, Slot: happening.Answer, Do: []output.Output{{ID: "r", Do: &output.Raise{Event: "bell.rung", Fields: map[string]string{"by": "{name}"}}}}},
			courtesy.Courtesy{ID: "hear", On: true, When: "porch.other", Who: who.Who{Fields: map[string]string{"event": "bell.rung"}}, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"The bell rings{hasBy, select, yes { for {by}} other {}}, {name}"}}}})
	})
	q := b.Street.Platforms["quayside"]
	q.Chat.Say(viewer("mossy_mare"), "evening") // settled: her next line is decided without asking the book
	q.Chat.Say(viewer("mossy_mare"), "!bell")
	b.Until("the bell is heard", func() bool { return slices.Contains(b.Said("quayside"), "The bell rings for mossy_mare, mossy_mare") })
	var people, accounts int
	count := func() bool {
		err := b.Store.SQL.QueryRow("SELECT count(DISTINCT person), count(*) FROM accounts WHERE login = 'mossy_mare'").Scan(&people, &accounts)
		return err == nil && accounts > 0
	}
	if b.Until("she is in the book", count); people != 1 || accounts != 1 {
		t.Errorf("%d people, %d accounts", people, accounts)
	}
	var gap int64
	if err := b.Store.SQL.QueryRow("SELECT o.seq - c.seq FROM events o, events c WHERE o.type = 'porch.other' AND c.type = 'porch.chat.said' AND c.data->>'text' = '!bell'").Scan(&gap); err != nil || gap != 1 {
		t.Errorf("%d events between cause and raised event, %v", gap, err)
	}
}

func TestWhatWaitedOverARestartIsSaidOnceTheDoorsAreOpen(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Pace.GapSeconds = 0 })
	b.Street.Platforms["quayside"].Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	b.Street.Platforms["quayside"].Chat.Say(viewer("tidewrack"), "hello")
	b.Until("the greeting is coming up", func() bool {
		return slices.ContainsFunc(b.Porch().Coming, func(c spec.Coming) bool { return c.Name == "tidewrack" })
	})
	h := b.Another()
	b.Until("she is greeted", func() bool { return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "tidewrack") })
	p, err := h.Porch(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, w := range p.Waiting {
		t.Errorf("%s: %s", w.Title, w.Why)
	}
}

func TestFollowsAtOnceShowOneCardAndTryingOneForRealIsMarked(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Pace.GapSeconds = 0 })
	b.SignIn()
	q := b.Street.Platforms["quayside"]
	q.Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	for _, login := range []string{"one_limpet", "two_limpets", "three_limpets", "four_limpets"} {
		q.Send("porch.person.followed", 0, map[string]any{"person": map[string]any{"platform": "quayside", "id": login, "login": login}})
	}
	b.Until("one card stands for all", func() bool { return len(b.Porch().Cards) == 1 })
	if c := b.Porch().Cards[0]; len(c.Names) != 4 || !strings.Contains(c.Heading, "4") {
		t.Errorf("%+v", c)
	}
	var d spec.Deed
	if s := b.Do("POST", "/api/courtesies/thank-subscription/street", spec.TryForReal{Number: 14}, &d); s != 200 || !d.Done {
		t.Fatalf("%d %+v", s, d)
	}
	for _, c := range b.Porch().Coming {
		b.Do("POST", "/api/desk/line", spec.LineAct{Line: c.Line, Act: "hurry"}, &d)
	}
	b.Until("the try is said and marked", func() bool { return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "(a try) ") })
	b.Until("the lamp is lit as a try", func() bool {
		told := b.Street.Stage.State().Fittings["bench-lamp"]
		return len(told) == 1 && told[0].Try && told[0].Colour == "#f2b53c"
	})
	if _, err := b.House.Hand(t.Context(), &event.DeskAsked{Act: "try", Courtesy: "none"}); err != nil {
		t.Error(err)
	}
}

func TestTheLampFlashesTheMusicGetsSofterAndBothGoBack(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) {
		s.Pace.GapSeconds = 0
		at := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == "thank-subscription" })
		c := &s.Courtesy[at]
		c.Do = []output.Output{
			{ID: "lamp", Do: &output.Lamp{Fitting: "bench-lamp", Colour: "#f2b53c", How: output.Flash, Every: 1, Seconds: 1}},
			{ID: "music", Do: &output.Music{Fitting: "player", Act: output.Softer, Percent: 30, Seconds: 1}},
		}
	})
	b.SignIn()
	b.Street.Platforms["quayside"].Open("What the tide left", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	b.Street.Platforms["quayside"].Send("porch.support.subscribed", 0, map[string]any{"person": map[string]any{"platform": "quayside", "id": "7", "login": "limpet_lena"}, "tier": "one", "months": 3})
	told := func(name string) (out []string) {
		for _, d := range b.Street.Stage.State().Fittings[name] {
			out = append(out, strings.TrimSpace(d.Colour+" "+d.Act+" "+d.Text))
		}
		return out
	}
	b.Until("the lamp is dark again", func() bool { return slices.Equal(told("bench-lamp"), []string{"#f2b53c", "#000000", "#000000"}) })
	b.Until("the music is as loud as before", func() bool { return slices.Equal(told("player"), []string{"softer", "back plays"}) })
	if n := len(b.Porch().Waiting); n != 0 {
		t.Errorf("%d wait: %+v", n, b.Porch().Waiting)
	}
}
