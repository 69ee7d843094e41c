package people

import (
	"slices"
	"strings"

	"vividporch/core/event"
)

// Union is what is set by hand about one person who may have several records: the
// kept one first. A field of the kept record wins, even when it was cleared there;
// what it never had set comes from the others. Tags, crews and roles add up.
// Nothing is copied, so that the records can be parted as they were.
func Union(hands ...event.Hand) event.Hand {
	var u event.Hand
	for _, h := range hands {
		or(&u.SayAs, h.SayAs)
		or(&u.Pronouns, h.Pronouns)
		or(&u.Note, h.Note)
		or(&u.Zone, h.Zone)
		or(&u.Birthday, h.Birthday)
		or(&u.HideDay, h.HideDay)
		or(&u.LeaveBe, h.LeaveBe)
		or(&u.Trusted, h.Trusted)
		or(&u.Fellow, h.Fellow)
		u.Roles, u.Tags, u.Crews = add(u.Roles, h.Roles), add(u.Tags, h.Tags), add(u.Crews, h.Crews)
	}
	return u
}

func or[T any](dst **T, v *T) {
	if *dst == nil {
		*dst = v
	}
}

func add[T comparable](list, more []T) []T {
	for _, m := range more {
		if !slices.Contains(list, m) {
			list = append(slices.Clip(list), m)
		}
	}
	return list
}

func drop[T comparable](list, less []T) []T {
	return slices.DeleteFunc(slices.Clone(list), func(v T) bool { return slices.Contains(less, v) })
}

// Apply makes an edit on the records of a person, the kept one first, and returns
// them changed, with the edit of each that takes it back. Fields are set on the
// kept record; what is taken out of a list is taken out wherever it stands.
func Apply(e event.Edit, hands []event.Hand) (next []event.Hand, back []event.Edit) {
	next, back = slices.Clone(hands), make([]event.Edit, len(hands))
	for i := range next {
		h, b := &next[i], &back[i]
		if i == 0 {
			set(e, "sayAs", &h.SayAs, e.Set.SayAs, &b.Set.SayAs, b)
			set(e, "pronouns", &h.Pronouns, e.Set.Pronouns, &b.Set.Pronouns, b)
			set(e, "note", &h.Note, e.Set.Note, &b.Set.Note, b)
			set(e, "zone", &h.Zone, e.Set.Zone, &b.Set.Zone, b)
			set(e, "birthday", &h.Birthday, e.Set.Birthday, &b.Set.Birthday, b)
			set(e, "hideDay", &h.HideDay, e.Set.HideDay, &b.Set.HideDay, b)
			set(e, "leaveBe", &h.LeaveBe, e.Set.LeaveBe, &b.Set.LeaveBe, b)
			set(e, "trusted", &h.Trusted, e.Set.Trusted, &b.Set.Trusted, b)
			set(e, "fellow", &h.Fellow, e.Set.Fellow, &b.Set.Fellow, b)
			h.Tags, b.DropTags = addBack(h.Tags, Tidy(e.AddTags), next[1:], func(o *event.Hand) []string { return o.Tags })
			h.Crews, b.DropCrews = addBack(h.Crews, e.AddCrews, next[1:], func(o *event.Hand) []string { return o.Crews })
			h.Roles, b.DropRoles = addBack(h.Roles, e.AddRoles, next[1:], func(o *event.Hand) []event.Role { return o.Roles })
		}
		h.Tags, b.AddTags = dropBack(h.Tags, e.DropTags)
		h.Crews, b.AddCrews = dropBack(h.Crews, e.DropCrews)
		h.Roles, b.AddRoles = dropBack(h.Roles, e.DropRoles)
	}
	return next, back
}

// set puts a value, or takes it away, and notes how that is undone.
func set[T comparable](e event.Edit, name string, field **T, v *T, was **T, b *event.Edit) {
	unset := slices.Contains(e.Unset, name)
	switch {
	case v == nil && !unset, v != nil && *field != nil && **field == *v, unset && *field == nil:
		return
	case *field == nil:
		b.Unset = append(b.Unset, name)
	default:
		*was = *field
	}
	*field = v
}

// addBack adds to the kept record what none of the records has yet.
func addBack[T comparable](list, more []T, others []event.Hand, of func(*event.Hand) []T) (next, added []T) {
	for _, m := range more {
		have := slices.Contains(list, m) || slices.Contains(added, m)
		for i := range others {
			have = have || slices.Contains(of(&others[i]), m)
		}
		if !have {
			added = append(added, m)
		}
	}
	return append(slices.Clip(list), added...), added
}

