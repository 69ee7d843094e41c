package api_test

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
	"vividporch/store/tables"
)

func view(t *testing.T, b *porchtest.Boat, id string) spec.CourtesyView {
	t.Helper()
	var all spec.Courtesies
	if s := b.Do("GET", "/api/courtesies", nil, &all); s != 200 {
		t.Fatal(s)
	}
	i := slices.IndexFunc(all.Courtesies, func(c spec.CourtesyView) bool { return c.ID == id })
	if i < 0 {
		t.Fatalf("there is no %s", id)
	}
	return all.Courtesies[i]
}

func TestWhatAnotherServiceSentCanBeDescribedFromWhatCame(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	seen := func() (out spec.SeenEvents) { b.Do("GET", "/api/settings/own", nil, &out); return out }
	if got := seen(); len(got.Events) != 0 {
		t.Fatalf("nothing came, and yet %+v", got)
	}
	b.Street.Platforms["quayside"].Send("porch.other", 0, map[string]any{"name": "flock.seen", "fields": map[string]any{"birds": 12, "kind": "dunlin"}})
	b.Until("the flock is offered", func() bool { return len(seen().Events) == 1 })
	got := seen().Events
	if got[0].Event != "flock.seen" || got[0].Fields["birds"] != "12" || got[0].Fields["kind"] != "dunlin" {
		t.Fatalf("%+v", got)
	}
	if s := b.Do("PUT", "/api/settings/own", spec.OwnParts{FillIns: ownFillIns(b), Events: append(ownEvents(b), got...)}, nil); s != 200 {
		t.Fatal(s)
	}
	if left := seen(); len(left.Events) != 0 {
		t.Errorf("it is described now: %+v", left)
	}
}

func TestTheEditorIsToldHowManyAWhoIsAbout(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("PUT", "/api/book/crews", spec.Crew{Name: "Quiet Moths"}, nil)
	b.Do("POST", "/api/book/crews/quiet-moths/list", spec.PastedList{Text: "quayside:kelpwright quayside:mossy_mare quayside:grebe_watch", Take: true}, nil)
	var m spec.Whom
	if s := b.Do("POST", "/api/courtesies/whom", spec.Who{Crews: spec.InCrews{Of: []string{"quiet-moths"}}}, &m); s != 200 || m.People != 3 || m.AtMost {
		t.Errorf("%d %+v", s, m)
	}
	var p spec.Problem
	if s := b.Do("POST", "/api/courtesies/whom", map[string]any{"attended": "many"}, &p); s != 400 || p.Detail == "" {
		t.Errorf("%d %+v", s, p)
	}
}

func ownFillIns(b *porchtest.Boat) []spec.OwnFillIn {
	var all spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &all)
	return all.Own.FillIns
}

func ownEvents(b *porchtest.Boat) []spec.OwnEvent {
	var all spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &all)
	return all.Own.Events
}

func TestFillInsEmotesAndEventsOfOurOwnComeIntoForceTogetherOrNotAtAll(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	own := spec.OwnParts{FillIns: []spec.OwnFillIn{{Name: "luck", Kind: "dice", From: 1, To: 6}, {Name: "creature", Kind: "list", List: []string{"a limpet"}}},
		Emotes: []spec.Emote{{Word: "tidepoolWave", Platforms: []string{"quayside"}}}, Events: []spec.OwnEvent{{Event: "bell.rung", Fields: map[string]string{"tone": "low"}}}}
	var in spec.InForce
	if s := b.Do("PUT", "/api/settings/own", own, &in); s != 200 {
		t.Fatal(s)
	}
	v := view(t, b, "greet-newcomer")
	if !slices.ContainsFunc(v.FillIns, func(f spec.FillIn) bool { return f.Name == "luck" && f.Kind == "number" && f.Tells != "" }) {
		t.Errorf("the dice is not offered: %+v", v.FillIns)
	}
	for at, bad := range map[string]spec.OwnFillIn{"fillIns.0.name": {Name: "name", Kind: "dice", From: 1, To: 6}, "fillIns.0": {Name: "luck", Kind: "dice", From: 6, To: 1}} {
		next := own
		next.FillIns = []spec.OwnFillIn{bad, {Name: "creature", Kind: "list", List: []string{"a limpet"}}}
		next.Emotes = nil
		var p spec.Problem
		if s := b.Do("PUT", "/api/settings/own", next, &p); s != 422 || len(p.Faults) == 0 || p.Faults[0].At != at || p.Faults[0].Remedy == "" {
			t.Errorf("%s: %d %+v", at, s, p)
		}
	}
	// What a wording uses cannot be taken away beneath it.
	next := own
	next.FillIns = own.FillIns[:1]
	var p spec.Problem
	if s := b.Do("PUT", "/api/settings/own", next, &p); s != 422 || !strings.Contains(p.Faults[0].What, "creature") {
		t.Errorf("%d %+v", s, p)
	}
	if got := b.House.Plan().Settings; len(got.FillIns) != 2 || len(got.Emotes) != 1 {
		t.Errorf("half of it came into force: %+v", got.FillIns)
	}
}

