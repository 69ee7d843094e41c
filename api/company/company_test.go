package company_test

import (
	"fmt"
	"net/url"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
)

// talks is a house whose streams and lines a test makes.
type talks struct {
	*porchtest.Boat
	n int
}

func launch(t *testing.T, change ...func(*housefile.Settings)) *talks {
	b := porchtest.Launch(t, append(change, func(s *housefile.Settings) { s.Courtesy = nil })...)
	b.SignIn()
	return &talks{Boat: b}
}

func (b *talks) submit(d event.Data) {
	b.T.Helper()
	b.n++
	ev := event.Event{Door: "quayside", Source: "s", ID: fmt.Sprint("e", b.n), Type: d.Type(), Data: d}
	if rs, err := b.House.Submit(b.T.Context(), []event.Event{ev}); err != nil || rs[0].Aside != "" {
		b.T.Fatal(err, rs)
	}
}

func person(id string, roles ...event.Role) event.Person {
	return event.Person{Platform: "quayside", ID: id, Login: "login" + id, Name: "Name" + id, Roles: roles}
}

// says has somebody say a line; its id is its number.
func (b *talks) says(p event.Person, text, replyTo string) (message string) {
	d := &happening.ChatSaid{Text: text, ReplyTo: replyTo, MessageID: fmt.Sprint("m", b.n)}
	d.Person = p
	b.submit(d)
	return d.MessageID
}

func (b *talks) stream(act string) {
	b.T.Helper()
	if _, err := b.House.Hand(b.T.Context(), &event.StreamDeclared{Act: act}); err != nil {
		b.T.Fatal(err)
	}
}

func (b *talks) threads(accounts ...string) map[string]string {
	b.T.Helper()
	var list []spec.Thread
	if s := b.Do("GET", "/api/desk/threads?"+url.Values{"account": accounts}.Encode(), nil, &list); s != 200 {
		b.T.Fatalf("%d", s)
	}
	out := map[string]string{}
	for _, th := range list {
		out[th.Account] = th.Text
	}
	return out
}

func (b *talks) person(account string) int64 {
	b.T.Helper()
	var of spec.BookAccount
	if s := b.Do("GET", "/api/book/accounts/"+url.PathEscape(account), nil, &of); s != 200 {
		b.T.Fatalf("%s: %d", account, s)
	}
	return of.Person
}

func TestWhatSomebodyLeftOffWithIsTakenUpWhenTheyComeBack(t *testing.T) {
	b := launch(t)
	streamer := person("1", event.Streamer)
	b.stream("opened")
	b.says(person("2"), "is the octopus back?", "")
	b.says(person("2"), "lovely", "")
	b.says(person("3"), "@tidepool_hours the lens is great", "")
	b.says(person("4"), "nice", "")
	b.says(person("5"), "who asked?", "")
	gone := b.says(person("6"), "rude, isn't it?", "")
	removed := &happening.ChatRemoved{MessageID: gone}
	removed.Person = person("6")
	b.submit(removed)
	said := b.says(streamer, "it is a nudibranch", "")
	b.says(person("7"), "so small", said)
	b.says(person("8"), "@name2 are you coming?", "")
	b.says(person("9"), "what was it?", "")
	b.stream("closed")
	b.stream("opened")
	b.says(person("2"), "and tonight?", "")
	leaveBe := map[string]any{"persons": []int64{b.person("quayside:5")}, "set": map[string]any{"leaveBe": true}}
	if s := b.Do("POST", "/api/book/edit", leaveBe, nil); s != 200 {
		t.Fatal(s)
	}
	merge := map[string]any{"kept": b.person("quayside:4"), "gone": b.person("quayside:9")}
	if s := b.Do("POST", "/api/book/merge", merge, nil); s != 200 {
		t.Fatal(s)
	}
	got := b.threads("quayside:2", "quayside:3", "quayside:4", "quayside:5", "quayside:6", "quayside:7", "quayside:8", "quayside:77")
	want := map[string]string{"quayside:2": "is the octopus back?", "quayside:3": "@tidepool_hours the lens is great", "quayside:4": "what was it?", "quayside:7": "so small"}
	if fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("\n%v\n%v", got, want)
	}
	var sheet spec.BookSheet
	if s := b.Do("GET", fmt.Sprint("/api/book/people/", b.person("quayside:2")), nil, &sheet); s != 200 || sheet.Thread.Text != "and tonight?" {
		t.Errorf("on the sheet it is the newest of all: %d %+v", s, sheet.Thread)
	}
	if err := b.House.Desk.Forget(t.Context(), "odalys", b.person("quayside:3")); err != nil {
		t.Fatal(err)
	}
	if got := b.threads("quayside:3"); len(got) != 0 {
		t.Errorf("whoever is forgotten left off with %q", got)
	}
}

