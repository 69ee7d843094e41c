package happening

// The whens of time itself: what comes up now and then, and what comes up when nobody speaks.
const (
	Timer = "timer" // so many minutes after it was last done
	Lull  = "lull"  // nobody has said anything for so many minutes
)

var timer = &Happening{Type: Timer, Words: "now and then", Lane: Quiet, Slots: []Slot{Free}, Frame: OfHand, Reason: "its time had come"}

var lull = &Happening{Type: Lull, Words: "nobody saying anything for a while", Lane: Quiet, Slots: []Slot{Free}, Frame: OfHand, Reason: "it was quiet"}
