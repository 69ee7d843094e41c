package house

import (
	"maps"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/event"
)

// deskActed has a platform do something at once.
func (d *decider) deskActed(data *event.DeskActed) {
	act := courtesy.Act(data.Act)
	why := d.p.Cannot(data.Platform, act)
	switch {
	case !slices.Contains(courtesy.Acts(), act):
		why = "is no platform action"
	case why != "":
	case (act == courtesy.SetTitle || act == courtesy.SetCategory) && strings.TrimSpace(data.Text) == "":
		why = "write the new " + data.Act
	case act.OfPerson() && data.Login == "":
		why = "choose whom it is about"
	case act == courtesy.AdvertBreak && !courtesy.AdvertLength(data.Seconds):
		why = "an advert break lasts 30 to 180 seconds"
	case act == courtesy.DeleteLine && data.Message == "":
		why = "the platform gave this line no id"
	}
	if why != "" {
		d.decide(Decision{Kind: Refuse, Output: "desk", Platform: data.Platform, Because: []string{why}})
		return
	}
	d.act(d.called(data.Platform, data.Login), Told{Effect: courtesy.Platform, Act: act, Text: data.Text, Seconds: data.Seconds, Login: data.Login, Message: data.Message, Off: data.Off}, data.Platform, "asked for at the desk")
}

// called finds who of those here has a login on a platform: their account key, or "".
func (d *decider) called(platform, login string) string {
	if login == "" {
		return ""
	}
	for _, key := range slices.Sorted(maps.Keys(d.s.guests())) {
		if p, _, _ := strings.Cut(key, ":"); p == platform && strings.EqualFold(d.s.guests()[key].Login, login) {
			return key
		}
	}
	return ""
}

func (d *decider) act(person string, t Told, platform, why string) {
	d.decide(Decision{Kind: Act, Courtesy: "desk", Output: string(t.Act), Person: person, Line: d.lineID("desk", string(t.Act)), Platform: platform, Text: t.Text, Body: t.json(),
		Event: d.ev.Seq, EventID: d.ev.ID, ByHand: true, Because: []string{why}})
}

// deskUndone takes back what one decision had platforms do.
func (d *decider) deskUndone(line string) {
	found := false
	for _, a := range d.s.Acts {
		if a.Line != line {
			continue
		}
		found = true
		t := Told{Effect: courtesy.Platform, Act: courtesy.Act(a.Act), Login: a.Login, Off: true}
		switch t.Act {
		case courtesy.SetTitle, courtesy.SetCategory:
			t.Text, t.Off = a.Was, false
		case courtesy.GiveVIP:
			t.Act, t.Off = courtesy.TakeVIP, false
		case courtesy.TakeVIP:
			t.Act, t.Off = courtesy.GiveVIP, false
		}
		d.act(d.called(a.To, a.Login), t, a.To, "taken back at the desk")
	}
	if !found {
		d.decide(Decision{Kind: Refuse, Line: line, Output: "desk", Because: []string{"cannot be undone, or was already"}})
	}
}

// refusedAct: what a platform or a fitting did not do waits for a person.
func (d *decider) refusedAct(o *event.ActOutcome) {
	what := o.What()
	d.decide(Decision{Kind: Wait, Output: "act", Line: o.Line, Platform: o.To, Because: []string{o.Reason}, Item: &Item{
		ID: "act/" + o.To + "/" + what, Kind: "act", Place: o.To, Line: o.Line, Text: what, Why: o.Reason, About: o.About, Count: 1, Since: d.now}})
}
