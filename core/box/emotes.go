package box

// KindEmotes is the name of it.
const KindEmotes Kind = "emotes"

// Emotes lets emotes that are said in chat float up.
type Emotes struct {
	Most    int     `json:"most,omitempty" jsonschema:"minimum=0,maximum=60"`    // at once; 0 is 12
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=30"` // that one takes from the foot to the top; 0 is 5
	Size    float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=200"`   // in pixels of the overlay; 0 is 56
}

var emotes = Spec{New: func() Does { return &Emotes{} }, Title: "Emotes", At: At{54, 42, 10, 38}, Off: true}

// Kind is the name of it.
func (*Emotes) Kind() Kind { return KindEmotes }

// Check reports what cannot stand.
func (e *Emotes) Check(fault func(at, what, remedy string)) {
	within("most", float64(e.Most), 1, 60, "emotes", fault)
	within("seconds", e.Seconds, 1, 30, "seconds", fault)
	within("size", e.Size, 12, 200, "pixels", fault)
}

// Shows is nothing: emotes are told as they come.
func (*Emotes) Shows(string, Facts) any { return nil }
