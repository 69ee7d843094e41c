package keeping_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/porch/desk"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
)

// house is a house with its owner signed in.
func house(t *testing.T, change ...func(*housefile.Settings)) *porchtest.Boat {
	t.Helper()
	b := porchtest.Launch(t, change...)
	b.SignIn()
	return b
}

func section(b *porchtest.Boat, name string, value any) (int, spec.Problem) {
	var p spec.Problem
	s := b.Do("PUT", "/api/house/sections/"+name, map[string]any{"value": value}, &p)
	return s, p
}

func settings(b *porchtest.Boat) *housefile.Settings { return b.House.Plan().Whole }

func TestASectionComesIntoForceAtOnceAndIsTakenBackByItsVersion(t *testing.T) {
	b := house(t)
	pace := settings(b).Pace
	pace.GapSeconds = 7
	var v spec.InForce
	if s := b.Do("PUT", "/api/house/sections/pace", map[string]any{"value": pace}, &v); s != 200 || settings(b).Pace.GapSeconds != 7 {
		t.Fatalf("%d, gap %g", s, settings(b).Pace.GapSeconds)
	}
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: v.Version}, nil); s != 200 || settings(b).Pace.GapSeconds == 7 {
		t.Errorf("%d, gap %g", s, settings(b).Pace.GapSeconds)
	}
	pace.GapSeconds = -1
	if s, p := section(b, "pace", pace); s != 422 || len(p.Faults) != 1 || p.Faults[0].At != "pace.gapSeconds" || p.Faults[0].Remedy == "" {
		t.Errorf("%d %+v", s, p)
	}
	for name, value := range map[string]any{"zone": "Nowhere/At_all", "attic": 1, "pace": map[string]any{"gapSecs": 3}, "channel": ""} {
		if s, p := section(b, name, value); s != 422 || p.Title == "" {
			t.Errorf("%s: %d %+v", name, s, p)
		}
	}
}

func TestWhatTwoMembersSetOfOneSectionIsMergedOrPutToThem(t *testing.T) {
	b := house(t)
	base := b.House.Plan().Version
	put := func(change func(*housefile.Pace)) (int, spec.Problem) {
		pace := settings(b).Pace
		then, err := b.Store.Log.SettingsAt(t.Context(), b.House.ID, base)
		if err == nil {
			if s, err := housefile.ReadStored(then.Doc); err == nil {
				pace = s.Pace
			}
		}
		change(&pace)
		req, _ := http.NewRequest("PUT", b.Server.URL+"/api/house/sections/pace", strings.NewReader(`{"value":`+jsonOf(t, pace)+`}`))
		req.Header.Set("X-Porch-Token", b.Token)
		req.Header.Set("X-Porch-Base", itoa(base))
		res, err := b.Client.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		var p spec.Problem
		read(t, res.Body, &p)
		return res.StatusCode, p
	}
	if s, _ := put(func(p *housefile.Pace) { p.JoinAt = 5 }); s != 200 {
		t.Fatal(s)
	}
	if s, _ := put(func(p *housefile.Pace) { p.GapSeconds = 4 }); s != 200 || settings(b).Pace.JoinAt != 5 || settings(b).Pace.GapSeconds != 4 {
		t.Errorf("%d %+v", s, settings(b).Pace)
	}
	if s, p := put(func(p *housefile.Pace) { p.JoinAt = 9 }); s != 409 || len(p.Clashes) != 1 || p.Clashes[0].At != "pace.joinAt" || settings(b).Pace.JoinAt != 5 {
		t.Errorf("%d %+v", s, p)
	}
}

