package house

import (
	"maps"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/output"
)

// deskActed has a platform do something at once.
func deskActed(d *decider, data *event.DeskActed) {
	act := output.Act(data.Act)
	why := d.p.Cannot(data.Platform, act)
	switch {
	case !slices.Contains(output.Acts(), act):
		why = "is no platform action"
	case why != "":
	case (act == output.SetTitle || act == output.SetCategory) && strings.TrimSpace(data.Text) == "":
		why = "write the new " + data.Act
	case act.OfPerson() && data.Login == "":
		why = "choose whom it is about"
	case act == output.AdvertBreak && !output.AdvertLength(data.Seconds):
		why = "an advert break lasts 30 to 180 seconds"
	case act == output.DeleteLine && data.Message == "":
		why = "the platform gave this line no id"
	}
	if why != "" {
		d.decide(Decision{Kind: Refuse, Output: "desk", Platform: data.Platform, Because: []string{why}})
		return
	}
	haveAct(d, calledHere(d, data.Platform, data.Login), data.Text, output.Deed{Act: act, Seconds: data.Seconds, Login: data.Login, Message: data.Message, Off: data.Off}, data.Platform, "asked for at the desk")
}

// calledHere finds who of those here has a login on a platform: their account key, or "".
func calledHere(d *decider, platform, login string) string {
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

func haveAct(d *decider, person, text string, t output.Deed, platform, why string) {
	told := output.Told{Effect: output.KindPlatform, Text: text, Do: &t}
	d.decide(Decision{Kind: Act, Courtesy: "desk", Output: string(t.Act), Person: person, Line: d.lineID("desk", string(t.Act)), Platform: platform, Text: text, Body: told.JSON(),
		Event: d.ev.Seq, EventID: d.ev.ID, ByHand: true, Because: []string{why}})
}

// deskUndone takes back what one decision had platforms do.
func deskUndone(d *decider, line string) {
	found := false
	for _, a := range d.s.Acts {
		if a.Line != line {
			continue
		}
		found = true
		t, text := output.Deed{Act: output.Act(a.Act), Login: a.Login, Off: true}, ""
		switch t.Act {
		case output.SetTitle, output.SetCategory:
			text, t.Off = a.Was, false
		case output.GiveVIP:
			t.Act, t.Off = output.TakeVIP, false
		case output.TakeVIP:
			t.Act, t.Off = output.GiveVIP, false
		}
		haveAct(d, calledHere(d, a.To, a.Login), text, t, a.To, "taken back at the desk")
	}
	if !found {
		d.decide(Decision{Kind: Refuse, Line: line, Output: "desk", Because: []string{"cannot be undone, or was already"}})
	}
}

// refusedAct: what a platform or a fitting did not do waits for a person.
func refusedAct(d *decider, o *event.ActOutcome) {
	what := o.What()
	d.decide(Decision{Kind: Wait, Output: "act", Line: o.Line, Platform: o.To, Because: []string{o.Reason}, Item: &Item{
		ID: "act/" + o.To + "/" + what, Kind: "act", Place: o.To, Line: o.Line, Text: what, Why: o.Reason, About: o.About, Count: 1, Since: d.now}})
}
