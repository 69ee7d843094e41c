package onscreen

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"math"
	"strings"
	"sync"
	"testing"
	"time"

	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/room"
	"vividporch/core/trouble"
	"vividporch/porch/aloud"
	"vividporch/store/tables"
	"vividporch/voices/platform"
)

// stage is overlays on a house that is only a state, and what they told it.
type stage struct {
	*Screens
	mu    sync.Mutex
	state *house.State
	told  []event.Data
}

func begin(t *testing.T) *stage {
	t.Helper()
	set := housetest.Base()
	set.Overlays = []box.Overlay{{ID: "over", Title: "Over the microscope", Wide: 1920, High: 1080, Boxes: []box.Box{{ID: "cards", Do: &box.Cards{}, At: box.At{Wide: 40, High: 30}}}}}
	plan, faults := house.Ready(set, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	s := &stage{state: house.NewState()}
	s.Screens = New(Config{Plan: func() *room.Plan { return plan }, Now: time.Now, Log: slog.New(slog.DiscardHandler),
		Tell: func(d event.Data) { s.mu.Lock(); s.told = append(s.told, d); s.mu.Unlock() },
		Look: func(_ context.Context, f func(*house.State)) error { f(s.state); return nil },
		Media: func(context.Context, string) (tables.Medium, error) {
			return tables.Medium{}, errors.New("nothing is on the shelf")
		},
		Speak: func(context.Context, string, string) (aloud.Spoken, error) {
			return aloud.Spoken{}, errors.New("nobody speaks")
		},
		Elsewhere: Elsewhere{Picture: func(context.Context, string) (string, error) { return "", nil },
			Clips:  func(context.Context, string) ([]platform.Clip, error) { return nil, nil },
			Emotes: func(context.Context, string) ([]platform.Emote, error) { return nil, nil },
			Get:    func(context.Context, string, int64) ([]byte, error) { return nil, errors.New("nothing is there") }}})
	go s.Run(t.Context())
	return s
}

// lives lets something own be lived by the state, with what was decided.
func (s *stage) lives(d event.Data, ds ...hall.Decision) {
	now := time.Now()
	s.state.Evolve(&event.Event{Seq: s.state.Seq + 1, Type: d.Type(), Time: now, Logged: now, Data: d}, ds)
}

// types are those of what was told, in order.
func (s *stage) types() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	var out []string
	for _, d := range s.told {
		out = append(out, strings.TrimPrefix(d.Type(), "porch.overlay."))
	}
	s.told = nil
	return strings.Join(out, " ")
}

func hears(t *testing.T, p *Page, do string) map[string]any {
	t.Helper()
	for {
		select {
		case f, ok := <-p.Frames:
			if !ok {
				t.Fatalf("the page was sent away before %q", do)
			}
			var m map[string]any
			if json.Unmarshal(f, &m) == nil && m["do"] == do {
				return m
			}
		case <-time.After(5 * time.Second):
			t.Fatalf("never %q", do)
		}
	}
}

// card is a card that is released for the overlay.
func (s *stage) card(t *testing.T, id string) hall.Decision {
	t.Helper()
	told := output.Told{Effect: output.KindCard, Text: "limpet_lena follows", Do: &output.Card{Seconds: 4}}
	waits := hall.Decision{Kind: hall.Kind(output.KindCard), Output: "card", Courtesy: "thank", Line: id, Platform: output.Overlay, Person: "quayside:1", Name: "limpet_lena", Saying: hall.Saying{Body: told.JSON()}}
	s.lives(&event.Woke{}, waits)
	body, _ := json.Marshal(overlay.Release{Parts: []overlay.Part{{Line: id, Output: "card", Box: "cards", Told: told}}, Seconds: 4, Last: true})
	d := hall.Decision{Room: "overlay", Kind: overlay.Show, Output: "over", Courtesy: "thank", Line: id, Place: "over", Person: "quayside:1", Name: "limpet_lena", Saying: hall.Saying{Body: body}}
	s.lives(&event.Woke{}, d)
	return d
}

func TestWhateverNumberOfPagesIsOpenOneCounts(t *testing.T) {
	s := begin(t)
	one, two := s.Join(t.Context(), "over", Hello{}), s.Join(t.Context(), "over", Hello{})
	s.lives(&event.OverlayOpened{Overlay: "over"})
	if got := s.types(); got != "opened" {
		t.Fatalf("told %q", got)
	}
	s.Show(s.card(t, "7.thank"))
	for _, p := range []*Page{one, two} {
		if f := hears(t, p, "show"); f["show"] != "7.thank" || f["seconds"] != 4.0 {
			t.Errorf("%v", f)
		}
		p.Begun("7.thank", 4)
	}
	one.Ended("7.thank", "")
	two.Ended("7.thank", "")
	one.Leave()
	two.Leave()
	if got := s.types(); got != "begun ended closed" {
		t.Errorf("told %q", got)
	}
	if s.Join(t.Context(), "nowhere", Hello{}) != nil {
		t.Error("a page joined an overlay that is not there")
	}
}

