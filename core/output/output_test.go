package output_test

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"
	"testing"

	"vividporch/core/output"
	"vividporch/core/who"
)

// full has everything set that an output of its kind can have.
var full = map[output.Kind]string{
	"say":       `{"id":"a","kind":"say","alternatives":["Evening, {name}."],"weights":[3],"joined":["{names}"],"delaySeconds":4,"waitSeconds":9,"only":{"tag":"x"},"ask":true,"on":["quayside"],"as":"streamer"}`,
	"shout-out": `{"id":"a","kind":"shout-out"}`,
	"card":      `{"id":"a","kind":"card","alternatives":["{name}"],"second":"of {channel}","media":"limpet.png","seconds":8}`,
	"sound":     `{"id":"a","kind":"sound","media":"bell.ogg","fitting":"player","loud":20}`,
	"film":      `{"id":"a","kind":"film","media":"tide.webm","fitting":"player","loud":30}`,
	"speak":     `{"id":"a","kind":"speak","alternatives":["Hello"],"fitting":"player","loud":40,"voice":"warm"}`,
	"lamp":      `{"id":"a","kind":"lamp","fitting":"bench","how":"run","colours":["#f2b53c","#7fb7b2"],"everySeconds":2,"seconds":6}`,
	"permit":    `{"id":"a","kind":"permit","seconds":120}`,
	"music":     `{"id":"a","kind":"music","fitting":"player","act":"softer","percent":30,"seconds":20}`,
	"scene":     `{"id":"a","kind":"scene","fitting":"desk","scene":"Bench"}`,
	"keep":      `{"id":"a","kind":"keep"}`,
	"birthday":  `{"id":"a","kind":"birthday","birthday":"set"}`,
	"celebrate": `{"id":"a","kind":"celebrate","missed":true}`,
	"note":      `{"id":"a","kind":"note"}`,
	"bookmark":  `{"id":"a","kind":"bookmark"}`,
	"social":    `{"id":"a","kind":"social","place":"news","approval":"role","approvalRole":"moderator"}`,
	"along":     `{"id":"a","kind":"along"}`,
	"answer":    `{"id":"a","kind":"answer","of":"tides"}`,
	"relay":     `{"id":"a","kind":"relay","alternatives":["{name} is in"],"place":"news"}`,
	"platform":  `{"id":"a","kind":"platform","act":"slow chat","seconds":30}`,
	"stone":     `{"id":"a","kind":"stone","usual":10,"most":500,"edge":5,"finds":[{"name":"bare sand","weight":3},{"name":"a brittle star","weight":1,"pays":4}]}`,
	"race":      `{"id":"a","kind":"race","usual":10,"seconds":45}`,
	"tide":      `{"id":"a","kind":"tide","people":8,"seconds":90,"prize":20}`,
	"anemone":   `{"id":"a","kind":"anemone","opens":40,"answers":["Yes"],"shut":["No"]}`,
	"give":      `{"id":"a","kind":"give","most":100}`,
	"unlisted":  `{"id":"a","kind":"unlisted","off":true}`,
	"draw":      `{"id":"a","kind":"draw","act":"open","ready":"the print"}`,
	"raise":     `{"id":"a","kind":"raise","event":"tide.turned","fields":{"height":"3.2"}}`,
}

var here = output.World{Places: map[string]bool{"news": true}, Fittings: map[string]string{"player": output.Player, "bench": output.Lights, "desk": output.Scenes},
	Scenes: map[string][]string{"desk": {"Bench"}}, Commands: map[string]bool{"tides": true}, Chat: []string{"quayside"}, Streamer: []string{"quayside"}, Cannot: func(string, output.Act) string { return "" }}

func faults(o *output.Output) (at []string) {
	o.Check(output.In{When: "command", World: here}, func(in, what, remedy string) {
		if what == "" || remedy == "" {
			in += "?"
		}
		at = append(at, in)
	})
	return at
}