func TestNothingOlderThanChatIsKeptIsTakenUp(t *testing.T) {
	b := launch(t, func(s *housefile.Settings) { s.Privacy.KeepDays = 3 })
	for id, days := range map[string]int{"2": 2, "3": 4} {
		d := &happening.ChatSaid{Text: "what is it?"}
		d.Person = person(id)
		at := time.Now().AddDate(0, 0, -days)
		ev := event.Event{Door: "quayside", Source: "s", ID: id, Type: d.Type(), Data: d, Time: at}
		if _, err := b.House.Submit(t.Context(), []event.Event{ev}); err != nil {
			t.Fatal(err)
		}
	}
	if got := b.threads("quayside:2", "quayside:3"); len(got) != 1 || got["quayside:2"] == "" {
		t.Errorf("%v", got)
	}
}

func TestThePlatformSendsEverybodyOnAndTheBookKeepsItOnce(t *testing.T) {
	b := launch(t)
	kelp := event.Person{Platform: "quayside", ID: "9330", Login: "kelpwright", Name: "Kelp Wright"}
	raid := &happening.RaidCame{Viewers: 12}
	raid.Person = kelp
	b.submit(raid)
	asked := func() (o spec.Onward) {
		if s := b.Do("GET", "/api/desk/onward?ask=true", nil, &o); s != 200 {
			t.Fatal(s)
		}
		return o
	}
	if o := asked(); o.Live || len(o.To) != 0 {
		t.Errorf("nobody is sent on while no stream is on: %+v", o)
	}
	b.Street.Platforms["quayside"].Open("What the tide left", "Field and microscope", 0)
	b.Until("the stream is on", func() bool { return b.House.Tonight() > 0 })
	o := asked()
	if len(o.To) != 1 || o.To[0].Account != "quayside:9330" || !o.To[0].Live || o.To[0].Cannot != "" || len(o.To[0].Why) != 2 {
		t.Fatalf("%+v", o)
	}
	var quiet spec.Onward
	if s := b.Do("GET", "/api/desk/onward", nil, &quiet); s != 200 || len(quiet.To) != 0 || quiet.Near {
		t.Errorf("unasked, long before the end: %d %+v", s, quiet)
	}
	if s := b.Do("POST", "/api/desk/act", spec.PlatformAct{Act: "raid", Platform: "quayside", Account: o.To[0].Account}, nil); s != 200 {
		t.Fatal(s)
	}
	var row spec.BookSheet
	b.Until("the raid is in the book", func() bool {
		b.Do("GET", fmt.Sprint("/api/book/people/", b.person("quayside:9330")), nil, &row)
		return row.Row.RaidsOut > 0
	})
	b.Until("the platform told of it too", func() bool { return len(b.Street.Platforms["quayside"].Accepted()) > 1 }) // the opening is the first
	b.submit(raid)                                                                                                    // whatever the platform told is lived by then
	b.Do("GET", fmt.Sprint("/api/book/people/", b.person("quayside:9330")), nil, &row)
	if row.Row.RaidsOut != 1 || row.Row.Name != "Kelp Wright" {
		t.Errorf("%d raids of ours on %s", row.Row.RaidsOut, row.Row.Name)
	}
}
