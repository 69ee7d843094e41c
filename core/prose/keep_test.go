package prose_test

import (
	"testing"

	"vividporch/core/housefile"
	"vividporch/core/prose"
)

func TestAKeptAnswerIsToldAsItIsAskedFor(t *testing.T) {
	s := &housefile.Settings{Commands: housefile.Commands{Signs: map[string]string{"fernlight": "¡~"}}}
	for _, c := range []struct{ platform, name, shown string }{
		{"quayside", "lens", "!lens"}, {"quayside", "!lens", "!lens"}, {"fernlight", "lens", "¡lens"}, {"fernlight", "~lens", "¡lens"}, {"quayside", "?lens", "?lens"},
	} {
		next, shown, why := prose.Kept(s, c.platform, c.name, "Four {times}")
		if why != "" || shown != c.shown || len(next.Courtesy) != 1 || next.Courtesy[0].Do[0].Alternatives[0] != "Four '{'times'}'" {
			t.Errorf("%s on %s: %q %q", c.name, c.platform, shown, why)
		}
	}
	if len(s.Courtesy) != 0 {
		t.Error("the settings there are were changed")
	}
}
