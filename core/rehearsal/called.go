package rehearsal

import (
	"cmp"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// findable is what somebody can be found by.
type findable struct {
	shown string // folded
	words []string
}

// called finds whom of the book a name may mean.
func (g *guests) called(name string, stream int) []people.Named {
	folded := plain.Fold(name)
	if folded == "" {
		return nil
	}
	type hit struct {
		text   string
		order  string
		person int64
	}
	var byLogin, byName, byWord []hit
	word := ""
	if words := plain.Words(folded, 2); len(words) == 1 && words[0] == folded {
		word = folded
	}
	lower := strings.ToLower(name)
	for key, a := range g.accounts {
		if l := strings.ToLower(a.who.Login); strings.HasPrefix(l, lower) {
			byLogin = append(byLogin, hit{l, key, a.person})
		}
	}
	for person := range g.keys {
		f := g.findable(person)
		if strings.HasPrefix(f.shown, folded) {
			byName = append(byName, hit{f.shown, "", person})
		}
		for _, w := range f.words {
			if word != "" && strings.HasPrefix(w, word) {
				byWord = append(byWord, hit{w, "", person})
			}
		}
	}
	found := map[int64]bool{}
	for _, hits := range [][]hit{byLogin, byName, byWord} {
		slices.SortFunc(hits, func(x, y hit) int {
			return cmp.Or(strings.Compare(x.text, y.text), strings.Compare(x.order, y.order), cmp.Compare(x.person, y.person))
		})
		for _, h := range hits[:min(len(hits), people.CalledMost)] {
			found[h.person] = true
		}
	}
	var keys []string
	for key, a := range g.accounts {
		if found[a.person] && a.claimed == "" {
			keys = append(keys, key)
		}
	}
	slices.SortFunc(keys, func(x, y string) int {
		return cmp.Or(g.accounts[y].last.Compare(g.accounts[x].last), strings.Compare(x, y))
	})
	var out []people.Named
	for _, key := range keys[:min(len(keys), 4*people.CalledMost)] {
		a := g.accounts[key]
		p := event.Person{Platform: a.who.Platform, ID: a.who.ID, Login: a.who.Login, Name: a.who.Shown(), Nick: a.who.Nick}
		out = append(out, people.Named{Person: p, Known: g.known(p, stream)})
	}
	return out
}

// findable is what a person can be found by.
func (g *guests) findable(person int64) *findable {
	if f := g.words[person]; f != nil {
		return f
	}
	keys, records := g.of(person)
	h := g.hand(records)
	texts := append([]string{people.Text(h.SayAs), people.Text(h.Note)}, h.Tags...)
	var now *account // heard of last, provisional ones last of all
	var was []string
	for _, key := range keys {
		a := g.accounts[key]
		if now == nil || provisional(now) && !provisional(a) || provisional(now) == provisional(a) && a.told.After(now.told) {
			now = a
		}
		texts, was = append(texts, a.who.Login, a.who.Shown()), append(was, a.was...)
	}
	f := &findable{}
	if now != nil {
		f.shown = plain.Fold(cmp.Or(plain.Name(now.who.Shown()), plain.Name(now.who.Login), now.who.ID))
	}
	f.words = people.FindWords(people.FindText(append(texts, was...)))
	g.words[person] = f
	return f
}

func provisional(a *account) bool { return strings.HasPrefix(a.who.ID, people.Provisional) }
