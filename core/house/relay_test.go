package house_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
	"vividporch/core/who"
)

// posts is a house that tells each follow at a place, in some way. It is 19:00 UTC.
func posts(how func(*output.Relay), more ...func(*housefile.Settings)) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Zone = "UTC"
		r := &output.Relay{Place: s.Places[0].Name}
		how(r)
		s.Courtesy = []courtesy.Courtesy{{ID: "log", On: true, When: "porch.person.followed", OffLine: true, Do: []output.Output{{ID: "post", Do: r, Alternatives: []string{"{name} follows"}}}}}
		for _, f := range more {
			f(s)
		}
	}
}

// posted is what was posted, each with the minutes since dusk.
func (e *evening) posted() string {
	var out []string
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind == hall.Relay {
				out = append(out, fmt.Sprintf("%d: %s", int(l.ev.Logged.Sub(dusk)/time.Minute), strings.ReplaceAll(d.Text, "\n", ", ")))
			}
		}
	}
	return strings.Join(out, "; ")
}

func gathering(minutes float64, count int) func(*output.Relay) {
	return func(r *output.Relay) { r.Gather = &output.Gather{Minutes: minutes, Count: count} }
}

func quietly(from, to string, drop bool) func(*output.Relay) {
	return func(r *output.Relay) { r.Quiet = &output.Quiet{Hours: who.Hours{From: from, To: to}, Drop: drop} }
}

func (e *evening) wantPosted(want string) {
	e.t.Helper()
	if got := e.posted(); got != want {
		e.t.Errorf("posted %q, want %q", got, want)
	}
}

func TestWhatIsGatheredIsPostedAsOneAfterItsMinutes(t *testing.T) {
	e := begin(t, posts(gathering(10, 0)))
	e.happens(follows("mossy_mare"))
	e.after(4 * time.Minute).happens(follows("tidewrack"))
	e.after(5 * time.Minute).wantPosted("")
	e.after(2 * time.Minute).wantPosted("10: mossy_mare follows, tidewrack follows")
	e.happens(follows("kelpwright")) // begins another
	e.after(30 * time.Minute).wantPosted("10: mossy_mare follows, tidewrack follows; 21: kelpwright follows")
}

func TestASheetThatIsFullIsPostedBeforeItsMinutes(t *testing.T) {
	e := begin(t, posts(gathering(60, 3)))
	for _, who := range []string{"mossy_mare", "tidewrack", "kelpwright", "gully_greta"} {
		e.happens(follows(who))
		e.after(time.Second)
	}
	e.after(time.Minute).wantPosted("0: mossy_mare follows, tidewrack follows, kelpwright follows")
	e.after(time.Hour).wantPosted("0: mossy_mare follows, tidewrack follows, kelpwright follows; 60: gully_greta follows")
}

func TestWhatHappensInQuietHoursWaitsOrIsDropped(t *testing.T) {
	e := begin(t, posts(quietly("18:00", "20:00", false)))
	e.happens(follows("mossy_mare"))
	e.wantPosted("")
	e.after(30 * time.Minute).happens(follows("tidewrack"))
	e.after(40 * time.Minute).wantPosted("60: mossy_mare follows, tidewrack follows")
	e.happens(follows("kelpwright"))
	e.wantPosted("60: mossy_mare follows, tidewrack follows; 70: kelpwright follows")

	e = begin(t, posts(quietly("18:00", "20:00", true)))
	e.happens(follows("mossy_mare"))
	e.wantReason("nothing is posted there from 18:00 to 20:00")
	e.after(2 * time.Hour).wantPosted("")
}

func TestQuietHoursOverMidnightAndChangingClocksEndWhenTheDayBegins(t *testing.T) {
	for zone, at := range map[string]time.Time{"Europe/Lisbon": time.Date(2031, 3, 29, 23, 30, 0, 0, time.UTC), "Pacific/Auckland": time.Date(2031, 4, 5, 12, 30, 0, 0, time.UTC)} { // the clocks change in that night
		loc, err := time.LoadLocation(zone)
		if err != nil {
			t.Fatal(err)
		}
		r := &output.Relay{}
		quietly("23:00", "08:00", false)(r)
		due, _ := r.Due(at.In(loc))
		if !due.After(at) || due.In(loc).Format("15:04") != "08:00" || due.Sub(at) > 11*time.Hour {
			t.Errorf("%s: %s", zone, due.In(loc))
		}
	}
}

func TestGatheredPostsWaitOutQuietHoursThatBeginMeanwhile(t *testing.T) {
	e := begin(t, posts(func(r *output.Relay) { gathering(30, 2)(r); quietly("19:10", "21:00", false)(r) }))
	e.happens(follows("mossy_mare"))
	e.after(20 * time.Minute).happens(follows("tidewrack")) // now it is full, and quiet
	e.after(20 * time.Minute).wantPosted("")
	e.after(2 * time.Hour).wantPosted("120: mossy_mare follows, tidewrack follows")
}

