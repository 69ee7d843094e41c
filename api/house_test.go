package api_test

import (
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
)

func TestASwitchActsAtOnceAndIsTakenBackByItsVersion(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	var off spec.InForce
	if s := b.Do("POST", "/api/courtesies/greet-newcomer/switch", spec.Switch{}, &off); s != 200 || view(t, b, "greet-newcomer").On {
		t.Fatalf("%d %+v", s, off)
	}
	says(b, "5", "tidewrack", "evening")
	b.Until("nobody greets the newcomer, and it says so", func() bool {
		var not spec.Reasons
		b.Do("GET", "/api/whynot?account=quayside:5", nil, &not)
		return slices.ContainsFunc(not.Items, func(r spec.Reason) bool {
			return slices.ContainsFunc(r.Ladder, func(g spec.Rung) bool { return g.Courtesy == "Greet a newcomer" && g.Why == "is switched off" })
		})
	})
	var same spec.InForce
	if b.Do("POST", "/api/courtesies/greet-newcomer/switch", spec.Switch{}, &same); same.Version != off.Version || same.Changed || !off.Changed {
		t.Errorf("switched off %+v, and switching off what is off made %+v", off, same)
	}
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: off.Version}, nil); s != 200 || !view(t, b, "greet-newcomer").On {
		t.Error("it was not taken back")
	}
	says(b, "6", "mossy_mare", "evening")
	b.Until("the next newcomer is greeted", func() bool { return said(b, "mossy_mare") })
	var p spec.Problem
	if s := b.Do("POST", "/api/courtesies/no-such-one/switch", spec.Switch{}, &p); s != 404 || p.Title == "" {
		t.Errorf("%d %+v", s, p)
	}
	var history []spec.Version
	b.Do("GET", "/api/settings/history", nil, &history)
	if len(history) < 2 || history[0].What != "undone: switched off: greet-newcomer" || history[1].Member != "Odalys Brine" {
		t.Errorf("%+v", history)
	}
}

func TestWordingsAreTriedWithEverySamplePersonAndNothingIsSent(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var all spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &all)
	words := []string{"{streams, plural, one {First} other {# times}}, {name}!", "{nobody}", "Hello {name"}
	for _, p := range all.People {
		var got spec.Tried
		draft := []spec.DraftOutput{{ID: "chat", Alternatives: words}, {ID: "again", Alternatives: words[:1]}}
		if s := b.Do("POST", "/api/courtesies/greet-returning/try", spec.TryWordings{Outputs: draft, Person: p}, &got); s != 200 || len(got.Outputs) != 2 || len(got.Outputs[0].Alternatives) != 3 {
			t.Fatalf("%d %+v", s, got)
		}
		items := got.Outputs[0].Alternatives
		if first := items[0]; len(first.Faults) > 0 || !strings.Contains(first.Text, p.Name[:min(len(p.Name), 20)]) || first.Bytes != len(first.Text) || first.Longest < first.Bytes {
			t.Errorf("%s: %+v", p.Name, first)
		}
		if again := got.Outputs[1]; again.ID != "again" || len(again.Alternatives) != 1 || again.Alternatives[0].Text != items[0].Text {
			t.Errorf("the second output: %+v", again)
		}
		if unknown := items[1]; len(unknown.Faults) != 1 || unknown.Faults[0].Remedy == "" {
			t.Errorf("a fill-in that is not offered: %+v", unknown)
		}
		if open := items[2]; len(open.Faults) != 1 || open.Text != "" || open.Faults[0].From == 0 {
			t.Errorf("a brace that is never closed: %+v", open)
		}
	}
	var joined spec.Tried
	b.Do("POST", "/api/courtesies/greet-newcomer/try", spec.TryWordings{Outputs: []spec.DraftOutput{{ID: "chat", Alternatives: []string{}, Joined: []string{"{names} and {more}", "{name}"}}}, Person: all.People[0]}, &joined)
	if nine := joined.Outputs[0].Joined; len(nine[0].Faults) > 0 || !strings.Contains(nine[0].Text, ", ") || len(nine[1].Faults) == 0 {
		t.Errorf("%+v", joined)
	}
	if len(b.Said("quayside")) > 0 || len(b.Porch().Coming) > 0 {
		t.Error("trying said something")
	}
}

