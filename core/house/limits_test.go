package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
)

// limited is a house whose platform shouts out by itself, but not often.
func limited(s *housefile.Settings) {
	s.Courtesy = nil
	p := *s.Profile("quayside")
	p.Acts.Limits = map[string]profile.ActLimit{string(output.PlatformShout): {Seconds: 120, PersonSeconds: 3600}}
	s.Profiles = append([]profile.Profile{p}, s.Profiles...)
	for i := range s.Profiles[1:] {
		if s.Profiles[i+1].Platform == "quayside" {
			s.Profiles = append(s.Profiles[:i+1], s.Profiles[i+2:]...)
			break
		}
	}
}

// shouted is when the platform was asked to shout out whom, since the stream opened.
func (e *evening) shouted(from time.Time) (out []string) {
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind == hall.Kind(output.KindPlatform) {
				out = append(out, l.ev.Logged.Sub(from).Round(time.Second).String()+" "+d.Person)
			}
		}
	}
	return out
}

func TestWhatAPlatformLimitsWaitsItsTimeAndNobodyIsLost(t *testing.T) {
	shout := does("shouts", happening.RaidCameType, happening.ShoutOut, output.Output{Do: &output.Say{}, Alternatives: []string{"Go and see {name}"}},
		output.Output{Do: &output.Platform{Act: output.PlatformShout}})
	e := begin(t, limited, shout, func(s *housefile.Settings) { s.Pace.WaitSeconds, s.Pace.GapSeconds = 60, 2 })
	e.happens(on("quayside"))
	from := e.now
	for _, who := range []string{"kelpwright", "mossy_mare", "pebble_june"} {
		e.happens(raid(who, 40))
		e.after(time.Second)
	}
	e.after(10 * time.Minute)
	got := e.shouted(from)
	if len(got) != 3 || !strings.HasPrefix(got[0], "0s ") || !strings.HasPrefix(got[1], "2m0s ") || !strings.HasPrefix(got[2], "4m0s ") {
		t.Errorf("%q", got)
	}
	if n := len(e.texts("shouts")); n != 3 {
		t.Errorf("%d lines were said: they wait for no platform", n)
	}
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("kelpwright")})
	e.after(10 * time.Minute)
	if got := e.shouted(from); len(got) != 3 {
		t.Errorf("one person twice within an hour: %q", got)
	}
	e.wantReason("for one person; it was")
	if n := len(e.texts("shouts")); n != 4 {
		t.Errorf("%d lines: by hand the line is said all the same", n)
	}
	e.after(time.Hour)
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("kelpwright")})
	e.after(time.Minute)
	if got := e.shouted(from); len(got) != 4 {
		t.Errorf("an hour later: %q", got)
	}
}

func TestAShoutOutByHandCountsForThePlatformsLimitToo(t *testing.T) {
	shout := does("shouts", happening.RaidCameType, happening.ShoutOut, output.Output{Do: &output.Platform{Act: output.PlatformShout}})
	e := begin(t, limited, shout)
	e.happens(on("quayside"))
	from := e.now
	e.happens(&event.DeskActed{Act: string(output.PlatformShout), Platform: "quayside", Login: "kelpwright"})
	e.happens(raid("mossy_mare", 40))
	e.after(5 * time.Minute)
	got := e.shouted(from)
	if len(got) != 2 || !strings.HasPrefix(got[1], "2m0s ") {
		t.Errorf("%q", got)
	}
}

func TestWhoeverIsForgottenIsNotKeptWithThePlatformsLimit(t *testing.T) {
	e := begin(t, limited, does("shouts", happening.RaidCameType, happening.ShoutOut, output.Output{Do: &output.Platform{Act: output.PlatformShout}}))
	e.happens(on("quayside"))
	e.happens(raid("kelpwright", 40))
	e.after(time.Second)
	e.happens(&event.BookForgotten{Keys: []string{viewer("kelpwright").Key()}})
	raw, err := json.Marshal(e.s)
	if err != nil || strings.Contains(string(raw), "kelpwright") {
		t.Errorf("%s %v", raw, err)
	}
}
