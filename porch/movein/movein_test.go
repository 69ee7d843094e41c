package movein_test

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/profile"
	"vividporch/porch/movein"
	"vividporch/spec"
)

var evening = time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)

const odalys = 7 // a member

// linked are the accounts that were linked, by member.
func claims(fail error) (*movein.Claims, map[int64]string) {
	linked := map[int64]string{}
	return &movein.Claims{Link: func(_ context.Context, _ string, member int64, account string) error {
		if fail != nil {
			return fail
		}
		linked[member] = account
		return nil
	}}, linked
}

func says(login, text string, roles ...event.Role) *happening.ChatSaid {
	said := &happening.ChatSaid{Text: text}
	said.Person = event.Person{Platform: "quayside", ID: "id-of-" + strings.ToLower(login), Login: login, Roles: roles}
	return said
}

func TestOnlyALineOfTheNamedLoginWithThePhraseInItsTimeLinksAnAccount(t *testing.T) {
	plain := &profile.Chat{}
	tags := &profile.Chat{RolesTag: "roles"}
	for name, c := range map[string]struct {
		chat        *profile.Chat
		login, text string // %s is the phrase
		roles       []event.Role
		after       time.Duration
		state, told string
	}{
		"said":                        {plain, "tidepool_hours", "%s", nil, time.Minute, movein.ClaimLinked, "said it"},
		"in any case, in a sentence":  {plain, "Tidepool_Hours", "so:  %S !", nil, time.Minute, movein.ClaimLinked, "said it"},
		"something else":              {plain, "tidepool_hours", "good evening", nil, time.Minute, movein.ClaimWaiting, ""},
		"by somebody else":            {plain, "kelpwright", "%s", nil, time.Minute, movein.ClaimWaiting, "kelpwright said the phrase"},
		"late":                        {plain, "tidepool_hours", "%s", nil, movein.ClaimFor, movein.ClaimLate, "take a new one"},
		"by who is not the streamer":  {tags, "tidepool_hours", "%s", []event.Role{"moderator"}, time.Minute, movein.ClaimWaiting, "is not the streamer there"},
		"by who is, as the tags tell": {tags, "tidepool_hours", "%s", []event.Role{"streamer"}, time.Minute, movein.ClaimLinked, "said it"},
	} {
		t.Run(name, func(t *testing.T) {
			cl, linked := claims(nil)
			made, err := cl.Begin(odalys, "Odalys", "quayside", "@tidepool_hours", true, evening)
			if err != nil || len(strings.Fields(made.Phrase)) != 4 {
				t.Fatalf("%+v %v", made, err)
			}
			text := strings.NewReplacer("%s", made.Phrase, "%S", strings.ToUpper(strings.ReplaceAll(made.Phrase, " ", "   "))).Replace(c.text)
			if got := cl.Wants(text); got != strings.Contains(strings.ToLower(c.text), "%s") {
				t.Errorf("wants %v", got)
			}
			cl.Heard(t.Context(), c.chat, says(c.login, text, c.roles...), evening.Add(c.after))
			got, _ := cl.Of(odalys, evening.Add(c.after))
			if got.State != c.state || !strings.Contains(got.Told, c.told) {
				t.Errorf("%s: %q", got.State, got.Told)
			}
			if want := c.state == movein.ClaimLinked; want != (linked[odalys] != "") || want && linked[odalys] != "quayside:id-of-"+strings.ToLower(c.login) {
				t.Errorf("linked %v", linked)
			}
		})
	}
}

