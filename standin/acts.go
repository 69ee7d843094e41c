package standin

import (
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"vividporch/core/profile"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"
)

// told is what the house tells a platform or a fitting.
type told struct {
	Effect  string  `json:"effect"`
	Text    string  `json:"text"`
	Second  string  `json:"second"`
	Media   string  `json:"media"`
	Loud    int     `json:"loud"`
	Voice   string  `json:"voice"`
	Seconds float64 `json:"seconds"`
	Colour  string  `json:"colour"`
	Scene   string  `json:"scene"`
	Act     string  `json:"act"`
	Off     bool    `json:"off"`
	Login   string  `json:"login"`
	Message string  `json:"message"`
	Try     bool    `json:"try"`
	How     string  `json:"how,omitempty"`
	Percent int     `json:"percent,omitempty"`
}

// Deed is something the outside world did because it was told to.
type Deed struct {
	At time.Time `json:"at"`
	told
	Refused string `json:"refused,omitempty"`
}

// read reads what the house tells, under seal where there is a secret.
func read(w http.ResponseWriter, r *http.Request, secret string) (t told, ok bool) {
	body, err := io.ReadAll(io.LimitReader(r.Body, 64<<10))
	if err != nil || json.Unmarshal(body, &t) != nil {
		answer(w, http.StatusBadRequest, map[string]string{"reason": "this cannot be read"})
		return t, false
	}
	if secret != "" {
		wh, err := webhooks.NewWebhook(secret)
		if err != nil || wh.Verify(body, r.Header) != nil {
			answer(w, http.StatusUnauthorized, map[string]string{"reason": "the seal does not hold"})
			return t, false
		}
	}
	return t, true
}

func answer(w http.ResponseWriter, status int, v any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	json.NewEncoder(w).Encode(v)
}

// advertRest is how long a platform lets pass between two advert breaks.
const advertRest = 8 * time.Minute

// acts does what a platform can do, or says why not.
func (s *Street) acts(w http.ResponseWriter, r *http.Request) {
	p := s.Platforms[r.PathValue("platform")]
	if p == nil {
		http.NotFound(w, r)
		return
	}
	secret, _ := p.sealed()
	g, signed := p.signins.bearer(r)
	if signed { // whoever signed in needs no seal
		secret = ""
	} else if r.Header.Get("Authorization") != "" {
		answer(w, http.StatusUnauthorized, map[string]string{"reason": "the permission is not good any more"})
		return
	}
	t, ok := read(w, r, secret)
	if !ok {
		return
	}
	if signed && !allowed(p.Name, g.scope, t.Act) {
		answer(w, http.StatusForbidden, map[string]string{"reason": "this was not allowed to the house"})
		return
	}
	was, why := p.act(t)
	p.mu.Lock()
	p.deeds = append(p.deeds[max(0, len(p.deeds)-29):], Deed{At: p.clock().UTC(), told: t, Refused: why})
	p.mu.Unlock()
	if why != "" {
		answer(w, http.StatusConflict, map[string]string{"reason": why})
		return
	}
	answer(w, http.StatusOK, map[string]string{"was": was})
}

// allowed reports whether scopes allow a platform action, as the platform's profile says.
func allowed(platform, scopes, act string) bool {
	for _, x := range profile.Of(nil, platform).SignIn.Scopes {
		if slices.Contains(x.For, act) && slices.Contains(strings.Fields(scopes), x.Name) {
			return true
		}
	}
	return false
}

func (p *Platform) act(t told) (was, why string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	switch t.Act {
	case "title":
		was, p.title = p.title, t.Text
		p.Send("porch.stream.changed", 0, p.info())
	case "category":
		was, p.category = p.category, t.Text
		p.Send("porch.stream.changed", 0, p.info())
	case "clip":
		if !p.live {
			return "", "the channel is not live"
		}
	case "platform shout-out":
		if !p.live {
			return "", "the channel is not live"
		}
		if why := p.tooSoon(t); why != "" {
			return "", why
		}
	case "raid":
		to := p.find("", t.Login)
		switch {
		case !p.live:
			return "", "the channel is not live"
		case to == nil || !to.Live:
			return "", t.Login + " is not live"
		}
		p.Send("porch.raid.went", 0, map[string]any{"person": map[string]any{"platform": p.Name, "id": to.ID, "login": to.Login, "name": to.Login}, "viewers": len(p.Chat.Here())})
	case "advert break":
		if !p.live {
			return "", "the channel is not live"
		}
		if since := p.clock().Sub(p.advert); since < advertRest {
			return "", "the last one was " + since.Round(time.Second).String() + " ago"
		}
		p.advert = p.clock()
	case "slow chat", "emote-only chat", "subscribers-only chat":
		p.modes = slices.DeleteFunc(p.modes, func(m string) bool { return m == t.Act })
		if !t.Off {
			p.modes = append(p.modes, t.Act)
		}
	case "give VIP":
		if slices.Contains(p.vips, t.Login) {
			return "", t.Login + " is one already"
		}
		p.vips = append(p.vips, t.Login)
	case "take VIP":
		if !slices.Contains(p.vips, t.Login) {
			return "", t.Login + " is none"
		}
		p.vips = slices.DeleteFunc(p.vips, func(l string) bool { return l == t.Login })
	case "time-out", "ban":
		v, ok := p.Chat.Who(t.Login)
		if !ok {
			return "", "nobody here is called " + t.Login
		}
		if !t.Off {
			data := map[string]any{"person": p.person(v), "by": p.Channel, "reason": "by the house"}
			if t.Act == "time-out" {
				data["seconds"] = max(1, int(t.Seconds))
				p.Send("porch.person.timedout", 0, data)
			} else {
				p.Send("porch.person.banned", 0, data)
			}
		}
	case "hold line":
		line, ok := p.Chat.Take(t.Message)
		if !ok {
			return "", "there is no such line"
		}
		v, _ := p.Chat.Who(line.Nick)
		if p.held == nil {
			p.held = map[string]heldLine{}
		}
		p.held[t.Message] = heldLine{v, line.Text}
	case "allow line", "refuse line":
		held, ok := p.held[t.Message]
		if !ok {
			return "", "there is no such line"
		}
		if delete(p.held, t.Message); t.Act == "allow line" {
			p.Chat.Say(held.viewer, held.text)
		}
	case "delete line":
		if !p.Chat.Remove(t.Message) {
			return "", "there is no such line"
		}
	default:
		return "", "this is nothing " + p.Name + " can do"
	}
	return was, ""
}

// tooSoon says why a platform does not do something again yet, as its own profile says; else it notes
// that it does.
func (p *Platform) tooSoon(t told) string {
	lim, bound := profile.Of(nil, p.Name).Acts.Limits[t.Act]
	if !bound {
		return ""
	}
	now := p.clock()
	for key, least := range map[string]float64{t.Act: lim.Seconds, t.Act + " " + t.Login: lim.PersonSeconds} {
		if last, did := p.did[key]; did && now.Sub(last).Seconds() < least {
			return "too soon: the last one was " + now.Sub(last).Round(time.Second).String() + " ago"
		}
	}
	if p.did == nil {
		p.did = map[string]time.Time{}
	}
	p.did[t.Act], p.did[t.Act+" "+t.Login] = now, now
	return ""
}
