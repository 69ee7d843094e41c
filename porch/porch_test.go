package porch_test

import (
	"context"
	"io"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/doors/irc"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
	"vividporch/store/log"
)

var lena = standin.Viewer{ID: "8841", Login: "limpet_lena", Name: "Limpet Lena", Roles: []string{"subscriber"}}

// quick makes the house speak at once, so that tests need not wait.
func quick(s *housefile.Settings) {
	s.Pace.GapSeconds, s.Pace.JoinAt = 0, 0
	for i := range s.Courtesy {
		for j := range s.Courtesy[i].Do {
			s.Courtesy[i].Do[j].DelaySeconds = 0
		}
	}
}

func goLive(b *porchtest.Boat) {
	b.T.Helper()
	b.Street.Platforms["quayside"].Open("Gully", "Field", 0)
	b.Until("live", func() bool { return b.Porch().Live.On })
}

func TestAnEveningFromTheDoorsToChatPlaceAndPorch(t *testing.T) {
	b := porchtest.Launch(t, quick)
	q := b.Street.Platforms["quayside"]
	q.Open("What the tide left", "Field and microscope", 0)
	b.Until("live", func() bool { return b.Porch().Live.On })
	b.Until("the opening is posted", func() bool { landings, _, _ := b.Street.Boathouse.State(); return len(landings[0].Posts) == 1 })
	q.Chat.Say(lena, "hello!")
	b.Until("Lena is greeted", func() bool { return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "Limpet Lena") })
	q.Send("porch.raid.came", 0, map[string]any{"person": map[string]any{"platform": "quayside", "id": "9330", "login": "kelpwright"}, "viewers": 37})
	b.Until("kelpwright is shouted out with the link the platform told", func() bool {
		return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "https://quayside.example/kelpwright")
	})
	res, err := b.Client.Get(b.Server.URL + "/metrics")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	metrics, _ := io.ReadAll(res.Body)
	for _, name := range []string{`porch_events_logged_total{type="porch.raid.came"}`, `porch_decisions_total{kind="arrive"}`, "porch_commit_seconds_count", "porch_backlog ", "porch_database_gone 0"} {
		if !strings.Contains(string(metrics), name) {
			t.Errorf("the metrics lack %s", name)
		}
	}
	p := b.Porch()
	if !p.Live.On || p.Live.Title != "What the tide left" || len(p.Evening.Arrivals) != 1 || len(p.Evening.Raids) != 1 {
		t.Errorf("the Porch shows %+v %+v", p.Live, p.Evening)
	}
	told, err := b.Store.Log.DecisionsAbout(t.Context(), b.House.ID, "quayside:8841", time.Time{}, 10)
	if err != nil || !slices.ContainsFunc(told, func(d log.Decided) bool { return d.Decision.Ladder != nil }) {
		t.Errorf("the log gives no reasons: %+v %v", told, err)
	}
	known, _, err := b.Store.Book.Known(t.Context(), b.House.ID, []event.Person{{Platform: "quayside", ID: "8841"}, {Platform: "quayside", ID: "9330"}}, p.Live.Stream+1)
	if err != nil || known["quayside:8841"] == nil || known["quayside:8841"].Attended != 1 || known["quayside:9330"].Raids != 1 {
		t.Errorf("the guest book knows %+v %+v %v", known["quayside:8841"], known["quayside:9330"], err)
	}
}

func TestARenameKeepsTheRecordAndTheOldName(t *testing.T) {
	b := porchtest.Launch(t, quick)
	q := b.Street.Platforms["quayside"]
	goLive(b)
	q.Chat.Say(lena, "hello")
	b.Until("she is known", func() bool { return len(b.Porch().Guests) == 1 })
	renamed := lena
	renamed.Login, renamed.Name = "lena_of_the_limpets", "Lena of the Limpets"
	q.Chat.Say(renamed, "new name!")
	b.Until("the new name shows", func() bool { return b.Porch().Guests[0].Name == "Lena of the Limpets" })
	var names []string
	b.Store.DB.Raw("SELECT login FROM account_logins WHERE key = 'quayside:8841' ORDER BY first").Scan(&names)
	if strings.Join(names, " ") != "limpet_lena lena_of_the_limpets" {
		t.Errorf("names: %v", names)
	}
	if n := len(b.Said("quayside")); n > 2 {
		t.Errorf("a rename is no arrival: %v", b.Said("quayside"))
	}
}

