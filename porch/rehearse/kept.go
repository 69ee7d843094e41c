package rehearse

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"vividporch/core/event"
	"vividporch/core/expect"
	"vividporch/core/rehearsal"
	"vividporch/core/whatif"
	"vividporch/store/evenings"
	"vividporch/store/pg"
)

// Went is how a kept evening went. It goes as it should when nothing of it is otherwise.
type Went struct {
	Otherwise int      `json:"otherwise"`     // differences from the version under which it goes as it should
	Missed    []string `json:"missed"`        // of what is expected besides, in words
	Why       string   `json:"why,omitempty"` // it could not be lived
}

// Well reports whether it goes as it should.
func (w *Went) Well() bool { return w.Otherwise == 0 && len(w.Missed) == 0 && w.Why == "" }

// mostMissed is how many of what an evening misses are told.
const mostMissed = 20

// Evenings are those of the channel, by their names.
func (r *Rehearser) Evenings(ctx context.Context) ([]evenings.Evening, error) {
	return r.cfg.Store.Evenings.All(ctx, r.cfg.Channel)
}

// Keep is an evening to keep by a name.
type Keep struct {
	Name     string
	Of       Wanted // without its sides
	AsNow    bool   // it is to go as it goes under the settings in force now
	Expected expect.Expected
	Member   string
	Seen     evenings.Seen // what it is put in place of
}

// mostEvenings is how many a channel may have.
const mostEvenings = 200

// Keep keeps an evening with what is expected of it, and lives it once.
func (r *Rehearser) Keep(ctx context.Context, k Keep) error {
	name, err := named(k.Name)
	if err != nil {
		return err
	}
	k.Expected.Format = expect.Format
	if err := k.Expected.Check(); err != nil {
		return err
	}
	if !k.AsNow && len(k.Expected.Said)+len(k.Expected.Unsaid)+len(k.Expected.Counts) == 0 {
		return &event.FieldError{Field: "expected", Remedy: "is empty; say what must be said, what must not, or how many of something, or keep it as it goes now"}
	}
	expected, err := json.Marshal(k.Expected)
	if err != nil {
		return err
	}
	return r.write(ctx, name, k.Seen, k.Of, k.Member, func(e *evenings.Evening) {
		e.Kept, e.Version, e.Expected, e.Tried, e.TriedAt, e.Went = true, 0, expected, 0, nil, nil
		if k.AsNow {
			e.Version = r.cfg.Plan().Version
		}
	})
}

// Write keeps a script by a name, with nothing expected of it.
func (r *Rehearser) Write(ctx context.Context, name string, script []event.Event, member string, seen evenings.Seen) error {
	name, err := named(name)
	if err != nil {
		return err
	}
	return r.write(ctx, name, seen, Wanted{Script: script}, member, func(e *evenings.Evening) { e.Tried = 0 })
}

func named(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	if n := utf8.RuneCountInString(name); n == 0 || n > 60 {
		return "", &event.FieldError{Field: "name", Remedy: "has to have 1 to 60 letters"}
	}
	return name, nil
}

func (r *Rehearser) write(ctx context.Context, name string, seen evenings.Seen, of Wanted, member string, change func(*evenings.Evening)) error {
	all, err := r.Evenings(ctx)
	if err != nil {
		return err
	}
	if len(all) >= mostEvenings && !slices.ContainsFunc(all, func(e evenings.Evening) bool { return e.Name == seen.Name }) {
		return &event.FieldError{Field: "name", Remedy: fmt.Sprintf("would be evening %d; at most %d are kept: take one away first", len(all)+1, mostEvenings)}
	}
	err = r.cfg.Store.Evenings.Change(ctx, r.cfg.Channel, name, seen, func(e *evenings.Evening) error {
		e.Script, e.Stream, e.Dials = "", of.Stream, nil
		switch {
		case of.Dials != nil:
			if err := of.Dials.Check(); err != nil {
				return err
			}
			raw, err := json.Marshal(of.Dials)
			if err != nil {
				return err
			}
			e.Dials = raw
		case of.Stream == 0:
			text, err := asText(of.Script)
			if err != nil {
				return err
			}
			e.Script = text
		}
		e.Member, e.At = member, r.cfg.Clock().Truncate(time.Microsecond)
		change(e)
		return nil
	})
	if err == nil {
		r.Poke()
	}
	return err
}

// mostScript is how long a script may be that is kept, in bytes.
const mostScript = 32 << 20

// asText writes a script as its file, each event as it was read.
func asText(script []event.Event) (string, error) {
	if len(script) == 0 || len(script) > mostWritten {
		return "", &event.FieldError{Field: "script", Remedy: fmt.Sprintf("has %d happenings; use 1 to %d", len(script), mostWritten)}
	}
	var b strings.Builder
	for i := range script {
		ev := script[i]
		ev.Raw = nil // in one form, whatever it was written in
		raw, err := json.Marshal(ev)
		if err != nil {
			return "", err
		}
		if b.Len()+len(raw) > mostScript {
			return "", &event.FieldError{Field: "script", Remedy: "is longer than 32 MiB; rehearse it with the command line"}
		}
		b.Write(raw)
		b.WriteByte('\n')
	}
	return b.String(), nil
}

