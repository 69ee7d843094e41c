// Package onscreen carries what is shown on the overlays to the pages that show it, and back what became of it. The core
// decides what is released ([Screens.Show]); a page that joins tells what it knows ([Hello]) and is told how its
// overlay stands. Whatever number of pages is open, what one of them tells first counts.
//
// The pages themselves come and go as they like: they are reached over a socket that the edge holds ([Page]).
package onscreen

import (
	"context"
	"encoding/json"
	"log/slog"
	"slices"
	"sync"
	"time"

	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/overlay"
	"vividporch/core/room"
	"vividporch/porch/aloud"
	"vividporch/store/tables"
)

// Limits of the overlays.
const (
	boardEvery   = 250 * time.Millisecond // least time between two looks at what boxes show
	comesBack    = 5 * time.Second        // so long pages have to come back after a start
	framesAhead  = 256                    // frames a slow page may lag behind
	MostPages    = 50                     // pages of one overlay
	MostSeconds  = 180                    // that anything stays
	linesKept    = 60                     // lines of chat that a page begins with
	mediaWithin  = 5 * time.Second        // to look a file up
	sampleEnough = 10 * time.Minute       // a standing sample goes by itself after that
)

// Config is what the overlays need of the house.
type Config struct {
	Plan      func() *room.Plan
	Now       func() time.Time
	Tell      func(event.Data)
	Look      func(context.Context, func(*house.State)) error
	Media     func(ctx context.Context, name string) (tables.Medium, error) // without the file itself
	Speak     func(ctx context.Context, text, voice string) (aloud.Spoken, error)
	Elsewhere Elsewhere
	Log       *slog.Logger
}

// Screens are the overlays of a running house.
type Screens struct {
	cfg    Config
	shows  chan show
	dirty  chan struct{}
	anew   chan struct{} // the settings changed
	theirs fetched
	emotes emotes
	words  chan word // to be said in the ear

	mu    sync.Mutex
	of    map[string]*screen // by the overlay's id
	chat  chatRing
	ears  map[chan []byte]bool
	begun bool // the time that pages have to come back after a start is over
}

// show is something that is released for an overlay.
type show struct {
	overlay string
	frame   Shown
	release overlay.Release
	name    string // of whom it is about
	only    *Page  // for this page alone
}

// screen is one overlay's pages.
type screen struct {
	pages   map[*Page]bool
	open    bool // as the core was told
	on      string
	onSince time.Time            // it began; zero: not yet
	whose   []string             // accounts that what is on is about
	over    map[string]bool      // what was told to be over, lately
	board   map[string]string    // what its boxes show, as it was last told
	samples map[string]time.Time // boxes with a standing sample, until when
}

// Page is one page that shows an overlay. Frames are what it is to be told, each one JSON object; the channel closes once the page
// is not wanted any more.
type Page struct {
	Frames  <-chan []byte
	overlay string
	out     chan []byte
	s       *Screens
	gone    bool
}

// Hello is what a page knows as it joins.
type Hello struct {
	Shows []Known `json:"shows,omitempty"` // the last that it was told to show
	Line  int64   `json:"line,omitempty"`  // the last line of chat that it has
}

// Known is something that a page was told to show: for how many Seconds it had shown it when it was last seen. One that is
// not over and not On any more was cut off.
type Known struct {
	Show    string  `json:"show"`
	Seconds float64 `json:"seconds"`
	Left    float64 `json:"left,omitempty"` // seconds to go, of one that is on
	On      bool    `json:"on,omitempty"`
	Over    bool    `json:"over,omitempty"`
}

// New makes the overlays.
func New(cfg Config) *Screens {
	return &Screens{cfg: cfg, shows: make(chan show, 256), dirty: make(chan struct{}, 1), anew: make(chan struct{}, 1), words: make(chan word, mostWords), of: map[string]*screen{}}
}

// Run tells pages what is released and what their boxes show, until the context ends.
func (s *Screens) Run(ctx context.Context) {
	go s.speak(ctx)
	go s.keepBoards(ctx) // apart: a card does not wait for what numbers show
	go s.keepEmotes(ctx)
	back := time.NewTimer(comesBack)
	defer back.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case x := <-s.shows:
			go s.release(ctx, x) // what one overlay shows is waited for by no other; on one there is one at a time
		case <-back.C:
			s.missing(ctx)
		case <-s.anew:
			s.settled(ctx)
		}
	}
}

