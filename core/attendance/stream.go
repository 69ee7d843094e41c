// Package attendance knows when a stream is on. A stream belongs to the channel:
// it opens with the first platform, goes on through a drop shorter than the grace
// time, and ends when the last platform has been gone for that long.
package attendance

import (
	"slices"
	"time"
)

// DefaultGrace is how long every platform may be gone before a stream has ended.
const DefaultGrace = 10 * time.Minute

// Stream is the channel's current or last stream. The zero value is a channel
// that has never streamed.
type Stream struct {
	Number    int                  `json:"number"`          // from 1; counts a channel's streams
	Opened    time.Time            `json:"opened"`          // by the clock of the platform that opened it
	Gone      time.Time            `json:"gone,omitzero"`   // since when no platform is live; zero while one is
	Ended     bool                 `json:"ended,omitempty"` // the grace time has passed, or a member closed it
	Declared  bool                 `json:"declared,omitempty"`
	Platforms map[string]*Platform `json:"platforms,omitempty"`
}

// Platform is what one platform tells of the stream.
type Platform struct {
	Live     bool      `json:"live"`
	Since    time.Time `json:"since"`
	Until    time.Time `json:"until,omitzero"` // when it went
	Title    string    `json:"title,omitempty"`
	Category string    `json:"category,omitempty"`
	URL      string    `json:"url,omitempty"`
	Viewers  int64     `json:"viewers,omitempty"`

	First     time.Time `json:"first,omitzero"`      // it went live in this stream for the first time: where its recording begins
	Recording string    `json:"recording,omitempty"` // its address
}

// Live reports whether a stream is on, a short drop included.
func (s *Stream) Live() bool { return s.Number > 0 && !s.Ended }

// Continues reports whether a platform that comes up at t continues the stream
// instead of opening a new one. It may do so even after the house, told late,
// had taken the stream for ended.
func (s *Stream) Continues(t time.Time, grace time.Duration) bool {
	switch {
	case s.Number == 0:
		return false
	case s.Gone.IsZero():
		return !s.Ended
	case s.Declared && s.Ended:
		return false
	}
	return t.Sub(s.Gone) < grace
}

// EndsAt is when the grace time runs out; false while a platform is live or
// after the end.
func (s *Stream) EndsAt(grace time.Duration) (time.Time, bool) {
	if !s.Live() || s.Gone.IsZero() {
		return time.Time{}, false
	}
	return s.Gone.Add(grace), true
}

// Begin starts the next stream at t.
func (s *Stream) Begin(number int, t time.Time) { *s = Stream{Number: number, Opened: t} }

// Up notes that a platform is live since t with these words.
func (s *Stream) Up(platform string, t time.Time, title, category, url string) {
	if s.Platforms == nil {
		s.Platforms = map[string]*Platform{}
	}
	p := s.Platforms[platform]
	if p == nil {
		p = &Platform{}
		s.Platforms[platform] = p
	}
	if !p.Live {
		p.Since = t
	}
	if p.First.IsZero() {
		p.First = t
	}
	p.Live = true
	s.Tell(platform, title, category, url)
	s.Gone, s.Ended = time.Time{}, false
}

// Records notes where the recording is that a platform keeps; "" changes nothing.
func (s *Stream) Records(platform, address string) {
	if p := s.Platforms[platform]; p != nil && address != "" {
		p.Recording = address
	}
}

// Tell notes a platform's title, category and address; empty ones change nothing.
func (s *Stream) Tell(platform, title, category, url string) {
	p := s.Platforms[platform]
	if p == nil {
		return
	}
	for dst, v := range map[*string]string{&p.Title: title, &p.Category: category, &p.URL: url} {
		if v != "" {
			*dst = v
		}
	}
}

// Down notes that a platform is gone at t.
func (s *Stream) Down(platform string, t time.Time) {
	p := s.Platforms[platform]
	if p == nil || !p.Live {
		return
	}
	p.Live, p.Viewers, p.Until = false, 0, t
	for _, o := range s.Platforms {
		if o.Live {
			return
		}
	}
	s.Gone = t
}

// End closes the stream at t.
func (s *Stream) End(t time.Time) {
	if s.Gone.IsZero() {
		s.Gone = t
	}
	for _, p := range s.Platforms {
		p.Live, p.Viewers = false, 0
	}
	s.Ended = true
}

// OnTo lists the platforms that are live, or went with the last one, at most within ago
// of it; in the order of their names.
func (s *Stream) OnTo(within time.Duration) []string {
	var out []string
	for name, p := range s.Platforms {
		if p.Live || !s.Gone.IsZero() && s.Gone.Sub(p.Until) < within {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// LivePlatform reports whether one platform is live.
func (s *Stream) LivePlatform(name string) bool {
	p := s.Platforms[name]
	return p != nil && p.Live
}
