package porch

import (
	"context"
	"errors"
	"strings"
	"time"

	"vividporch/core/count"
	"vividporch/core/day"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/profile"
	"vividporch/porch/aloud"
	"vividporch/porch/onscreen"
	"vividporch/store/log"
	"vividporch/voices/platform"
	"vividporch/voices/stage"
)

// letOut hands committed effects to the voices. The decision's own commit is the
// mark that the line is about to be said.
func (h *House) letOut(b *log.Batch) {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			if voice := h.voices[d.Way()]; voice != nil {
				voice(d, b.Entries[i].Event.Logged)
				continue
			}
			switch d.Kind {
			case overlay.Show:
				h.Screens.Show(d)
			case hall.Ask:
				h.asker.Ask(h.plan.Load().Profile(d.Platform), d)
			case draw.Seal, draw.Unseal:
				h.Draws.Seal(d)
			}
		}
	}
}

// voicesOf are the voices of a house, by the way that things go out. What goes to a place is
// a job, made in one transaction with its decision; what is for the overlays waits in the core until one is free, and what
// comes back in is lived by the owner.
func (h *House) voicesOf() map[output.Way]func(hall.Decision, time.Time) {
	return map[output.Way]func(hall.Decision, time.Time){
		output.ToChat: h.speak,
		output.ToPlatform: func(d hall.Decision, _ time.Time) {
			address, door := h.plan.Load().ActsAt(d.Platform)
			h.stage.Do(stage.To{Address: address, Name: door}, d)
		},
		output.ToFitting: func(d hall.Decision, _ time.Time) {
			to := stage.To{Name: d.Platform}
			if f := h.plan.Load().FittingNamed(d.Platform); f != nil {
				to.Address, to.By = f.URL, f.Spoken()
			}
			h.stage.Do(to, d)
		},
	}
}

// How often platforms are asked for their counts, and how often it is looked what is to be asked or fetched.
const (
	countEvery = 5 * time.Minute
	looksEvery = 5 * time.Second
)

// keepCounts asks platforms how many follow and subscribe, as long as any words tell of it. What happens in
// between is counted on by the core.
func (h *House) keepCounts(ctx context.Context) {
	asked := map[string]time.Time{}
	for {
		p := h.plan.Load()
		for _, d := range p.Settings.Doors {
			if h.held.Load() || !count.Asks(p) || d.Paused || d.As != "" || (d.Kind != "irc" && d.Kind != "inbox") || len(p.Profile(d.Platform).Counts) == 0 || time.Since(asked[d.Platform]) < countEvery {
				continue
			}
			asked[d.Platform] = time.Now()
			told, err := h.asker.Count(ctx, p.Profile(d.Platform), p.ChannelOn(d.Platform))
			if err != nil && ctx.Err() == nil {
				h.log.Warn("a platform did not tell its counts", "platform", d.Platform, "error", err)
			}
			if len(told.Counts) > 0 {
				h.tell(told)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(looksEvery):
		}
	}
}

// fetchEvery is how often a text is fetched where its fill-in does not say; keptAnew is how long one that
// stays the same is not logged again.
const (
	fetchEvery = 5 * time.Minute
	keptAnew   = 10 * time.Minute
)

// keepFetched fetches the texts that the channel's own fill-ins tell of, ahead of anybody asking. A text that cannot be
// fetched leaves the last good one as it is.
func (h *House) keepFetched(ctx context.Context) {
	type one struct {
		address, pointer, text string
		tried, kept            time.Time
	}
	last := map[string]one{}
	for {
		for _, f := range h.plan.Load().Settings.FillIns {
			was := last[f.Name]
			if was.address != f.Address || was.pointer != f.Pointer {
				was = one{address: f.Address, pointer: f.Pointer}
			}
			every := time.Duration(f.Every * float64(time.Second))
			if every == 0 {
				every = fetchEvery
			}
			if f.Kind != "fetched" || h.held.Load() || time.Since(was.tried) < every {
				continue
			}
			was.tried = time.Now()
			text, err := h.asker.Text(ctx, f.Address, f.Pointer)
			switch {
			case err != nil && ctx.Err() == nil:
				h.unfetched.Store(f.Name, err.Error())
				h.log.Warn("a text could not be fetched", "fill-in", f.Name, "error", err)
			case err == nil:
				h.unfetched.Delete(f.Name)
				if text != was.text || time.Since(was.kept) >= keptAnew {
					was.text, was.kept = text, time.Now()
					h.tell(&event.TextFetched{Name: f.Name, Address: f.Address, Text: text})
				}
			}
			last[f.Name] = was
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(looksEvery):
		}
	}
}

// keepWeek tells the week's dates once they are owed: read from the guest book, as an event of the house's
// own. Its id is that of the week, so that it is lived once, whatever happens in between.
func (h *House) keepWeek(ctx context.Context) {
	for {
		var owed time.Time
		_ = h.look(ctx, func(s *house.State) { owed = day.Owed(s.Rooms) }) // a closed house owes nothing
		if !owed.IsZero() {
			if week, err := h.Calendar.Week(ctx, owed); err != nil {
				h.log.Warn("the week's dates cannot be read yet", "error", err)
			} else {
				h.tellOnce(ctx, "week-"+week.From.String(), week)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(looksEvery):
		}
	}
}

// tellOnce has the house live something of its own under an id of its own.
func (h *House) tellOnce(ctx context.Context, id string, d event.Data) {
	ev := event.Event{Door: "house", Source: "house", ID: id, Type: d.Type(), Data: d}
	if _, err := h.Submit(ctx, []event.Event{ev}); err != nil && ctx.Err() == nil {
		h.log.Warn("could not be told yet", "type", d.Type(), "error", err)
	}
}

// keepLoudness measures how loud what lands on the shelf is. What cannot be measured is played as it is.
func (h *House) keepLoudness(ctx context.Context) {
	for {
		list, err := h.store.Shelf.Unmeasured(ctx, h.ID)
		for i := 0; err == nil && i < len(list); i++ {
			m, gone := h.store.Shelf.Named(ctx, h.ID, list[i].Name)
			if gone != nil {
				continue
			}
			heard, why := aloud.Measure(ctx, m.Data, m.Type)
			if errors.Is(why, aloud.ErrNoProgram) {
				break // it may be installed one day
			}
			if why != nil && !errors.Is(why, aloud.ErrSilent) {
				h.log.Warn("how loud a file is could not be measured", "file", m.Name, "error", why)
			}
			if ctx.Err() == nil {
				err = h.store.Shelf.Measured(ctx, &m, heard.LUFS, heard.Peak)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(looksEvery):
		}
	}
}

// elsewhere is where pictures and clips of people are asked for: at their platform, by its profile.
func (h *House) elsewhere() onscreen.Elsewhere {
	of := func(account string) (*profile.Profile, *event.Person) {
		name, id, _ := strings.Cut(account, ":")
		return h.plan.Load().Profile(name), &event.Person{Platform: name, ID: id}
	}
	return onscreen.Elsewhere{
		Picture: func(ctx context.Context, account string) (string, error) {
			p, who := of(account)
			told, err := h.asker.Look(ctx, p, who)
			return told.Picture, err
		},
		Clips: func(ctx context.Context, account string) ([]platform.Clip, error) {
			p, who := of(account)
			return h.asker.Clips(ctx, p, who)
		},
		Emotes: func(ctx context.Context, name string) ([]platform.Emote, error) {
			p := h.plan.Load()
			return h.asker.Emotes(ctx, p.Profile(name), p.ChannelOn(name))
		},
		Get: h.asker.File,
	}
}
