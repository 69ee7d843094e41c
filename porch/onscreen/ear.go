package onscreen

import (
	"context"
	"time"

	"vividporch/core/ear"
	"vividporch/core/hall"
	"vividporch/core/room"
)

// The pages in the ear: each is told in a few soft words who arrives and what waits. What is not said within a few seconds is
// not said any more.

const (
	mostEars   = 10               // pages in the ear
	mostWords  = 8                // that wait to be said; beyond them what comes is passed over
	staleAfter = 20 * time.Second // nobody wants to hear of it any more
)

// Heard is what a page in the ear is told.
type Heard struct {
	Do      string  `json:"do"` // "say"
	Text    string  `json:"text"`
	Path    string  `json:"path,omitempty"` // of the sound, below the page's own address; none where nothing speaks
	Seconds float64 `json:"seconds,omitempty"`
	Gain    float64 `json:"gain,omitempty"`
}

// word is something to be said.
type word struct {
	text string
	at   time.Time
}

// softly is how loud words are in the ear, in LUFS.
const softly = -28

// whisper takes what is worth a word; it does not wait.
func (s *Screens) whisper(ds []hall.Decision, plan *room.Plan, late bool) {
	if late || len(ds) == 0 {
		return
	}
	for _, text := range ear.Words(&plan.Settings.Ear, ds) {
		select {
		case s.words <- word{text, time.Now()}:
		default: // so much at once is not listened to
		}
	}
}

// speak tells the pages in the ear what is worth it, one after another.
func (s *Screens) speak(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case w := <-s.words:
			if time.Since(w.at) > staleAfter || s.Ears() == 0 {
				continue
			}
			h := Heard{Do: "say", Text: w.text}
			sctx, cancel := context.WithTimeout(ctx, mediaWithin)
			if x, err := s.cfg.Speak(sctx, w.text, s.cfg.Plan().Settings.Ear.Voice); err == nil {
				h.Path, h.Seconds = "speech/"+x.ID, x.Seconds
				h.Gain = Gain(x.Loudness, softly, 0)
			}
			cancel()
			f := frame(h)
			s.mu.Lock()
			for p := range s.ears {
				select {
				case p <- f:
				default: // it is too slow for what is only worth it now
				}
			}
			s.mu.Unlock()
		}
	}
}

// Listen lets a page in the ear in; nil when there are too many. Stop ends it.
func (s *Screens) Listen() (frames <-chan []byte, stop func()) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.ears) >= mostEars {
		return nil, nil
	}
	c := make(chan []byte, mostWords)
	if s.ears == nil {
		s.ears = map[chan []byte]bool{}
	}
	s.ears[c] = true
	return c, func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		if s.ears[c] {
			delete(s.ears, c)
			close(c)
		}
	}
}

// Ears is how many pages listen.
func (s *Screens) Ears() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.ears)
}

// Deafen sends the pages in the ear away: their address is another one now.
func (s *Screens) Deafen() {
	s.mu.Lock()
	defer s.mu.Unlock()
	for c := range s.ears {
		delete(s.ears, c)
		close(c)
	}
}
