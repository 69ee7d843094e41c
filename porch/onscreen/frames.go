package onscreen

import (
	"cmp"
	"context"
	"encoding/json"
	"math"
	"net/url"
	"time"

	"vividporch/core/box"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/plain"
	"vividporch/core/wording"
	"vividporch/formats/media"
	"vividporch/porch/aloud"
)

// stood is how an overlay stands, for a page that joins or after the settings changed.
type stood struct {
	Do      string         `json:"do"` // "stand"
	Now     time.Time      `json:"now"`
	Overlay *box.Overlay   `json:"overlay"`
	Board   map[string]any `json:"board"`
	Lines   []Line         `json:"lines,omitempty"`
	Samples []string       `json:"samples,omitempty"`
}

// Shown is what a page is to show: begun together, over together.
type Shown struct {
	Do      string  `json:"do"`   // "show", or "try" for what is tried from the arrangement, which nobody is told of
	Show    string  `json:"show"` // its id
	Try     bool    `json:"try,omitempty"`
	Seconds float64 `json:"seconds"` // it stays, or as long as its longest medium where that does not tell its length
	Parts   []Part  `json:"parts"`
}

// Part is one thing of it.
type Part struct {
	Box     string     `json:"box,omitempty"`
	Effect  string     `json:"effect"` // "card", "film", "sound", "speak"
	Text    string     `json:"text,omitempty"`
	Second  string     `json:"second,omitempty"`
	Letters string     `json:"letters,omitempty"` // of whom it is about, for their lantern
	Style   *box.Style `json:"style,omitempty"`
	Media   *Medium    `json:"media,omitempty"`
	Whole   bool       `json:"whole,omitempty"`
	Key     *box.Key   `json:"key,omitempty"`
}

// Medium is a file from the shelf, or what else has an address below the overlay's own.
type Medium struct {
	Name    string  `json:"name"`
	Path    string  `json:"path"`
	Kind    string  `json:"kind"` // "picture", "sound", "film"
	Type    string  `json:"type"`
	Wide    int     `json:"wide,omitempty"`
	High    int     `json:"high,omitempty"`
	Seconds float64 `json:"seconds,omitempty"`
	Face    bool    `json:"face,omitempty"` // it is somebody's picture, which stands in their lantern
	Gain    float64 `json:"gain"`           // what its samples are multiplied with, so that all is as loud as it should be
}

// stands is how an overlay stands; the lock is held.
func (s *Screens) stands(o *box.Overlay, board map[string]any, sc *screen, hello Hello) []byte {
	for id, v := range board {
		raw, _ := json.Marshal(v)
		sc.board[id] = string(raw)
	}
	f := stood{Do: "stand", Now: s.cfg.Now(), Overlay: o, Board: board, Lines: s.chat.after(hello.Line)}
	for id, until := range sc.samples {
		if time.Now().Before(until) {
			f.Samples = append(f.Samples, id)
		}
	}
	return frame(f)
}

