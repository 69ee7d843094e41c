package profile_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/profile"
	"vividporch/starter"
)

func faults(p *profile.Profile) []string {
	var acts, out []string
	for _, a := range output.Acts() {
		acts = append(acts, string(a))
	}
	p.Check(acts, func(at, what, remedy string) { out = append(out, at+" "+what+"; "+remedy) })
	return out
}

func TestEveryShippedProfileMakesAHouseThatHolds(t *testing.T) {
	list := profile.Shipped()
	if len(list) != 5 || list[4].Platform != "" {
		t.Fatalf("%d profiles, the plain network last: %+v", len(list), list)
	}
	for _, p := range list {
		t.Run(p.Title, func(t *testing.T) {
			raw, err := starter.House("my_channel", "seed")
			if err != nil {
				t.Fatal(err)
			}
			s, err := housefile.ReadSettings(raw)
			if err != nil {
				t.Fatal(err)
			}
			if p.Platform == "" {
				p.Platform = "harbour"
			}
			s.Doors = []housefile.Door{{Name: p.Platform + "-chat", Kind: "irc", Platform: p.Platform, Address: "chat.example:6697", TLS: true, Room: "#my_channel", Account: "my_house"},
				{Name: p.Platform, Kind: "inbox", Platform: p.Platform}}
			for _, carried := range [][]profile.Profile{nil, {p}} { // referred to, and carried
				s.Profiles = carried
				if _, faults := house.Ready(s, 1); len(faults) > 0 {
					t.Error(faults)
				}
				if got := s.Profile(p.Platform); got.Title != p.Title || got.Chat.Lines != p.Chat.Lines {
					t.Errorf("the house knows it as %+v", got)
				}
			}
			again, err := json.Marshal(p)
			if err != nil {
				t.Fatal(err)
			}
			if back, err := profile.Read(again); err != nil || back.Title != p.Title {
				t.Errorf("given away and brought in: %v", err)
			}
		})
	}
}

func TestWhatIsWrongWithAProfileIsSaidByItsField(t *testing.T) {
	good := func() *profile.Profile {
		p := profile.Shipped()[1]
		sign, lookup, missed := *p.SignIn, *p.Lookup, *p.Missed
		p.SignIn, p.Lookup, p.Missed = &sign, &lookup, &missed
		p.SignIn.Scopes = slices.Clone(p.SignIn.Scopes)
		return &p
	}
	if got := faults(good()); len(got) > 0 {
		t.Fatal(got)
	}
	for at, spoil := range map[string]func(*profile.Profile){
		"format":   func(p *profile.Profile) { p.Format = 2 },
		"platform": func(p *profile.Profile) { p.Platform = "quay/side" },
		"at": func(p *profile.Profile) {
			p.At = "quayside.example"
			p.SignIn, p.Lookup, p.Missed, p.Counts, p.Acts, p.Clips, p.Emotes = nil, nil, nil, nil, profile.Acts{}, nil, nil
		},
		"chat.lines":             func(p *profile.Profile) { p.Chat.Lines = pace.MostLines + 1 },
		"chat.windowSeconds":     func(p *profile.Profile) { p.Chat.WindowSeconds = 1e6 },
		"link":                   func(p *profile.Profile) { p.Link = "https://quayside.example/" },
		"signIn.authorize":       func(p *profile.Profile) { p.SignIn.Authorize = "javascript:alert(1)" },
		"signIn.token":           func(p *profile.Profile) { p.SignIn.Token = "" },
		"signIn.account.id":      func(p *profile.Profile) { p.SignIn.Account.ID = "" },
		"signIn.account.login":   func(p *profile.Profile) { p.SignIn.Account.Login = "login" },
		"signIn.scopes.0.name":   func(p *profile.Profile) { p.SignIn.Scopes[0].Name = "a b" },
		"signIn.scopes.0.allows": func(p *profile.Profile) { p.SignIn.Scopes[0].Allows = "" },
		"signIn.scopes.0.for":    func(p *profile.Profile) { p.SignIn.Scopes[0].For = []string{"anything"} },
		"lookup.address":         func(p *profile.Profile) { p.Lookup.Address = "ftp://quayside.example" },
		"lookup.link":            func(p *profile.Profile) { p.Lookup.Link = "~" },
		"acts.cannot":            func(p *profile.Profile) { p.Acts.Cannot = map[string]string{"dance": "no legs"} },
		"missed.days":            func(p *profile.Profile) { p.Missed.Days = 0 },
	} {
		p := good()
		spoil(p)
		if got := faults(p); len(got) != 1 || !strings.HasPrefix(got[0], at+" ") {
			t.Errorf("%s: %v", at, got)
		}
	}
	if _, err := profile.Read([]byte(`{"format": 1, "platform": "quayside", "colour": "teal"}`)); err == nil || !strings.Contains(err.Error(), "colour") {
		t.Errorf("a field that nobody knows: %v", err)
	}
	if _, err := profile.Read([]byte(`{"format": 2}`)); err == nil || !strings.Contains(err.Error(), "format 1") {
		t.Errorf("a later format: %v", err)
	}
}

func TestAddressesLeadOnFromWhereThePlatformIs(t *testing.T) {
	p := profile.Profile{At: "https://quayside.example/v2/", Lookup: &profile.Lookup{Address: "/lookup?id={id}"}, Acts: profile.Acts{Address: "https://acts.quayside.example/do"}, Chat: profile.Chat{Address: "chat.quayside.example:6697", TLS: true}}
	if got := p.Where(p.Lookup.Address); got != "https://quayside.example/v2/lookup?id={id}" {
		t.Errorf("got %s", got)
	}
	if got := p.Where(p.Acts.Address); got != "https://acts.quayside.example/do" {
		t.Errorf("got %s", got)
	}
	if got := p.Leads(); !slices.Equal(got, []string{"https://quayside.example", "ircs://chat.quayside.example:6697", "https://acts.quayside.example"}) {
		t.Errorf("it leads to %v", got)
	}
}