func TestAPausedRelayPostsNothingAndSaysSo(t *testing.T) {
	e := begin(t, posts(func(r *output.Relay) { r.Paused = true }))
	e.happens(follows("mossy_mare"))
	e.wantReason("the relay is paused")
	e.wantPosted("")
}

func TestWhatHadGatheredForARelayThatIsPausedMeanwhileIsNotPosted(t *testing.T) {
	e := begin(t, posts(gathering(10, 0)))
	e.happens(follows("mossy_mare"))
	e.plan = begin(t, posts(func(r *output.Relay) { gathering(10, 0)(r); r.Paused = true })).plan
	e.after(20 * time.Minute).wantPosted("")
	e.wantReason("1 that had gathered: the relay is paused")
}

func TestAHeldAnnouncementOfAStreamThatHasEndedIsNotPostedAsIfItWereOn(t *testing.T) {
	e := begin(t, posts(quietly("18:00", "20:00", false), func(s *housefile.Settings) {
		s.Courtesy[0].When = happening.StreamOpenedType
		s.Courtesy[0].Do[0].Alternatives = []string{"we are live"}
	}))
	e.happens(on("quayside"))
	e.after(10 * time.Minute).happens(&event.StreamDeclared{Act: "closed"})
	e.after(2 * time.Hour).wantPosted("")
	e.wantReason("1 that had gathered: the stream has ended meanwhile")
}

func TestWhoeverIsForgottenIsNotToldOfByWhatHadGathered(t *testing.T) {
	e := begin(t, posts(gathering(10, 0)))
	e.happens(follows("mossy_mare"))
	e.happens(follows("tidewrack"))
	e.happens(&event.BookForgotten{Keys: []string{"quayside:" + viewer("mossy_mare").ID}, Names: []string{"mossy_mare"}})
	e.after(20 * time.Minute).wantPosted("10: tidewrack follows")
	if strings.Contains(string(e.snapshot()), "mossy_mare follows") {
		t.Error("the snapshot still tells of them")
	}
}

func TestATryIsNotGathered(t *testing.T) {
	e := begin(t, posts(func(r *output.Relay) { gathering(10, 0)(r); quietly("18:00", "20:00", true)(r); r.Paused = true }))
	e.happens(&event.DeskAsked{Act: "try", Courtesy: "log", Person: viewer("limpet_lena"), Member: "Odalys Brine"})
	if got := e.posted(); !strings.HasPrefix(got, "0: (a try) ") {
		t.Errorf("%q", got)
	}
}

func TestWhatHadGatheredOutlivesARestart(t *testing.T) {
	e := begin(t, posts(gathering(10, 0)))
	e.happens(follows("mossy_mare"))
	e.restore(e.snapshot())
	e.happens(follows("tidewrack"))
	e.after(20 * time.Minute).wantPosted("10: mossy_mare follows, tidewrack follows")
}

func TestHowLongDeliveriesAreKeptIsBounded(t *testing.T) {
	for at, spoil := range map[string]func(*housefile.Settings){
		"privacy.deliveredDays": func(s *housefile.Settings) { s.Privacy.DeliveredDays = -1 },
		"privacy.failedDays":    func(s *housefile.Settings) { s.Privacy.FailedDays = 40_000 },
	} {
		s := settings(t)
		spoil(s)
		if _, faults := house.Ready(s, 1); len(faults) != 1 || faults[0].At != at {
			t.Errorf("%s: %v", at, faults)
		}
	}
}

// announces is a house that announces its streams at News, a landing whose server lets posts be changed and stand under
// each other, and tells there of changes and of the end.
func announces(hold float64, late string, more ...courtesy.Courtesy) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Zone, s.Announcing = "UTC", output.Announcing{HoldSeconds: hold, Late: late}
		s.Profiles = append(slices.DeleteFunc(s.Profiles, func(p profile.Profile) bool { return p.Platform == "boathouse" }), profile.Profile{Format: 1, Platform: "boathouse", Title: "The Boathouse", At: "https://boathouse.example", Community: &profile.Community{
			Landings: profile.Landings{Address: "/landings", ID: "/id"}, Post: "/landings/{landing}/posts", Edit: "/landings/{landing}/posts/{post}", ID: "/id", Under: true, Body: json.RawMessage(`{"message": "{text}", "rings": ["{call}"]}`)}})
		s.Places = []housefile.Place{{Name: "news", Title: "News", Kind: "landing", Platform: "boathouse", Landing: "news"}}
		post := func(id, when, words string, r output.Relay) courtesy.Courtesy {
			r.Place = "news"
			return courtesy.Courtesy{ID: id, On: true, When: when, Do: []output.Output{{ID: "post", Do: &r, Alternatives: []string{words}}}}
		}
		s.Courtesy = append([]courtesy.Courtesy{
			post("opening", "porch.stream.opened", "{channel} is live on {platform}: {hasTitle, select, yes {{title}} other {}}. {hasLink, select, yes {{link}} other {}}", output.Relay{Call: "all"}),
			post("changed", "porch.stream.changed", "{channel} is live{hasTitle, select, yes {: {title}} other {}}", output.Relay{Onto: output.OntoEdit}),
			post("over", "porch.stream.closed", "It was {length} long, {spoke, plural, one {# person} other {# people}} spoke, {watched} watched, {bookmarks, plural, one {# bookmark} other {# bookmarks}}; {newcomers} new, {regulars} regular, {raided} by raids, {lines} lines, {share} % ours.", output.Relay{Onto: output.OntoUnder}),
		}, more...)
	}
}