func TestARepeatChangesNothing(t *testing.T) {
	b := porchtest.Launch(t, quick)
	ev := event.Event{Door: "quayside", Source: "s", ID: "raid-1", Type: "porch.raid.came", Data: &happening.RaidCame{Viewers: 9}}
	ev.Data.(*happening.RaidCame).Person = event.Person{Platform: "quayside", ID: "9330"}
	rs, err := b.House.Submit(t.Context(), []event.Event{ev, ev})
	if err != nil || rs[0].Repeat || !rs[1].Repeat {
		t.Fatalf("within one batch: %+v %v", rs, err)
	}
	rs, err = b.House.Submit(t.Context(), []event.Event{ev})
	if err != nil || !rs[0].Repeat {
		t.Fatalf("in a later one: %+v %v", rs, err)
	}
}

func TestARestartEvolvesFromTheLogAndNamesWhatIsUncertain(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	b.Street.Platforms["quayside"].Chat.Say(lena, "hello")
	b.Until("all is said", func() bool { return len(b.Said("quayside")) == 2 })
	b.Until("and noted", func() bool {
		u, _ := b.Store.Log.Unsaid(t.Context(), b.House.ID)
		return len(u) == 0
	})
	before := b.Porch()
	// A line that was decided and cut off before its outcome.
	b.Store.DB.Exec("INSERT INTO speech (channel, line, platform, seq, text) VALUES (?, '1.greet.chat', 'quayside', 1, 'hello?')", b.House.ID)
	// And a lamp that was to be lit.
	b.Store.DB.Exec(`INSERT INTO decisions (channel, seq, n, kind, courtesy, slot, line, person, body) VALUES (?, 2, 99, 'lamp', 'c', 'lamp:l', '2.c.l', '', '{"kind":"lamp","line":"2.c.l","platform":"bench-lamp","body":{"effect":"lamp"},"because":[]}')`, b.House.ID)
	second := b.Another()
	p, err := second.Porch(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	if p.Live.Stream != before.Live.Stream || len(p.Guests) != len(before.Guests) || !p.Guests[0].Greeted {
		t.Errorf("came back as %+v %+v", p.Live, p.Guests)
	}
	if len(p.Waiting) != 2 || p.Waiting[0].Kind != "line" || !strings.Contains(p.Waiting[0].Why, "perhaps said") || p.Waiting[1].Kind != "act" || !strings.Contains(p.Waiting[1].Why, "perhaps done") {
		t.Errorf("what is uncertain is not named: %+v", p.Waiting)
	}
	b.Until("the second house is in the chat", func() bool {
		return slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "porchlamp") && second.Health("quayside-chat").MaySpeak
	})
	b.Street.Platforms["quayside"].Chat.Say(lena, "hello again")
	b.Until("her line is there", func() bool {
		p, _ := second.Porch(t.Context())
		return p.Live.People == 2
	})
	if n := len(b.Said("quayside")); n != 2 {
		t.Errorf("greeted again after the restart: %v", b.Said("quayside"))
	}
}

func TestABrokenPlaceGetsThePostOnceWhenItIsMended(t *testing.T) {
	b := porchtest.Launch(t, quick)
	b.Street.Boathouse.SetOutage(true)
	b.Street.Platforms["quayside"].Open("Gully", "Field", 0)
	b.Until("it waits for you", func() bool { w := b.Porch().Waiting; return len(w) == 1 && w[0].Kind == "post" })
	b.Street.Boathouse.SetOutage(false)
	b.Until("it is delivered and waits no longer", func() bool { return len(b.Porch().Waiting) == 0 })
	if landings, _, _ := b.Street.Boathouse.State(); len(landings[0].Posts) != 1 {
		t.Errorf("it stands there %d times", len(landings[0].Posts))
	}
}