func TestADraftIsTakenBackAndWhatIsInForceStands(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	before := view(t, b, "greet-newcomer")
	output := before.Outputs[0]
	draft := spec.Draft{Outputs: []spec.DraftOutput{{ID: output.ID, Alternatives: []string{"Half a wor"}, Joined: output.Joined}}}
	var d spec.Drafted
	if s := b.Do("PUT", "/api/courtesies/greet-newcomer/draft", draft, &d); s != 200 || !d.Valid || !d.Changed {
		t.Fatalf("%d %+v", s, d)
	}
	if v := view(t, b, "greet-newcomer"); len(v.Draft.Outputs) == 0 || !slices.Equal(v.Outputs[0].Alternatives, output.Alternatives) {
		t.Errorf("a draft alone came into force: %+v", v.Outputs[0])
	}
	if s := b.Do("DELETE", "/api/courtesies/greet-newcomer/draft", nil, nil); s != 204 {
		t.Error(s)
	}
	var none spec.InForce
	if s := b.Do("POST", "/api/courtesies/greet-newcomer/enact", nil, &none); s != 200 || none.Version != 1 {
		t.Errorf("%d %+v", s, none)
	}
	if v := view(t, b, "greet-newcomer"); len(v.Draft.Outputs) != 0 || !slices.Equal(v.Outputs[0].Alternatives, output.Alternatives) {
		t.Errorf("%+v", v)
	}
}

func TestThoseNeverGreetedAreTidiedAndHeldToAtOnce(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	if s := b.Do("PUT", "/api/settings/never", spec.NeverList{Never: []string{" @TideWrack ", "", "TideWrack", "other_bot"}}, nil); s != 200 {
		t.Fatal(s)
	}
	var all spec.Courtesies
	if b.Do("GET", "/api/courtesies", nil, &all); !slices.Equal(all.Never, []string{"TideWrack", "other_bot"}) {
		t.Errorf("%v", all.Never)
	}
	says(b, "5", "tidewrack", "evening")
	says(b, "6", "mossy_mare", "evening")
	b.Until("somebody else is greeted", func() bool { return said(b, "mossy_mare") })
	if said(b, "tidewrack") {
		t.Error("somebody on the list was greeted")
	}
}

func TestMembersAreInvitedByOneLinkAndRemovedWithAllTheirWaysIn(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var p spec.Problem
	for field, in := range map[string]map[string]string{"name": {"name": "  ", "role": "helper"}, "role": {"name": "Fen Osier", "role": "owner"}} {
		if s := b.Do("POST", "/api/members", in, &p); s != 422 || p.Field != field || p.Remedy == "" {
			t.Errorf("%s: %d %+v", field, s, p)
		}
	}
	if s := b.Do("POST", "/api/members", map[string]string{"name": "Odalys Brine", "role": "helper"}, &p); s != 422 || !strings.Contains(p.Remedy, "owner") {
		t.Errorf("the owner was made a helper: %d %+v", s, p)
	}
	var link spec.Invited
	if s := b.Do("POST", "/api/members", map[string]string{"name": "Fen Osier", "role": "helper"}, &link); s != 200 || !strings.Contains(link.Link, "/enter/") {
		t.Fatalf("%d %+v", s, link)
	}
	enter := func() (*http.Client, int) {
		jar, _ := cookiejar.New(nil)
		c := &http.Client{Jar: jar}
		res, err := c.Post(link.Link, "", nil)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return c, res.StatusCode
	}
	get := func(c *http.Client, path string) int {
		res, err := c.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	fen, _ := enter()
	if get(fen, "/api/porch") != 200 || get(fen, "/api/courtesies") != 403 {
		t.Error("a helper has the Porch, and the Porch alone")
	}
	if again, _ := enter(); get(again, "/api/porch") != 401 {
		t.Error("the link let a second browser in")
	}
	if s := b.Do("DELETE", fmt.Sprintf("/api/members/%d/sessions", link.ID), nil, nil); s != 204 || get(fen, "/api/porch") != 401 {
		t.Errorf("signed out everywhere, and yet in: %d", s)
	}
	if s := b.Do("DELETE", fmt.Sprintf("/api/members/%d", link.ID), nil, nil); s != 204 {
		t.Error(s)
	}
	var members []spec.Member
	b.Do("GET", "/api/members", nil, &members)
	if len(members) != 1 || members[0].Role != "owner" {
		t.Errorf("%+v", members)
	}
	for _, id := range []int64{members[0].ID, 9999} {
		if s := b.Do("DELETE", fmt.Sprintf("/api/members/%d", id), nil, &p); s != 404 {
			t.Errorf("%d: %d %+v", id, s, p)
		}
	}
}

func TestFiltersAreSavedUnderANameAndPairsRefusedStayRefused(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var p spec.Problem
	if s := b.Do("PUT", "/api/book/filters", spec.SavedFilter{Name: " ", Query: "crew=lantern-row"}, &p); s != 422 || p.Field != "name" {
		t.Errorf("%d %+v", s, p)
	}
	for _, q := range []string{"crew=lantern-row", "crew=lantern-row&trusted=1"} { // the second takes the first one's place
		if s := b.Do("PUT", "/api/book/filters", spec.SavedFilter{Name: "The Row", Query: q}, nil); s != 204 {
			t.Fatal(s)
		}
	}
	var saved spec.SavedFilters
	if b.Do("GET", "/api/book/filters", nil, &saved); len(saved.Filters) != 1 || saved.Filters[0].Query != "crew=lantern-row&trusted=1" {
		t.Errorf("%+v", saved)
	}
	if s := b.Do("DELETE", "/api/book/filters/The%20Row", nil, nil); s != 204 {
		t.Error(s)
	}
	if b.Do("GET", "/api/book/filters", nil, &saved); len(saved.Filters) != 0 {
		t.Errorf("%+v", saved)
	}

	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "5", "tidewrack", "evening")
	b.Street.Platforms["fernlight"].Send("porch.person.followed", 0, map[string]any{"person": map[string]any{"platform": "fernlight", "id": "77", "login": "tidewrack"}})
	var pairs spec.Pairs
	b.Until("the same login on two platforms is a likely pair", func() bool {
		b.Do("GET", "/api/book/pairs", nil, &pairs)
		return len(pairs.Pairs) == 1 && len(pairs.Pairs[0].Because) > 0
	})
	if s := b.Do("POST", "/api/book/pairs", spec.BookMerge{Kept: pairs.Pairs[0].A.Person, Gone: pairs.Pairs[0].B.Person}, nil); s != 204 {
		t.Error(s)
	}
	if b.Do("GET", "/api/book/pairs", nil, &pairs); len(pairs.Pairs) != 0 {
		t.Errorf("a pair that was refused is offered again: %+v", pairs)
	}
}

