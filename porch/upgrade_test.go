package porch_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

// spoil changes the settings in force, in the database, into ones that an older house
// wrote and this one would refuse.
func spoil(t *testing.T, b *porchtest.Boat, change func(doc map[string]any)) {
	t.Helper()
	var raw json.RawMessage
	if err := b.Store.SQL.QueryRow("SELECT doc FROM settings_versions WHERE channel = $1 ORDER BY version DESC LIMIT 1", b.House.ID).Scan(&raw); err != nil {
		t.Fatal(err)
	}
	doc := map[string]any{}
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	change(doc)
	out, _ := json.Marshal(doc)
	if _, err := b.Store.SQL.Exec("UPDATE settings_versions SET doc = $2 WHERE channel = $1 AND version = (SELECT max(version) FROM settings_versions WHERE channel = $1)", b.House.ID, string(out)); err != nil {
		t.Fatal(err)
	}
}

func waitingKinds(t *testing.T, h *porch.House, kind string) []spec.Waiting {
	t.Helper()
	p, err := h.Porch(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	return slices.DeleteFunc(p.Waiting, func(w spec.Waiting) bool { return w.Kind != kind })
}

func TestAHouseStartsWithSettingsThatItWouldRefuseToday(t *testing.T) {
	b := porchtest.Launch(t, quick)
	b.SignIn()
	spoil(t, b, func(doc map[string]any) {
		doc["fromTomorrow"] = true // a newer house wrote it
		list := doc["courtesies"].([]any)
		list[1].(map[string]any)["when"] = "porch.of.yesterday"
		doc["places"].([]any)[0].(map[string]any)["url"] = "nowhere"
	})
	b.House = b.Another()
	b.Until("it says what is left out", func() bool { return len(waitingKinds(t, b.House, "settings")) >= 2 })
	titles := fmt.Sprint(waitingKinds(t, b.House, "settings"))
	for _, part := range []string{"settings/greet-newcomer", "when \"porch.of.yesterday\" never happens", "places.0.url"} {
		if !strings.Contains(titles, part) {
			t.Errorf("%s is not told: %s", part, titles)
		}
	}
	goLive(b)
	b.Street.Platforms["quayside"].Chat.Say(lena, "hello")
	b.Until("the rest stands: the opening is said", func() bool { return len(b.Said("quayside")) > 0 })
	// What is broken and not touched keeps nobody from changing something else, and goes on standing there.
	if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine"}, "never", func(s *housefile.Settings) error { s.Never = append(s.Never, "moss_bot"); return nil }); err != nil {
		t.Fatal(err)
	}
	if w := b.House.Plan().Whole; w.Courtesy[1].When != "porch.of.yesterday" || len(w.Places) != 4 {
		t.Error("what is left out was thrown away by another change")
	}
	if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine", Role: "owner"}, "mended", func(s *housefile.Settings) error {
		s.Courtesy[1].When = "arrival"
		s.Places[0].URL = "http://127.0.0.1:9/"
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	b.Until("mended, it waits for nobody", func() bool { return len(waitingKinds(t, b.House, "settings")) == 0 })
}

func TestAVersionThatCannotBeReadGivesWayToTheLastOneThatCan(t *testing.T) {
	b := porchtest.Launch(t, quick)
	if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine"}, "never", func(s *housefile.Settings) error { s.Never = append(s.Never, "moss_bot"); return nil }); err != nil {
		t.Fatal(err)
	}
	version := b.House.Plan().Version
	if _, err := b.Store.SQL.Exec(`UPDATE settings_versions SET doc = '{"courtesies": 7}' WHERE channel = $1 AND version = $2`, b.House.ID, version); err != nil {
		t.Fatal(err)
	}
	b.House = b.Another()
	if p := b.House.Plan(); p.Version != version || slices.Contains(p.Settings.Never, "moss_bot") || len(p.Set.All()) < 10 {
		t.Errorf("version %d with %d courtesies", p.Version, len(p.Set.All()))
	}
	b.Until("it says so", func() bool {
		w := waitingKinds(t, b.House, "settings")
		return len(w) == 1 && strings.Contains(w[0].Why, "cannot be read")
	})
	if v, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine"}, "never", func(s *housefile.Settings) error { s.Never = append(s.Never, "reed_bot"); return nil }); err != nil || v != version+1 {
		t.Errorf("the next version is %d, %v", v, err)
	}
}