func TestAPlaceThatIgnoresKeysGetsAnUnclearPostOnlyByHand(t *testing.T) {
	b := porchtest.Launch(t, quick, func(s *housefile.Settings) { s.Places[0].IgnoresKeys = true })
	b.Street.Boathouse.SetOutage(true) // answers 502: it may or may not have taken it
	b.Street.Platforms["quayside"].Open("Gully", "Field", 0)
	b.Until("a person decides", func() bool {
		w := b.Porch().Waiting
		return len(w) == 1 && w[0].Acts[0] == "again" && strings.Contains(w[0].Why, "may have arrived")
	})
	b.Street.Boathouse.SetOutage(false)
	b.SignIn()
	var d spec.Deed
	if status := b.Do("POST", "/api/desk/waiting", spec.WaitingAct{Item: b.Porch().Waiting[0].Item, Act: "again"}, &d); status != 200 || !d.Done {
		t.Fatalf("%d %+v", status, d)
	}
	b.Until("it stands there", func() bool { landings, _, _ := b.Street.Boathouse.State(); return len(landings[0].Posts) == 1 })
}

func TestAPlaceThatAsksToWaitIsWaitedFor(t *testing.T) {
	b := porchtest.Launch(t, quick, func(s *housefile.Settings) { s.Announcing.Late = "follow up" }) // most of these streams are over by then
	for range 12 {                                                                                   // ten at once, then one a second: two of them must wait
		if _, err := b.House.Hand(t.Context(), &event.StreamDeclared{Act: "new"}); err != nil {
			t.Fatal(err)
		}
	}
	b.Until("all twelve are delivered", func() bool { landings, _, _ := b.Street.Boathouse.State(); return len(landings[0].Posts) == 12 })
	b.Until("nothing waits", func() bool { return len(b.Porch().Waiting) == 0 })
}

func TestADatabaseThatIsGoneStopsSpeechAndLosesNothing(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	frames, stop, err := b.House.Watch(t.Context(), 0)
	if err != nil {
		t.Fatal(err)
	}
	defer stop()
	mend := b.BreakDatabase()
	b.Street.Platforms["quayside"].Chat.Say(lena, "anyone?")
	b.Until("the Porch says so", func() bool {
		for {
			select {
			case f := <-frames:
				if f.Name == "database" && strings.Contains(string(f.Data), "true") {
					return true
				}
			default:
				return false
			}
		}
	})
	if _, err := b.House.Hand(t.Context(), &event.Hushed{On: true}); err != porch.ErrStalled {
		t.Errorf("the desk says %v", err)
	}
	n := len(b.Said("quayside"))
	mend()
	b.Until("she is greeted after all", func() bool { return len(b.Said("quayside")) == n+1 })
}

func TestWatchingResumesOrStartsWhole(t *testing.T) {
	b := porchtest.Launch(t, quick)
	frames, stop, err := b.House.Watch(t.Context(), 0)
	if err != nil {
		t.Fatal(err)
	}
	first := <-frames
	if first.Name != "whole" {
		t.Fatalf("starts with %s", first.Name)
	}
	b.Street.Platforms["quayside"].Chat.Say(lena, "one")
	var seen porch.Frame
	b.Until("the line shows", func() bool {
		select {
		case seen = <-frames:
			return strings.Contains(string(seen.Data), `"one"`)
		default:
			return false
		}
	})
	stop()
	b.Street.Platforms["quayside"].Chat.Say(lena, "two")
	b.Until("it is logged", func() bool { es := b.Porch().Entries; return es[len(es)-1].Text == "two" })
	again, stop, err := b.House.Watch(context.Background(), seen.Seq)
	if err != nil {
		t.Fatal(err)
	}
	defer stop()
	for two := false; !two; { // whether she streams is answered in between
		f := <-again
		if two = strings.Contains(string(f.Data), `"two"`); f.Name != "change" || strings.Contains(string(f.Data), `"one"`) {
			t.Fatalf("resumed with %s %s", f.Name, f.Data)
		}
	}
	old, stop2, err := b.House.Watch(context.Background(), 1_000_000)
	if err != nil {
		t.Fatal(err)
	}
	defer stop2()
	if f := <-old; f.Name != "whole" {
		t.Errorf("an unknown id gets %s", f.Name)
	}
}

