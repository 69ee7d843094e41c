package forget

import (
	"encoding/json"
	"testing"
)

func TestSomebodyOfTheSameLoginKeepsTheirsInWhatARoomNotes(t *testing.T) {
	s := newScrub([]string{"quayside:8"}, []string{"quayside:~3-0"}, []string{"limpet8"})
	for body, want := range map[string]string{
		`{"person":"fernlight:8","name":"Eight","body":{"login":"limpet8"}}`:  `{"body":{"login":"limpet8"},"name":"Eight","person":"fernlight:8"}`,
		`{"person":"quayside:8","name":"limpet8","body":{"login":"limpet8"}}`: `{"body":{"login":""},"name":"","person":"quayside:~3-0"}`,
	} {
		t.Run(body, func(t *testing.T) {
			var v map[string]any
			if err := json.Unmarshal([]byte(body), &v); err != nil {
				t.Fatal(err)
			}
			if got, _ := json.Marshal(s.decided(v, false)); string(got) != want {
				t.Errorf("%s", got)
			}
		})
	}
}