// keepBoards tells pages what their boxes show, now and then.
func (s *Screens) keepBoards(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-s.dirty:
			s.boards(ctx)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(boardEvery):
		}
	}
}

// Show takes what was released; it does not wait.
func (s *Screens) Show(d hall.Decision) {
	x := show{overlay: d.Place, name: d.Name}
	if json.Unmarshal(d.Body, &x.release) != nil {
		return
	}
	x.frame = Shown{Do: "show", Show: d.Line, Try: d.Try}
	s.mu.Lock()
	sc := s.screen(d.Place)
	sc.on, sc.onSince, sc.whose = d.Line, time.Time{}, d.Whom()
	s.mu.Unlock()
	select {
	case s.shows <- x:
	default: // the core takes it to be over when no page begins it
	}
}

// Stirred says that what boxes show may have changed; it does not wait.
func (s *Screens) Stirred() {
	select {
	case s.dirty <- struct{}{}:
	default:
	}
}

func (s *Screens) settle() {
	select {
	case s.anew <- struct{}{}:
	default:
	}
}

// screen is an overlay's; the lock is held.
func (s *Screens) screen(id string) *screen {
	if s.of[id] == nil {
		s.of[id] = &screen{pages: map[*Page]bool{}, over: map[string]bool{}, board: map[string]string{}, samples: map[string]time.Time{}}
	}
	return s.of[id]
}

// missing closes the overlays that were open before the start and whose pages have not come back.
func (s *Screens) missing(ctx context.Context) {
	var open map[string]overlay.Screen
	_ = s.cfg.Look(ctx, func(st *house.State) { open = screensOf(st) }) // a closed house shows nothing
	s.mu.Lock()
	defer s.mu.Unlock()
	s.begun = true
	for id, was := range open {
		if was.Open && len(s.screen(id).pages) == 0 {
			closed := &event.OverlayClosed{Overlay: id}
			if was.On != nil {
				closed.Show = was.On.ID
				if !was.On.Begun.IsZero() { // nobody knows for how long it was seen
					closed.Seconds = comesBack.Seconds()
				}
			}
			s.cfg.Tell(closed)
		}
	}
}

func screensOf(st *house.State) map[string]overlay.Screen {
	out := map[string]overlay.Screen{}
	for id := range room.Remembered[overlay.Memory](st.Rooms, "overlay").Screens {
		out[id] = overlay.ScreenOf(st.Rooms, id)
	}
	return out
}

// named is an overlay of the settings, or nil.
func (s *Screens) named(id string) *box.Overlay {
	all := s.cfg.Plan().Settings.Overlays
	if i := slices.IndexFunc(all, func(o box.Overlay) bool { return o.ID == id }); i >= 0 {
		return &all[i]
	}
	return nil
}

// Join lets a page in. It is nil when the overlay is not there, or has too many already.
func (s *Screens) Join(ctx context.Context, id string, hello Hello) *Page {
	o := s.named(id)
	if o == nil {
		return nil
	}
	var st overlay.Screen
	var board map[string]any
	if s.cfg.Look(ctx, func(state *house.State) {
		st = overlay.ScreenOf(state.Rooms, id)
		if st.On != nil {
			on := *st.On
			st.On = &on
		}
		board = overlay.Board(&state.State, state.Rooms, o, s.cfg.Plan(), s.cfg.Now())
	}) != nil {
		return nil
	}
	out := make(chan []byte, framesAhead)
	p := &Page{Frames: out, out: out, overlay: id, s: s}
	s.mu.Lock()
	defer s.mu.Unlock()
	sc := s.screen(id)
	if len(sc.pages) >= MostPages {
		return nil
	}
	first := len(sc.pages) == 0
	sc.pages[p] = true
	p.send(s.stands(o, board, sc, hello))
	if first {
		s.first(sc, p, id, st, hello)
	}
	return p
}

