package onscreen

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"vividporch/core/box"
	"vividporch/formats/media"
	"vividporch/voices/platform"
)

// Emotes are words that a platform shows as pictures. Which there are, their platform tells by its profile; the pictures are
// fetched ahead, so that a line never waits for one.

const (
	emotesEvery = 10 * time.Minute // that platforms are asked which there are
	emoteMost   = 256 << 10        // bytes of one
	emotesMost  = 200              // of a platform
	emotesLook  = 5 * time.Second  // how often it is looked whether anybody wants to see them
)

// Emote is one in a line: which letters it stands for, counted in code points, and where its picture is, below the overlay's
// address.
type Emote struct {
	From int    `json:"from"`
	To   int    `json:"to"`
	Path string `json:"path"`
}

type emotes struct {
	mu sync.Mutex
	of map[string]map[string]string // by platform and word: the path
}

// wantsEmotes reports whether an open overlay shows emotes.
func (s *Screens) wantsEmotes() bool {
	all := s.cfg.Plan().Settings.Overlays
	return slices.ContainsFunc(all, func(o box.Overlay) bool {
		return s.Pages(o.ID) > 0 && slices.ContainsFunc(o.Boxes, func(b box.Box) bool {
			return !b.Off && (b.Kind() == box.KindLines || b.Kind() == box.KindEmotes)
		})
	})
}

// keepEmotes keeps the emotes of the channel's platforms at hand, as long as anybody sees them.
func (s *Screens) keepEmotes(ctx context.Context) {
	asked := map[string]time.Time{}
	for {
		if s.wantsEmotes() {
			for _, p := range s.cfg.Plan().Chat() {
				if time.Since(asked[p]) >= emotesEvery {
					asked[p] = time.Now()
					s.learn(ctx, p)
				}
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(emotesLook):
		}
	}
}

// learn fetches the emotes of a platform.
func (s *Screens) learn(ctx context.Context, of string) {
	actx, cancel := context.WithTimeout(ctx, mediaWithin)
	list, err := s.cfg.Elsewhere.Emotes(actx, of)
	cancel()
	if err != nil {
		s.cfg.Log.Warn("a platform did not tell its emotes", "platform", of, "error", err)
		return
	}
	have := map[string]string{}
	for _, e := range list[:min(len(list), emotesMost)] {
		if e.Word == "" || strings.ContainsAny(e.Word, " \t\n") {
			continue
		}
		fctx, cancel := context.WithTimeout(ctx, mediaWithin)
		if f, err := s.fetch(fctx, e.Picture, media.Picture, emoteMost); err == nil {
			have[e.Word] = "fetched/" + f.ID
		}
		cancel()
	}
	s.emotes.mu.Lock()
	defer s.emotes.mu.Unlock()
	if s.emotes.of == nil {
		s.emotes.of = map[string]map[string]string{}
	}
	s.emotes.of[of] = have
}

// in are the emotes in a line of a platform.
func (e *emotes) in(text, of string) []Emote {
	e.mu.Lock()
	defer e.mu.Unlock()
	have := e.of[of]
	if len(have) == 0 {
		return nil
	}
	var out []Emote
	at := 0
	for _, word := range strings.Split(text, " ") {
		n := utf8.RuneCountInString(word)
		if path := have[word]; path != "" {
			out = append(out, Emote{at, at + n, path})
		}
		at += n + 1
	}
	return out
}

// EmotesOf asks for a platform's emotes.
type EmotesOf func(ctx context.Context, platform string) ([]platform.Emote, error)