func TestEveryOutputIsOneFlatObjectAndLosesNothing(t *testing.T) {
	for _, spec := range output.Catalogue {
		kind := spec.New().Kind()
		t.Run(string(kind), func(t *testing.T) {
			var o, again output.Output
			if err := json.Unmarshal([]byte(full[kind]), &o); err != nil {
				t.Fatal(err)
			}
			raw, err := json.Marshal(o)
			if err != nil {
				t.Fatal(err)
			}
			var want, got map[string]any
			json.Unmarshal([]byte(full[kind]), &want)
			if json.Unmarshal(raw, &got); !reflect.DeepEqual(got, want) {
				t.Errorf("%s became %s", full[kind], raw)
			}
			if json.Unmarshal(raw, &again); !reflect.DeepEqual(o, again) {
				t.Errorf("%+v is read as %+v", o, again)
			}
			if at := faults(&o); len(at) > 0 || len(o.Unknown()) > 0 {
				t.Errorf("faults at %v, unknown %v", at, o.Unknown())
			}
			if o.Does(who.Names{}) == "" || o.Way() == "" {
				t.Errorf("does %q, goes %q", o.Does(who.Names{}), o.Way())
			}
		})
	}
}

func TestWhatIsMissingInAnOutputIsNamed(t *testing.T) {
	for kind, at := range map[output.Kind]string{"say": "alternatives", "card": "alternatives", "sound": "fitting", "film": "fitting", "speak": "fitting", "lamp": "fitting", "music": "fitting",
		"scene": "fitting", "relay": "alternatives", "platform": "act", "raise": "event"} {
		t.Run(string(kind), func(t *testing.T) {
			if got := faults(&output.Output{ID: "a", Do: output.Of(kind).New()}); !slices.Equal(got, []string{at}) {
				t.Errorf("faults at %v, want %s", got, at)
			}
		})
	}
	var lit output.Output
	json.Unmarshal([]byte(`{"id":"a","kind":"lamp","fitting":"bench","colour":"amber","seconds":4000}`), &lit)
	if got := faults(&lit); !slices.Equal(got, []string{"colour", "seconds"}) {
		t.Errorf("%v", got)
	}
}

func TestAnOutputThatANewerHouseWroteIsKeptAndRefused(t *testing.T) {
	var o output.Output
	if err := json.Unmarshal([]byte(`{"id":"a","kind":"hologram","alternatives":["x"],"beam":3,"colour":"#ffffff"}`), &o); err != nil {
		t.Fatal(err)
	}
	if at := faults(&o); !slices.Equal(at, []string{"kind"}) || !slices.Equal(o.Unknown(), []string{"beam"}) {
		t.Errorf("faults at %v, unknown %v", at, o.Unknown())
	}
	if raw, _ := json.Marshal(o); !strings.Contains(string(raw), `"kind":"hologram"`) {
		t.Errorf("%s", raw)
	}
}

func TestWhatIsToldIsReadAsItWasTold(t *testing.T) {
	for _, spec := range output.Catalogue {
		if !spec.Way.Staged() {
			continue
		}
		kind := spec.New().Kind()
		t.Run(string(kind), func(t *testing.T) {
			var o output.Output
			json.Unmarshal([]byte(full[kind]), &o)
			told := o.Tell(output.Telling{Words: map[string]string{"second": "of tidepool_hours"}, Login: "limpet_lena", Message: "m7"})
			told.Text, told.Names = "Limpet Lena", []string{"lena", "bo"}
			var again output.Told
			if err := json.Unmarshal(told.JSON(), &again); err != nil || !reflect.DeepEqual(told, again) {
				t.Errorf("%s is read as %+v (%v)", told.JSON(), again, err)
			}
			if strings.Contains(string(told.JSON()), "fitting") {
				t.Errorf("a fitting is told its own name: %s", told.JSON())
			}
			if told.Text = ""; kind != "speak" && told.Gist() == "" || told.Coming() == "" {
				t.Errorf("the gist is %q, and it comes up as %q", told.Gist(), told.Coming())
			}
		})
	}
	var old output.Told
	if err := json.Unmarshal([]byte(`{"effect":"hologram","text":"hm","beam":3}`), &old); err != nil || old.Text != "hm" {
		t.Errorf("%+v %v", old, err)
	}
}

func TestANameIsTakenOutOfEverythingThatIsTold(t *testing.T) {
	told := output.Told{Effect: output.KindCard, Text: "lena", Do: &output.Card{Second: "for lena"}}
	for _, text := range told.Texts() {
		*text = strings.ReplaceAll(*text, "lena", "somebody")
	}
	if got := string(told.JSON()); strings.Contains(got, "lena") {
		t.Error(got)
	}
}
