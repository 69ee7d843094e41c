package stage

import (
	"time"

	"vividporch/core/event"
	"vividporch/core/fitting"
	"vividporch/core/output"
)

// hand works one fitting, or asks one platform, one thing after another. What a lamp does for a while it does until the next
// thing comes, and what was before the first of them it goes back to.
type hand struct {
	s    *Stage
	line chan task

	glows []output.Glow // that a lamp is still to be told, the one that is on first
	of    task          // what they belong to

	back *task // it goes back from
	was  string
	due  time.Time // when it goes back, or when the next glow comes
}

func (h *hand) work() {
	for {
		var now <-chan time.Time
		if !h.due.IsZero() {
			now = time.After(time.Until(h.due))
		}
		select {
		case <-h.s.ctx.Done():
			h.goBack()
			return
		case <-now:
			h.goesOn()
		case t := <-h.line:
			h.does(t)
		}
	}
}

// does does a thing, and says what became of it.
func (h *hand) does(t task) {
	if _, lasting := t.told.Do.(lasting); !lasting {
		if a, err := h.s.tell(h.s.ctx, t); err != nil {
			h.s.refused(t, err.Error())
		} else {
			h.done(t, t.told, a)
		}
		return
	}
	was, told := *h, t.told
	h.glows, h.due = nil, time.Time{}
	if l, ok := told.Do.(*output.Lamp); ok && t.By != nil {
		if _, itself := t.By.Does[l.Manner()]; !itself {
			h.glows, h.of = l.Glows(), t
			t = glowing(t, h.glows[0])
		}
	}
	a, err := h.s.tell(h.s.ctx, t)
	if err != nil { // what was on goes on
		*h = was
		h.s.refused(task{t.To, t.d, told}, err.Error())
		return
	}
	h.done(t, told, a)
	h.stays(t, a.was)
	if h.due.IsZero() && h.back == nil && was.back != nil && told.Manner() == output.GoOn && was.back.told.Manner() == output.Softer {
		h.back, h.was, h.due = was.back, was.was, was.due // it plays on, and gets louder when it was to
	}
}

// lasting is what is done for a while.
type lasting interface{ Lasts() time.Duration }

func (h *hand) done(t task, told output.Told, a answer) {
	o := outcome(t.d, told, a.said)
	o.Was = a.was
	h.s.cfg.Outcome(&event.ActDone{ActOutcome: o})
}

// stays sets how long what was done stays, and what comes then.
func (h *hand) stays(t task, was string) {
	lasts := t.told.Lasts()
	if len(h.glows) > 0 {
		lasts = h.glows[0].For
	}
	if t.By == nil || lasts == 0 { // it goes back by itself, or not at all
		h.back = nil
		return
	}
	if _, goes := t.By.Does[fitting.Back]; goes && h.back == nil {
		h.back, h.was = &t, was
	}
	if h.back != nil || len(h.glows) > 1 {
		h.due = time.Now().Add(lasts)
	}
}

// goesOn tells the lamp its next colour, or goes back.
func (h *hand) goesOn() {
	h.due = time.Time{}
	if len(h.glows) < 2 {
		h.goBack()
		return
	}
	h.glows = h.glows[1:]
	t := glowing(h.of, h.glows[0])
	if _, err := h.s.tell(h.s.ctx, t); err != nil { // it was told; nothing is tried again
		h.goBack()
		return
	}
	h.stays(t, "")
}

func (h *hand) goBack() {
	if h.back != nil {
		h.s.goBack(*h.back, h.was)
	}
	h.back, h.glows, h.due = nil, nil, time.Time{}
}

// glowing is a thing with one colour of it alone.
func glowing(t task, g output.Glow) task {
	t.told.Do = &output.Lamp{Colour: g.Colour, Seconds: g.For.Seconds()}
	return t
}