// posts are the posts that were decided, in their order.
func (e *evening) relays() (out []hall.Decision) {
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind == hall.Relay {
				out = append(out, d)
			}
		}
	}
	return out
}

func TestAnAnnouncementIsChangedWithTheTitleAndFollowedAtTheEnd(t *testing.T) {
	e := begin(t, announces(0, ""))
	e.happens(on("quayside"))
	e.happens(&happening.StreamViewers{Platform: "quayside", Viewers: 41})
	e.happens(&happening.StreamViewers{Platform: "quayside", Viewers: 17})
	e.happens(line("mossy_mare", "evening"))
	e.happens(raid("night_heron_cam", 30))
	e.happens(&happening.BookmarkSet{Label: "the anemone opens"})
	e.after(50 * time.Minute).happens(&happening.StreamChanged{StreamInfo: happening.StreamInfo{Platform: "quayside", Title: "The anemone"}})
	e.after(10 * time.Minute).happens(off("quayside"))
	e.after(time.Hour)
	posts := e.relays()
	if len(posts) != 3 {
		t.Fatalf("%+v", posts)
	}
	for i, want := range []struct{ text, onto string }{{"tidepool_hours is live on Quayside: What the tide left. https://quayside.example/tidepool_hours", ""}, {"tidepool_hours is live: The anemone", "edit"},
		{"It was 1 hour long, 1 person spoke, 41 watched, 1 bookmark; 1 new, 0 regular, 30 by raids, 1 lines, 0 % ours.", "under"}} {
		if p := posts[i]; p.Text != want.text || p.Onto != want.onto || p.Stream != 1 {
			t.Errorf("%q, onto %q, of stream %d", p.Text, p.Onto, p.Stream)
		}
	}
	if !strings.Contains(string(posts[0].Body), `"call":"all"`) || posts[0].Late != nil {
		t.Errorf("%s, late %s", posts[0].Body, posts[0].Late)
	}
}

func TestAnAnnouncementThatIsHeldNamesEveryPlatformThatCameMeanwhile(t *testing.T) {
	e := begin(t, announces(90, "follow up"))
	e.happens(on("quayside"))
	e.after(time.Minute).happens(on("fernlight"))
	e.after(20 * time.Second)
	if n := len(e.relays()); n != 0 {
		t.Fatalf("%d posts before it was time", n)
	}
	e.after(time.Minute)
	posts := e.relays()
	if len(posts) != 1 || posts[0].Text != "tidepool_hours is live on Quayside and Fernlight: What the tide left. https://quayside.example/tidepool_hours and https://fernlight.example/tidepool_hours" {
		t.Fatalf("%+v", posts)
	}
	if late := string(posts[0].Late); !strings.Contains(late, "tidepool_hours was live: What the tide left.") || strings.Contains(late, `"call"`) {
		t.Errorf("late it says %s", late)
	}
}

func TestAStreamThatIsOverSoonerThanItIsHeldIsNotAnnounced(t *testing.T) {
	for name, c := range map[string]struct {
		live  func(*evening)
		posts int
	}{
		"one that ended":         {func(e *evening) { e.after(30 * time.Second).happens(off("quayside")) }, 0},
		"one closed at the desk": {func(e *evening) { e.after(30 * time.Second).happens(&event.StreamDeclared{Act: "closed"}) }, 0},
		"one that dropped and came": {func(e *evening) {
			e.after(80 * time.Second).happens(off("quayside"))
			e.after(time.Minute).happens(on("quayside"))
		}, 1},
		"one of which another came": {func(e *evening) { e.after(30 * time.Second).happens(&event.StreamDeclared{Act: "new"}) }, 1},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, announces(90, ""), func(s *housefile.Settings) { s.Courtesy[0].Do[0].Alternatives = []string{"{channel} is live."} })
			e.happens(on("quayside"))
			c.live(e)
			e.after(25 * time.Minute)
			n := 0
			for _, p := range e.relays() {
				if p.Onto == "" {
					n++
				}
			}
			if n != c.posts || slices.ContainsFunc(e.relays(), func(p hall.Decision) bool { return strings.Contains(p.Text, "\n") }) {
				t.Errorf("%d announcements, want %d: %+v", n, c.posts, e.relays())
			}
		})
	}
}

