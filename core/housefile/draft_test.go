package housefile_test

import (
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/output"
)

func TestADraftChangesWhatItNamesAndNothingElse(t *testing.T) {
	s := &housefile.Settings{Pace: housefile.Pace{GapSeconds: 2, WaitSeconds: 60, JoinAt: 3}, Courtesy: []courtesy.Courtesy{{ID: "greet", On: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Hello."}}}}}}
	words := map[string][]output.Words{"greet": {{Output: "chat", Alternatives: []string{"Good evening."}}}, "gone": nil}
	if err := s.Draft(words, map[string]bool{"greet": false}, map[string]float64{"joinAt": 5}); err != nil {
		t.Fatal(err)
	}
	if c := s.Courtesy[0]; c.On || c.Do[0].Alternatives[0] != "Good evening." || s.Pace != (housefile.Pace{GapSeconds: 2, WaitSeconds: 60, JoinAt: 5}) {
		t.Errorf("%+v %+v", c, s.Pace)
	}
	if err := s.Draft(nil, map[string]bool{"nobody": true}, nil); err == nil || !strings.HasPrefix(err.Error(), "changes.switches.nobody") {
		t.Error(err)
	}
	for name, v := range map[string]float64{"laughs": 1, "joinAt": 1.5} {
		if err := s.Draft(nil, nil, map[string]float64{name: v}); err == nil || !strings.HasPrefix(err.Error(), "changes.pace: cannot be read") {
			t.Errorf("%s: %v", name, err)
		}
	}
}
