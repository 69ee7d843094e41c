package hall

import (
	"encoding/json"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/plain"
)

// Gone is somebody who is forgotten: their accounts, and all they were called, the longest
// names first ("lena" stands in "limpet_lena").
type Gone struct {
	Keys, Names []string
	Guests      map[string]Guest // as they were here, by account
}

// Mine reports whether an account is theirs.
func (g *Gone) Mine(key string) bool { return slices.Contains(g.Keys, key) }

// Sparing are their names but for one that somebody else is called by.
func (g *Gone) Sparing(name string) []string {
	return slices.DeleteFunc(slices.Clone(g.Names), func(n string) bool { return strings.EqualFold(n, name) })
}

// Forgets is whoever an event or a decision about it forgets, or nil.
func (s *State) Forgets(ev *event.Event, ds []Decision) *Gone {
	var out *Gone
	gone := func(keys, names []string) {
		if out == nil {
			out = &Gone{Guests: map[string]Guest{}}
		}
		out.Keys = append(out.Keys, keys...)
		for _, n := range names {
			out.Names = append(out.Names, n, plain.Name(n)) // as the house says it, too
		}
	}
	if f, ok := ev.Data.(*event.BookForgotten); ok {
		gone(slices.Concat(f.Keys, f.Anon), f.Names)
	}
	for i := range ds {
		if d := &ds[i]; d.Kind == Forget {
			gone([]string{d.Person}, d.Names)
			if d.Known != nil {
				gone(d.Known.Accounts, nil)
			}
		}
	}
	if out == nil {
		return nil
	}
	for _, k := range out.Keys {
		for _, gs := range []map[string]*Guest{s.Tonight, s.Between} {
			if g := gs[k]; g != nil {
				out.Names = append(out.Names, g.Name, g.Login)
				out.Guests[k] = *g
			}
		}
	}
	slices.SortStableFunc(out.Names, func(a, b string) int { return len(b) - len(a) })
	return out
}

// Forgotten are the accounts that an event and the decisions about it forget.
func Forgotten(ev *event.Event, ds []Decision) []string {
	var out []string
	if f, ok := ev.Data.(*event.BookForgotten); ok {
		out = append(out, f.Keys...)
	}
	for i := range ds {
		if ds[i].Kind == Forget {
			out = append(out, ds[i].Person)
			if ds[i].Known != nil {
				out = append(out, ds[i].Known.Accounts...)
			}
		}
	}
	return out
}

// forget takes somebody's accounts out of the state, and their names out of what
// waits for others.
func (s *State) forget(gone *Gone) {
	mine, names := gone.Mine, gone.Names
	for _, k := range gone.Keys {
		for _, gs := range []map[string]*Guest{s.Tonight, s.Between} {
			if g := gs[k]; g != nil {
				s.unname(g.Name)
			}
		}
		delete(s.Tonight, k)
		delete(s.Between, k)
		delete(s.Shouted, k)
		s.Queue.Forget(k)
		delete(s.Kept, k)
		delete(s.KeptLast, k)
	}
	for i := range s.Raids {
		if mine(s.Raids[i].Person.Key()) {
			s.Raids[i].Person = event.Person{Platform: s.Raids[i].Person.Platform, ID: "~"}
		}
	}
	for kind, list := range s.Latest {
		if list = slices.DeleteFunc(slices.Clone(list), func(r Recent) bool { return mine(r.Account) }); len(list) > 0 {
			s.Latest[kind] = list
		} else {
			delete(s.Latest, kind)
		}
	}
	s.Queue.Lines = slices.DeleteFunc(s.Queue.Lines, func(l pace.Line) bool { return mine(l.Person) || mine(l.Asker) })
	s.Questions = slices.DeleteFunc(slices.Clone(s.Questions), func(q Question) bool {
		return mine(q.Said.Person.Key()) || slices.ContainsFunc(append(q.Near, q.Meant), func(n string) bool {
			return slices.ContainsFunc(names, func(m string) bool { return plain.Same(n, m) })
		})
	})
	s.Waiting = slices.DeleteFunc(s.Waiting, func(i Item) bool {
		return i.Person != nil && mine(i.Person.Key()) || slices.ContainsFunc(i.About, mine)
	})
	for i := range s.Queue.Lines {
		l := &s.Queue.Lines[i]
		names := gone.Sparing(l.Name)
		l.Text = plain.Without(l.Text, names)
		for k, v := range l.Args {
			if v.Text != "" {
				v.Text = plain.Without(v.Text, names)
				l.Args[k] = v
			}
		}
		var t output.Told
		if l.Effect != "" && l.Effect != string(Relay) && json.Unmarshal(l.Body, &t) == nil {
			for _, text := range t.Texts() {
				*text = plain.Without(*text, names)
			}
			l.Body = t.JSON()
		} else if l.Effect == string(Relay) {
			l.Body = json.RawMessage(plain.Without(string(l.Body), names))
		}
	}
	for i := range s.Waiting {
		it := &s.Waiting[i]
		names := gone.Sparing(it.Name)
		it.Text, it.Why = plain.Without(it.Text, names), plain.Without(it.Why, names)
	}
	for i := range s.Evening.Arrivals {
		if a := &s.Evening.Arrivals[i]; mine(a.Account) {
			a.Name, a.Account = "somebody", ""
		}
	}
}

// unname takes a name out of what waits about several people.
func (s *State) unname(name string) {
	for i := range s.Waiting {
		it := &s.Waiting[i]
		if it.Kind != "regular" {
			continue
		}
		names := strings.Split(it.Name, ", ")
		it.Name = strings.Join(slices.DeleteFunc(names, func(n string) bool { return n == name }), ", ")
	}
	s.Waiting = slices.DeleteFunc(s.Waiting, func(it Item) bool { return it.Kind == "regular" && it.Name == "" })
}
