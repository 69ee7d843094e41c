package standin

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"
)

// FittingKey is what the lamp, the scenes and the player want to be shown.
const FittingKey = "the-key-hangs-under-the-oar"

// Stage is what stands about the boathouse: a lamp over the bench, the scenes of the streaming software, and a player
// for sounds, films, speech and music. Each has a tongue of its own, as such things have, and shows what it was told; what is
// told at /boathouse/stage/… needs none.
type Stage struct {
	mu    sync.Mutex
	deeds map[string][]Deed
	dark  bool // does not answer as it should
	clock func() time.Time

	glow   string // the lamp's colour, "#rrggbb"
	scene  string
	rests  bool // the music
	volume int  // percent
}

// ServeHTTP takes what a fitting is told.
func (st *Stage) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	t, ok := read(w, r, "")
	if !ok {
		return
	}
	st.mu.Lock()
	defer st.mu.Unlock()
	if why := st.did(r.PathValue("fitting"), t); why != "" {
		answer(w, http.StatusServiceUnavailable, map[string]string{"reason": why})
		return
	}
	answer(w, http.StatusOK, map[string]string{})
}

// SetDark cuts the power, or brings it back.
func (st *Stage) SetDark(on bool) {
	st.mu.Lock()
	defer st.mu.Unlock()
	st.dark = on
}

// StageState is the stage on the street's page.
type StageState struct {
	Dark     bool              `json:"dark"`
	Fittings map[string][]Deed `json:"fittings"` // newest last
}

// State is what the fittings were told.
func (st *Stage) State() StageState {
	st.mu.Lock()
	defer st.mu.Unlock()
	out := StageState{Dark: st.dark, Fittings: map[string][]Deed{}}
	for name, list := range st.deeds {
		out.Fittings[name] = slices.Clone(list)
	}
	return out
}

const unlit = "#000000"

// did notes what a fitting was told, and says why it does not do it. The lock is held.
func (st *Stage) did(name string, t told) (why string) {
	d := Deed{At: st.clock().UTC(), told: t}
	if st.dark {
		d.Refused = "the power is off"
	}
	if st.deeds == nil {
		st.deeds = map[string][]Deed{}
	}
	st.deeds[name] = append(st.deeds[name][max(0, len(st.deeds[name])-19):], d)
	return d.Refused
}

// lamp is the bench lamp: PUT …/glow with {"rgb"} or {"hex"}, under its key.
func (st *Stage) lamp(w http.ResponseWriter, r *http.Request) {
	var b struct {
		RGB []uint8 `json:"rgb"`
		Hex string  `json:"hex"`
		Try bool    `json:"try"`
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, 64<<10))
	switch {
	case r.Header.Get("Lamp-Key") != FittingKey:
		answer(w, http.StatusForbidden, map[string]any{"lit": false, "because": "that is not its key"})
		return
	case err != nil || json.Unmarshal(body, &b) != nil || len(b.RGB) != 3 && len(b.Hex) != 7:
		answer(w, http.StatusBadRequest, map[string]any{"lit": false, "because": "that is no colour"})
		return
	}
	if len(b.RGB) == 3 {
		const digits = "0123456789abcdef"
		b.Hex = "#"
		for _, c := range b.RGB {
			b.Hex += string(digits[c>>4]) + string(digits[c&15])
		}
	}
	st.mu.Lock()
	defer st.mu.Unlock()
	if why := st.did("bench-lamp", told{Effect: "lamp", Colour: b.Hex, Try: b.Try}); why != "" {
		answer(w, http.StatusOK, map[string]any{"lit": false, "because": why}) // such things answer 200 to all
		return
	}
	before := st.glow
	if before == "" {
		before = unlit
	}
	st.glow = b.Hex
	answer(w, http.StatusOK, map[string]any{"lit": true, "before": before})
}

