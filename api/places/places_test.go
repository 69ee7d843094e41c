package places_test

import (
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porch/desk"
	"vividporch/porchtest"
	"vividporch/spec"
)

func seen(t *testing.T, b *porchtest.Boat) (v spec.PlacesView) {
	t.Helper()
	if s := b.Do("GET", "/api/places", nil, &v); s != 200 {
		t.Fatal(s)
	}
	return v
}

func deliveries(t *testing.T, b *porchtest.Boat, query string) []spec.Delivery {
	t.Helper()
	var d spec.Deliveries
	if s := b.Do("GET", "/api/deliveries?"+query, nil, &d); s != 200 {
		t.Fatal(s)
	}
	return d.Deliveries
}

func follow(t *testing.T, b *porchtest.Boat, login string) {
	t.Helper()
	d := &happening.PersonFollowed{}
	d.Person.Platform, d.Person.ID, d.Person.Login = "quayside", login, login
	if rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: "follow-" + login, Type: d.Type(), Data: d}}); err != nil || rs[0].Aside != "" {
		t.Fatal(err, rs)
	}
}

func TestADotIsSetAndWhatHappensArrivesAndTellsWhyItWentThere(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var set spec.RelaySet
	if s := b.Do("POST", "/api/places/boathouse-news/relays", spec.NewRelay{When: "porch.person.followed"}, &set); s != 200 || set.Courtesy == "" {
		t.Fatal(s, set)
	}
	v := seen(t, b)
	at := slices.IndexFunc(v.Relays, func(r spec.RelayView) bool { return r.Courtesy == set.Courtesy })
	if at < 0 || !v.Relays[at].On || !v.Relays[at].Alone || v.Relays[at].Place != "boathouse-news" || v.Relays[at].Words != "{name} follows now" {
		t.Fatalf("%+v", v.Relays)
	}
	follow(t, b, "mossy_mare")
	b.Until("it stands there", func() bool {
		l, _, _ := b.Street.Boathouse.State()
		return len(l[0].Posts) == 1 && l[0].Posts[0].Message == "mossy_mare follows now"
	})
	b.Until("it is known to", func() bool {
		d := deliveries(t, b, "place=boathouse-news")
		return len(d) == 1 && d[0].State == spec.DeliveryState("delivered") && d[0].When == "porch.person.followed" && strings.Contains(strings.Join(d[0].Why, "; "), "follow")
	})
	v = seen(t, b)
	if p := v.Places[0]; p.Health != "well" || p.Tonight != 1 || p.Last.IsZero() {
		t.Errorf("%+v", p)
	}
	row := slices.IndexFunc(v.Happenings, func(h spec.HappeningRow) bool { return h.When == "porch.person.followed" })
	if v.Happenings[row].Tonight != 1 {
		t.Errorf("%+v", v.Happenings[row])
	}
	if s := b.Do("POST", "/api/places/nowhere/relays", spec.NewRelay{When: "porch.person.followed"}, nil); s != 422 {
		t.Error(s)
	}
	if s := b.Do("POST", "/api/places/boathouse-news/relays", spec.NewRelay{When: "porch.of.yesterday"}, nil); s != 422 {
		t.Error(s)
	}
}

func TestWhatDidNotArriveIsFoundSentAgainOrDropped(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/places/boathouse-news/relays", spec.NewRelay{When: "porch.person.followed"}, nil)
	b.Street.Boathouse.SetOutage(true)
	follow(t, b, "mossy_mare")
	follow(t, b, "tidewrack")
	b.Until("the place is seen to wait", func() bool {
		p := seen(t, b).Places[0]
		return p.Health == "waits" && p.Waiting == 2 && p.Says != "" && !p.Next.IsZero()
	})
	waits := deliveries(t, b, "q=tidewrack")
	if len(waits) != 1 || waits[0].State != "waiting" {
		t.Fatalf("%+v", waits)
	}
	gone := spec.DeliveryNamed{Place: waits[0].Place, Line: waits[0].Line}
	if s := b.Do("POST", "/api/deliveries/drop", gone, nil); s != 204 {
		t.Fatal(s)
	}
	if s := b.Do("POST", "/api/deliveries/drop", gone, nil); s != 404 {
		t.Errorf("dropped twice: %d", s)
	}
	b.Until("the next try is a while off", func() bool { return deliveries(t, b, "q=mossy_mare")[0].Attempts > 3 })
	b.Street.Boathouse.SetOutage(false)
	first := deliveries(t, b, "q=mossy_mare")[0]
	if s := b.Do("POST", "/api/deliveries/again", spec.DeliveryNamed{Place: first.Place, Line: first.Line}, nil); s != 204 {
		t.Fatal(s)
	}
	b.Until("it arrives, and the other does not", func() bool {
		l, _, _ := b.Street.Boathouse.State()
		return len(l[0].Posts) == 1 && seen(t, b).Places[0].Health == "well"
	})
	if s := b.Do("POST", "/api/deliveries/again", spec.DeliveryNamed{Place: first.Place, Line: first.Line}, nil); s != 404 {
		t.Errorf("sent again though it is there: %d", s)
	}
	if bad := deliveries(t, b, "bad=true"); len(bad) != 0 {
		t.Errorf("%+v", bad)
	}
}