// Of is what a written or kept evening is made of.
func Of(e *evenings.Evening) (w Wanted, err error) {
	switch {
	case e.Stream > 0:
		w.Stream = e.Stream
	case len(e.Dials) > 0 && string(e.Dials) != "null":
		w.Dials = &whatif.Dials{}
		err = json.Unmarshal(e.Dials, w.Dials)
	default:
		w.Script, err = rehearsal.ReadScript(strings.NewReader(e.Script))
	}
	return w, err
}

// Named is a written or kept evening by its name, ready to be lived.
func (r *Rehearser) Named(ctx context.Context, name string) (Wanted, evenings.Evening, error) {
	e, err := r.cfg.Store.Evenings.Of(ctx, r.cfg.Channel, name)
	if err != nil {
		return Wanted{}, e, err
	}
	w, err := Of(&e)
	return w, e, err
}

// Drop takes an evening away.
func (r *Rehearser) Drop(ctx context.Context, name string) error {
	return r.cfg.Store.Evenings.Drop(ctx, r.cfg.Channel, name, r.cfg.Clock())
}

// Back brings an evening back that was taken away.
func (r *Rehearser) Back(ctx context.Context, name string) error {
	err := r.cfg.Store.Evenings.Back(ctx, r.cfg.Channel, name)
	if err == nil {
		r.Poke() // the settings may have changed since
	}
	return err
}

// AsItShould says that a kept evening goes as it should as it goes now.
func (r *Rehearser) AsItShould(ctx context.Context, name, member string) error {
	err := r.cfg.Store.Evenings.Change(ctx, r.cfg.Channel, name, evenings.Seen{Name: name}, func(e *evenings.Evening) error {
		if !e.Kept {
			return pg.ErrNone
		}
		e.Version, e.Member, e.At, e.Tried = r.cfg.Plan().Version, member, r.cfg.Clock().Truncate(time.Microsecond), 0
		return nil
	})
	if err == nil {
		r.Poke()
	}
	return err
}

// Poke has the kept evenings lived again: the settings changed, or what is expected.
func (r *Rehearser) Poke() {
	select {
	case r.poked <- struct{}{}:
	default:
	}
}

// quiet is how long the settings have to stand before the kept evenings are lived under them.
const quiet = 500 * time.Millisecond

// Tend lives the kept evenings again after each change of the settings, until ctx is over.
func (r *Rehearser) Tend(ctx context.Context) {
	for {
		if err := r.TryKept(ctx); err != nil && ctx.Err() == nil {
			r.cfg.Warn("the kept evenings could not be lived", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-r.poked:
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(quiet):
		}
	}
}

// TryKept lives each kept evening that was not lived under the settings in force.
func (r *Rehearser) TryKept(ctx context.Context) error {
	all, err := r.Evenings(ctx)
	if err != nil {
		return err
	}
	for i := range all {
		e := &all[i]
		now := r.cfg.Plan()
		if !e.Kept || e.Tried == now.Version {
			continue
		}
		went, err := r.goes(ctx, e, Side{now.Whole, now.Version})
		if err != nil {
			return err
		}
		raw, err := json.Marshal(went)
		if err != nil {
			return err
		}
		if err := r.cfg.Store.Evenings.Tell(ctx, e, now.Version, raw); err != nil {
			return err
		}
	}
	return nil
}

// With tells how the kept evenings would go under settings that are not in force: those that
// would not go as they should. What cannot be lived, a stream whose chat is not kept any more, holds nothing up.
func (r *Rehearser) With(ctx context.Context, s Side) (broken map[string]Went, kept int, err error) {
	all, err := r.Evenings(ctx)
	if err != nil {
		return nil, 0, err
	}
	broken = map[string]Went{}
	for i := range all {
		if !all[i].Kept {
			continue
		}
		kept++
		went, err := r.goes(ctx, &all[i], s)
		if err != nil {
			return nil, kept, err
		}
		if !went.Well() && went.Why == "" {
			broken[all[i].Name] = went
		}
	}
	return broken, kept, nil
}

// goes lives a kept evening under some settings and tells how it goes. The error is that
// of the database or of ctx; what keeps the evening from being lived is told of it.
func (r *Rehearser) goes(ctx context.Context, e *evenings.Evening, s Side) (Went, error) {
	went := Went{Missed: []string{}}
	w, err := Of(e)
	if err != nil {
		went.Why = "it cannot be read any more: " + err.Error()
		return went, nil
	}
	w.Above, w.Below = s, s
	if e.Version > 0 && e.Version != s.Version {
		if w.Above, err = r.Version(ctx, e.Version); err != nil {
			return went, err
		}
	}
	got, err := r.turns(ctx, w, func(float64) {})
	var faults *FaultsError
	switch {
	case errors.Is(err, ErrBlanked), errors.Is(err, ErrNone), errors.As(err, &faults):
		went.Why = err.Error()
		return went, nil
	case err != nil:
		return went, err
	}
	if e.Version > 0 {
		went.Otherwise = len(got.Differences)
	}
	want, err := expect.Read(bytes.NewReader(e.Expected))
	if err != nil {
		went.Why = err.Error()
		return went, nil
	}
	for _, m := range want.Misses(got.Below) {
		if len(went.Missed) < mostMissed {
			went.Missed = append(went.Missed, m.Says)
		}
	}
	return went, nil
}
