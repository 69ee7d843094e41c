package housefile_test

import (
	"reflect"
	"testing"

	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
)

func TestWhatADoorHeldOfItsPlatformBecomesAProfile(t *testing.T) {
	s, err := housefile.ReadSettings([]byte(`{"format": 2, "channel": "tidepool_hours", "zone": "UTC", "seed": "s", "pace": {"gapSeconds": 0, "waitSeconds": 0, "joinAt": 0, "joinNames": 0, "joinEverySeconds": 0, "askSeconds": 0},
		"never": [], "places": [], "courtesies": [], "joined": [], "doors": [
		{"name": "you", "kind": "irc", "platform": "quayside", "as": "streamer", "address": "a:1", "room": "#r", "account": "tidepool_hours", "profile": {"lines": 1, "windowSeconds": 1, "maxBytes": 1}},
		{"name": "chat", "kind": "irc", "platform": "quayside", "address": "a:1", "room": "#r", "account": "porchlamp", "profile": {"idTag": "id", "lines": 7, "windowSeconds": 8, "maxBytes": 9, "link": "https://quayside.example/{login}", "grants": {"speak": "/let {account}"}}},
		{"name": "events", "kind": "inbox", "platform": "quayside", "lookup": "https://quayside.example/who", "acts": "https://quayside.example/do", "cannot": {"clip": "no clips"}},
		{"name": "plain", "kind": "irc", "platform": "harbour", "address": "a:1", "room": "#r", "account": "porchlamp"},
		{"name": "tin", "kind": "inbox", "platform": "tin"}]}`))
	if err != nil {
		t.Fatal(err)
	}
	want := []profile.Profile{
		{Format: 1, Platform: "quayside", Title: "Quayside", Link: "https://quayside.example/{login}", Lookup: &profile.Lookup{Address: "https://quayside.example/who?id={id}&login={login}"},
			Acts: profile.Acts{Address: "https://quayside.example/do", Cannot: map[string]string{"clip": "no clips"}},
			Chat: profile.Chat{IDTag: "id", Lines: 7, WindowSeconds: 8, MaxBytes: 9, Grants: profile.Grants{Speak: "/let {account}"}}},
		{Format: 1, Platform: "harbour", Title: "Harbour"}, // it had no limit, and has none now
	}
	if s.Format != housefile.Format || len(s.Doors) != 5 || !reflect.DeepEqual(s.Profiles, want) {
		t.Errorf("format %d, %d doors, %+v", s.Format, len(s.Doors), s.Profiles)
	}
	if faults := s.Check(); len(faults) > 0 {
		t.Error(faults)
	}
	if at, door := s.ActsAt("quayside"); at != "https://quayside.example/do" || door != "events" || s.Cannot("quayside", output.MakeClip) != "no clips" || s.Cannot("tin", output.MakeClip) == "" {
		t.Errorf("it acts at %s by %s", at, door)
	}
	if d := s.DoorNamed("chat"); s.Grant(d, false) != "/let porchlamp" || s.TextBytes(d) != 9 {
		t.Errorf("it is let in by %s", s.Grant(d, false))
	}
}
