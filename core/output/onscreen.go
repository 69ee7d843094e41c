package output

// Overlay is where what is shown on the overlays goes.
const Overlay = "overlay"

// OnScreen is where on the overlays something is shown or played; nothing is wherever there is room for it.
type OnScreen struct {
	On  string `json:"overlay,omitempty"` // on this one alone, by its id
	Box string `json:"box,omitempty"`     // in this box, by its id
}

// Screen is where it is shown.
func (s *OnScreen) Screen() *OnScreen { return s }
