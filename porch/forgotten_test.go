package porch

import (
	"encoding/json"
	"reflect"
	"slices"
	"testing"
	"time"

	"vividporch/core/along"
	"vividporch/core/desk"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/store"
	"vividporch/store/book"
	"vividporch/store/storetest"
)

// A login is somebody's on one platform. What a platform did about one of that name is taken out with whoever is forgotten where it was
// theirs, and stays where it was a namesake's; the log, read anew, says just what the house remembers.
func TestWhatPlatformsDidIsForgottenOfWhoeverItWasAbout(t *testing.T) {
	ended := event.Person{Platform: "fernlight", ID: "kelp-2", Login: "loginkelp"}
	for name, x := range map[string]struct {
		to    string
		about []string
		typed bool // as a member typed it
		stays bool
	}{
		"of a namesake on another platform":                  {"fernlight", []string{ended.Key()}, false, true},
		"of a namesake on another platform, account unknown": {"fernlight", nil, false, true},
		"of theirs": {"quayside", []string{"quayside:kelp"}, false, false},
		"of theirs, before their account was known": {"quayside", nil, false, false},
		"of theirs, as a member typed it":           {"quayside", nil, true, false},
	} {
		t.Run(name, func(t *testing.T) {
			login := "loginkelp"
			if x.typed {
				login = "LoginKelp"
			}
			st := storetest.Open(t)
			h, stop := rewarding(t, st)
			defer stop()
			o := event.ActOutcome{Line: "1.desk", To: x.to, Effect: "platform", Act: string(output.GiveVIP), Login: login, About: x.about}
			there := saying("kelp", "hello")
			there.Data.(*happening.ChatSaid).Person, there.ID = ended, "namesake"
			for _, ev := range []event.Event{{Door: "house", Source: "house", ID: "done", Type: event.ActDoneType, Data: &event.ActDone{ActOutcome: o}}, there, saying("kelp", "hello")} {
				if rs, err := h.Submit(t.Context(), []event.Event{ev}); err != nil || rs[0].Aside != "" {
					t.Fatal(err, rs)
				}
			}
			forgets(t, h, "quayside:kelp")
			living := remembered(t, st, h)
			acts := desk.Acts(living.Rooms)
			if stays := len(acts) == 1 && acts[0].Login == o.Login; stays != x.stays {
				t.Errorf("what is remembered: %+v", acts)
			}
		})
	}
}

// An answer about somebody forgotten has no name, and neither has one about whoever is forgotten later: the two are not one.
func TestWhatIsLeftOfWhatPlatformsDidAboutTwoForgottenIsKeptApart(t *testing.T) {
	st := storetest.Open(t)
	h, stop := rewarding(t, st)
	defer stop()
	came(t, h)
	done := func(id string) {
		t.Helper()
		o := event.ActOutcome{Line: "1.desk", To: "quayside", Effect: "platform", Act: string(output.GiveVIP), Login: "login" + id, About: []string{"quayside:" + id}}
		if _, err := h.Submit(t.Context(), []event.Event{{Door: "house", Source: "house", ID: "done-" + id, Type: event.ActDoneType, Data: &event.ActDone{ActOutcome: o}}}); err != nil {
			t.Fatal(err)
		}
	}
	forgets(t, h, "quayside:moss")
	done("moss") // late
	done("kelp")
	forgets(t, h, "quayside:kelp")
	living := remembered(t, st, h)
	if acts := desk.Acts(living.Rooms); len(acts) > 0 {
		t.Errorf("there is nobody left of whom it could be undone: %+v", acts)
	}
}