func TestASecondHouseOnOneChannelIsRefused(t *testing.T) {
	b := house(t)
	other, err := b.Store.Channel(t.Context(), "second")
	if err != nil {
		t.Fatal(err)
	}
	s := settings(b).Clone()
	s.Channel = "Lantern_Row"
	if err := b.Store.Log.FirstSettings(t.Context(), other, []byte(jsonOf(t, s))); err != nil {
		t.Fatal(err)
	}
	if s, p := section(b, "channel", "lantern_row"); s != 422 || p.Field != "channel" || !strings.Contains(p.Remedy, "another house") {
		t.Errorf("%d %+v", s, p)
	}
	if s, _ := section(b, "channel", "low_water"); s != 200 || settings(b).Channel != "low_water" {
		t.Errorf("%d %s", s, settings(b).Channel)
	}
}

func TestRenamingAPlaceTakesItsSecretAndItsCourtesiesAlong(t *testing.T) {
	b := house(t)
	const secret = "whsec_dGhlIHBsYWNlIGNoZWNrcyB3aG8gcG9zdHM="
	if s := b.Do("PUT", "/api/house/secrets", spec.SecretIn{Name: "boathouse-news", Slot: "secret", Value: secret}, nil); s != 204 {
		t.Fatal(s)
	}
	var uses spec.Uses
	b.Do("GET", "/api/house/uses?section=places&name=boathouse-news", nil, &uses)
	if len(uses.Uses) != 2 || uses.Uses[0].Courtesy != "announce-opening" || uses.Uses[0].All || !strings.Contains(uses.Uses[0].Says, "News at The Boathouse") {
		t.Errorf("what uses it is said first: %+v", uses)
	}
	b.Street.Boathouse.SetOutage(true)
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	b.Until("the opening is on its way", func() bool { n, err := b.Store.Jobs.Bound(t.Context(), b.House.ID); return err == nil && len(n) == 1 })
	before := b.House.Plan().Version
	if s := b.Do("POST", "/api/house/rename", spec.RenameIn{Section: "places", Name: "boathouse-news", To: "the-wall"}, nil); s != 200 || b.House.Plan().Version != before+1 {
		t.Fatalf("%d, version %d after %d", s, b.House.Plan().Version, before)
	}
	if got, err := b.Store.Safe.SecretTo(t.Context(), b.House.ID, "the-wall", "secret", settings(b).PlaceNamed("the-wall").URL); err != nil || got != secret {
		t.Errorf("its secret: %v", err)
	}
	b.Street.Boathouse.SetOutage(false)
	b.Until("what was on its way there arrives all the same", func() bool { l, _, _ := b.Street.Boathouse.State(); return len(l[0].Posts) == 1 })
	var p spec.Problem
	if s := b.Do("POST", "/api/house/rename", spec.RenameIn{Section: "places", Name: "the-wall", To: "quayside"}, &p); s != 422 || p.Field != "to" {
		t.Errorf("a door is called that: %d %+v", s, p)
	}
	if s := b.Do("POST", "/api/house/takeaway", spec.ThingIn{Section: "places", Name: "the-wall"}, nil); s != 200 || len(settings(b).Places) != 3 || len(settings(b).Uses("places", "the-wall")) != 0 {
		t.Errorf("%d %+v", s, settings(b).Places)
	}
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: b.House.Plan().Version}, nil); s != 200 || len(settings(b).Uses("places", "the-wall")) != 2 {
		t.Errorf("taken back: %d %+v", s, settings(b).Places)
	}
}

