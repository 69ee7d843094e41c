package fitting

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"vividporch/core/pointer"
)

// Limits of a profile.
const (
	mostName   = 60
	mostBody   = 8 << 10 // bytes
	mostPath   = 500
	mostRounds = 4
)

// ownHeaders are set by the house itself, or by HTTP.
var ownHeaders = []string{"content-type", "content-length", "host", "user-agent", "connection", "upgrade", "transfer-encoding", "idempotency-key", "cookie"}

// Check tells every fault of a profile by its field, with a remedy.
func (p *Profile) Check(fault func(at, what, remedy string)) {
	if p.Format != Format {
		fault("format", fmt.Sprintf("is %d", p.Format), "this house reads format 1")
	}
	if p.Name == "" || len(p.Name) > mostName {
		fault("name", "is missing or too long", fmt.Sprintf("name it in at most %d letters", mostName))
	}
	if p.Title == "" || len(p.Title) > mostName {
		fault("title", "is missing or too long", fmt.Sprintf("say in at most %d letters what it is: \"the bench lamp\"", mostName))
	}
	known := manners[p.Kind]
	if known == nil {
		fault("kind", fmt.Sprintf("%q is no kind of fitting", p.Kind), "use player, lamp or scenes")
		return
	}
	if p.Way != "" && p.Way != HTTP && p.Way != WebSocket {
		fault("way", fmt.Sprintf("%q is no way", p.Way), "use http or websocket")
	}
	p.checkProof(fault)
	p.checkGreeting(fault)
	if len(p.Does) == 0 {
		fault("does", "is empty", "say what it is told for "+strings.Join(known[:len(known)-1], ", "))
	} else if _, does := p.Does[known[0]]; !does && len(known) > 1 && known[0] != "sound" {
		fault("does", "does not say how it is told "+known[0], "everything else is made of it")
	}
	for name, d := range p.Does {
		at := "does." + name
		if !slices.Contains(known, name) {
			fault(at, "is nothing that such a fitting does", "use "+strings.Join(known, ", "))
			continue
		}
		offered := fillIns
		if name == Back {
			offered = append(slices.Clone(fillIns), "was")
		}
		filled(at+".path", d.Path, offered, fault)
		checkBody(at+".body", d.Body, offered, fault)
		if d.Path != "" && (p.Way == WebSocket || !strings.HasPrefix(d.Path, "/") && !strings.HasPrefix(d.Path, "?") || len(d.Path) > mostPath || strings.Contains(d.Path, "//") || strings.Contains(d.Path, "..")) {
			fault(at+".path", "does not lead on from the fitting's address", `begin it with a slash: "/state"; a WebSocket has none`)
		}
		if m := d.Method; m != "" && (p.Way == WebSocket || m != "GET" && m != "POST" && m != "PUT" && m != "PATCH") {
			fault(at+".method", "is not known", "use GET, POST, PUT or PATCH; a WebSocket has none")
		}
		if p.Way == WebSocket && len(d.Body) == 0 {
			fault(at+".body", "is missing", "write the message that it is told")
		}
	}
	p.checkAnswer(fault)
}

func (p *Profile) checkProof(fault func(at, what, remedy string)) {
	switch p.Proof.How {
	case "", Signed, Bearer:
		if p.Proof.Header != "" {
			fault("proof.header", "is of no use", `leave it out, or prove it by "header"`)
		}
	case Header:
		if h := p.Proof.Header; h == "" || len(h) > 100 || strings.Trim(strings.ToLower(h), "abcdefghijklmnopqrstuvwxyz0123456789-") != "" || slices.Contains(ownHeaders, strings.ToLower(h)) {
			fault("proof.header", "is no header that may hold a secret", "name it in letters, digits and dashes")
		}
	default:
		fault("proof.how", fmt.Sprintf("%q proves nothing", p.Proof.How), "use signed, bearer or header, or leave it out")
	}
	if p.Proof.How == Signed && p.Way == WebSocket {
		fault("proof.how", "signs bodies of requests, which a WebSocket has not", "use bearer or header, or prove it in the greeting")
	}
}

func (p *Profile) checkGreeting(fault func(at, what, remedy string)) {
	g := p.Greeting
	if g == nil {
		return
	}
	if p.Way != WebSocket {
		fault("greeting", "is for a WebSocket", "leave it out")
	}
	points("greeting.challenge", g.Challenge, fault)
	points("greeting.salt", g.Salt, fault)
	if (g.Challenge != "" || g.Salt != "") && !g.Waits {
		fault("greeting.waits", "is not set, and the challenge stands in what the fitting says first", "set it")
	}
	if len(g.Proof) > mostRounds {
		fault("greeting.proof", "has too many rounds", fmt.Sprintf("use at most %d", mostRounds))
	}
	for i, round := range g.Proof {
		for _, name := range round {
			if name != "secret" && name != "salt" && name != "challenge" && (name != "before" || i == 0) {
				fault(fmt.Sprintf("greeting.proof.%d", i), fmt.Sprintf("%q is nothing to prove with", name), "use secret, salt, challenge and, from the second round on, before")
			}
		}
	}
	checkBody("greeting.say", g.Say, []string{"secret", "proof"}, fault)
	if g.Welcome != nil {
		points("greeting.welcome.at", g.Welcome.At, fault)
	}
}

func (p *Profile) checkAnswer(fault func(at, what, remedy string)) {
	a := &p.Answer
	for at, t := range map[string]*Test{"answer.of": a.Of, "answer.done": a.Done} {
		if t == nil {
			continue
		}
		points(at+".at", t.At, fault)
		if text, ok := t.Is.(string); ok {
			filled(at+".is", text, fillIns, fault)
		}
	}
	if a.Of != nil && p.Way != WebSocket {
		fault("answer.of", "is for a WebSocket", "by HTTP an answer is always the one that was asked for")
	}
	points("answer.reason", a.Reason, fault)
	points("answer.was", a.Was, fault)
}

func points(at, to string, fault func(at, what, remedy string)) {
	if err := pointer.Check(to); err != nil {
		fault(at, err.Error(), `use a pointer as RFC 6901 has it: "/data/0/id"`)
	}
}

// filled reports fill-ins that there are not.
func filled(at, text string, offered []string, fault func(at, what, remedy string)) {
	for _, name := range used(text) {
		if !slices.Contains(offered, name) {
			fault(at, fmt.Sprintf("there is no {%s}", name), "use {"+strings.Join(offered, "}, {")+"}")
		}
	}
}

func checkBody(at string, body json.RawMessage, offered []string, fault func(at, what, remedy string)) {
	if len(body) == 0 {
		return
	}
	if len(body) > mostBody || pointer.Deeper(body, 20) {
		fault(at, "is too long or too deep", fmt.Sprintf("use at most %d bytes", mostBody))
		return
	}
	x, err := pointer.Read(body)
	if err != nil {
		fault(at, "is no JSON", "write what the fitting takes")
		return
	}
	walk(x, func(text string) { filled(at, text, offered, fault) })
}

func walk(x any, text func(string)) {
	switch x := x.(type) {
	case string:
		text(x)
	case []any:
		for _, y := range x {
			walk(y, text)
		}
	case map[string]any:
		for _, y := range x {
			walk(y, text)
		}
	}
}