func TestAPausedPlaceKeepsWhatWaitsAndATryThatArrivesLetsItGo(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/places/boathouse-news/relays", spec.NewRelay{When: "porch.person.followed"}, nil)
	b.Street.Boathouse.SetOutage(true)
	follow(t, b, "mossy_mare")
	b.Until("it waits", func() bool { return seen(t, b).Places[0].Attempts > 3 }) // the next try is a while off
	b.Street.Boathouse.SetOutage(false)
	if s := b.Do("POST", "/api/places/boathouse-news/try", nil, nil); s != 200 {
		t.Fatal(s)
	}
	b.Until("both are there", func() bool { l, _, _ := b.Street.Boathouse.State(); return len(l[0].Posts) == 2 })
}

// add adds a place to the settings.
func add(t *testing.T, b *porchtest.Boat, p housefile.Place) {
	t.Helper()
	_, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine"}, "a place", func(s *housefile.Settings) error { s.Places = append(s.Places, p); return nil })
	if err != nil {
		t.Fatal(err)
	}
	if s := b.Do("POST", "/api/places/"+p.Name+"/relays", spec.NewRelay{When: "porch.person.followed"}, nil); s != 200 {
		t.Fatal(s)
	}
}

func read(t *testing.T, address string) (int, string) {
	t.Helper()
	res, err := http.Get(address)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(body)
}

func TestAFeedIsReadByWhoeverHasItsKeyAndTellsOfNobodyWhoWasForgotten(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	add(t, b, housefile.Place{Name: "the-feed", Title: "The feed", Kind: "feed"})
	var made spec.FeedMade
	if s := b.Do("POST", "/api/places/the-feed/feed", nil, &made); s != 200 {
		t.Fatal(s)
	}
	address := b.Server.URL + made.Address[strings.Index(made.Address, "/happenings.atom"):]
	follow(t, b, "mossy_mare")
	follow(t, b, "tidewrack")
	b.Until("both stand in it", func() bool {
		s, body := read(t, address)
		return s == 200 && strings.Contains(body, "mossy_mare follows now") && strings.Contains(body, "tidewrack follows now")
	})
	if _, body := read(t, address); strings.Index(body, "tidewrack") > strings.Index(body, "mossy_mare") || strings.Count(body, "<entry>") != 2 {
		t.Errorf("the newest first: %s", body)
	}
	for _, bad := range []string{"/happenings.atom", "/happenings.atom?key=", "/happenings.atom?key=GUESSED"} {
		if s, _ := read(t, b.Server.URL+bad); s != 404 {
			t.Errorf("%s: %d", bad, s)
		}
	}
	k, err := b.House.Known(t.Context(), "quayside:mossy_mare")
	if err != nil || k == nil {
		t.Fatal(err, k)
	}
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", k.Person); err != nil {
		t.Fatal(err)
	}
	b.Until("she is in it no more", func() bool {
		_, body := read(t, address)
		return !strings.Contains(body, "mossy_mare") && strings.Contains(body, "tidewrack")
	})
	if s := b.Do("POST", "/api/places/boathouse-news/feed", nil, nil); s != 422 {
		t.Errorf("a webhook has no such address: %d", s)
	}
	if s := b.Do("POST", "/api/places/the-feed/feed", nil, &made); s != 200 {
		t.Fatal(s)
	}
	if s, _ := read(t, address); s != 404 {
		t.Errorf("another address takes the place of the first: %d", s)
	}
}

func TestAFileInTheHousesFolderGrowsWithWhatHappens(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	add(t, b, housefile.Place{Name: "evening", Title: "Evening file", Kind: "file", File: "evening.jsonl"})
	if s := b.Do("POST", "/api/places/evening/try", nil, nil); s != 200 {
		t.Fatal(s)
	}
	follow(t, b, "mossy_mare")
	b.Until("it stands there", func() bool {
		raw, _ := os.ReadFile(filepath.Join(b.Files, "1", "evening.jsonl"))
		return strings.Count(string(raw), "\n") == 2 && strings.Contains(string(raw), "Try: this is where") && strings.Contains(string(raw), "mossy_mare follows now")
	})
	bad := housefile.Place{Name: "out", Kind: "file", File: "../../out.txt"}
	if _, err := b.House.Desk.ChangeSettings(t.Context(), desk.By{Member: "Odalys Brine"}, "a place", func(s *housefile.Settings) error { s.Places = append(s.Places, bad); return nil }); err == nil || !strings.Contains(err.Error(), "is no name of a file") {
		t.Errorf("%v", err)
	}
}