func TestSecretsAreSetAndNeverTold(t *testing.T) {
	b := house(t)
	for _, in := range []spec.SecretIn{{Name: "nobody", Slot: "password", Value: "x"}, {Name: "quayside", Slot: "secret", Value: "not signed"}, {Name: "quayside-chat", Slot: "secret", Value: "whsec_AAAA"}} {
		var p spec.Problem
		if s := b.Do("PUT", "/api/house/secrets", in, &p); s != 422 || p.Remedy == "" {
			t.Errorf("%+v: %d %+v", in, s, p)
		}
	}
	if s := b.Do("PUT", "/api/house/secrets", spec.SecretIn{Name: "quayside-chat", Slot: "password", Value: "wrong-water-lamp"}, nil); s != 204 {
		t.Fatal(s)
	}
	b.Until("the door is opened anew with it, and says that it is wrong", func() bool {
		return slices.ContainsFunc(b.House.Doors(), func(d spec.Door) bool {
			return d.Door == "quayside-chat" && d.State == "refused" && strings.Contains(d.Reason, "signing in failed")
		})
	})
	var made spec.SecretMade
	if s := b.Do("POST", "/api/house/secrets", spec.ThingIn{Section: "doors", Name: "quayside"}, &made); s != 200 || !strings.HasPrefix(made.Secret, "whsec_") {
		t.Fatalf("%d %+v", s, made)
	}
	if list, err := b.House.DoorSecrets(t.Context(), "quayside"); err != nil || !slices.Equal(list, []string{made.Secret, porchtest.Secret}) {
		t.Errorf("the one before stays good until the next: %d secrets, %v", len(list), err)
	}
	for _, path := range []string{"/api/house", "/api/settings/file", "/api/doors/quayside", "/api/doors/quayside-chat", "/api/porch"} {
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		raw, _ := io.ReadAll(res.Body)
		res.Body.Close()
		for _, secret := range []string{made.Secret, porchtest.Secret, "wrong-water-lamp"} {
			if strings.Contains(string(raw), secret) {
				t.Errorf("%s tells a secret", path)
			}
		}
	}
	if s := b.Do("PUT", "/api/house/secrets", spec.SecretIn{Name: "quayside-chat", Slot: "password"}, nil); s != 204 {
		t.Error(s)
	}
	b.Until("without it the door is open as nobody", func() bool {
		return slices.ContainsFunc(b.House.Doors(), func(d spec.Door) bool { return d.Door == "quayside-chat" && d.State == "open" })
	})
}

func chat(b *porchtest.Boat, id, login, text string) {
	b.Street.Platforms["quayside"].Chat.Say(viewer(id, login), text)
}

func TestADoorTellsWhatCameInAsItCameAndAsItWasUnderstood(t *testing.T) {
	b := house(t)
	chat(b, "8841", "limpet_lena", "low water at nine")
	var page spec.DoorPage
	b.Until("the line stands on its page", func() bool {
		b.Do("GET", "/api/doors/quayside-chat", nil, &page)
		return slices.ContainsFunc(page.Came, func(c spec.Came) bool {
			return strings.Contains(c.Raw, "PRIVMSG #tidepool_hours :low water at nine") && strings.Contains(c.Understood, "limpet_lena") && strings.Contains(c.Understood, `"id":"8841"`)
		})
	})
	if page.Door.State != "open" || page.Door.Account != "porchlamp" || !page.Door.MaySpeak {
		t.Errorf("%+v", page.Door)
	}
	b.Street.Platforms["quayside"].Send("porch.person.followed", 0, map[string]any{"person": map[string]any{"platform": "quayside", "id": "1", "login": "moss_mare"}})
	var inbox spec.DoorPage
	b.Until("so does an event", func() bool {
		b.Do("GET", "/api/doors/quayside", nil, &inbox)
		return len(inbox.Came) == 1 && strings.HasPrefix(inbox.Came[0].Understood, "a new follow · moss_mare")
	})
	if inbox.Address != b.Server.URL+"/inbox/quayside" {
		t.Error(inbox.Address)
	}
	var fern spec.DoorPage
	b.Do("GET", "/api/doors/fernlight", nil, &fern)
	if !slices.Contains(fern.Cannot, spec.Cannot{What: "clip", Why: "Fernlight keeps no clips"}) {
		t.Errorf("%+v", fern.Cannot)
	}
	// What a forgotten person said is nowhere, here neither.
	known, err := b.House.Known(t.Context(), "quayside:8841")
	if err != nil || known == nil {
		t.Fatal(err)
	}
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", known.Person); err != nil {
		t.Fatal(err)
	}
	b.Until("it is forgotten", func() bool {
		b.Do("GET", "/api/doors/quayside-chat", nil, &page)
		return !strings.Contains(jsonOf(t, page), "low water at nine")
	})
	if s := b.Do("GET", "/api/doors/nowhere", nil, nil); s != 404 {
		t.Error(s)
	}
}

