package housefile

import (
	"bytes"
	"encoding/json"
	"maps"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/output"
)

// Draft puts into the settings what a member changes without putting it in force: words of courtesies, which
// of them are on, and measures of pace by their names in the house file. Words of a courtesy that is gone are
// passed over; the error is a [event.FieldError] of the changes.
func (s *Settings) Draft(words map[string][]output.Words, switches map[string]bool, pace map[string]float64) error {
	find := func(id string) *courtesy.Courtesy {
		if i := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == id }); i >= 0 {
			return &s.Courtesy[i]
		}
		return nil
	}
	for id, list := range words {
		if c := find(id); c != nil {
			*c = c.Reworded(list)
		}
	}
	for _, id := range slices.Sorted(maps.Keys(switches)) {
		c := find(id)
		if c == nil {
			return &event.FieldError{Field: "changes.switches." + id, Remedy: "is no courtesy of this house"}
		}
		c.On = switches[id]
	}
	if len(pace) == 0 {
		return nil
	}
	raw, err := json.Marshal(pace)
	if err != nil {
		return err
	}
	dec := json.NewDecoder(bytes.NewReader(raw)) // over what there is: what it does not name stays
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s.Pace); err != nil {
		return &event.FieldError{Field: "changes.pace", Remedy: "cannot be read: " + err.Error()}
	}
	return nil
}