// boards tells pages what has changed in their boxes.
func (s *Screens) boards(ctx context.Context) {
	s.mu.Lock()
	watched := map[string]*box.Overlay{}
	for id, sc := range s.of {
		if len(sc.pages) > 0 {
			if watched[id] = s.named(id); watched[id] == nil { // it was taken away
				delete(watched, id)
				defer s.Shut(id)
			}
		}
	}
	s.mu.Unlock()
	if len(watched) == 0 {
		return
	}
	all := map[string]map[string]any{}
	if s.cfg.Look(ctx, func(st *house.State) {
		for id, o := range watched {
			all[id] = overlay.Board(&st.State, st.Rooms, o, s.cfg.Plan(), s.cfg.Now())
		}
	}) != nil {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for id, board := range all {
		sc := s.screen(id)
		changed := map[string]any{}
		for b, v := range board {
			raw, err := json.Marshal(v)
			if err == nil && sc.board[b] != string(raw) {
				sc.board[b], changed[b] = string(raw), v
			}
		}
		if len(changed) > 0 {
			sc.all(frame(map[string]any{"do": "board", "board": changed, "now": s.cfg.Now()}))
		}
	}
}

// settled tells pages how their overlays stand under new settings.
func (s *Screens) settled(ctx context.Context) {
	s.mu.Lock()
	ids := []string{}
	for id, sc := range s.of {
		if len(sc.pages) > 0 {
			ids = append(ids, id)
		}
	}
	s.mu.Unlock()
	for _, id := range ids {
		o := s.named(id)
		if o == nil {
			s.Shut(id)
			continue
		}
		var board map[string]any
		if s.cfg.Look(ctx, func(st *house.State) {
			board = overlay.Board(&st.State, st.Rooms, o, s.cfg.Plan(), s.cfg.Now())
		}) != nil {
			return
		}
		s.mu.Lock()
		sc := s.screen(id)
		sc.all(s.stands(o, board, sc, Hello{Line: math.MaxInt64}))
		s.mu.Unlock()
	}
}

// release looks up what the parts of something need, and hands it to the pages.
func (s *Screens) release(ctx context.Context, x show) {
	o := s.named(x.overlay)
	if o == nil {
		return
	}
	x.frame.Seconds = x.release.Seconds
	for _, p := range x.release.Parts {
		if v, ok := s.part(ctx, o, p, x.frame.Show, x.name, x.release.Silent || o.Silent); ok {
			x.frame.Parts = append(x.frame.Parts, v)
			if v.Media != nil && v.Media.Kind != string(media.Picture) {
				x.frame.Seconds = max(x.frame.Seconds, v.Media.Seconds)
			}
		}
	}
	x.frame.Seconds = min(x.frame.Seconds, MostSeconds)
	f := frame(x.frame)
	s.mu.Lock()
	defer s.mu.Unlock()
	sc := s.screen(x.overlay)
	switch {
	case x.only != nil:
		x.only.send(f)
	default:
		sc.all(f)
	}
}

// part is one thing as the page shows it; false for what makes no difference there.
func (s *Screens) part(ctx context.Context, o *box.Overlay, p overlay.Part, show, name string, silent bool) (Part, bool) {
	v := Part{Box: p.Box, Effect: string(p.Told.Effect), Text: plain.Text(p.Told.Text)}
	loud := 0
	switch does := p.Told.Do.(type) {
	case *output.Card:
		v.Second, v.Style, v.Letters = plain.Text(does.Second), does.Style, letters(p.Told, name)
		v.Media = s.beside(ctx, does, p.Told, o.Box(p.Box, v.Effect), o, wording.Seed(s.cfg.Plan().Seed, show, "clip"))
	case *output.Film:
		v.Whole, v.Key, loud = does.Whole, does.Key, does.Loud
		v.Media = s.medium(ctx, does.Media, loud, o)
	case *output.Sound:
		if silent {
			return v, false
		}
		loud = does.Loud
		v.Media = s.medium(ctx, does.Media, loud, o)
		return v, v.Media != nil
	case *output.Speak:
		if silent {
			return v, false
		}
		v.Media = s.speech(ctx, v.Text, does, o)
		return v, v.Media != nil
	}
	if silent && v.Media != nil {
		v.Media.Gain = 0
	}
	return v, true
}

// medium looks a file of the shelf up; nil where it is not there.
func (s *Screens) medium(ctx context.Context, name string, loud int, o *box.Overlay) *Medium {
	if name == "" {
		return nil
	}
	ctx, cancel := context.WithTimeout(ctx, mediaWithin)
	defer cancel()
	m, err := s.cfg.Media(ctx, name)
	if err != nil {
		return nil
	}
	heard := aloud.Loudness{LUFS: m.LUFS, Peak: m.Peak, Known: m.Measured && m.LUFS < 0}
	return &Medium{Name: m.Name, Path: "media/" + url.PathEscape(m.Name), Kind: m.Kind, Type: m.Type, Wide: m.Width, High: m.Height, Seconds: m.Seconds, Gain: Gain(heard, loudest(o), loud)}
}

// speech has words spoken; nil where that does not come about.
func (s *Screens) speech(ctx context.Context, text string, does *output.Speak, o *box.Overlay) *Medium {
	ctx, cancel := context.WithTimeout(ctx, mediaWithin)
	defer cancel()
	x, err := s.cfg.Speak(ctx, text, does.Voice)
	if err != nil {
		s.cfg.Log.Warn("words could not be spoken", "error", err)
		return nil
	}
	return &Medium{Name: "speech", Path: "speech/" + x.ID, Kind: string(media.Sound), Type: "audio/wav", Seconds: x.Seconds, Gain: Gain(x.Loudness, loudest(o), does.Loud)}
}

// Sample has a sample stand in a box on the pages of an overlay, or goes.
func (s *Screens) Sample(id, boxID string, on bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	sc := s.screen(id)
	if delete(sc.samples, boxID); on {
		sc.samples[boxID] = time.Now().Add(sampleEnough)
	}
	sc.all(frame(map[string]any{"do": "sample", "box": boxID, "on": on, "seconds": sampleEnough.Seconds()}))
}

// loudest is what all sound of an overlay is levelled to, in LUFS.
func loudest(o *box.Overlay) float64 { return cmp.Or(o.Loudest, box.UsualLoudest) }

// letters are the first letters of whoever it is about, or of the first of several.
func letters(t output.Told, name string) string {
	if len(t.Names) > 0 {
		name = t.Names[0]
	}
	return plain.Initials(name)
}