func TestAPausedDoorHearsNothingUntilItIsOpened(t *testing.T) {
	b := house(t)
	pause := func(name string, on bool) {
		doors := settings(b).Clone().Doors
		for i := range doors {
			if doors[i].Name == name {
				doors[i].Paused = on
			}
		}
		if s, p := section(b, "doors", doors); s != 200 {
			t.Fatalf("%d %+v", s, p)
		}
	}
	stands := func(name string) string {
		list := b.House.Doors()
		return list[slices.IndexFunc(list, func(d spec.Door) bool { return d.Door == name })].State
	}
	pause("quayside-chat", true)
	b.Until("the house has left the room", func() bool { return !slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "porchlamp") })
	if stands("quayside-chat") != "paused" {
		t.Error(stands("quayside-chat"))
	}
	pause("quayside", true)
	if s := send(b, "quayside"); s != 503 {
		t.Errorf("a paused door takes events: %d", s)
	}
	pause("quayside-chat", false)
	pause("quayside", false)
	b.Until("it is back", func() bool { return slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "porchlamp") })
	if s := send(b, "quayside"); s != 202 {
		t.Errorf("an open door: %d", s)
	}
	if s := b.Do("POST", "/api/doors/quayside-chat/again", nil, nil); s != 204 {
		t.Error(s)
	}
	b.Until("opened anew, it is open", func() bool { return stands("quayside-chat") == "open" })
	if s := b.Do("POST", "/api/doors/quayside/again", nil, nil); s != 404 {
		t.Error(s)
	}
}

func TestWhoseAccountIsWhoseIsProvenByAPhrase(t *testing.T) {
	b := house(t)
	var c spec.Claim
	if s := b.Do("POST", "/api/moving/claim", spec.ClaimIn{Platform: "quayside", Login: "Tidepool_Hours"}, &c); s != 200 || c.State != "waiting" || c.Phrase == "" {
		t.Fatalf("%d %+v", s, c)
	}
	stands := func(state, told string) func() bool {
		return func() bool {
			b.Do("GET", "/api/moving/claim", nil, &c)
			return string(c.State) == state && strings.Contains(c.Told, told)
		}
	}
	chat(b, "9330", "kelpwright", c.Phrase)
	b.Until("somebody else said it", stands("waiting", "kelpwright said the phrase"))
	chat(b, "4711", "tidepool_hours", c.Phrase) // without the streamer's role
	b.Until("this is not the streamer", stands("waiting", "not the streamer"))
	b.Street.Platforms["quayside"].Chat.Say(streamer("4711", "tidepool_hours"), c.Phrase)
	b.Until("the account is linked", stands("linked", ""))
	if c.Account != "quayside:4711" {
		t.Error(c.Account)
	}
	b.Until("and stands with the member", func() bool {
		m, err := b.Store.Members.Owner(t.Context(), b.House.ID, "")
		return err == nil && m.Account == "quayside:4711"
	})
	var p spec.Problem
	if s := b.Do("POST", "/api/moving/claim", spec.ClaimIn{Platform: "skerry", Login: "x"}, &p); s != 422 || p.Field != "platform" {
		t.Errorf("%d %+v", s, p)
	}
	if s := b.Do("DELETE", "/api/moving/claim", nil, nil); s != 204 {
		t.Error(s)
	}
}

