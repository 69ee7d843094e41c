package place_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/place"
	"vividporch/core/wording"
)

func faults(p *place.Place) (at []string) {
	p.Check(func(in, what, remedy string) {
		if what == "" || remedy == "" {
			in += "?"
		}
		at = append(at, in)
	})
	return at
}

func TestEveryKindOfPlaceTakesAText(t *testing.T) {
	now := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	args := wording.Args{"text": wording.Str(`Lena said "hi" \ {name}`), "channel": wording.Str("tidepool_hours"), "now": wording.At(now), "stream": wording.Num(61)}
	for name, c := range map[string]struct {
		place place.Place
		want  string
	}{
		"a webhook without a form":     {place.Place{}, `{"text":"Lena said \"hi\" \\ {name}"}`},
		"a webhook with a form":        {place.Place{Kind: "webhook", Body: json.RawMessage(`{"a": [{"b": "» {text}"}], "n": 3}`)}, `{"a":[{"b":"» Lena said \"hi\" \\ {name}"}],"n":3}`},
		"a channel":                    {place.Place{Kind: "irc", URL: "ircs://irc.lowtide.example:6697", Room: "#lamp-log", Account: "porchlamp"}, `{"text":"Lena said \"hi\" \\ {name}"}`},
		"a room":                       {place.Place{Kind: "xmpp", URL: "xmpps://lowtide.example:5222", Room: "lamp-log@rooms.lowtide.example", Account: "porchlamp@lowtide.example"}, `{"text":"Lena said \"hi\" \\ {name}"}`},
		"a feed":                       {place.Place{Kind: "feed"}, `{"text":"Lena said \"hi\" \\ {name}"}`},
		"a file of JSON Lines":         {place.Place{Kind: "file", File: "evening.jsonl"}, `{"name":"evening.jsonl","record":{"at":"2031-05-14T19:00:00Z","text":"Lena said \"hi\" \\ {name}","channel":"tidepool_hours"}}`},
		"a file of lines for a stream": {place.Place{Kind: "file", File: "log.txt", Each: "{channel}: {text}", ByStream: true}, `{"name":"log-61.txt","text":"tidepool_hours: Lena said \"hi\" \\ {name}"}`},
	} {
		t.Run(name, func(t *testing.T) {
			if at := faults(&c.place); len(at) > 0 {
				t.Fatalf("faults at %q", at)
			}
			raw, err := c.place.Render(args)
			if err != nil || string(raw) != c.want {
				t.Errorf("%v %s", err, raw)
			}
		})
	}
}

func TestABadPlaceSaysWhere(t *testing.T) {
	for name, c := range map[string]struct {
		place place.Place
		at    string
	}{
		"a kind nobody knows":         {place.Place{Kind: "pigeon"}, "kind"},
		"a file:// address":           {place.Place{URL: "file:///etc/passwd"}, "url"},
		"a unix path":                 {place.Place{URL: "/run/docker.sock"}, "url"},
		"a unix scheme":               {place.Place{URL: "unix:///run/docker.sock"}, "url"},
		"no host":                     {place.Place{URL: "http://"}, "url"},
		"a body that is no JSON":      {place.Place{Body: json.RawMessage(`{"a"`)}, "body"},
		"a body of a bad wording":     {place.Place{Body: json.RawMessage(`{"a": "{text"}`)}, "body"},
		"a path":                      {place.Place{Kind: "file", File: "../evening.jsonl"}, "file"},
		"a path of another sort":      {place.Place{Kind: "file", File: `..\evening.jsonl`}, "file"},
		"a hidden file":               {place.Place{Kind: "file", File: ".profile"}, "file"},
		"no name":                     {place.Place{Kind: "file"}, "file"},
		"two endings":                 {place.Place{Kind: "file", File: "a.tar.gz"}, "file"},
		"a line of a bad wording":     {place.Place{Kind: "file", File: "a.txt", Each: "{text"}, "each"},
		"a web address for a channel": {place.Place{Kind: "irc", URL: "https://irc.lowtide.example", Room: "#a", Account: "a"}, "url"},
		"a channel without its sign":  {place.Place{Kind: "irc", Room: "lamp-log", Account: "porchlamp"}, "room"},
		"a channel with a command":    {place.Place{Kind: "irc", Room: "#a\r\nQUIT", Account: "porchlamp"}, "room"},
		"a nick with a blank":         {place.Place{Kind: "irc", Room: "#a", Account: "porch lamp"}, "account"},
		"a room without its server":   {place.Place{Kind: "xmpp", Room: "lamp-log", Account: "porchlamp@lowtide.example"}, "room"},
		"an account without a server": {place.Place{Kind: "xmpp", Room: "a@rooms.lowtide.example", Account: "porchlamp"}, "account"},
		"a server with a path":        {place.Place{Kind: "xmpp", URL: "xmpps://lowtide.example/etc", Room: "a@b", Account: "a@b"}, "url"},
		"a header with a blank":       {place.Place{Headers: map[string]string{"X Room": "news"}}, "headers.X Room"},
		"a header of the post's own":  {place.Place{Headers: map[string]string{"Host": "elsewhere.example"}}, "headers.Host"},
		"a header of two lines":       {place.Place{Headers: map[string]string{"X-Room": "news\r\nX-Forged: 1"}}, "headers.X-Room"},
		"a secret for all to read":    {place.Place{Headers: map[string]string{"Authorization": "Bearer 1234"}}, "headers.Authorization"},
		"a minute and a half":         {place.Place{TimeoutSeconds: 90}, "timeoutSeconds"},
	} {
		t.Run(name, func(t *testing.T) {
			if at := faults(&c.place); len(at) != 1 || at[0] != c.at {
				t.Errorf("faults at %q, want %q", at, c.at)
			}
		})
	}
}

func TestOtherPeoplesTextIsSafeAtEveryKindOfPlace(t *testing.T) {
	for _, c := range []struct{ kind, text, never string }{
		{"webhook", "@everybody come", "@everybody"},
		{"webhook", "＠all", "＠all"},
		{"webhook", "<@&8841>", "<@&"},
		{"webhook", "<!channel>", "<!"},
		{"irc", "one\r\nQUIT", "\r\n"},
		{"irc", "\x034,1red", "\x03"},
		{"irc", "\x01DCC SEND\x01", "\x01"},
		{"xmpp", "so *loud*", " *loud"},
		{"xmpp", "`code`", "``"},
		{"xmpp", "@room come", "@room"},
		{"xmpp", "one\n> forged", "\n"},
		{"file", "one\nforged line", "\n"},
		{"file", "one\r\nforged", "\r"},
		{"file", "one\u2028forged", "\u2028"},
	} {
		if got := (&place.Place{Kind: c.kind}).Safe(c.text); strings.Contains(got, c.never) {
			t.Errorf("%s: %q became %q", c.kind, c.text, got)
		}
	}
	// Whatever is in it, a file grows by one line and a body stays the JSON it is.
	hostile := wording.Args{"text": wording.Str("a\"}, {\"role\": \"owner\"}\n{text}")}
	for _, p := range []place.Place{{}, {Kind: "feed"}, {Kind: "file", File: "a.jsonl"}, {Kind: "file", File: "a.txt", Each: "{text}"}} {
		raw, err := p.Render(hostile)
		var back map[string]any
		if err != nil || json.Unmarshal(raw, &back) != nil || back["role"] != nil || strings.Contains(string(raw), "\n") {
			t.Errorf("%s: %v %s", p.Kind, err, raw)
		}
		if text, _ := back["text"].(string); p.Each != "" && strings.Contains(text, "\n") {
			t.Errorf("%q", text)
		}
	}
}
