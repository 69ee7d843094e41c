package house_test

import (
	"fmt"
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
