package porch

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/porch/desk"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/storetest"
)

// answering is a house in which moderators change what commands answer.
func answering(t *testing.T, on bool) *House {
	return bare(t, storetest.Open(t), func(c *Config) {
		s := housetest.Base()
		s.Courtesy = []courtesy.Courtesy{
			{ID: "answers", On: on, When: happening.Command, Slot: happening.Answer, Asks: []string{"answer"}, OffLine: true, Who: who.Who{Role: event.Moderator, OrAbove: true}, Do: []output.Output{
				{ID: "keep", Do: &output.Keep{}},
				{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{hasKept, select, yes {kept {kept}} other {not kept: {unkept}}}"}}}},
			{ID: "tides", On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{"tides", "water"}, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"High at four.", "At four."}}}},
			{ID: "since", On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{"since"}, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"{name} asks"}}}},
		}
		c.Defaults = asJSON(t, s)
	})
}

// says has somebody say something, and tells what the house says to it.
func says(t *testing.T, h *House, id, text string, roles ...event.Role) string {
	t.Helper()
	ev := saying(id, text)
	ev.ID = fmt.Sprint(id, text, h.plan.Load().Version, h.state.Seq)
	ev.Data.(*happening.ChatSaid).Person.Roles = roles
	rs, err := h.Submit(t.Context(), []event.Event{ev})
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, d := range rs[0].Decisions {
		if d.Kind == hall.Planned || d.Kind == hall.Say {
			said = append(said, d.Text)
		}
	}
	return strings.Join(said, " / ")
}

func TestAModeratorChangesWhatACommandAnswersAndItIsLoggedAsTheirs(t *testing.T) {
	h := answering(t, true)
	for _, c := range []struct{ line, says string }{
		{"!answer lens It is a {four} times, isn't it?", "kept !lens"},
		{"!lens", "It is a {four} times, isn't it?"},
		{"!answer !water High at five.", "kept !water"},
		{"!tides", "High at five."},
		{"!answer since never", "not kept: it does more than answer in plain words: change it on the Porch"},
		{"!answer answer mine", "not kept: it does more than answer in plain words: change it on the Porch"},
		{"!answer lens", "not kept: the answer is missing: write it behind the name"},
		{"!answer", "not kept: the name is missing: name the word it is asked by, \"tides\""},
	} {
		if got := says(t, h, "7", c.line, event.Moderator); got != c.says {
			t.Errorf("%s: %q", c.line, got)
		}
	}
	if got := says(t, h, "8", "!answer lens mine"); got != "" {
		t.Errorf("whoever is no moderator is told %q", got)
	}
	if h.plan.Load().Version != 3 {
		t.Errorf("version %d", h.plan.Load().Version)
	}
	if says(t, h, "7", "!answer lens It is a {four} times, isn't it?", event.Moderator); h.plan.Load().Version != 3 {
		t.Error("what it answers already is a version of its own")
	}
	list, err := h.store.Log.SettingsHistory(t.Context(), h.ID, 5)
	if err != nil || len(list) != 3 || list[0].Account != "quayside:7" || list[0].What != "what !water answers" {
		t.Fatalf("%+v %v", list, err)
	}
	if _, err := h.Desk.Undo(t.Context(), desk.By{Member: "odalys", Role: members.RoleOwner}, 3); err != nil {
		t.Fatal(err)
	}
	if got := says(t, h, "8", "!tides"); got != "High at four." && got != "At four." {
		t.Errorf("taken back it answers %q", got)
	}
	if got := says(t, h, "8", "!lens"); got == "" {
		t.Error("what was not taken back is gone")
	}
}