// spoken serves a fitting over a WebSocket: hello greets, and each message has its answer.
func (st *Stage) spoken(hello func(context.Context, *websocket.Conn, *http.Request) bool, hears func(map[string]any) map[string]any) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		conn, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		defer conn.CloseNow()
		if !hello(r.Context(), conn, r) {
			conn.Close(4403, "not known here")
			return
		}
		for {
			var m map[string]any
			if wsjson.Read(r.Context(), conn, &m) != nil {
				return
			}
			st.mu.Lock()
			says := hears(m)
			st.mu.Unlock()
			if wsjson.Write(r.Context(), conn, map[string]any{"news": "the kettle is on"}) != nil || wsjson.Write(r.Context(), conn, says) != nil { // of other things, too
				return
			}
		}
	}
}

// scenes are the scenes of the streaming software: they ask a riddle first.
func (st *Stage) scenes() http.HandlerFunc {
	return st.spoken(func(ctx context.Context, conn *websocket.Conn, _ *http.Request) bool {
		riddle, pinch := rand.Text(), rand.Text()
		if wsjson.Write(ctx, conn, map[string]any{"riddle": riddle, "pinch": pinch}) != nil {
			return false
		}
		var m struct{ Answer string }
		if wsjson.Read(ctx, conn, &m) != nil {
			return false
		}
		hash := func(s string) string {
			sum := sha256.Sum256([]byte(s))
			return base64.StdEncoding.EncodeToString(sum[:])
		}
		if m.Answer != hash(hash(FittingKey+pinch)+riddle) {
			wsjson.Write(ctx, conn, map[string]any{"come": "another day"})
			return false
		}
		return wsjson.Write(ctx, conn, map[string]any{"come": "in"}) == nil
	}, func(m map[string]any) map[string]any {
		scene, _ := m["show"].(string)
		switch why := st.did("scenes", told{Effect: "scene", Scene: scene, Try: m["try"] == true}); {
		case why != "":
			return map[string]any{"note": m["note"], "shown": false, "why": why}
		case scene == "":
			return map[string]any{"note": m["note"], "shown": false, "why": "there is no scene without a name"}
		}
		before := st.scene
		st.scene = scene
		return map[string]any{"note": m["note"], "shown": true, "before": before}
	})
}

// player plays sounds, films, speech and music.
func (st *Stage) player() http.HandlerFunc {
	return st.spoken(func(_ context.Context, _ *websocket.Conn, r *http.Request) bool {
		return r.Header.Get("Authorization") == "Bearer "+FittingKey
	}, func(m map[string]any) map[string]any {
		text := func(k string) string { v, _ := m[k].(string); return v }
		level, _ := m["level"].(float64)
		stood := "plays"
		if st.rests {
			stood = "rests"
		}
		if st.volume != 0 {
			stood += " softly"
		}
		no := func(why string) map[string]any { return map[string]any{"call": m["call"], "ok": false, "no": why} }
		t, does := told{Effect: "music"}, func() {}
		switch {
		case m["play"] != nil && m["picture"] == true:
			t = told{Effect: "film", Media: text("play"), Loud: int(level)}
		case m["play"] != nil:
			t = told{Effect: "sound", Media: text("play"), Loud: int(level)}
		case m["say"] != nil:
			t = told{Effect: "speak", Text: text("say"), Voice: text("voice"), Loud: int(level)}
		case m["music"] != nil:
			rests := text("music") == "rest"
			t.Act = map[bool]string{true: "pause", false: "go on"}[rests]
			does = func() { st.rests = rests }
		case m["volume"] != nil:
			n, _ := m["volume"].(float64)
			t.Act, t.Percent = "softer", int(n)
			does = func() { st.volume = int(n) }
		case m["as"] != nil:
			t.Act, t.Text = "back", text("as")
			does = func() {
				st.rests = strings.HasPrefix(text("as"), "rests")
				if !strings.HasSuffix(text("as"), "softly") {
					st.volume = 0
				}
			}
		default:
			return no("it does not know what is meant")
		}
		t.Try = m["try"] == true
		if why := st.did("player", t); why != "" {
			return no(why)
		}
		does()
		return map[string]any{"call": m["call"], "ok": true, "stood": stood}
	})
}