func TestOnlyADropThatWasSeenIsComeBackFrom(t *testing.T) {
	e := begin(t, announces(0, "", says("back", happening.StreamBack, happening.Free, who.Who{}, nil, "We are back.")))
	e.happens(on("quayside"))
	e.after(time.Minute).happens(on("fernlight"))
	e.after(time.Minute).happens(on("quayside")) // told twice
	e.happens(off("quayside"))                   // the other one is still live
	e.after(time.Minute).happens(on("quayside"))
	e.after(time.Minute)
	e.wantSaid(0, "back")
	e.happens(off("quayside"))
	e.happens(off("fernlight"))
	e.after(time.Minute).happens(on("fernlight"))
	e.after(10 * time.Second)
	if said := e.wantSaid(1, "back"); said[0].Platform != "fernlight" {
		t.Errorf("on %s", said[0].Platform)
	}
	if n := len(e.relays()); n != 2 { // the opening, and that fernlight joined
		t.Errorf("%d posts", n)
	}
}

func TestWhatAPlaceCannotDoIsNotSetForIt(t *testing.T) {
	faults := func(change func(*housefile.Settings, *output.Relay)) string {
		s := settings(t)
		announces(0, "")(s)
		change(s, s.Courtesy[1].Do[0].Do.(*output.Relay))
		_, faults := house.Ready(s, 1)
		var out []string
		for _, f := range faults {
			out = append(out, f.At+": "+f.What)
		}
		return strings.Join(out, "; ")
	}
	for name, c := range map[string]struct {
		change func(*housefile.Settings, *output.Relay)
		want   string
	}{
		"a webhook changes nothing": {func(s *housefile.Settings, _ *output.Relay) {
			s.Places[0] = housefile.Place{Name: "news", URL: "https://a.example", Body: json.RawMessage(`{"t": "{text}", "c": "{call}"}`)}
		}, "takes new posts alone"},
		"a webhook without a place for it": {func(s *housefile.Settings, r *output.Relay) {
			s.Places[0] = housefile.Place{Name: "news", URL: "https://a.example"}
			r.Onto = ""
		}, "put {call}"},
		"a channel of IRC calls nobody": {func(s *housefile.Settings, r *output.Relay) {
			s.Places[0] = housefile.Place{Name: "news", Kind: "irc", Room: "#a", Account: "a"}
			r.Onto = ""
		}, "nobody can be called there"},
		"a server that cannot change": {func(s *housefile.Settings, _ *output.Relay) { s.Profiles[len(s.Profiles)-1].Community.Edit = "" }, "what stands there cannot be changed"},
		"a server nobody knows":       {func(s *housefile.Settings, _ *output.Relay) { s.Places[0].Platform = "elsewhere" }, "no community server"},
		"a follow belongs to no announcement": {func(s *housefile.Settings, r *output.Relay) {
			s.Courtesy[1].When, s.Courtesy[1].Do[0].Alternatives = "porch.person.followed", []string{"a"}
		}, "only what is about the stream"},
		"a group with a sign":    {func(s *housefile.Settings, r *output.Relay) { r.Call = "@all" }, "no name of a group"},
		"a hold of an hour":      {func(s *housefile.Settings, _ *output.Relay) { s.Announcing.HoldSeconds = 3600 }, "announcing.holdSeconds: is out of range"},
		"late words with a hole": {func(s *housefile.Settings, _ *output.Relay) { s.Announcing.LateWords = "{nothing}" }, "announcing.lateWords"},
	} {
		t.Run(name, func(t *testing.T) {
			if got := faults(c.change); !strings.Contains(got, c.want) {
				t.Errorf("faults: %s", got)
			}
		})
	}
	if got := faults(func(*housefile.Settings, *output.Relay) {}); got != "" {
		t.Errorf("as it is it has faults: %s", got)
	}
}

func TestWhoIsLeftOfAGatheringAfterAForgettingGoesAsIfTheyHadBeenAlone(t *testing.T) {
	e := begin(t, posts(gathering(10, 0)))
	e.happens(follows("mossy_mare"))
	e.after(4 * time.Minute).happens(follows("tidewrack"))
	e.after(time.Minute).happens(&event.BookForgotten{Keys: []string{"quayside:" + viewer("mossy_mare").ID}, Names: []string{"mossy_mare"}})
	e.after(6 * time.Minute).wantPosted("") // the ten minutes of whoever is forgotten are over
	e.after(4 * time.Minute).wantPosted("14: tidewrack follows")
}
