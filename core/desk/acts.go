package desk

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/room"
)

// Memory is the last things platforms did that can be undone, oldest first.
type Memory struct {
	Acts []event.ActOutcome `json:"acts,omitempty"`
}

// actsKept is how many of them are remembered.
const actsKept = 30

// Acts are the last things platforms did that can be undone, oldest first.
func Acts(m room.Memory) []event.ActOutcome { return room.Remembered[Memory](m, name).Acts }

// acted keeps what a platform did, as long as it can be undone.
func (m *Memory) acted(ev *event.Event) {
	done, ok := ev.Data.(*event.ActDone)
	if !ok {
		return
	}
	o := &done.ActOutcome
	nameless := output.Act(o.Act).OfPerson() && o.Login == "" // a forgetting took it out: it is about none of the others
	if !nameless {
		m.Acts = slices.DeleteFunc(m.Acts, func(a event.ActOutcome) bool { return a.To == o.To && a.Act == o.Act && a.Login == o.Login })
	}
	if o.Off || o.Effect != string(output.KindPlatform) || !output.Act(o.Act).Undoable() || nameless && len(o.About) == 0 {
		return
	}
	m.Acts = append(m.Acts[max(0, len(m.Acts)-actsKept+1):], *o)
}

// theirs reports whether a platform did something about one of their logins on it: whose account it was may not have been known.
func theirs(a *event.ActOutcome, gone *hall.Gone) bool {
	has := slices.ContainsFunc(gone.Keys, func(key string) bool { platform, _, _ := strings.Cut(key, ":"); return platform == a.To })
	return has && a.Login != "" && slices.ContainsFunc(gone.Names, func(n string) bool { return strings.EqualFold(n, a.Login) })
}

// deskActed has a platform do something at once.
func deskActed(t *room.Turn, data *event.DeskActed) {
	act := output.Act(data.Act)
	why := t.Plan.Cannot(data.Platform, act)
	if act == output.SendRaid && why != "" && data.Person.ID != "" && t.IsLive() { // sent on by the streamer's own hand: it is kept all the same
		went := &happening.RaidWent{Viewers: t.Watching()}
		went.Person = data.Person
		t.Happens("desk", went, "asked for at the desk; "+why)
		return
	}
	switch {
	case !slices.Contains(output.Acts(), act):
		why = "is no platform action"
	case why != "":
	case (act == output.SetTitle || act == output.SetCategory) && strings.TrimSpace(data.Text) == "":
		why = "write the new " + data.Act
	case act == output.SendRaid && !t.IsLive():
		why = "no stream is on: there is nobody to send on"
	case act.OfPerson() && data.Login == "":
		why = "choose whom it is about"
	case act == output.AdvertBreak && !output.AdvertLength(data.Seconds):
		why = "an advert break lasts 30 to 180 seconds"
	case act == output.DeleteLine && data.Message == "":
		why = "the platform gave this line no id"
	}
	if why != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Platform: data.Platform, Because: []string{why}})
		return
	}
	haveAct(t, cmp.Or(data.Person.KeyOrNone(), calledHere(t, data.Platform, data.Login)), data.Text, output.Deed{Act: act, Seconds: data.Seconds, Login: data.Login, Message: data.Message, Off: data.Off}, data.Platform, "asked for at the desk")
}

// calledHere finds who of those here has a login on a platform: their account key, or "".
func calledHere(t *room.Turn, platform, login string) string {
	if login == "" {
		return ""
	}
	for _, key := range slices.Sorted(maps.Keys(t.State.Guests())) {
		if p, _, _ := strings.Cut(key, ":"); p == platform && strings.EqualFold(t.State.Guests()[key].Login, login) {
			return key
		}
	}
	return ""
}

func haveAct(t *room.Turn, person, text string, deed output.Deed, platform, why string) {
	told := output.Told{Effect: output.KindPlatform, Text: text, Do: &deed}
	t.Decide(hall.Decision{Kind: hall.Kind(output.KindPlatform), Courtesy: "desk", Output: string(deed.Act), Person: person, Line: t.LineID("desk", string(deed.Act)), Platform: platform, Text: text, Saying: hall.Saying{Body: told.JSON()}, Event: t.Event.Seq, EventID: t.Event.ID, ByHand: true, Because: []string{why}})
}

// undone takes back what one decision had platforms do.
func (m *Memory) undone(t *room.Turn, line string) {
	found := false
	for _, a := range m.Acts {
		if a.Line != line {
			continue
		}
		found = true
		deed, text := output.Deed{Act: output.Act(a.Act), Login: a.Login, Off: true}, ""
		switch deed.Act {
		case output.SetTitle, output.SetCategory:
			text, deed.Off = a.Was, false
		case output.GiveVIP:
			deed.Act, deed.Off = output.TakeVIP, false
		case output.TakeVIP:
			deed.Act, deed.Off = output.GiveVIP, false
		}
		haveAct(t, calledHere(t, a.To, a.Login), text, deed, a.To, "taken back at the desk")
	}
	if !found {
		t.Decide(hall.Decision{Kind: hall.Refuse, Line: line, Output: "desk", Because: []string{"cannot be undone, or was already"}})
	}
}
