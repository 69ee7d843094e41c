package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"vividporch/api"
	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/demo"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/store/keys"
)

const (
	overlayPages = 200
	overlaysOpen = 8   // that they show
	overlayLines = 200 // chat lines that every page is told
	overlayCards = 60
	overlayFans  = 20 // cards that every page is told
	overlayMost  = 2 * time.Minute
)

// onScreen is how soon a card is at a page of an overlay after its event, and how fast lines of chat are at two hundred
// pages, beside a bare loop that writes as many frames to as many sockets.
func onScreen() ([]figure, error) {
	ctx, cancel := context.WithTimeout(context.Background(), overlayMost)
	defer cancel()
	st, err := store.Open(ctx, os.Getenv("PORCH_DATABASE"))
	if err != nil {
		return nil, err
	}
	defer st.Close()
	h, stop, err := shown(ctx, st)
	if err != nil {
		return nil, err
	}
	defer stop()
	for i := range overlaysOpen {
		if err := st.Keys.Make(ctx, keys.Key{Channel: h.ID, Of: keys.Overlay + fmt.Sprint("over-", i), Hash: api.Hash(fmt.Sprint("key-", h.ID, "-", i)), Made: time.Now()}); err != nil {
			return nil, err
		}
	}
	srv := httptest.NewServer(api.New(api.Config{House: h, Store: st}))
	defer srv.Close()

	one, err := watch(ctx, srv.URL+fmt.Sprint("/overlay/key-", h.ID, "-%d/live"), 1, true)
	if err != nil {
		return nil, err
	}
	took, err := follow(ctx, h, one, overlayCards)
	if err != nil {
		return nil, err
	}
	one.close()

	all, err := watch(ctx, srv.URL+fmt.Sprint("/overlay/key-", h.ID, "-%d/live"), overlayPages, true)
	if err != nil {
		return nil, err
	}
	defer all.close()
	fanned, err := follow(ctx, h, all, overlayFans)
	if err != nil {
		return nil, err
	}
	begin, want := time.Now(), int64(overlayPages*overlayLines)
	for i := range overlayLines {
		d := &happening.ChatSaid{Text: "that is the biggest dog whelk I have ever seen", MessageID: fmt.Sprint(i)}
		d.Person = event.Person{Platform: "quayside", ID: "regular", Login: "regular"}
		if _, err := h.Submit(ctx, []event.Event{{Door: "quayside", Source: "bench", ID: fmt.Sprint(begin.UnixNano(), "-line-", i), Type: d.Type(), Data: d}}); err != nil {
			return nil, err
		}
	}
	if !all.until(func(w *watching) bool { return w.lines.Load() >= want }) {
		return nil, fmt.Errorf("%d of %d lines came", all.lines.Load(), want)
	}
	lines := float64(want) / time.Since(begin).Seconds()
	bare, one200, err := bareSockets(ctx)
	if err != nil {
		return nil, err
	}
	return []figure{
		{what: "event → card at an overlay's page: p50", got: at(took, 0.5), unit: "ms"},
		{what: "event → card at an overlay's page: p95", got: at(took, 0.95), aim: 300, unit: "ms"},
		{what: fmt.Sprintf("bare loop: one frame at %d sockets", overlayPages), got: at(one200, 0.5), unit: "ms"},
		{what: fmt.Sprintf("event → card at all of %d pages of %d overlays: p50", overlayPages, overlaysOpen), got: at(fanned, 0.5), aim: 300, unit: "ms", alongside: fmt.Sprintf("%.1f of the loop", at(fanned, 0.5)/at(one200, 0.5))},
		{what: fmt.Sprintf("bare loop of frames to %d sockets", overlayPages), got: bare, unit: "/s"},
		{what: fmt.Sprintf("chat lines at %d pages of overlays, each logged first", overlayPages), got: lines, aim: 0.2 * bare, unit: "/s", least: true, alongside: fmt.Sprintf("%.2f of the loop", lines/bare)},
	}, nil
}

// follow has so many people follow, and tells how long each card took to be at the last page.
func follow(ctx context.Context, h *porch.House, w *watching, cards int) (took []time.Duration, err error) {
	for range cards {
		d := &happening.PersonFollowed{}
		at := time.Now()
		d.Person = event.Person{Platform: "quayside", ID: fmt.Sprint(at.UnixNano()), Login: fmt.Sprint("limpet", at.UnixNano())}
		want := w.shows.Load() + int64(len(w.conns))
		if _, err := h.Submit(ctx, []event.Event{{Door: "quayside", Source: "bench", ID: fmt.Sprint(at.UnixNano(), "-follow"), Type: d.Type(), Data: d}}); err != nil {
			return nil, err
		}
		if !w.until(func(w *watching) bool { return w.shows.Load() >= want }) {
			return nil, fmt.Errorf("%d of %d pages were told of a card", w.shows.Load()-want+int64(len(w.conns)), len(w.conns))
		}
		took = append(took, time.Duration(w.shown.Load()-at.UnixNano())) // not when the house has told whoever brought it
	}
	return took, nil
}

