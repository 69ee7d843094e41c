package onscreen

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/box"
	"vividporch/core/output"
	"vividporch/formats/media"
	"vividporch/porch/aloud"
	"vividporch/voices/platform"
)

// What people have elsewhere: the picture their platform has of them, and clips of their streams. It is fetched, looked at
// for what it is, and kept for a while, so that a page has it from the house alone.

// Bounds of what is fetched.
const (
	faceMost   = 4 << 20                 // bytes of a picture
	clipMost   = 20 << 20                // of a clip
	theirsMost = 96 << 20                // of all that is kept
	theirsFor  = time.Hour               // and for how long
	lacksFor   = 5 * time.Minute         // what is not there is not asked for again
	faceWithin = 1500 * time.Millisecond // a card waits so long for a picture; it comes without, and the next has it
	clipWithin = 4 * time.Second         // and for a clip
	usualClip  = 30                      // seconds that a clip has at most where a card does not say
)

// Elsewhere is where people's pictures and clips are asked for.
type Elsewhere struct {
	Picture func(ctx context.Context, account string) (address string, err error)
	Clips   func(ctx context.Context, account string) ([]platform.Clip, error)
	Emotes  EmotesOf
	Get     func(ctx context.Context, address string, most int64) ([]byte, error)
}

// Fetched is a file from elsewhere.
type Fetched struct {
	ID    string
	Data  []byte
	Info  media.Info
	loud  aloud.Loudness
	at    time.Time
	lacks bool // it is not there, or is none that can be shown
}

type fetched struct {
	mu   sync.Mutex
	of   map[string]*Fetched // by address
	size int
}

// Fetched is what was fetched lately, by its id.
func (s *Screens) Fetched(id string) (*Fetched, bool) {
	s.theirs.mu.Lock()
	defer s.theirs.mu.Unlock()
	for _, f := range s.theirs.of {
		if f.ID == id && !f.lacks {
			return f, true
		}
	}
	return nil, false
}

// fetch gets a file of a kind from an address, or from what is kept of it.
func (s *Screens) fetch(ctx context.Context, address string, kind media.Kind, most int64) (*Fetched, error) {
	s.theirs.mu.Lock()
	f := s.theirs.of[address]
	s.theirs.mu.Unlock()
	if f != nil && (time.Since(f.at) < lacksFor || !f.lacks && time.Since(f.at) < theirsFor) {
		if f.lacks {
			return nil, errNotThere
		}
		return f, nil
	}
	sum := sha256.Sum256([]byte(address))
	f = &Fetched{ID: hex.EncodeToString(sum[:16]), at: time.Now(), lacks: true}
	data, err := s.cfg.Elsewhere.Get(ctx, address, most)
	if err == nil {
		if f.Info, err = media.Read(data); err == nil && (f.Info.Kind != kind || f.Info.Type == "image/svg+xml") { // a drawing of somebody's could do more than be seen
			err = errNotThere
		}
	}
	if ctx.Err() != nil {
		return nil, ctx.Err() // it is asked for again
	}
	if err == nil {
		f.Data, f.lacks = data, false
		if l, why := aloud.Measure(ctx, data, f.Info.Type); why == nil {
			f.loud = l
		}
	}
	s.keep(address, f)
	return f, err
}

var errNotThere = errors.New("it is not there, or nothing that can be shown")

func (s *Screens) keep(address string, f *Fetched) {
	s.theirs.mu.Lock()
	defer s.theirs.mu.Unlock()
	if s.theirs.of == nil {
		s.theirs.of = map[string]*Fetched{}
	}
	if was := s.theirs.of[address]; was != nil {
		s.theirs.size -= len(was.Data)
	}
	s.theirs.of[address] = f
	s.theirs.size += len(f.Data)
	for s.theirs.size > theirsMost || len(s.theirs.of) > 500 {
		oldest := ""
		for at, x := range s.theirs.of {
			if oldest == "" || x.at.Before(s.theirs.of[oldest].at) {
				oldest = at
			}
		}
		s.theirs.size -= len(s.theirs.of[oldest].Data)
		delete(s.theirs.of, oldest)
	}
}

// forgetTheirs lets go of all that was fetched.
func (s *Screens) forgetTheirs() {
	s.theirs.mu.Lock()
	defer s.theirs.mu.Unlock()
	s.theirs.of, s.theirs.size = nil, 0
}

// beside is what a card shows beside its words: a clip of theirs, the file it names, or what its box has for people without
// media of their own. Nothing is their lantern.
func (s *Screens) beside(ctx context.Context, card *output.Card, told output.Told, in *box.Box, o *box.Overlay, seed uint64) *Medium {
	if card.Clip && told.Person != "" {
		if m := s.clip(ctx, told.Person, card.ClipSeconds, seed, o); m != nil {
			return m
		}
	}
	if m := s.medium(ctx, card.Media, 0, o); m != nil {
		return m
	}
	cards := &box.Cards{}
	if in != nil {
		if does, ok := in.Do.(*box.Cards); ok {
			cards = does
		}
	}
	switch cards.Without {
	case "picture":
		return s.medium(ctx, cards.Picture, 0, o)
	case "film":
		return s.medium(ctx, cards.Film, 0, o)
	case "lantern":
		return nil
	}
	if told.Person == "" || len(told.Names) > 0 {
		return nil
	}
	return s.face(ctx, told.Person, told.Face)
}

// face is the picture that somebody's platform has of them; address is where it is, as far as it was told.
func (s *Screens) face(ctx context.Context, account, address string) *Medium {
	ctx, cancel := context.WithTimeout(ctx, faceWithin)
	defer cancel()
	if address == "" {
		address, _ = s.cfg.Elsewhere.Picture(ctx, account)
	}
	if !strings.HasPrefix(address, "https://") && !strings.HasPrefix(address, "http://") {
		return nil
	}
	f, err := s.fetch(ctx, address, media.Picture, faceMost)
	if err != nil {
		return nil
	}
	return &Medium{Name: "their picture", Face: true, Path: "fetched/" + f.ID, Kind: string(f.Info.Kind), Type: f.Info.Type, Wide: f.Info.Width, High: f.Info.Height, Gain: 1}
}

// clip is a clip of somebody's, chosen by chance among those that are short enough; the same seed chooses the same.
func (s *Screens) clip(ctx context.Context, account string, most float64, seed uint64, o *box.Overlay) *Medium {
	ctx, cancel := context.WithTimeout(ctx, clipWithin)
	defer cancel()
	if most == 0 {
		most = usualClip
	}
	list, err := s.cfg.Elsewhere.Clips(ctx, account)
	list = slices.DeleteFunc(list, func(c platform.Clip) bool { return c.Film == "" || c.Seconds > most })
	if err != nil || len(list) == 0 {
		return nil
	}
	c := list[rand.New(rand.NewPCG(seed, 0)).IntN(len(list))]
	f, err := s.fetch(ctx, c.Film, media.Film, clipMost)
	if err != nil || f.Info.Seconds > most {
		return nil
	}
	return &Medium{Name: "a clip of theirs", Path: "fetched/" + f.ID, Kind: string(f.Info.Kind), Type: f.Info.Type, Wide: f.Info.Width, High: f.Info.Height, Seconds: f.Info.Seconds, Gain: Gain(f.loud, loudest(o), 0)}
}
