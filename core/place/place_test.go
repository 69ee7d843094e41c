package place_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/place"
	"vividporch/core/profile"
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
		"a webhook whose form is null": {place.Place{Body: json.RawMessage("null")}, `{"text":"Lena said \"hi\" \\ {name}"}`},
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
		"more posts than seconds":     {place.Place{PerMinute: 601}, "perMinute"},
		"fewer letters than none":     {place.Place{Letters: -1}, "letters"},
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
	const j = "\u2060" // shows nothing
	for _, c := range []struct{ kinds, text, want string }{
		// Mass mentions and calls of a group.
		{"webhook landing social", "@everybody come", "@" + j + "everybody come"},
		{"webhook landing social", "＠all", "＠" + j + "all"},
		{"webhook landing social", "﹫here", "﹫" + j + "here"},
		{"webhook landing social", "<@&8841> <!channel>", "<" + j + "@" + j + "&8841> <" + j + "!channel>"},
		{"xmpp", "@room come", "@" + j + "room come"},
		// Mark-up.
		{"webhook landing social", "**loud** and *soft*", "∗∗loud∗∗ and ∗soft∗"},
		{"webhook landing social", "`code` ~~gone~~ ||hidden||", "ˋcodeˋ ∼∼gone∼∼ |" + j + "|hidden|" + j + "|"},
		{"webhook landing social", "[free](https://a.example)", "[free]" + j + "(https://a.example)"},
		{"webhook landing social", "# shout", j + "# shout"},
		{"webhook landing social", "> forged words of another", j + "> forged words of another"},
		{"webhook landing social", "_leaning_ limpet_lena", "ˍleaningˍ limpet_lena"},
		{"webhook landing social", "__heavy__", "ˍˍheavyˍˍ"},
		{"webhook landing social", "limpet_lena says 3 - 2 = 1", "limpet_lena says 3 - 2 = 1"},
		{"xmpp", "so *loud* and _soft_", "so " + j + "*loud" + j + "* and " + j + "_soft" + j + "_"},
		{"xmpp", "`code`", j + "`code" + j + "`"},
		{"xmpp", "> forged words", j + "> forged words"},
		{"irc", "\x034,1red\x03 \x02fat\x02 \x1dslanted", "4,1red fat slanted"},
		{"irc", "\x01DCC SEND x\x01", "DCC SEND x"},
		// More lines than one.
		{"irc xmpp file", "one\r\nQUIT", "one  QUIT"},
		{"irc xmpp file", "one\u2028forged", "one forged"},
		{"feed", "<script>alert(1)</script>", "<script>alert(1)</script>"}, // text is text there: its writer escapes it
	} {
		for _, kind := range strings.Fields(c.kinds) {
			t.Run(kind+" "+c.text, func(t *testing.T) {
				if got := (&place.Place{Kind: kind}).Safe(c.text); got != c.want {
					t.Errorf("became %q, want %q", got, c.want)
				}
			})
		}
	}
	for text, want := range map[string]string{"see https://a.example/x?y=1 now": "see https:" + j + "//a." + j + "example/x?y=1 now", "a.example": "a." + j + "example", "4.2 m, e.g. tonight": "4.2 m, e.g. tonight", "(www.tides.example)": "(www." + j + "tides." + j + "example)"} {
		if got := (&place.Place{Kind: "file", NoLinks: true}).Safe(text); got != want {
			t.Errorf("a link: %q, want %q", got, want)
		}
		if got := (&place.Place{Kind: "file"}).Safe(text); got != text {
			t.Errorf("links are kept: %q", got)
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

func TestATextIsAsLongAsThePlaceTakesOne(t *testing.T) {
	of := func(platform string) *profile.Profile { return profile.Of(nil, platform) }
	for _, c := range []struct {
		place place.Place
		text  string
		want  string
	}{
		{place.Place{}, strings.Repeat("tide ", 900), strings.Repeat("tide ", 900)},
		{place.Place{Letters: 12}, "low water at nine", "low water…"},
		{place.Place{Letters: 12}, "low water", "low water"},
		{place.Place{Letters: 6}, "潮汐表潮汐表潮汐表", "潮汐表潮汐…"},
		{place.Place{Letters: 6}, "hermit crab", "hermi…"},
		{place.Place{Kind: "social", Platform: "skerry"}, strings.Repeat("x", 301), strings.Repeat("x", 299) + "…"},
		{place.Place{Kind: "social", Platform: "skerry", Letters: 5}, "hermit", "herm…"},
		{place.Place{Kind: "social", Platform: "skerry", Letters: 5000}, strings.Repeat("x", 300), strings.Repeat("x", 300)},
	} {
		if got := c.place.Shortened(c.text, of); got != c.want {
			t.Errorf("%.20q at %+v became %.40q", c.text, c.place, got)
		}
	}
}