// first settles what was on an overlay with what its first page knows; the lock is held.
func (s *Screens) first(sc *screen, p *Page, id string, st overlay.Screen, hello Hello) {
	wait := 0.0 // what the page still shows of its own accord ends first
	for _, k := range hello.Shows {
		if k.On && (st.On == nil || k.Show != st.On.ID) {
			wait = max(wait, min(k.Left, MostSeconds))
		}
	}
	if on := st.On; on != nil {
		sc.on, sc.onSince, sc.whose = on.ID, on.Begun, on.Whom()
		at := slices.IndexFunc(hello.Shows, func(k Known) bool { return k.Show == on.ID })
		switch {
		case at < 0 && on.Begun.IsZero():
			s.again(id, on, p)
		case at < 0:
			s.ended(sc, id, on.ID, "the page was loaded anew")
		default:
			k := hello.Shows[at]
			if on.Begun.IsZero() {
				s.begins(sc, id, on.ID, k.Seconds+k.Left)
			}
			switch {
			case k.Over:
				s.ended(sc, id, on.ID, "")
			case !k.On:
				s.cfg.Tell(&event.OverlayClosed{Overlay: id, Show: on.ID, Seconds: max(k.Seconds, 0.001)})
				sc.on = ""
			}
		}
	}
	sc.open = true
	opens := func() { s.cfg.Tell(&event.OverlayOpened{Overlay: id}) }
	if wait == 0 {
		opens()
		return
	}
	time.AfterFunc(time.Duration(wait*float64(time.Second)), func() {
		s.mu.Lock()
		defer s.mu.Unlock()
		if len(sc.pages) > 0 {
			opens()
		}
	})
}

// again sends what is on an overlay to a page that knows nothing of it.
func (s *Screens) again(id string, on *overlay.Showing, p *Page) {
	x := show{overlay: id, name: on.Name, only: p, release: overlay.Release{Parts: on.Parts, Silent: on.Silent}, frame: Shown{Do: "show", Show: on.ID, Try: on.Try}}
	select {
	case s.shows <- x:
	default:
	}
}

// begins and ended tell the core once what pages tell; the lock is held.
func (s *Screens) begins(sc *screen, id, show string, seconds float64) {
	if sc.on != show || !sc.onSince.IsZero() {
		return
	}
	sc.onSince = time.Now()
	s.cfg.Tell(&event.ShowBegun{Overlay: id, Show: show, Seconds: min(max(seconds, 0), MostSeconds)})
}

func (s *Screens) ended(sc *screen, id, show, failed string) {
	if sc.on != show {
		return
	}
	sc.on, sc.onSince = "", time.Time{}
	s.cfg.Tell(&event.ShowEnded{Overlay: id, Show: show, Failed: event.Cut(failed, 300)})
}

// Begun is what a page tells once it shows something, which takes so many seconds.
func (p *Page) Begun(show string, seconds float64) {
	p.s.mu.Lock()
	defer p.s.mu.Unlock()
	p.s.begins(p.s.screen(p.overlay), p.overlay, show, seconds)
}

// Ended is what a page tells once it is over; failed is what of it could not be shown.
func (p *Page) Ended(show, failed string) {
	p.s.mu.Lock()
	defer p.s.mu.Unlock()
	p.s.ended(p.s.screen(p.overlay), p.overlay, show, failed)
}

// Leave takes a page away. What was on as the last one went is told with how long it had been.
func (p *Page) Leave() {
	p.s.mu.Lock()
	defer p.s.mu.Unlock()
	p.leave()
}

func (p *Page) leave() {
	sc := p.s.screen(p.overlay)
	if !sc.pages[p] {
		return
	}
	delete(sc.pages, p)
	p.gone = true
	close(p.out)
	if len(sc.pages) > 0 || !sc.open {
		return
	}
	sc.open = false
	closed := &event.OverlayClosed{Overlay: p.overlay, Show: sc.on}
	if !sc.onSince.IsZero() {
		closed.Seconds = max(time.Since(sc.onSince).Seconds(), 0.001)
	}
	sc.on, sc.onSince = "", time.Time{}
	p.s.cfg.Tell(closed)
}

// Shut sends the pages of an overlay away: its address is another one now, or none.
func (s *Screens) Shut(id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for p := range s.screen(id).pages {
		p.send(frame(map[string]string{"do": "gone"}))
		p.leave()
	}
}

// Pages is how many pages show an overlay.
func (s *Screens) Pages(id string) int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.screen(id).pages)
}

// send hands a frame to a page; one that is too slow is sent away and comes back. The lock is held.
func (p *Page) send(f []byte) {
	if p.gone || f == nil {
		return
	}
	select {
	case p.out <- f:
	default:
		p.leave()
	}
}

// all hands a frame to all pages of an overlay; the lock is held.
func (sc *screen) all(f []byte) {
	for p := range sc.pages {
		p.send(f)
	}
}

func frame(v any) []byte {
	raw, err := json.Marshal(v)
	if err != nil {
		return nil
	}
	return raw
}