func TestAClaimIsForOneMemberAndEndsWithTheNext(t *testing.T) {
	cl, linked := claims(nil)
	first, _ := cl.Begin(odalys, "Odalys", "quayside", "tidepool_hours", true, evening)
	second, _ := cl.Begin(odalys, "Odalys", "quayside", "tidepool_hours", true, evening)
	other, _ := cl.Begin(8, "Sorrel", "quayside", "kelpwright", false, evening)
	door := &profile.Chat{RolesTag: "roles"}
	cl.Heard(t.Context(), door, says("tidepool_hours", first.Phrase, event.Streamer), evening)
	if len(linked) > 0 {
		t.Error("the phrase before the last one still counts")
	}
	cl.Heard(t.Context(), door, says("kelpwright", other.Phrase), evening) // a co-host is no streamer
	cl.Heard(t.Context(), door, says("tidepool_hours", second.Phrase, event.Streamer), evening)
	cl.Heard(t.Context(), door, says("tidepool_hours", second.Phrase, event.Streamer), evening)
	if len(linked) != 2 {
		t.Errorf("%v", linked)
	}
	cl.Drop(8)
	if _, ok := cl.Of(8, evening); ok || cl.Wants(other.Phrase) {
		t.Error("it was dropped")
	}
}

func TestAnAccountThatCannotBeLinkedSaysWhy(t *testing.T) {
	cl, _ := claims(errors.New("is Sorrel's already"))
	made, _ := cl.Begin(odalys, "Odalys", "quayside", "tidepool_hours", true, evening)
	cl.Heard(t.Context(), &profile.Chat{}, says("tidepool_hours", made.Phrase), evening)
	if got, _ := cl.Of(odalys, evening); got.State != movein.ClaimRefused || !strings.Contains(got.Told, "Sorrel") {
		t.Errorf("%+v", got)
	}
	for _, bad := range [][2]string{{"quayside", ""}, {"quayside", "two words"}, {"", "kelpwright"}} {
		if _, err := cl.Begin(odalys, "Odalys", bad[0], bad[1], true, evening); err == nil {
			t.Errorf("%v is taken", bad)
		}
	}
}

func TestAStepIsDoneWhenItsProofIsSeen(t *testing.T) {
	empty := movein.Facts{Settings: &housefile.Settings{Channel: housefile.Unnamed, Zone: "UTC"}, Said: map[string]string{movein.Begun: "yes"}}
	if n := movein.Left(empty); n != len(movein.Order) {
		t.Errorf("%d of %d are still to do", n, len(movein.Order))
	}
	state := func(f movein.Facts, step string) movein.Step {
		list := movein.Steps(f)
		return list[slices.IndexFunc(list, func(s movein.Step) bool { return s.Name == step })]
	}
	f := empty
	f.Settings = &housefile.Settings{Channel: "tidepool_hours", Zone: "Europe/Lisbon", Places: []housefile.Place{{Name: "news"}},
		Doors: []housefile.Door{{Name: "as-me", Kind: "irc", As: "streamer"}, {Name: "chat", Kind: "irc"}, {Name: "events", Kind: "inbox"}}}
	f.Doors = []spec.Door{{Door: "as-me", Kind: "irc", State: "open", MaySpeak: true}, {Door: "chat", Kind: "irc", State: "open", Account: "porchlamp"}, {Door: "events", Kind: "inbox"}}
	for step, want := range map[string]string{movein.Channel: movein.Done, movein.Chat: movein.Open, movein.Streamer: movein.Open, movein.Happenings: movein.Open, movein.People: movein.Open, movein.Place: movein.Open} {
		if got := state(f, step); got.State != want || got.Proof == "" {
			t.Errorf("%s is %s: %s", step, got.State, got.Proof)
		}
	}
	if got := state(f, movein.Chat); !strings.Contains(got.Proof, "may not speak") {
		t.Errorf("the missing right is not said: %s", got.Proof)
	}
	f.Doors[1].MaySpeak, f.Doors[2].LastIn, f.Streamer, f.People, f.Brought = true, evening, "Odalys", 3, true
	f.Said = map[string]string{movein.Begun: "yes", movein.Place: movein.Done, movein.Courtesies: movein.Skipped}
	for _, s := range movein.Steps(f) {
		want := movein.Done
		if s.Name == movein.Courtesies {
			want = movein.Skipped
		}
		if s.State != want {
			t.Errorf("%s is %s: %s", s.Name, s.State, s.Proof)
		}
	}
	if n := movein.Left(f); n != 0 {
		t.Errorf("%d still to do", n)
	}
	f.Said = nil
	f.Doors = nil
	if n := movein.Left(f); n != 0 {
		t.Error("a house that never moved in here has nothing to do")
	}
}
