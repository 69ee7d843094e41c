package box

// KindLast is the name of it.
const KindLast Kind = "last one"

// Last is who did something last.
type Last struct {
	What  string  `json:"what" jsonschema:"enum=followers,enum=tippers,enum=raiders,enum=subscribers"`
	Label string  `json:"label,omitempty" jsonschema:"maxLength=60"`
	Size  float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=120"` // of the name, in pixels of the overlay; 0 is 40
}

// Shown is what stands there.
type lastShown struct {
	Name string `json:"name"`
	Much string `json:"much,omitempty"`
}

var last = Spec{New: func() Does { return &Last{What: "followers"} }, Title: "Last one", At: At{3, 72, 30, 10}}

// Kind is the name of it.
func (*Last) Kind() Kind { return KindLast }

// Check reports what cannot stand.
func (l *Last) Check(fault func(at, what, remedy string)) {
	if one("what", l.What, []string{"followers", "tippers", "raiders", "subscribers"}, fault); l.What == "" {
		fault("what", "is missing", "choose whose last one it is")
	}
	within("size", l.Size, 12, 120, "pixels", fault)
}

// Shows is who it was.
func (l *Last) Shows(_ string, f Facts) any {
	name, much := f.Last(l.What)
	return lastShown{name, much}
}