func TestWhoeverStreamsAlongIsOffTheListOnceTheyAreForgotten(t *testing.T) {
	st := storetest.Open(t)
	h, stop := rewarding(t, st)
	if _, err := h.Submit(t.Context(), []event.Event{saying("kelp", "hello")}); err != nil { // between two streams, in the book from then on
		t.Fatal(err)
	}
	for _, act := range []string{"opened", "new"} {
		if _, err := h.Hand(t.Context(), &event.StreamDeclared{Act: act}); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := h.Hand(t.Context(), &event.AlongSet{Logins: []string{"LoginKelp", "heron_camera"}, Member: "Odalys Brine"}); err != nil {
		t.Fatal(err)
	}
	forgets(t, h, "quayside:kelp")
	stop()
	living, _, err := st.Log.LastSnapshot(t.Context(), h.ID)
	if err != nil {
		t.Fatal(err)
	}
	for name, s := range map[string]*house.State{"the house": living, "its log": lived(t, h)} {
		if got := along.Logins(s.Rooms); len(got) != 1 || got[0] != "heron_camera" {
			t.Errorf("%s has along: %q", name, got)
		}
	}
}

// Lines that come at once are lived together: what somebody said before they asked takes no name of theirs away.
func TestWhoeverAsksInOneBreathIsForgottenByAllTheyAreCalled(t *testing.T) {
	h, stop := rewarding(t, storetest.Open(t))
	defer stop()
	two := came(t, h)
	if err := h.Desk.Merge(t.Context(), "Odalys Brine", two[0], two[1]); err != nil {
		t.Fatal(err)
	}
	if _, err := h.Hand(t.Context(), &event.StreamDeclared{Act: "opened"}); err != nil {
		t.Fatal(err)
	}
	rs, err := h.Submit(t.Context(), []event.Event{saying("kelp", "what a tide"), saying("kelp", "!forget"), saying("kelp", "!yes")})
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for _, r := range rs {
		for _, d := range r.Decisions {
			if d.Kind == hall.Forget {
				names = d.Names
			}
		}
	}
	if !slices.Contains(names, "loginmoss") || !slices.Contains(names, "loginkelp") {
		t.Errorf("they are forgotten as %q", names)
	}
}

// A record that was merged in the same moment goes with whoever asks.
func TestWhoeverAsksRightAfterAMergeIsForgottenWithBothAccounts(t *testing.T) {
	st := storetest.Open(t)
	h, stop := rewarding(t, st)
	defer stop()
	two := came(t, h)
	if _, err := h.Submit(t.Context(), []event.Event{saying("kelp", "!forget")}); err != nil {
		t.Fatal(err)
	}
	goOn := holds(t, h)
	errs, answers := make(chan error, 2), make(chan []Result, 1)
	go func() {
		_, err := h.Hand(t.Context(), &event.BookMerged{Kept: two[0], Gone: two[1], Accounts: []string{"quayside:kelp", "quayside:moss"}})
		errs <- err
	}()
	waiting(t, h, 1)
	go func() {
		rs, err := h.Submit(t.Context(), []event.Event{saying("kelp", "!yes")})
		errs <- err
		answers <- rs
	}()
	waiting(t, h, 2)
	goOn()
	for range 2 {
		if err := <-errs; err != nil {
			t.Fatal(err)
		}
	}
	forgotten := hall.Forgotten(&event.Event{}, (<-answers)[0].Decisions)
	if !slices.Contains(forgotten, "quayside:moss") {
		t.Errorf("forgotten are %q", forgotten)
	}
	remembered(t, st, h)
}

func TestOfTwoMembersWhoMergeTheSameTwoTheOtherWayRoundTheSecondIsTold(t *testing.T) {
	h, stop := rewarding(t, storetest.Open(t))
	defer stop()
	two := came(t, h)
	goOn := holds(t, h)
	errs := make(chan error, 2)
	go func() { errs <- h.Desk.Merge(t.Context(), "Odalys Brine", two[0], two[1]) }()
	waiting(t, h, 1)
	go func() { errs <- h.Desk.Merge(t.Context(), "Wren Tallow", two[1], two[0]) }()
	for end := time.Now().Add(300 * time.Millisecond); len(h.in) < 2 && time.Now().Before(end); time.Sleep(time.Millisecond) {
	} // it would be before the house by then
	goOn()
	if a, b := <-errs, <-errs; a != nil || b != book.ErrSame {
		t.Errorf("%v and %v", a, b)
	}
	if err := h.Desk.Part(t.Context(), "Odalys Brine", two[1]); err != nil {
		t.Fatal(err)
	}
	if after := persons(t, h); after[0] == after[1] {
		t.Errorf("parted again they are %v", after)
	}
}

// came has two come, and tells who they are.
func came(t *testing.T, h *House) []int64 {
	t.Helper()
	if _, err := h.Submit(t.Context(), []event.Event{saying("kelp", "hello"), saying("moss", "hello")}); err != nil {
		t.Fatal(err)
	}
	return persons(t, h)
}

// persons are the numbers of the two.
func persons(t *testing.T, h *House) []int64 {
	t.Helper()
	return []int64{person(t, h, "quayside:kelp"), person(t, h, "quayside:moss")}
}

// person is the number of who is behind an account.
func person(t *testing.T, h *House, account string) int64 {
	t.Helper()
	k, err := h.Known(t.Context(), account)
	if err != nil || k == nil {
		t.Fatal(err, k)
	}
	return k.Person
}

// forgets has a member forget who is behind an account.
func forgets(t *testing.T, h *House, account string) {
	t.Helper()
	if err := h.Desk.Forget(t.Context(), "Odalys Brine", person(t, h, account)); err != nil {
		t.Fatal(err)
	}
}

// holds keeps the house from living anything until it goes on.
func holds(t *testing.T, h *House) (goOn func()) {
	t.Helper()
	held, let := make(chan struct{}), make(chan struct{})
	go h.look(t.Context(), func(*house.State) { close(held); <-let })
	<-held
	return func() { close(let) }
}

// waiting waits until so many requests are before the house.
func waiting(t *testing.T, h *House, n int) {
	t.Helper()
	for end := time.Now().Add(10 * time.Second); len(h.in) < n; time.Sleep(time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("%d of %d requests came", len(h.in), n)
		}
	}
}

// remembered is what the house remembers after a forgetting; its log, read anew, says just that.
func remembered(t *testing.T, st *store.Store, h *House) *house.State {
	t.Helper()
	living, _, err := st.Log.LastSnapshot(t.Context(), h.ID)
	if err != nil {
		t.Fatal(err)
	}
	if a, b := read(t, living), read(t, lived(t, h)); !reflect.DeepEqual(a, b) {
		t.Errorf("the house remembers %v, and its log %v", a, b)
	}
	return living
}

// read is a state as it is written down.
func read(t *testing.T, s *house.State) (out any) {
	t.Helper()
	raw, err := json.Marshal(s)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	if err != nil {
		t.Fatal(err)
	}
	return out
}
