package gate_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/porch/gate"
)

func TestTheLastFiftyThingsOfADoorAreKeptNewestFirst(t *testing.T) {
	var g gate.Gate
	at := time.Date(2026, 11, 27, 20, 0, 0, 0, time.UTC)
	for i := range 777 {
		g.Heard("quayside", fmt.Sprint("line ", i), "", at.Add(time.Duration(i)*time.Second))
	}
	g.Heard("fernlight", "a line elsewhere", "said", at)
	got := g.Last("quayside")
	if len(got) != gate.Kept || got[0].Raw != "line 776" || got[gate.Kept-1].Raw != "line 727" || !got[0].At.After(got[1].At) {
		t.Errorf("%d kept, from %v to %v", len(got), got[0], got[len(got)-1])
	}
	if got := g.Last("fernlight"); len(got) != 1 || got[0].Understood != "said" {
		t.Errorf("%v", got)
	}
	if got := g.Last("nowhere"); len(got) != 0 {
		t.Errorf("%v", got)
	}
}

func TestSecretsAreBlankedAndLongThingsCut(t *testing.T) {
	var g gate.Gate
	g.Hide("quayside", "low-water-lamp", "")
	g.Heard("quayside", "PASS low-water-lamp :low-water-lamp"+strings.Repeat("x", 5000)+"\xff", "", time.Now())
	got := g.Last("quayside")[0].Raw
	if strings.Contains(got, "low-water-lamp") || !strings.HasPrefix(got, "PASS ••••") || len(got) > 2100 {
		t.Errorf("%d bytes: %.80s", len(got), got)
	}
}

func TestHowAThingWasUnderstoodIsSaidOfTheLastOne(t *testing.T) {
	var g gate.Gate
	g.Understood("quayside", "nothing came yet")
	g.Heard("quayside", "one", "", time.Now())
	g.Heard("quayside", "two", "", time.Now())
	g.Understood("quayside", "limpet_lena said two")
	if got := g.Last("quayside"); got[0].Understood != "limpet_lena said two" || got[1].Understood != "" {
		t.Errorf("%v", got)
	}
	g.Forget()
	if len(g.Last("quayside")) > 0 {
		t.Error("what a forgotten person said is still there")
	}
}