func TestRaidsBothWaysAndWhatTheyBroughtAreToldOverHTTP(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	kelp := map[string]any{"platform": "quayside", "id": "9330", "login": "kelpwright"}
	b.Street.Platforms["quayside"].Send("porch.raid.came", 0, map[string]any{"person": kelp, "viewers": 37})
	var raids spec.Ledger
	b.Until("the raid is in the ledger, thanked", func() bool {
		b.Do("GET", "/api/book/raids", nil, &raids)
		return len(raids.Lines) == 1 && raids.Lines[0].Unthanked == 0
	})
	if l := raids.Lines[0]; l.Came != 1 || l.Went != 0 || !slices.Equal(l.Sizes, []int64{37}) || l.Says == "" || l.LastCame.IsZero() {
		t.Errorf("%+v", l)
	}
	says(b, "5", "tidewrack", "came with kelpwright")
	b.Until("the newcomer counts as brought by it", func() bool {
		var fresh spec.Newcomers
		b.Do("GET", "/api/book/newcomers", nil, &fresh)
		return slices.ContainsFunc(fresh.Raids, func(c spec.Cohort) bool {
			return c.Name == "kelpwright" && c.Viewers == 37 && c.Newcomers == 1 && c.Returned == 0
		})
	})
	var count spec.BookCount
	if b.Do("GET", "/api/book/count?standing=newcomer", nil, &count); count.Count < 1 || count.More {
		t.Errorf("%+v", count)
	}
}