// shown is a house with a few overlays, on which a follow is a card that is over at once.
func shown(ctx context.Context, st *store.Store) (*porch.House, func(), error) {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, nil, err
	}
	s.Pace, s.Doors, s.Places, s.Overlays = housefile.Pace{}, nil, nil, nil
	for i := range overlaysOpen {
		s.Overlays = append(s.Overlays, box.Overlay{ID: fmt.Sprint("over-", i), Title: "Over the microscope", Wide: 1920, High: 1080, Boxes: []box.Box{{ID: "cards", Do: &box.Cards{Without: "lantern"}, At: box.At{Wide: 40, High: 30}}, {ID: "lines", Do: &box.Lines{}, At: box.At{Left: 50, Wide: 40, High: 30}}}})
	}
	s.Courtesy = []courtesy.Courtesy{{ID: "follow", On: true, When: "porch.person.followed", OffLine: true, Do: []output.Output{{ID: "card", Do: &output.Card{Seconds: 0.1}, Alternatives: []string{"{name} hangs up a lantern"}}}}}
	raw, err := json.Marshal(s)
	if err != nil {
		return nil, nil, err
	}
	return porch.Start(ctx, porch.Config{Store: st, Channel: fmt.Sprint("bench-screens-", time.Now().Unix()), Defaults: raw})
}

// watching are pages that count what they are told.
type watching struct {
	conns        []*websocket.Conn
	shows, lines atomic.Int64
	shown        atomic.Int64 // when the last one came, in Unix nanoseconds
}

// watch opens so many pages. With answers the first of each overlay tells that what it is to show is over.
func watch(ctx context.Context, at string, pages int, answers bool) (*watching, error) {
	w := &watching{}
	var ready sync.WaitGroup
	for i := range pages {
		conn, _, err := websocket.Dial(ctx, "ws"+strings.Replace(at, "%d", fmt.Sprint(i%overlaysOpen), 1)[len("http"):], nil)
		if err != nil {
			return nil, err
		}
		conn.SetReadLimit(1 << 20)
		if err := conn.Write(ctx, websocket.MessageText, []byte(`{"hello":{}}`)); err != nil {
			return nil, err
		}
		w.conns = append(w.conns, conn)
		ready.Add(1)
		go w.read(ctx, conn, ready.Done, answers && i < overlaysOpen)
	}
	ready.Wait()
	return w, nil
}

func (w *watching) read(ctx context.Context, conn *websocket.Conn, stands func(), answers bool) {
	for {
		_, raw, err := conn.Read(ctx)
		if err != nil {
			return
		}
		switch {
		case bytes.HasPrefix(raw, []byte(`{"do":"stand"`)):
			stands()
		case bytes.HasPrefix(raw, []byte(`{"do":"line"`)):
			w.lines.Add(1)
		case bytes.HasPrefix(raw, []byte(`{"do":"show"`)):
			w.shown.Store(time.Now().UnixNano())
			var f struct{ Show string }
			if json.Unmarshal(raw, &f) == nil && answers {
				conn.Write(ctx, websocket.MessageText, fmt.Appendf(nil, `{"begun":%q,"seconds":0.1}`, f.Show))
				conn.Write(ctx, websocket.MessageText, fmt.Appendf(nil, `{"ended":%q}`, f.Show))
			}
			w.shows.Add(1)
		}
	}
}

func (w *watching) until(ok func(*watching) bool) bool {
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(200 * time.Microsecond) {
		if ok(w) {
			return true
		}
	}
	return false
}

func (w *watching) close() {
	for _, c := range w.conns {
		c.CloseNow()
	}
}

// bareSockets is how many frames of a line of chat a second come to as many sockets from a loop that writes to one after the
// other, and how long one frame takes to be at all of them.
func bareSockets(ctx context.Context) (perSecond float64, one []time.Duration, err error) {
	line := []byte(`{"do":"line","line":{"id":1795886908743,"sort":"viewers","platform":"quayside","mark":"Q","name":"regular","tint":3,"text":"that is the biggest dog whelk I have ever seen"}}`)
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	conns := make(chan *websocket.Conn, overlayPages)
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		conn, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		if _, _, err := conn.Read(r.Context()); err != nil { // its hello
			return
		}
		conns <- conn
		conn.Write(r.Context(), websocket.MessageText, []byte(`{"do":"stand"}`))
		<-ctx.Done()
	}))
	defer srv.Close()
	w, err := watch(ctx, srv.URL, overlayPages, false)
	if err != nil {
		return 0, nil, err
	}
	defer w.close()
	var list []*websocket.Conn
	for range overlayPages {
		list = append(list, <-conns)
	}
	told := func(times int) (time.Duration, error) {
		begin, want := time.Now(), w.lines.Load()+int64(times*len(list))
		for range times {
			for _, c := range list {
				if err := c.Write(ctx, websocket.MessageText, line); err != nil {
					return 0, err
				}
			}
		}
		if !w.until(func(w *watching) bool { return w.lines.Load() >= want }) {
			return 0, fmt.Errorf("%d of %d frames came", w.lines.Load(), want)
		}
		return time.Since(begin), nil
	}
	for range overlayFans {
		d, err := told(1)
		if err != nil {
			return 0, nil, err
		}
		one = append(one, d)
	}
	all, err := told(overlayLines)
	return float64(overlayPages*overlayLines) / all.Seconds(), one, err
}