func TestOnlyTheOwnerSaysHowTheHouseIsReached(t *testing.T) {
	b := house(t)
	_, err := b.House.Desk.SetSection(t.Context(), desk.By{Member: "Rill", Role: members.RoleCoHost}, "reach", []byte(`{"how":"here"}`))
	var f *event.FieldError
	if !asField(err, &f) || f.Field != "reach" {
		t.Errorf("a co-host: %v", err)
	}
	for _, bad := range []housefile.Reach{{How: "public"}, {How: "public", Address: "porch.example"}, {How: "public", Address: "https://porch.example/house"}, {How: "by boat"}} {
		if s, p := section(b, "reach", bad); s != 422 || len(p.Faults) == 0 {
			t.Errorf("%+v: %d %+v", bad, s, p)
		}
	}
	if s, _ := section(b, "reach", housefile.Reach{How: housefile.Public, Address: "https://porch.example/"}); s != 200 || b.House.Links() != "https://porch.example" {
		t.Errorf("%d %s", s, b.House.Links())
	}
}

func TestWithoutAPublicAddressViewersAreOfferedNoLinks(t *testing.T) {
	b := house(t)
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	section(b, "reach", housefile.Reach{How: housefile.Here})
	ask := settings(b).Privacy.Ask[0]
	chat(b, "55", "brine_witch", ask)
	b.Until("it is answered in the open", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(s string) bool { return strings.Contains(s, "brine_witch") })
	})
	if list := b.Street.Platforms["quayside"].Chat.Privates(); len(list) > 0 {
		t.Errorf("a link that leads nowhere: %+v", list)
	}
	var page spec.DoorPage
	if b.Do("GET", "/api/doors/quayside", nil, &page); !strings.Contains(page.Outside, "its own machine alone") {
		t.Errorf("the door does not say that nobody outside can reach it: %q", page.Outside)
	}
	res, err := b.Client.Get(b.Server.URL + "/api/house/asks")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	for _, want := range []string{"<!doctype html>", "!creature", ask, "tidepool_hours"} {
		if !strings.Contains(string(raw), want) {
			t.Errorf("the list of what viewers can ask does not hold %q", want)
		}
	}
	if strings.Contains(string(raw), "src=") || strings.Contains(string(raw), "href=") {
		t.Error("the file does not stand by itself")
	}
	section(b, "reach", housefile.Reach{How: housefile.Public, Address: "https://porch.example"})
	chat(b, "56", "gull_and_ladder", ask)
	b.Until("with one they are", func() bool {
		return slices.ContainsFunc(b.Street.Platforms["quayside"].Chat.Privates(), func(p private) bool { return strings.Contains(p.Text, "https://porch.example/kept/") })
	})
}

func TestATryAtAPlaceIsMarkedAndSaysWhatCameOfIt(t *testing.T) {
	b := house(t)
	tried := func() (out spec.PlaceTried) { b.Do("POST", "/api/places/boathouse-news/try", nil, &out); return out }
	if got := tried(); !got.Ok {
		t.Errorf("%+v", got)
	}
	if l, _, _ := b.Street.Boathouse.State(); len(l[0].Posts) != 1 || !strings.HasPrefix(l[0].Posts[0].Message, "Try: ") {
		t.Errorf("%+v", l[0].Posts)
	}
	b.Street.Boathouse.SetOutage(true)
	if got := tried(); got.Ok || !strings.Contains(got.Why, "502") {
		t.Errorf("%+v", got)
	}
	for status, want := range map[int]string{403: "right to write", 404: "copy it anew", 302: "sends elsewhere", 422: "does not understand"} {
		srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { w.Header().Set("Location", "/x"); w.WriteHeader(status) }))
		places := settings(b).Clone().Places
		places[0].URL = srv.URL
		section(b, "places", places)
		if got := tried(); got.Ok || !strings.Contains(got.Why, want) {
			t.Errorf("%d: %+v", status, got)
		}
		srv.Close()
	}
	if got := tried(); got.Ok || !strings.Contains(got.Why, "does not answer") {
		t.Errorf("nobody is there: %+v", got)
	}
	if s := b.Do("POST", "/api/places/nowhere/try", nil, nil); s != 404 {
		t.Error(s)
	}
}

