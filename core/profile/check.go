package profile

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/pointer"
)

// Limits of a profile.
const (
	mostName  = 60
	mostLines = 100 // in a window: what core/pace counts
	mostDays  = 90  // of what was missed
	mostList  = 200 // scopes, counts, reasons
)

// Check tells every fault of a profile by its field, with a remedy. acts are the platform actions there are.
func (p *Profile) Check(acts []string, fault func(at, what, remedy string)) {
	if p.Format != Format {
		fault("format", fmt.Sprintf("is %d", p.Format), "this house reads format 1")
	}
	if p.Platform == "" || len(p.Platform) > mostName || strings.ContainsAny(p.Platform, "/?#: ") {
		fault("platform", "is missing, too long, or holds a blank or slash", fmt.Sprintf("name it in at most %d letters, digits and dashes", mostName))
	}
	if len(p.Title) > mostName {
		fault("title", "is too long", fmt.Sprintf("use at most %d letters", mostName))
	}
	if p.At != "" && !isAddress(p.At) {
		fault("at", "is no http(s) address", "write it in full: https://quayside.example")
	}
	if n := p.Chat.Lines; n < 0 || n > mostLines {
		fault("chat.lines", "is out of range", fmt.Sprintf("use 0 to %d", mostLines))
	}
	if n := p.Chat.WindowSeconds; n < 0 || n > 86_400 {
		fault("chat.windowSeconds", "is out of range", "use 0 to 86400 seconds")
	}
	if p.Link != "" && (!isAddress(p.Link) || !strings.Contains(p.Link, "{login}")) {
		fault("link", "leads nowhere", `write the address in full with {login} where the login goes: "https://quayside.example/{login}"`)
	}
	address := func(at, a string, needed bool) {
		if a == "" && !needed {
			return
		}
		if !isAddress(p.Where(a)) {
			fault(at, "is no http(s) address", `write it in full, or from "at" on with a slash in front`)
		}
	}
	points := func(at, to string, needed bool) {
		if to == "" && needed {
			fault(at, "is missing", `point at where the answer tells it, as RFC 6901 does: "/id"`)
		} else if err := pointer.Check(to); err != nil {
			fault(at, err.Error(), `use a pointer as RFC 6901 has it: "/data/0/id"`)
		}
	}
	if s := p.SignIn; s != nil {
		address("signIn.authorize", s.Authorize, true)
		address("signIn.token", s.Token, true)
		address("signIn.revoke", s.Revoke, false)
		address("signIn.register", s.Register, false)
		address("signIn.account.address", s.Account.Address, true)
		points("signIn.account.id", s.Account.ID, true)
		points("signIn.account.login", s.Account.Login, true)
		points("signIn.account.name", s.Account.Name, false)
		if len(s.Scopes) > mostList {
			fault("signIn.scopes", "are too many", fmt.Sprintf("use at most %d", mostList))
		}
		for i, x := range s.Scopes {
			at := fmt.Sprintf("signIn.scopes.%d", i)
			if x.Name == "" || strings.ContainsAny(x.Name, " \"\\") {
				fault(at+".name", "is missing or holds a blank", "write it as the platform does (RFC 6749, section 3.3)")
			}
			if x.Allows == "" {
				fault(at+".allows", "is missing", "say in one sentence what it allows")
			}
			for _, f := range x.For {
				if f != ForChat && f != ForMissed && f != ForLookup && f != ForPosts && !slices.Contains(acts, f) {
					fault(at+".for", fmt.Sprintf("%q needs no permission", f), "use chat, missed, lookup, posts, or one of "+strings.Join(acts, ", "))
				}
			}
		}
	}
	if l := p.Lookup; l != nil {
		address("lookup.address", l.Address, true)
		for at, to := range map[string]string{"id": l.ID, "login": l.Login, "name": l.Name, "link": l.Link, "category": l.Category, "title": l.Title, "picture": l.Picture, "live": l.Live} {
			points("lookup."+at, to, false)
		}
	}
	for i, c := range p.Counts {
		at := fmt.Sprintf("counts.%d", i)
		if c.Name == "" {
			fault(at+".name", "is missing", "name it")
		}
		address(at+".address", c.Address, true)
		points(at+".value", c.Value, true)
	}
	for at, l := range map[string]*List{"clips": p.Clips, "emotes": p.Emotes} {
		if l != nil {
			address(at+".address", l.Address, true)
			for k, to := range map[string]string{"each": l.Each, "word": l.Word, "picture": l.Picture, "film": l.Film, "seconds": l.Seconds} {
				points(at+"."+k, to, false)
			}
		}
	}
	address("acts.address", p.Acts.Address, false)
	for act := range p.Acts.Cannot {
		if !slices.Contains(acts, act) {
			fault("acts.cannot", fmt.Sprintf("%q is no platform action", act), "use "+strings.Join(acts, ", "))
		}
	}
	for act, l := range p.Acts.Limits {
		at := "acts.limits." + act
		if !slices.Contains(acts, act) {
			fault(at, fmt.Sprintf("%q is no platform action", act), "use "+strings.Join(acts, ", "))
		}
		if l.Seconds < 0 || l.Seconds > mostAct || l.PersonSeconds < 0 || l.PersonSeconds > mostAct {
			fault(at, "is out of range", "use 0 to 86400 seconds")
		}
	}
	if p.Social != nil {
		p.Social.check(address, points, fault)
	}
	if c := p.Community; c != nil {
		c.check(address, points, fault)
	}
	if m := p.Missed; m != nil {
		address("missed.address", m.Address, true)
		if m.Days < 1 || m.Days > mostDays {
			fault("missed.days", "is out of range", fmt.Sprintf("use 1 to %d days", mostDays))
		}
	}
}

// mostAct is the longest a platform may want between two of one action, in seconds.
const mostAct = 86_400

func isAddress(s string) bool {
	host, ok := strings.CutPrefix(s, "https://")
	if !ok {
		host, ok = strings.CutPrefix(s, "http://")
	}
	return ok && host != "" && host[0] != '/' && !strings.ContainsAny(s, " \r\n")
}
