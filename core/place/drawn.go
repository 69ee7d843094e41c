package place

import "encoding/json"

// Drawn is a picture that is drawn for somebody, as it is kept with a post until it is carried.
type Drawn struct {
	Name   string `json:"name"`
	Text   string `json:"text,omitempty"`
	Face   string `json:"face,omitempty"`   // where their own picture is
	Ground string `json:"ground,omitempty"` // see a relay's drawing
	Shelf  string `json:"shelf,omitempty"`  // a picture on the shelf, in place of the ground
	Frame  string `json:"frame,omitempty"`
	At     string `json:"at,omitempty"`
}

// String is the picture as a post keeps it.
func (d Drawn) String() string {
	raw, err := json.Marshal(d)
	if err != nil {
		return ""
	}
	return string(raw)
}

// ReadDrawn reads what [Drawn.String] wrote.
func ReadDrawn(s string) (d Drawn, err error) { return d, json.Unmarshal([]byte(s), &d) }