func TestATryAtAFittingIsMarkedAndSaysWhatItAnswered(t *testing.T) {
	b := house(t)
	tried := func(name string) (out spec.PlaceTried) {
		b.Do("POST", "/api/fittings/"+name+"/try", nil, &out)
		return out
	}
	for _, name := range []string{"bench-lamp", "player", "scenes"} {
		if got := tried(name); !got.Ok {
			t.Errorf("%s: %+v", name, got)
		}
	}
	if state := jsonOf(t, b.Street.Stage.State()); !strings.Contains(state, `"try":true`) {
		t.Errorf("it is not marked as a try: %s", state)
	}
	b.Street.Stage.SetDark(true)
	if got := tried("bench-lamp"); got.Ok || got.Why == "" {
		t.Errorf("%+v", got)
	}
	if s := b.Do("POST", "/api/fittings/nothing/try", nil, nil); s != 404 {
		t.Error(s)
	}
}

func TestTheOpeningIsAnnouncedAtANewPlaceOnce(t *testing.T) {
	b := house(t)
	places := append(settings(b).Clone().Places, housefile.Place{Name: "lamp-log", Title: "Lamp log", URL: strings.Replace(settings(b).Places[0].URL, "news", "lamp-log", 1), Body: []byte(`{"message":"{text}"}`)})
	if s, p := section(b, "places", places); s != 200 {
		t.Fatalf("%d %+v", s, p)
	}
	for range 2 { // twice is once
		if s := b.Do("POST", "/api/places/lamp-log/announce", nil, nil); s != 200 {
			t.Fatal(s)
		}
	}
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	b.Until("it stands at both", func() bool {
		l, _, _ := b.Street.Boathouse.State()
		return len(l[0].Posts) == 1 && len(l[1].Posts) == 1 && strings.Contains(l[1].Posts[0].Message, "tidepool_hours") || len(l[1].Posts) == 1 && l[1].Posts[0].Message != ""
	})
	if s := b.Do("POST", "/api/places/nowhere/announce", nil, nil); s != 422 {
		t.Error(s)
	}
}

func TestAMadeUpEveningIsLivedAndNothingOfItIsKept(t *testing.T) {
	b := house(t)
	before := b.Porch().Seq
	var e spec.ShownEvening
	if s := b.Do("GET", "/api/moving/evening", nil, &e); s != 200 || e.Millis != 60_000 || len(e.Frames) < 20 {
		t.Fatalf("%d, %d frames of %d ms", s, len(e.Frames), e.Millis)
	}
	last, said := 0, map[string]bool{}
	for _, f := range e.Frames {
		if f.After < last || f.After > e.Millis {
			t.Errorf("a frame at %d after %d", f.After, last)
		}
		last = f.After
		for _, x := range f.Change.Entries {
			if x.Kind == "house" {
				said[x.Courtesy] = true
			}
		}
	}
	for _, id := range []string{"greet-newcomer", "greet-regular", "thank-follow", "announce-opening"} {
		if !said[id] {
			t.Errorf("%s says nothing in it: %v", id, said)
		}
	}
	if now := b.Porch(); now.Seq != before || now.Live.On {
		t.Errorf("it is in the log: %d after %d, live %v", now.Seq, before, now.Live.On)
	}
	if len(b.Said("quayside")) > 0 {
		t.Error("it was said in chat")
	}
}

func TestMovingInTellsWhatIsLeftAndWhatWasSkipped(t *testing.T) {
	b := house(t)
	var m spec.Moving
	b.Do("GET", "/api/moving", nil, &m)
	if m.Begun || m.Left != 0 {
		t.Errorf("a house that never moved in has nothing to do: %+v", m)
	}
	if err := b.Store.Moving.Say(t.Context(), b.House.ID, "begun", "yes"); err != nil {
		t.Fatal(err)
	}
	b.Until("its chat is open", func() bool {
		b.Do("GET", "/api/moving", nil, &m)
		return m.Begun && m.Steps[1].State == "done"
	})
	left := m.Left
	b.Do("PUT", "/api/moving", spec.StepIn{Step: "people", State: "skipped"}, &m)
	if m.Left != left-1 || m.Steps[4].State != "skipped" {
		t.Errorf("%+v", m)
	}
	b.Do("PUT", "/api/moving", spec.StepIn{Step: "people", State: "open"}, &m)
	if m.Left != left {
		t.Errorf("%+v", m)
	}
	var p spec.Problem
	if s := b.Do("PUT", "/api/moving", spec.StepIn{Step: "attic", State: "done"}, &p); s != 422 || p.Field != "step" {
		t.Errorf("%d %+v", s, p)
	}
	b.Do("POST", "/api/places/boathouse-news/try", nil, nil)
	if b.Do("GET", "/api/moving", nil, &m); m.Steps[6].State != "done" {
		t.Errorf("a try that arrived: %+v", m.Steps[6])
	}
}