func TestWhoeverIsForgottenIsNotKeptWithTheAnswerTheyWrote(t *testing.T) {
	h := answering(t, true)
	says(t, h, "7", "!answer lens Four times.", event.Moderator)
	known, _, err := h.store.Book.Known(t.Context(), h.ID, []event.Person{{Platform: "quayside", ID: "7"}}, 0)
	if err != nil {
		t.Fatal(err)
	}
	if err := h.Desk.Forget(t.Context(), "odalys", known["quayside:7"].Person); err != nil {
		t.Fatal(err)
	}
	list, err := h.store.Log.SettingsHistory(t.Context(), h.ID, 5)
	if err != nil || len(list) != 2 || list[0].Account != "" {
		t.Fatalf("%+v %v", list, err)
	}
	if err := h.store.Log.Since(t.Context(), h.ID, 0, 1000, func(e log.Entry) error {
		if set, ok := e.Event.Data.(*event.SettingsChanged); ok && (set.By.ID == "7" || set.By.Login != "" || len(set.Settings) == 0) {
			t.Errorf("%+v", set)
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if got := says(t, h, "8", "!lens"); got != "Four times." {
		t.Errorf("the answer is %q", got)
	}
}

func TestAnswersFromChatAndChangesOnThePorchLoseNothingOfEachOther(t *testing.T) {
	h := answering(t, true)
	const each = 15
	var both sync.WaitGroup
	both.Go(func() {
		for i := range each {
			says(t, h, "7", fmt.Sprintf("!answer a%d from chat", i), event.Moderator)
		}
	})
	both.Go(func() {
		for i := range each {
			if _, err := h.Desk.ChangeSettings(t.Context(), desk.By{Member: "odalys", Role: members.RoleOwner}, "a name", func(s *housefile.Settings) error {
				s.Never = append(s.Never, fmt.Sprint("never", i))
				return nil
			}); err != nil {
				t.Error(err)
			}
		}
	})
	both.Wait()
	s := h.plan.Load().Whole
	if got := len(s.Courtesy); got != 3+each {
		t.Errorf("%d of %d answers", got-3, each)
	}
	if got := len(s.Never) - len(housetest.Base().Never); got != each {
		t.Errorf("%d of %d changes", got, each)
	}
}

func TestOnlyTheOwnerLetsAnswersBeChangedFromChat(t *testing.T) {
	h := answering(t, false)
	change := func(role string, f func(c *courtesy.Courtesy)) error {
		_, err := h.Desk.ChangeSettings(context.Background(), desk.By{Member: "m", Role: role}, "on", func(s *housefile.Settings) error { f(&s.Courtesy[0]); return nil })
		return err
	}
	on, open := func(c *courtesy.Courtesy) { c.On = true }, func(c *courtesy.Courtesy) { c.Who = who.Who{} }
	var field *event.FieldError
	if err := change(members.RoleCoHost, on); !errors.As(err, &field) || field.Field != "on" {
		t.Errorf("a co-host switches it on: %v", err)
	}
	if err := change(members.RoleOwner, on); err != nil {
		t.Fatal(err)
	}
	if err := change(members.RoleCoHost, open); !errors.As(err, &field) {
		t.Errorf("a co-host lets everybody: %v", err)
	}
	if err := change(members.RoleCoHost, func(c *courtesy.Courtesy) { c.On = false }); err != nil {
		t.Errorf("a co-host may switch it off: %v", err)
	}
}

func TestWhatIsAskedInTheSameBreathIsAnsweredAsItWasJustChanged(t *testing.T) {
	h := answering(t, true)
	p := h.plan.Load()
	for text, may := range map[string]bool{"!answer lens Four times.": true, "!tides": false, "hello": false} {
		if ev := saying("7", text); p.MayChange(&ev) != may {
			t.Errorf("%s may change the settings: %v", text, !may)
		}
	}
	change, ask := saying("7", "!answer lens Four times."), saying("8", "!lens")
	change.Data.(*happening.ChatSaid).Person.Roles = []event.Role{event.Moderator}
	rs, err := h.Submit(t.Context(), []event.Event{change, ask})
	if err != nil {
		t.Fatal(err)
	}
	if said := rs[1].Decisions; !slices.ContainsFunc(said, func(d hall.Decision) bool { return d.Text == "Four times." }) {
		t.Errorf("%+v", said)
	}
}
