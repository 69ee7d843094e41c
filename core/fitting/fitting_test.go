package fitting

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"testing"

	"vividporch/core/output"
	"vividporch/core/pointer"
)

func faults(p *Profile) map[string]string {
	out := map[string]string{}
	p.Check(func(at, what, remedy string) { out[at] = what + ": " + remedy })
	return out
}

func TestWhatShipsHasNoFaultsAndDoesWhatItsKindDoes(t *testing.T) {
	if len(Shipped()) < 3 {
		t.Fatalf("%d ship", len(Shipped()))
	}
	for _, p := range Shipped() {
		t.Run(p.Name, func(t *testing.T) {
			if f := faults(&p); len(f) > 0 {
				t.Error(f)
			}
			for _, m := range Manners(p.Kind) {
				if why := p.Cannot(m); why != "" {
					t.Errorf("%s", why)
				}
			}
		})
	}
}

// A lamp that knows colours alone is flashed by the house; a player without a volume cannot get softer, and it says so.
func TestWhatAFittingCannotIsSaid(t *testing.T) {
	lamp := Profile{Title: "the bench lamp", Kind: output.Lights, Does: map[string]Does{"light": {}}}
	if why := lamp.Cannot(output.Flash); why != "" {
		t.Error(why)
	}
	player := Profile{Title: "the old gramophone", Kind: output.Player, Does: map[string]Does{output.Pause: {}, output.GoOn: {}}}
	if why := player.Cannot(output.Softer); why != "The old gramophone cannot get softer" {
		t.Error(why)
	}
}

func TestABodyIsFilledWithValuesAndWhateverStandsInThemStaysOne(t *testing.T) {
	lamp := output.Told{Effect: output.KindLamp, Do: &output.Lamp{Colour: "#ff8000", Seconds: 1.5, How: output.Run, Colours: []string{"#ff8000", "#000000"}}}
	hostile := output.Told{Effect: output.KindSpeak, Text: `hi","as":"owner {secret} {red}`, Do: &output.Speak{Voice: "warm"}}
	for name, c := range map[string]struct {
		told       output.Told
		body, want string
	}{
		"numbers where a fill-in stands alone": {lamp, `{"rgb":["{red}","{green}","{blue}"],"ms":"{milliseconds}"}`, `{"ms":1500,"rgb":[255,128,0]}`},
		"text where it does not":               {lamp, `{"c":"rgb({red} {green})","hex":"{hex}"}`, `{"c":"rgb(255 128)","hex":"ff8000"}`},
		"as HSV has it":                        {lamp, `["{hue}","{saturation}","{brightness}"]`, `[30,100,100]`},
		"a list":                               {lamp, `{"all":"{colours}"}`, `{"all":["#ff8000","#000000"]}`},
		"other people's text":                  {hostile, `{"say":"{text}","in":"{voice}","id":"{id}"}`, `{"id":"7.speak","in":"warm","say":"hi\",\"as\":\"owner {secret} {red}"}`},
		"what there is not stays":              {lamp, `{"x":"{unknown}","n":1e3}`, `{"n":1e3,"x":"{unknown}"}`},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := ValuesOf(c.told, "7.speak").Body(json.RawMessage(c.body))
			if err != nil || string(got) != c.want {
				t.Errorf("%s, %v\nwant %s", got, err, c.want)
			}
		})
	}
	if got := ValuesOf(output.Told{Effect: output.KindScene, Do: &output.Scene{Scene: "../Bench?x"}}, "").Path("/go/{scene}"); got != "/go/%2E%2E%2FBench%3Fx" {
		t.Error(got)
	}
}

// The digests were made with: printf %s … | openssl dgst -sha256 -binary | base64
func TestTheProofIsWorkedOutOfTheSecretAndOfWhatIsAsked(t *testing.T) {
	first, _ := pointer.Read([]byte(`{"d":{"riddle":"R","pinch":"P"}}`))
	g := Greeting{Waits: true, Challenge: "/d/riddle", Salt: "/d/pinch", Proof: [][]string{{"secret", "salt"}}}
	if got := g.Prove("S", first); got != "9a6wtnmKdHDPVpIP9Z5JnQ5ejQ7acEm1M6l8XzHJPos=" { // of SP
		t.Error(got)
	}
	g.Proof = append(g.Proof, []string{"before", "challenge"})
	if got := g.Prove("S", first); got != "NyFw9R88JhSKb6qICNZpIMpkmrUCU00TQCyeZozaHFk=" { // of that and R
		t.Error(got)
	}
	if (&Greeting{}).Prove("S", first) != "" {
		t.Error("nothing is proven without rounds")
	}
}