func TestADraftHoldsACardsTwoLinesAndWeightsAndComesIntoForceWhole(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	v := view(t, b, "thank-subscription")
	d := spec.Draft{}
	for _, o := range v.Outputs {
		d.Outputs = append(d.Outputs, spec.DraftOutput{ID: o.ID, Alternatives: o.Alternatives, Second: o.Second})
	}
	d.Outputs[1].Alternatives, d.Outputs[1].Weights, d.Outputs[1].Second = []string{"{name} stays", "And again {name}"}, []int{3, 1, 9}, "{month} months"
	var drafted spec.Drafted
	if s := b.Do("PUT", "/api/courtesies/thank-subscription/draft", d, &drafted); s != 200 || drafted.Valid || drafted.Faults[0].At != "card.second.0" || !strings.Contains(drafted.Faults[0].Remedy, "{months}") {
		t.Fatalf("%d %+v", s, drafted)
	}
	if now := view(t, b, "thank-subscription"); now.Outputs[1].Second == d.Outputs[1].Second {
		t.Error("a broken draft came into force")
	}
	d.Outputs[1].Second = "{months, plural, one {# month} other {# months}}"
	b.Do("PUT", "/api/courtesies/thank-subscription/draft", d, &drafted)
	var in spec.InForce
	if s := b.Do("POST", "/api/courtesies/thank-subscription/enact", nil, &in); s != 200 || !drafted.Valid {
		t.Fatalf("%d %+v", s, drafted)
	}
	card := view(t, b, "thank-subscription").Outputs[1]
	if card.Second != d.Outputs[1].Second || len(card.Alternatives) != 2 || !slices.Equal(card.Weights, []int{3, 1}) || !card.Worded || card.Does != "show a card" {
		t.Errorf("%+v", card)
	}
	var undone spec.InForce
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: in.Version}, &undone); s != 200 {
		t.Fatal(s)
	}
	if back := view(t, b, "thank-subscription").Outputs[1]; back.Second != v.Outputs[1].Second || len(back.Alternatives) != 3 {
		t.Errorf("%+v", back)
	}
}

