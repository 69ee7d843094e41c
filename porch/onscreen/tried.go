package onscreen

import (
	"context"
	"slices"

	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/plain"
	"vividporch/formats/media"
)

// Trial is what is tried: a box with somebody made up, a file of the shelf, or what a courtesy shows in given words.
type Trial struct {
	Box      string
	Medium   string
	Courtesy string
	Words    map[string]Words // by the outputs' ids
	Name     string           // of whom it is about
	Here     bool             // on no page: it is only told what would be shown
}

// Words are those of one output, filled in.
type Words struct{ Text, Second string }

// Try shows something made up on the pages of an overlay, marked as a try, and tells on how many. Nothing of it is counted or
// kept.
func (s *Screens) Try(ctx context.Context, o *box.Overlay, x Trial) (f Shown, pages int, err error) {
	f = Shown{Do: "try", Show: "try", Try: true}
	switch {
	case x.Courtesy != "":
		err = s.tryCourtesy(ctx, o, x, &f)
	case x.Medium != "":
		err = s.tryMedium(ctx, o, x, &f)
	default:
		f.Parts = []Part{{Box: x.Box, Effect: "box"}}
	}
	if err != nil || x.Here {
		return f, 0, err
	}
	raw := frame(f)
	s.mu.Lock()
	defer s.mu.Unlock()
	sc := s.screen(o.ID)
	sc.all(raw)
	return f, len(sc.pages), nil
}

// tryMedium shows a file in the box that is named, or in the first that takes it.
func (s *Screens) tryMedium(ctx context.Context, o *box.Overlay, x Trial, f *Shown) error {
	m := s.medium(ctx, x.Medium, 0, o)
	if m == nil {
		return &event.FieldError{Field: "medium", Remedy: "is not on the shelf; choose another"}
	}
	p := Part{Box: x.Box, Effect: "box", Media: m}
	effect := map[string]output.Kind{string(media.Picture): output.KindCard, string(media.Film): output.KindFilm, string(media.Sound): output.KindSound}[m.Kind]
	if effect == output.KindSound {
		p.Box, p.Effect = "", string(effect)
	} else if p.Box == "" {
		b := o.Box("", string(effect))
		if b == nil {
			return &event.FieldError{Field: "medium", Remedy: "has no box on this overlay; add one under On screen"}
		}
		p.Box = b.ID
	}
	f.Parts, f.Seconds = []Part{p}, m.Seconds
	return nil
}

// tryCourtesy shows what a courtesy does on the overlay: what is seen of it, and on the real one what sounds.
func (s *Screens) tryCourtesy(ctx context.Context, o *box.Overlay, x Trial, f *Shown) error {
	all := s.cfg.Plan().Whole.Courtesy // one that is off or put away can be tried, too
	at := slices.IndexFunc(all, func(c courtesy.Courtesy) bool { return c.ID == x.Courtesy })
	if at < 0 {
		return &event.FieldError{Field: "courtesy", Remedy: "is not there any more; reload the page"}
	}
	var parts []overlay.Part
	for i := range all[at].Do {
		out := &all[at].Do[i]
		if out.Way() != output.ToOverlay {
			continue
		}
		words := x.Words[out.ID]
		told := out.Tell(output.Telling{Words: map[string]string{"second": words.Second}})
		told.Text, told.Try = words.Text, true
		parts = append(parts, overlay.Part{Line: "try", Output: out.ID, Told: told})
	}
	for _, p := range overlay.Fit(o, parts) {
		v, ok := s.part(ctx, o, p, "try", plain.Name(x.Name), o.Silent)
		if !ok {
			continue
		}
		if v.Media != nil && v.Media.Kind != string(media.Picture) {
			f.Seconds = max(f.Seconds, v.Media.Seconds)
		}
		if sounds := v.Effect == string(output.KindSound) || v.Effect == string(output.KindSpeak); !sounds || !x.Here { // a member's page plays none
			f.Parts = append(f.Parts, v)
		}
	}
	if len(f.Parts) == 0 {
		return &event.FieldError{Field: "courtesy", Remedy: "shows nothing on this overlay; look where its outputs go, and which boxes there are"}
	}
	f.Seconds = min(max(f.Seconds, overlay.Seconds(o, parts)), MostSeconds)
	return nil
}