func TestAPageThatComesBackTellsWhatItKnows(t *testing.T) {
	for name, c := range map[string]struct {
		hello Hello
		want  string
		again bool
	}{
		"nothing: it is shown":            {Hello{}, "opened", true},
		"it still shows it":               {Hello{Shows: []Known{{Show: "7.thank", On: true, Seconds: 1, Left: 3}}}, "begun opened", false},
		"it has shown it":                 {Hello{Shows: []Known{{Show: "7.thank", Over: true, Seconds: 4}}}, "begun ended opened", false},
		"a reload cut it off as it began": {Hello{Shows: []Known{{Show: "7.thank", Seconds: 0.3}}}, "begun closed opened", false},
	} {
		t.Run(name, func(t *testing.T) {
			s := begin(t)
			s.lives(&event.OverlayOpened{Overlay: "over"})
			s.card(t, "7.thank") // released, and then the house or the page was gone
			p := s.Join(t.Context(), "over", c.hello)
			if got := s.types(); got != c.want {
				t.Errorf("told %q, want %q", got, c.want)
			}
			if c.again {
				if f := hears(t, p, "show"); f["show"] != "7.thank" {
					t.Errorf("%v", f)
				}
			}
		})
	}
}

func TestTheCardOfWhoeverIsForgottenIsTakenOffAtOnce(t *testing.T) {
	s := begin(t)
	p := s.Join(t.Context(), "over", Hello{})
	s.lives(&event.OverlayOpened{Overlay: "over"})
	d := s.card(t, "7.thank")
	s.Show(d)
	hears(t, p, "show")
	p.Begun("7.thank", 4)
	s.ForgetTheirs([]string{"quayside:9"}) // somebody else
	s.lives(&event.BookForgotten{Keys: []string{"quayside:9"}, Names: []string{"mossy_mare"}})
	if on := overlay.ScreenOf(s.state.Rooms, "over").On; on == nil {
		t.Fatal("it was taken off for somebody else")
	}
	s.ForgetTheirs(d.Whom())
	s.lives(&event.BookForgotten{Keys: d.Whom(), Names: []string{"limpet_lena"}})
	if f := hears(t, p, "drop"); f["show"] != "7.thank" {
		t.Errorf("%v", f)
	}
	if on := overlay.ScreenOf(s.state.Rooms, "over").On; on != nil {
		t.Errorf("the house still takes it to be on: %+v", on)
	}
	p.Ended("7.thank", "") // the page's late word tells nobody anything
	if got := s.types(); got != "opened begun" {
		t.Errorf("told %q", got)
	}
}

func TestANewAddressSendsPagesAwayWithoutAWord(t *testing.T) {
	s := begin(t)
	p := s.Join(t.Context(), "over", Hello{})
	s.Shut("over")
	hears(t, p, "gone")
	if _, open := <-p.Frames; open || s.Pages("over") != 0 {
		t.Error("the page is still there")
	}
	p.Begun("7.thank", 3) // late words of a page that is gone
	p.Leave()
	if got := s.types(); got != "opened closed" {
		t.Errorf("told %q", got)
	}
}

func spoke(id, account, text string) *event.Event {
	d := &happening.ChatSaid{Text: text, MessageID: id}
	d.Person = event.Person{Platform: "quayside", ID: account, Login: "limpet" + account}
	now := time.Now()
	return &event.Event{Type: d.Type(), Time: now, Logged: now, Data: d}
}

func TestLinesThatAreTakenOutAreGone(t *testing.T) {
	s := begin(t)
	p := s.Join(t.Context(), "over", Hello{})
	plan := s.cfg.Plan()
	for i, text := range []string{"hello", "is it moving?", "buy my shells"} {
		s.Lived(spoke(string(rune('a'+i)), string(rune('1'+i)), text), nil, plan)
	}
	first := hears(t, p, "line")["line"].(map[string]any)
	if first["text"] != "hello" || first["mark"] != "Q" || first["sort"] != "viewers" {
		t.Errorf("%v", first)
	}
	removed := &happening.ChatRemoved{MessageID: "a"}
	removed.Person = event.Person{Platform: "quayside", ID: "1"}
	s.Lived(&event.Event{Type: removed.Type(), Data: removed}, nil, plan)
	if ids := hears(t, p, "unline")["ids"].([]any); len(ids) != 1 || ids[0] != first["id"] {
		t.Errorf("%v, want %v", ids, first["id"])
	}
	s.Forget([]string{"quayside:3"})
	hears(t, p, "unline")
	again := s.Join(t.Context(), "over", Hello{})
	if lines := hears(t, again, "stand")["lines"].([]any); len(lines) != 1 || lines[0].(map[string]any)["text"] != "is it moving?" {
		t.Errorf("a page begins with %v", lines)
	}
}