func TestAnAnswerTellsDoneOrRefused(t *testing.T) {
	a := Answer{Of: &Test{At: "/note", Is: "{id}"}, Done: &Test{At: "/ok", Is: true}, Reason: "/why", Was: "/before"}
	v := Values{"id": "7.lamp"}
	read := func(s string) any { x, _ := pointer.Read([]byte(s)); return x }
	if was, _, refused := v.Judge(&a, read(`{"ok":true,"before":"#000000"}`)); refused || was != "#000000" {
		t.Errorf("%q, refused %v", was, refused)
	}
	if _, why, refused := v.Judge(&a, read(`{"ok":false,"why":"the power is off"}`)); !refused || why != "the power is off" {
		t.Errorf("%q, refused %v", why, refused)
	}
	if _, _, refused := v.Judge(&a, nil); !refused {
		t.Error("silence is taken for done")
	}
	if !v.Holds(a.Of, read(`{"note":"7.lamp"}`)) || v.Holds(a.Of, read(`{"note":"8.lamp"}`)) || v.Holds(a.Of, read(`{}`)) {
		t.Error("it does not know its own answer")
	}
	if !v.Holds(&Test{At: "/n", Is: 3.0}, read(`{"n":3}`)) {
		t.Error("a number is not itself")
	}
}

func TestAWrongProfileIsRefusedFieldByField(t *testing.T) {
	for name, c := range map[string]struct {
		file string
		at   string
	}{
		"no kind":                      {`{"format":1,"name":"a","title":"a","kind":"kettle","does":{}}`, "kind"},
		"nothing it does":              {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{}}`, "does"},
		"a lamp that cannot be lit":    {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"flash":{}}}`, "does"},
		"what lamps do not do":         {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{},"sing":{}}}`, "does.sing"},
		"a fill-in that there is not":  {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{"body":{"c":["{color}"]}}}}`, "does.light.body"},
		"the secret in a body":         {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{"body":{"c":"{secret}"}}}}`, "does.light.body"},
		"a path to another host":       {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{"path":"//lamp.example/x"}}}`, "does.light.path"},
		"a path up":                    {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{"path":"/../x"}}}`, "does.light.path"},
		"a method of its own":          {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{"method":"DELETE"}}}`, "does.light.method"},
		"a socket with nothing to say": {`{"format":1,"name":"a","title":"a","kind":"lamp","way":"websocket","does":{"light":{}}}`, "does.light.body"},
		"a pointer without a slash":    {`{"format":1,"name":"a","title":"a","kind":"lamp","does":{"light":{}},"answer":{"reason":"why"}}`, "answer.reason"},
		"a header of the house's own":  {`{"format":1,"name":"a","title":"a","kind":"lamp","proof":{"how":"header","header":"Host"},"does":{"light":{}}}`, "proof.header"},
		"a header that breaks a line":  {`{"format":1,"name":"a","title":"a","kind":"lamp","proof":{"how":"header","header":"X: y\r\nZ"},"does":{"light":{}}}`, "proof.header"},
		"a greeting over HTTP":         {`{"format":1,"name":"a","title":"a","kind":"lamp","greeting":{"say":{}},"does":{"light":{}}}`, "greeting"},
		"a challenge it does not hear": {`{"format":1,"name":"a","title":"a","kind":"lamp","way":"websocket","greeting":{"challenge":"/c"},"does":{"light":{"body":1}}}`, "greeting.waits"},
		"a proof of nothing":           {`{"format":1,"name":"a","title":"a","kind":"lamp","way":"websocket","greeting":{"proof":[["before"]]},"does":{"light":{"body":1}}}`, "greeting.proof.0"},
		"a newer format":               {`{"format":2,"name":"a","title":"a","kind":"lamp","does":{"light":{}}}`, "format"},
	} {
		t.Run(name, func(t *testing.T) {
			p, err := Read([]byte(c.file))
			if err != nil {
				t.Fatal(err)
			}
			if got := slices.Sorted(maps.Keys(faults(p))); !slices.Equal(got, []string{c.at}) {
				t.Errorf("faults at %v, want %s", got, c.at)
			}
		})
	}
	if _, err := Read([]byte(`{"format":1,"sings":true}`)); err == nil || !strings.Contains(err.Error(), "sings") {
		t.Errorf("an unknown field: %v", err)
	}
}

func FuzzWhateverAProfileSaysABodyIsJSON(f *testing.F) {
	f.Add(`{"a":"{text}"}`, "hi")
	f.Add(`["{red}{text}",{"{text}":"{colours}"}]`, `"}`)
	f.Fuzz(func(t *testing.T, body, text string) {
		got, err := ValuesOf(output.Told{Effect: output.KindSpeak, Text: text, Do: &output.Speak{}}, "x").Body(json.RawMessage(body))
		if err == nil && got != nil && !json.Valid(got) {
			t.Errorf("%q is no JSON", got)
		}
	})
}