func TestOutputsAreAddedMovedAndTakenOutAndKeepTheirWords(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	rule := view(t, b, "thank-tip").Rule
	words := view(t, b, "thank-tip").Outputs[0].Alternatives
	rule.Outputs = append([]spec.RuleOutput{{Kind: "lamp", Fitting: "bench-lamp", Colour: "#7fb7b2", Seconds: 5, Only: spec.Who{Role: "vip"}, Measure: spec.Measure{Of: "amount", Currency: "EUR", AtLeast: 20}}}, rule.Outputs...)
	var in spec.InForce
	if s := b.Do("PUT", "/api/courtesies/thank-tip", rule, &in); s != 200 {
		t.Fatal(s)
	}
	v := view(t, b, "thank-tip")
	if len(v.Outputs) != 3 || v.Outputs[0].Does != "light the bench lamp" || v.Outputs[0].Worded || !slices.Equal(v.Outputs[1].Alternatives, words) {
		t.Errorf("%+v", v.Outputs)
	}
	if o := v.Rule.Outputs[0]; o.ID == "" || o.Only.Role != "vip" || o.Measure.AtLeast != 20 {
		t.Errorf("%+v", o)
	}
	for field, bad := range map[string]spec.RuleOutput{
		"do.0.fitting": {Kind: "lamp", Fitting: "moon", Colour: "#7fb7b2"},
		"do.0.on.0":    {Kind: "platform", Act: "clip", On: []string{"fernlight"}},
		"do.0.media":   {Kind: "sound", Fitting: "player"},
		"do.0.kind":    {Kind: "dance"},
	} {
		next := v.Rule
		next.Outputs = []spec.RuleOutput{bad}
		var p spec.Problem
		if s := b.Do("PUT", "/api/courtesies/thank-tip", next, &p); s != 422 || p.Faults[0].At != field || p.Faults[0].Remedy == "" {
			t.Errorf("%s: %d %+v", field, s, p)
		}
	}
	var ladder spec.Ladder
	b.Do("POST", "/api/courtesies/ladder", spec.ClimbLadder{When: "porch.support.tipped", Slot: "thanks", Of: "amount", Currency: "EUR", Number: 5}, &ladder)
	if len(ladder.Does) != 3 || !ladder.Does[0].Refused || ladder.Does[1].Kind != "say" || !strings.Contains(ladder.Does[1].Text, "wrack_wren") || ladder.Does[2].Kind != "card" || ladder.Does[2].To != "overlay" {
		t.Errorf("%+v", ladder.Does)
	}
	var found spec.Findings
	if s := b.Do("GET", "/api/courtesies/check", nil, &found); s != 200 || slices.ContainsFunc(found.Items, func(f spec.Finding) bool { return f.What == "" || f.Remedy == "" }) {
		t.Errorf("%d %+v", s, found)
	}
}

func TestOneBrowserIsSignedOutAndTheOthersStay(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	ctx := context.Background()
	m, err := b.Store.Members.Invite(ctx, b.House.ID, "Fen Osier", members.RoleHelper)
	if err != nil {
		t.Fatal(err)
	}
	enter := func(token string) *http.Client {
		sum := sha256.Sum256([]byte(token))
		if err := b.Store.Members.AddSignIn(ctx, tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
			t.Fatal(err)
		}
		jar, _ := cookiejar.New(nil)
		c := &http.Client{Jar: jar}
		req, _ := http.NewRequest("POST", b.Server.URL+"/enter/"+token, nil)
		req.Header.Set("User-Agent", "browser "+token)
		res, err := c.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return c
	}
	one, two := enter("LIMPETSHELLNUMBERONE"), enter("LIMPETSHELLNUMBERTWO")
	in := func(c *http.Client) int {
		res, err := c.Get(b.Server.URL + "/api/porch")
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	var members []spec.Member
	b.Do("GET", "/api/members", nil, &members)
	fen := members[len(members)-1]
	if len(fen.Open) != 2 || fen.Sessions != 2 || !members[0].Open[0].Here {
		t.Fatalf("%+v", members)
	}
	i := slices.IndexFunc(fen.Open, func(o spec.OpenSession) bool { return strings.HasSuffix(o.Browser, "ONE") })
	if s := b.Do("DELETE", "/api/members/"+fmt.Sprint(fen.ID)+"/sessions/"+fen.Open[i].ID, nil, nil); s != 204 {
		t.Fatal(s)
	}
	if in(one) != 401 || in(two) != 200 {
		t.Errorf("%d and %d", in(one), in(two))
	}
	var p spec.Problem
	if s := b.Do("DELETE", "/api/members/"+fmt.Sprint(members[0].ID)+"/sessions/"+fen.Open[1-i].ID, nil, &p); s != 404 {
		t.Errorf("somebody else's session was ended under another's name: %d", s)
	}
}
