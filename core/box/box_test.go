package box_test

import (
	"encoding/json"
	"strings"
	"testing"

	"vividporch/core/box"
)

func read(t *testing.T, text string) box.Overlay {
	t.Helper()
	var o box.Overlay
	if err := json.Unmarshal([]byte(text), &o); err != nil {
		t.Fatal(err)
	}
	return o
}

const over = `{"id":"over-the-microscope","title":"Over the microscope","wide":1920,"high":1080,"boxes":[{"kind":"cards","id":"cards","left":3,"top":5,"wide":46,"high":35,"look":"tide line"}]}`

func TestABoxIsOneFlatObjectAndComesBackAsItWas(t *testing.T) {
	o := read(t, over)
	if c, ok := o.Boxes[0].Do.(*box.Cards); !ok || c.Look != "tide line" || o.Boxes[0].Wide != 46 || o.Boxes[0].Called() != "Cards" {
		t.Fatalf("%+v", o.Boxes[0])
	}
	raw, err := json.Marshal(o)
	if err != nil || string(raw) != over {
		t.Errorf("%s %v", raw, err)
	}
	// A newer house wrote a kind that this one does not know: it stays told, and is refused by name.
	newer := read(t, strings.Replace(over, `"kind":"cards"`, `"kind":"tide table"`, 1))
	if newer.Boxes[0].Kind() != "tide table" {
		t.Errorf("%+v", newer.Boxes[0])
	}
}

func TestEveryKindStandsAsANewOneIs(t *testing.T) {
	for _, k := range box.Catalogue {
		t.Run(k.Title, func(t *testing.T) {
			b := box.Box{ID: "a-box", Do: k.New(), At: k.At}
			b.Check(func(at, what, remedy string) { t.Errorf("%s %s", at, what) })
		})
	}
}

func TestWhatCannotStandIsRefusedByItsField(t *testing.T) {
	for at, change := range map[string][2]string{
		"wide":                   {`"wide":1920`, `"wide":4`},
		"title":                  {`"title":"Over the microscope"`, `"title":" "`},
		"boxes.0.left":           {`"left":3`, `"left":60`},
		"boxes.0.kind":           {`"kind":"cards"`, `"kind":"tide table"`},
		"boxes.0.id":             {`"id":"cards"`, `"id":"../cards"`},
		"boxes.0.look":           {`"look":"tide line"`, `"look":"neon"`},
		"boxes.0.board":          {`"look":"tide line"`, `"board":"url(javascript:alert(1))"`},
		"boxes.0.size":           {`"look":"tide line"`, `"size":4`},
		"boxes.0.picture":        {`"look":"tide line"`, `"without":"picture"`},
		"boxes.1.id":             {`"look":"tide line"}`, `"look":"tide line"},{"kind":"rail","id":"cards","left":0,"top":0,"wide":9,"high":9}`},
		"boxes.0.until":          {`"kind":"cards"`, `"kind":"countdown","until":"tomorrow","seconds":60`},
		"boxes.0.adds.0.seconds": {`"kind":"cards"`, `"kind":"countdown","seconds":60,"adds":[{"for":"gift","seconds":-5}]`},
		"boxes.0.target":         {`"kind":"cards"`, `"kind":"goal","what":"lanterns","target":0`},
		"boxes.0.currency":       {`"kind":"cards"`, `"kind":"count","what":"tips","currency":"shells"`},
		"boxes.0.key.colour":     {`"kind":"cards"`, `"kind":"film","key":{"colour":"green"}`},
		"loudest":                {`"high":1080`, `"high":1080,"loudest":3`},
	} {
		text := over
		if text = strings.Replace(over, change[0], change[1], 1); text == over {
			t.Fatalf("%s: nothing is changed", at)
		}
		o := read(t, text)
		found := ""
		o.Check(func(in, what, _ string) { found += in + " " + what + "\n" })
		if !strings.HasPrefix(found, at+" ") {
			t.Errorf("%s: %q", at, found)
		}
	}
}

func TestAnOutputGoesToTheBoxItNamesElseToTheFirstThatTakesIt(t *testing.T) {
	o := box.Overlay{Boxes: []box.Box{{ID: "lines", Do: &box.Lines{}}, {ID: "low", Do: &box.Cards{}, Off: true}, {ID: "cards", Do: &box.Cards{}}, {ID: "high", Do: &box.Cards{}}}}
	for named, want := range map[string]string{"": "cards", "high": "high", "low": "", "lines": "", "nowhere": ""} {
		got := ""
		if b := o.Box(named, "card"); b != nil {
			got = b.ID
		}
		if got != want {
			t.Errorf("%q goes to %q, want %q", named, got, want)
		}
	}
}
