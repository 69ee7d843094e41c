package chat

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/plain"
)

// EchoFor is how long a line said under the streamer's account is waited for at the
// house's own door, where it comes in like anybody's.
const EchoFor = 20 * time.Second

// pieceLeast is how many bytes a part of a line has at least that is taken for the house's
// own: a network cuts where a line is full, and a short word is the streamer's.
const pieceLeast = 20

// Echoes are lines that the house has just said under the streamer's account and that have
// not come back yet. They are one goroutine's.
type Echoes struct{ list []echo }

type echo struct {
	platform, account string
	rest              string // of the line, that is still to come
	until             time.Time
}

// Expect notes that a line is being said as the streamer.
func (e *Echoes) Expect(platform, account, text string, now time.Time) {
	e.list = append(e.list, echo{platform, account, strings.TrimSpace(text), now.Add(EchoFor)})
}

// Heard reports whether a line is one of those, or a piece of one, wherever the network cut
// it. What came is taken off: the streamer may say the same again.
func (e *Echoes) Heard(platform string, l Line, now time.Time) bool {
	e.list = slices.DeleteFunc(e.list, func(x echo) bool { return now.After(x.until) })
	text := strings.TrimSpace(l.Text)
	for i := range e.list {
		x := &e.list[i]
		if x.platform != platform || !strings.EqualFold(x.account, l.Nick) {
			continue
		}
		piece := text
		if !strings.HasPrefix(x.rest, piece) { // a piece that would begin a command is sent behind a sign that shows nothing
			piece = plain.Unguard(piece)
		}
		if piece == x.rest {
			e.list = slices.Delete(e.list, i, i+1)
			return true
		}
		if rest, begins := strings.CutPrefix(x.rest, piece); begins && len(piece) >= pieceLeast {
			x.rest = strings.TrimSpace(rest)
			return true
		}
	}
	return false
}
