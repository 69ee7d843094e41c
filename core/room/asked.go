package room

import (
	"bytes"
	"encoding/json"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/prose"
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

// Changes is the kind of a decision by which a line of chat changes the settings.
const Changes hall.Kind = "changes"

// change is what it changes: a command answers something else. It is worked out anew where it comes into
// force, of the same settings.
type change struct {
	Name   string       `json:"asks"`
	Answer string       `json:"answer"`
	By     event.Person `json:"by"`
}

// keeps has a command answer what a line says. It comes into force with the line, or not at all.
func (t *Turn) keeps(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) {
	no := func(why string) {
		t.not(c, r, o, "", why)
		args["unkept"] = wording.Str(why)
	}
	said, ok := t.Event.Data.(*happening.ChatSaid)
	switch {
	case t.Try:
		no("a try changes nothing")
		return
	case !ok || t.Hand || t.within > 0: // a courtesy that runs it would let anybody in
		no("only whoever asks for it in chat themselves changes an answer")
		return
	case t.changed:
		no("one line changes one answer")
		return
	}
	next, shown, why := prose.Kept(t.Plan.Whole, said.Person.Platform, args["first"].Text, args["after"].Text)
	if why != "" {
		no(why)
		return
	}
	t.changed = true
	args.Maybe("kept", wording.Str(shown))
	if same(t.Plan.Whole, next) { // it answers that already
		return
	}
	body, _ := json.Marshal(change{args["first"].Text, args["after"].Text, said.Person})
	t.Decide(hall.Decision{Kind: Changes, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Text: shown, Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Person: said.Person.Key(), Name: t.SayName(said.Person), Because: []string{"was asked in chat"}})
}

// same reports whether two documents of settings say the same.
func same(a, b *housefile.Settings) bool {
	x, err := json.Marshal(a)
	y, err2 := json.Marshal(b)
	return err == nil && err2 == nil && bytes.Equal(x, y)
}

// of is the change as an event, on settings.
func (x *change) of(p *Plan) event.Data {
	next, shown, why := prose.Kept(p.Whole, x.By.Platform, x.Name, x.Answer)
	if why != "" {
		return nil
	}
	doc, err := json.Marshal(next)
	if err != nil {
		return nil
	}
	return &event.SettingsChanged{Version: p.Version + 1, Base: p.Version, By: &x.By, What: "what " + shown + " answers", Settings: doc}
}

// MayChange reports whether a line may change the settings or the guest book: what comes after it is
// decided under others, of people known otherwise.
func (p *Plan) MayChange(ev *event.Event) bool {
	said, ok := ev.Data.(*happening.ChatSaid)
	if !ok || !p.keeps && !p.edits {
		return false
	}
	heard := p.Hears(said.Text, said.Person.Platform)
	return p.keeps && p.Set.Does(heard, output.KindKeep) || p.edits && p.Set.Does(heard, output.KindBirthday)
}
