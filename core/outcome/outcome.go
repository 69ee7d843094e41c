// Package outcome is the room for what did not get out: a line that was refused or perhaps
// said, and what a platform or a fitting did not do, wait for a person.
package outcome

import (
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/room"
)

// Room puts what was not done before the streamer.
var Room = room.Of(room.Spec[struct{}, struct{}]{Name: "outcome",
	Hears: []string{"porch.act.refused", "porch.speech.refused", "porch.speech.uncertain"},
	Decide: func(t *room.Turn, _, _ *struct{}) {
		switch data := t.Event.Data.(type) {
		case *event.ActRefused:
			refusedAct(t, &data.ActOutcome)
		case *event.SpeechRefused:
			refusedSpeech(t, &data.SpeechOutcome, data.Reason)
		case *event.SpeechUncertain:
			refusedSpeech(t, &data.SpeechOutcome, "perhaps said: the house went down in that moment; it is not said again by itself")
		}
	}})

// refusedAct: what a platform or a fitting did not do waits for a person.
func refusedAct(t *room.Turn, o *event.ActOutcome) {
	what := o.What()
	t.Decide(hall.Decision{Kind: hall.Wait, Output: "act", Line: o.Line, Platform: o.To, Because: []string{o.Reason}, Item: &hall.Item{
		ID: "act/" + o.To + "/" + what, Kind: "act", Place: o.To, Line: o.Line, Text: what, Why: o.Reason, About: o.About, Count: 1, Since: t.Now}})
}

// refusedSpeech: a line that did not get out, or perhaps did, waits for a person.
func refusedSpeech(t *room.Turn, data *event.SpeechOutcome, why string) {
	t.Decide(hall.Decision{Kind: hall.Wait, Output: "speech", Line: data.Line, Platform: data.Platform, Because: []string{why}, Item: &hall.Item{
		ID: "line/" + data.Line + "@" + data.Platform, Kind: "line", Place: data.Platform, Line: data.Line, Text: data.Text, Why: why, About: data.About, Count: 1, Since: t.Now}})
}