func TestACoHostIsKnownInChatByTheAccountTheyLink(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	co, helper := as(t, b, "Fen Osier", members.RoleCoHost), as(t, b, "Wren Tidy", members.RoleHelper)
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	var added spec.Added
	b.Do("POST", "/api/courtesies", spec.NewCourtesy{When: "command", Slot: "answer"}, &added)
	rule := spec.CourtesyRule{When: "command", Slot: "answer", Asks: []string{"!sluice"}, Only: true, Who: spec.Who{Role: "co-host", OrAbove: true},
		Outputs: []spec.RuleOutput{{ID: "chat", Kind: "say"}}}
	if s := b.Do("PUT", "/api/courtesies/"+added.ID, rule, nil); s != 200 {
		t.Fatal(s)
	}
	if s := b.Do("POST", "/api/courtesies/"+added.ID+"/switch", spec.Switch{On: true}, nil); s != 200 {
		t.Fatal(s)
	}
	n := 0
	asks := func(id, login string, nick bool) bool {
		n++
		d := &happening.ChatSaid{Text: "!sluice"}
		d.Person = event.Person{Platform: "quayside", ID: id, Login: login, Nick: nick}
		rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside-chat", Source: "#r", ID: fmt.Sprint("ask-", n), Type: d.Type(), Data: d}})
		if err != nil {
			t.Fatal(err)
		}
		return slices.ContainsFunc(rs[0].Decisions, func(x hall.Decision) bool {
			return x.Courtesy == added.ID && (x.Kind == hall.Planned || x.Kind == hall.Say)
		})
	}
	if asks("501", "fen_osier", false) || asks("502", "wren", false) {
		t.Fatal("they are known before they linked anything")
	}
	mine := func(g *guest) spec.Member {
		t.Helper()
		var list []spec.Member
		b.Do("GET", "/api/members", nil, &list)
		i := slices.IndexFunc(list, func(m spec.Member) bool { return m.ID == g.id(t) })
		return list[i]
	}
	link := func(by *porchtest.Boat, of int64, account string) int {
		return by.Do("PUT", fmt.Sprintf("/api/members/%d/account", of), spec.LinkedAccount{Account: account}, nil)
	}
	if s := link(co.Boat, co.id(t), "quayside:501"); s != 204 {
		t.Fatalf("their own: %d", s)
	}
	if m := mine(co); m.Account != "quayside:501" || m.Called != "fen_osier" {
		t.Errorf("%+v", m)
	}
	if !asks("501", "fen_osier", false) {
		t.Error("a co-host who linked an account is not known by it")
	}
	if asks("501", "fen_osier", true) {
		t.Error("a nick that nobody vouches for is enough to be the co-host")
	}
	// A helper is nothing more in chat; nobody links for somebody else but the owner; an account is one member's.
	if s := link(b, helper.id(t), "quayside:502"); s != 204 || asks("502", "wren", false) {
		t.Errorf("a helper: %d", s)
	}
	for what, got := range map[string][2]int{
		"a co-host for a helper": {link(co.Boat, helper.id(t), "quayside:501"), 403},
		"a helper":               {link(helper.Boat, helper.id(t), "quayside:502"), 403},
		"one that is another's":  {link(b, helper.id(t), "quayside:501"), 422},
		"nobody's":               {link(b, co.id(t), "quayside:never"), 422},
		"no member's":            {link(b, 999_999, "quayside:501"), 404},
	} {
		if got[0] != got[1] {
			t.Errorf("%s: %d, not %d", what, got[0], got[1])
		}
	}
	var own []spec.Member
	if s := co.Do("GET", "/api/members", nil, &own); s != 200 || len(own) != 1 || own[0].Name != "Fen Osier" {
		t.Errorf("a co-host sees of the members: %d %+v", s, own)
	}
	// No co-host any more, and one again; then the account is another, and at last forgotten.
	b.Do("POST", "/api/members", spec.Invite{Name: "Fen Osier", Role: members.RoleHelper}, nil)
	if asks("501", "fen_osier", false) {
		t.Error("still known as co-host, and is a helper")
	}
	b.Do("POST", "/api/members", spec.Invite{Name: "Fen Osier", Role: members.RoleCoHost}, nil)
	if !asks("501", "fen_osier", false) {
		t.Error("a co-host again, and not known")
	}
	b.Do("PUT", fmt.Sprintf("/api/members/%d/account", helper.id(t)), spec.LinkedAccount{}, nil)
	if s := link(b, co.id(t), "quayside:502"); s != 204 || asks("501", "fen_osier", false) || !asks("502", "wren", false) {
		t.Errorf("moved to another account: %d", s)
	}
	k, err := b.House.Known(t.Context(), "quayside:502")
	if err != nil || k.Member != event.CoHost {
		t.Fatalf("%+v %v", k, err)
	}
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", k.Person); err != nil {
		t.Fatal(err)
	}
	if m := mine(co); m.Account != "" || asks("502", "wren", false) {
		t.Errorf("forgotten, and still linked: %+v", m)
	}
}