func TestAHouseThatIsHeldOpensNothingUntilItsOwnerSaysGo(t *testing.T) {
	b := house(t)
	if err := b.Store.Moving.HoldAll(t.Context()); err != nil {
		t.Fatal(err)
	}
	b.Another()
	if s := send(b, "quayside"); s != 503 {
		t.Errorf("an event: %d", s)
	}
	for _, d := range b.House.Doors() {
		if d.State != "paused" || d.Reason == "" {
			t.Errorf("%s is %s", d.Door, d.State)
		}
	}
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	b.Until("the stream is open", func() bool { return b.Porch().Live.On })
	if l, _, _ := b.Street.Boathouse.State(); len(l[0].Posts) > 0 {
		t.Error("it was announced")
	}
	var found spec.Findings
	b.Do("GET", "/api/courtesies/check", nil, &found)
	if !slices.ContainsFunc(found.Items, func(f spec.Finding) bool {
		return f.Courtesy == "greet-newcomer" && strings.Contains(f.What, "paused") && strings.Contains(f.What, "when the owner says go")
	}) {
		t.Errorf("a courtesy that cannot fire does not say what stops it: %+v", found.Items)
	}
	var h spec.House
	if b.Do("GET", "/api/house", nil, &h); !h.Held {
		t.Error("House does not say so")
	}
	if s := b.Do("POST", "/api/house/go", nil, nil); s != 204 {
		t.Fatal(s)
	}
	b.Until("the house is in chat", func() bool { return slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "porchlamp") })
	b.Until("what waited is carried", func() bool { l, _, _ := b.Street.Boathouse.State(); return len(l[0].Posts) == 1 })
	if s := send(b, "quayside"); s != 202 {
		t.Errorf("an event: %d", s)
	}
	b.Another()
	if b.House.Held() {
		t.Error("it holds still again after a restart")
	}
}

func TestAHostOfOnesOwnNetworkIsLetBeReachedFromTheScreen(t *testing.T) {
	b := house(t)
	put := func(host string, allow bool) (int, spec.Problem) {
		var p spec.Problem
		req := b.Do("PUT", "/api/house/hosts", spec.HostIn{Host: host, Allow: allow}, nil)
		return req, p
	}
	if s, _ := put("127.0.0.1", false); s != 204 {
		t.Fatal(s)
	}
	b.Do("POST", "/api/doors/quayside-chat/again", nil, nil)
	b.Until("the door says who may let it", func() bool {
		return slices.ContainsFunc(b.House.Doors(), func(d spec.Door) bool {
			return d.Door == "quayside-chat" && strings.Contains(d.Reason, "127.0.0.1 is at 127.0.0.1, on this machine or a private network")
		})
	})
	if s, _ := put("127.0.0.1", true); s != 204 {
		t.Fatal(s)
	}
	b.Until("it is open at once", func() bool {
		return slices.ContainsFunc(b.House.Doors(), func(d spec.Door) bool { return d.Door == "quayside-chat" && d.State == "open" })
	})
	for _, bad := range []string{"http://lamp.local", "lamp.local:80", " "} {
		if s, _ := put(bad, true); s != 422 {
			t.Errorf("%q: %d", bad, s)
		}
	}
}