func TestALineThatIsHeldStandsNowhereUntilItIsAllowed(t *testing.T) {
	s := begin(t)
	p := s.Join(t.Context(), "over", Hello{})
	plan := s.cfg.Plan()
	ev := spoke("a", "1", "buy my shells")
	body, _ := json.Marshal(guard.Touch{ID: "7.guard.line", Act: trouble.Hold, Ours: true, Said: ev.Data.(*happening.ChatSaid)})
	s.Lived(ev, []hall.Decision{{Room: "guard", Kind: guard.Touched, Output: "hold", Line: "7.guard.line", Saying: hall.Saying{Body: body}}}, plan)
	s.Lived(spoke("b", "2", "is it moving?"), nil, plan)
	if got := hears(t, p, "line")["line"].(map[string]any)["text"]; got != "is it moving?" {
		t.Errorf("%v stands there", got)
	}
	let, _ := json.Marshal(map[string]any{"allowed": true, "said": ev.Data})
	d := &event.HeldDecided{Held: "7.guard.line", Allow: true}
	s.Lived(&event.Event{Type: d.Type(), Data: d}, []hall.Decision{{Room: "guard", Kind: guard.Let, Line: "7.guard.line", Saying: hall.Saying{Body: let}}}, plan)
	if got := hears(t, p, "line")["line"].(map[string]any)["text"]; got != "buy my shells" {
		t.Errorf("%v comes once it is allowed", got)
	}
}

func TestASlowPageIsSentAwayAndHoldsNobodyUp(t *testing.T) {
	s := begin(t)
	slow := s.Join(t.Context(), "over", Hello{})
	for range framesAhead + 10 {
		s.Lived(spoke("", "1", "hello"), nil, s.cfg.Plan())
	}
	if s.Pages("over") != 0 {
		t.Error("it is still there")
	}
	for range slow.Frames { // and its channel ends
	}
}

func measured(lufs, peak float64) aloud.Loudness {
	return aloud.Loudness{LUFS: lufs, Peak: peak, Known: true}
}

// What comes out is as loud as it should be: 20 dB apart on the shelf is 0 apart here, peaks stay below the ceiling, and half as
// loud is 10 LU less.
func TestFilesAreLevelledWithoutCuttingTheirPeaks(t *testing.T) {
	db := func(gain float64) float64 { return 20 * math.Log10(gain) }
	near, far := measured(-14, -3), measured(-34, -23)
	if got := (-14 + db(Gain(near, -16, 0))) - (-34 + db(Gain(far, -16, 0))); math.Abs(got) > 0.01 {
		t.Errorf("they come out %.2f LU apart", got)
	}
	for name, c := range map[string]struct {
		of     aloud.Loudness
		target float64
		loud   int
		want   float64
	}{
		"half as loud":           {near, -16, 50, -12},
		"as loud as it may be":   {near, -16, 100, -2},
		"its peaks come first":   {measured(-30, -4), -16, 0, 3},
		"nearly silent stays so": {measured(-60, -50), -16, 0, mostGain},
		"nobody measured it":     {aloud.Loudness{}, -16, 0, 0},
	} {
		if got := db(Gain(c.of, c.target, c.loud)); math.Abs(got-c.want) > 0.01 {
			t.Errorf("%s: %.2f dB, want %.2f", name, got, c.want)
		}
	}
}

func TestAnEmoteStandsForItsWholeWordOnly(t *testing.T) {
	e := emotes{of: map[string]map[string]string{"quayside": {":limpet:": "fetched/1", "潮": "fetched/2"}}}
	got := e.in("ö :limpet: :limpet:s 潮", "quayside")
	if len(got) != 2 || got[0] != (Emote{2, 10, "fetched/1"}) || got[1] != (Emote{21, 22, "fetched/2"}) {
		t.Errorf("%+v", got)
	}
	if got := e.in(":limpet:", "fernlight"); got != nil {
		t.Errorf("on another platform it is %+v", got)
	}
}
