package onscreen

import "time"

// SetBeat has pages hear that the house is there as often as a test can wait for, and take it within half that time, until undone.
func SetBeat(every time.Duration) (undo func()) {
	b, w := beat, writeWithin
	beat, writeWithin = every, every/2
	return func() { beat, writeWithin = b, w }
}
