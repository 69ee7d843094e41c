package room

import (
	"encoding/json"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// AlongNote is the output under which it is noted who streams along.
const AlongNote = "along"

// LoginsIn reads logins as people type them: apart by blanks, commas or "and", with at-signs, as links
// or bare. What is no login is left out, and so is the channel itself.
func (p *Plan) LoginsIn(text string) []string {
	var out []string
	for _, word := range strings.FieldsFunc(text, func(r rune) bool {
		return r == ' ' || r == ',' || r == ';' || r == '+' || r == '&' || r == '\n' || r == '\t'
	}) {
		_, login, linked := p.LinkOf(word)
		if !linked {
			login = strings.TrimPrefix(strings.Trim(word, ".!?:()"), "@")
		}
		if !PlainLogin(login) || strings.EqualFold(login, "and") || strings.EqualFold(login, p.Channel) || len(out) == mostAlong {
			continue
		}
		out = append(out, login)
	}
	return out
}

// mostAlong is how many others a link shows side by side.
const mostAlong = 8

// along notes who streams along, as a line said it.
func (t *Turn) along(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) {
	logins := t.Plan.LoginsIn(args["rest"].Text)
	if len(logins) == 0 {
		t.not(c, r, o, "", "the line names nobody who could stream along")
		return
	}
	body, _ := json.Marshal(logins)
	t.Decide(hall.Decision{Kind: hall.Note, Courtesy: r.ID, Output: AlongNote, Text: plain.List(logins, "and"), Saying: hall.Saying{Body: body}, Because: []string{"said who streams along"}})
	t.noted = logins
}

// together fills in who streams along, and the link that shows all side by side: the own channel first.
func (t *Turn) together(a wording.Args) {
	logins := t.noted
	if logins == nil {
		m, ok := t.Memory["along"].(interface{ Along() []string })
		if !ok {
			return
		}
		logins = m.Along()
	}
	if len(logins) == 0 {
		return
	}
	a.Maybe("alongside", wording.Str(plain.Text(plain.List(logins, "and"))))
	platform := t.platform()
	if t.Plan.Along[platform] == "" {
		for _, p := range t.Plan.chat {
			if t.Plan.Along[p] != "" {
				platform = p
				break
			}
		}
	}
	a.Maybe("together", wording.Str(t.Plan.Together(platform, logins)))
}

// Together is the address that shows the own channel and others side by side; "" where a platform has
// none. In a pattern {login} is the own channel, and {next}, with what stands before it, each further one.
func (p *Plan) Together(platform string, logins []string) string {
	pattern := p.Along[platform]
	before, rest, ok := strings.Cut(pattern, "{login}")
	if !ok {
		return ""
	}
	between, after, _ := strings.Cut(rest, "{next}")
	var b strings.Builder
	b.WriteString(before + p.ChannelOn(platform))
	for _, l := range logins {
		b.WriteString(between + l)
	}
	return b.String() + after
}