func dropBack[T comparable](list, less []T) (next, dropped []T) {
	for _, l := range less {
		if slices.Contains(list, l) {
			dropped = append(dropped, l)
		}
	}
	return drop(list, less), dropped
}

// IsNothing reports whether an edit changes nothing.
func IsNothing(e event.Edit) bool {
	return len(e.Unset)+len(e.AddTags)+len(e.DropTags)+len(e.AddCrews)+len(e.DropCrews)+len(e.AddRoles)+len(e.DropRoles) == 0 && IsBlank(e.Set)
}

// IsBlank reports whether nothing was ever set.
func IsBlank(h event.Hand) bool {
	return h.SayAs == nil && h.Pronouns == nil && h.Note == nil && h.Zone == nil && h.Birthday == nil && h.HideDay == nil && h.LeaveBe == nil && h.Trusted == nil && h.Fellow == nil &&
		len(h.Roles)+len(h.Tags)+len(h.Crews) == 0
}

// Words says in a few words what an edit changes.
func Words(e event.Edit) string {
	var out []string
	for _, f := range []struct {
		name, field string
		set         bool
	}{{"say-it-as", "sayAs", e.Set.SayAs != nil}, {"pronouns", "pronouns", e.Set.Pronouns != nil}, {"note", "note", e.Set.Note != nil}, {"time zone", "zone", e.Set.Zone != nil},
		{"birthday", "birthday", e.Set.Birthday != nil}, {"birthday hidden", "hideDay", e.Set.HideDay != nil}, {"leave me be", "leaveBe", e.Set.LeaveBe != nil}, {"trusted", "trusted", e.Set.Trusted != nil}, {"fellow streamer", "fellow", e.Set.Fellow != nil}} {
		if f.set || slices.Contains(e.Unset, f.field) {
			out = append(out, f.name)
		}
	}
	list := func(sign, what string, names []string) {
		for _, n := range names {
			out = append(out, sign+what+" "+n)
		}
	}
	list("+ ", "tag", e.AddTags)
	list("− ", "tag", e.DropTags)
	list("+ ", "crew", e.AddCrews)
	list("− ", "crew", e.DropCrews)
	for _, r := range e.AddRoles {
		out = append(out, "+ "+string(r))
	}
	for _, r := range e.DropRoles {
		out = append(out, "− "+string(r))
	}
	return strings.Join(out, ", ")
}

func Tidy(tags []string) []string {
	var out []string
	for _, t := range tags {
		if t = strings.Join(strings.Fields(t), " "); t != "" && !slices.Contains(out, t) {
			out = append(out, t)
		}
	}
	return out
}

// Text is a value set by hand, or "".
func Text(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

// Yes reports whether something was switched on by hand.
func Yes(b *bool) bool { return b != nil && *b }

// Still narrows the edit that takes another one back to the fields that stand as
// that one left them: what was changed again since keeps its value.
func Still(e, back event.Edit, now event.Hand) event.Edit {
	keep := func(name string, stands bool, clear func()) {
		if !stands {
			back.Unset = drop(back.Unset, []string{name})
			clear()
		}
	}
	keep("sayAs", same(now.SayAs, e.Set.SayAs), func() { back.Set.SayAs = nil })
	keep("pronouns", same(now.Pronouns, e.Set.Pronouns), func() { back.Set.Pronouns = nil })
	keep("note", same(now.Note, e.Set.Note), func() { back.Set.Note = nil })
	keep("zone", same(now.Zone, e.Set.Zone), func() { back.Set.Zone = nil })
	keep("birthday", same(now.Birthday, e.Set.Birthday), func() { back.Set.Birthday = nil })
	keep("hideDay", same(now.HideDay, e.Set.HideDay), func() { back.Set.HideDay = nil })
	keep("leaveBe", same(now.LeaveBe, e.Set.LeaveBe), func() { back.Set.LeaveBe = nil })
	keep("trusted", same(now.Trusted, e.Set.Trusted), func() { back.Set.Trusted = nil })
	keep("fellow", same(now.Fellow, e.Set.Fellow), func() { back.Set.Fellow = nil })
	return back
}

func same[T comparable](a, b *T) bool {
	return a == nil && b == nil || a != nil && b != nil && *a == *b
}