func TestHostsInUseBeforeThereWasAListStayAndAreShown(t *testing.T) {
	b := porchtest.Launch(t, quick)
	for _, q := range []string{"DELETE FROM allowed_hosts", "UPDATE channels SET guarded = false"} { // as an older house left it
		if _, err := b.Store.SQL.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	b.House = b.Another()
	b.Until("the host is named", func() bool {
		w := waitingKinds(t, b.House, "host")
		return len(w) == 1 && strings.Contains(w[0].Title, "127.0.0.1")
	})
	b.Until("the chat is reached", func() bool { return b.House.Health("quayside-chat").MaySpeak })
	// Taken off the list, it is reached no more, by no door, and the door says how that is changed.
	if err := b.Store.Safe.Disallow(t.Context(), b.House.ID, "127.0.0.1"); err != nil {
		t.Fatal(err)
	}
	b.House = b.Another()
	b.Until("the chat door says so", func() bool {
		return strings.Contains(b.House.Health("quayside-chat").Reason, "vividporch allow 127.0.0.1")
	})
	goLive(b)
	b.Until("and the place", func() bool {
		w := waitingKinds(t, b.House, "post")
		return len(w) == 1 && strings.Contains(w[0].Why, "vividporch allow 127.0.0.1")
	})
	if landings, _, _ := b.Street.Boathouse.State(); len(landings[0].Posts) != 0 {
		t.Error("it was posted all the same")
	}
}

func TestThePrivateLinkNeverLeavesUnderTheStreamersAccount(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	chat := b.Street.Platforms["quayside"].Chat
	word := b.House.Plan().Settings.Privacy.Ask[0]
	b.Until("both accounts are in chat", func() bool { return len(chat.Here()) == 2 })
	for i := range 12 {
		chat.Say(standin.Viewer{ID: fmt.Sprint("v", i), Login: fmt.Sprint("viewer_", i)}, word)
	}
	b.Until("all are answered", func() bool { return len(chat.Privates()) == 12 })
	for _, p := range chat.Privates() {
		if p.From != "porchlamp" {
			t.Fatalf("the link to %s leaves under the account of %s", p.To, p.From)
		}
	}
}

func TestHalfACharacterInALineKeepsNobodyFromReadingWhatIsKept(t *testing.T) {
	b := porchtest.Launch(t, quick)
	ev, err := happening.Kinds.Parse([]byte(`{"specversion":"1.0","id":"half","source":"s","type":"porch.chat.said","data":{"person":{"platform":"quayside","id":"8841","login":"limpet_lena"},"text":"low \ud83d water` + "\xe9" + `"}}`))
	if err != nil {
		t.Fatal(err)
	}
	ev.Door = "quayside"
	if rs, err := b.House.Submit(t.Context(), []event.Event{ev}); err != nil || rs[0].Seq == 0 {
		t.Fatalf("%+v %v", rs, err)
	}
	k, err := b.House.Known(t.Context(), "quayside:8841")
	if err != nil || k == nil {
		t.Fatal(k, err)
	}
	kept, err := b.Store.Privacy.Everything(t.Context(), b.House.ID, k.Person)
	if err != nil || len(kept.Said) != 1 || kept.Said[0].Text != "low \ufffd water\ufffd" {
		t.Errorf("%+v %v", kept, err)
	}
}

// Found: three gifts of the largest number there is overflowed their joined sum and
// stopped the house in a plural, again at each start.
func TestTheLargestNumbersThereAreAreJoinedAndThanked(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	for i := range 3 {
		ev, err := happening.Kinds.Parse(fmt.Appendf(nil, `{"specversion":"1.0","id":"g%d","source":"s","type":"porch.support.gifted","data":{"person":{"platform":"quayside","id":"g%d","login":"giver_%d"},"count":9223372036854775807}}`, i, i, i))
		if err != nil {
			t.Fatal(err)
		}
		ev.Door = "quayside"
		if _, err := b.House.Submit(t.Context(), []event.Event{ev}); err != nil {
			t.Fatal(err)
		}
	}
	b.Until("they are thanked together", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(s string) bool { return strings.Contains(s, "giver_0") && strings.Contains(s, "giver_2") })
	})
	if w := waitingKinds(t, b.House, "aside"); len(w) > 0 {
		t.Errorf("%+v", w)
	}
}
