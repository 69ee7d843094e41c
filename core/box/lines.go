package box

// KindLines is the name of it.
const KindLines Kind = "chat lines"

// Lines shows lines of chat.
type Lines struct {
	Look    string   `json:"look,omitempty" jsonschema:"enum=chalk,enum=slate,enum=waterline"`
	Show    []string `json:"show,omitempty"`                                                        // of [LineSorts]; none are viewers and the house
	Seconds float64  `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=600"`                  // how long a line stays; 0 is until others take its place
	Size    float64  `json:"size,omitempty" jsonschema:"minimum=0,maximum=120"`                     // of the words, in pixels of the overlay; 0 is 30
	Marks   string   `json:"marks,omitempty" jsonschema:"enum=when several,enum=always,enum=never"` // of platforms
}

// LineSorts are the sorts of chat lines.
var LineSorts = []string{"viewers", "commands", "the house", "neighbours"}

var lineLooks = []string{"chalk", "slate", "waterline"}

var lines = Spec{New: func() Does { return &Lines{} }, Title: "Chat lines", At: At{66, 42, 31, 53}}

// Kind is the name of it.
func (*Lines) Kind() Kind { return KindLines }

// Check reports what cannot stand.
func (l *Lines) Check(fault func(at, what, remedy string)) {
	one("look", l.Look, lineLooks, fault)
	one("marks", l.Marks, []string{"when several", "always", "never"}, fault)
	for _, s := range l.Show {
		one("show", s, LineSorts, fault)
	}
	within("seconds", l.Seconds, 2, 600, "seconds", fault)
	within("size", l.Size, 12, 120, "pixels", fault)
}

// Shows is nothing: lines are told as they come.
func (*Lines) Shows(string, Facts) any { return nil }