func TestTwentyHandsOnTheSettingsLoseNoChange(t *testing.T) {
	b := porchtest.Launch(t)
	done := make(chan error)
	for range 20 {
		go func() {
			_, err := b.House.Desk.ChangeSettings(context.Background(), desk.By{Member: "Odalys"}, "wait", func(s *housefile.Settings) error { s.Pace.WaitSeconds++; return nil })
			done <- err
		}()
	}
	for range 20 {
		if err := <-done; err != nil {
			t.Fatal(err)
		}
	}
	if w := b.House.Plan().Settings.Pace.WaitSeconds; w != 80 {
		t.Errorf("twenty changes made %v of 60", w)
	}
}

func TestAChannelHasOneOwnerAlsoAfterTheDatabaseWasAway(t *testing.T) {
	b := porchtest.Launch(t)
	if _, _, err := porch.Start(t.Context(), porch.Config{Store: b.Store, Channel: "tidepool_hours"}); err != log.ErrHeld {
		t.Fatalf("a second owner got %v", err)
	}
	mend := b.BreakDatabase()
	mend()
	b.Until("the lock is taken again", func() bool {
		var held int
		b.Store.DB.Raw("SELECT count(*) FROM pg_locks WHERE locktype = 'advisory' AND database = (SELECT oid FROM pg_database WHERE datname = current_database())").Scan(&held)
		return held > 0
	})
	if o, err := b.Store.Log.Hold(t.Context(), b.House.ID); err != log.ErrHeld {
		t.Errorf("somebody else could take it: %v %v", o, err)
	}
}

func TestDoorsFollowTheSettingsAtOnce(t *testing.T) {
	b := porchtest.Launch(t, quick)
	b.SignIn()
	change := func(what string, f func(s *housefile.Settings)) {
		t.Helper()
		if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys"}, what, func(s *housefile.Settings) error { f(s); return nil }); err != nil {
			t.Fatal(err)
		}
	}
	chat := -1
	for i, d := range b.House.Plan().Settings.Doors {
		if d.Kind == "irc" && d.Platform == "quayside" && d.As == "" {
			chat = i
		}
	}
	was := b.House.Plan().Settings.Doors[chat]
	open := func(name string) func() bool { return func() bool { return b.House.Health(name).State == irc.Open } }
	b.Until("open", open(was.Name))
	change("the door leads nowhere", func(s *housefile.Settings) { s.Doors[chat].Address = "127.0.0.1:1" })
	b.Until("closed there", func() bool { return b.House.Health(was.Name).State == irc.Closed })
	change("and back", func(s *housefile.Settings) { s.Doors[chat].Address = was.Address })
	b.Until("open again", open(was.Name))
	b.Do("POST", "/api/desk/say", map[string]any{"text": "still here", "to": []string{"quayside"}}, nil)
	b.Until("it is said", func() bool { return slices.Contains(b.Said("quayside"), "still here") })
	change("a second name for it", func(s *housefile.Settings) { s.Doors[chat].Name = "another" })
	b.Until("the new one opens", func() bool {
		for _, d := range b.Porch().Doors {
			if d.Door == "another" {
				return d.State != "opening"
			}
		}
		return false
	})
	b.Until("the old one is gone", func() bool { return b.House.Health(was.Name) == irc.Health{} })
}
