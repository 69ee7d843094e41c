package housefile

import (
	"vividporch/core/output"
	"vividporch/core/profile"
)

// RelaysNeed reports whether something that is posted to a place needs a right there besides writing, as
// [profile.Rights] names them.
func (s *Settings) RelaysNeed(place, right string) bool {
	for i := range s.Courtesy {
		for _, o := range s.Courtesy[i].Do {
			if r, ok := o.Do.(*output.Relay); ok && r.Place == place && (right == profile.MayCall && r.Call != "" || right == profile.MayPicture && r.Drawing != nil) {
				return true
			}
		}
	}
	return false
}
