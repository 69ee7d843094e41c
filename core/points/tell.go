package points

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// toldRanks is how many ranks a line of chat tells.
const toldRanks = 5

// Purse fills in what somebody has, and how far they have come.
func (m *Memory) Purse(t *room.Turn, p event.Person, a wording.Args) {
	s, plan := room.Section[Section](t.Plan, Name), t.Plan
	uses := func(names ...string) bool { return slices.ContainsFunc(names, plan.Uses) }
	if !s.On || p.ID == "" || !uses("points", "gathered", "level", "levelName", "rank") {
		return
	}
	have := room.KeptEach[Purse](t, Name, p, t.Known)
	of := purses(have)
	a.Maybe("points", wording.Str(s.Counted(of.has(m))))
	a.Maybe("gathered", wording.Str(s.Counted(of.gathered(m))))
	if level := s.Levels.Of(of.gathered(m)); s.Levels.First > 0 {
		a.Maybe("level", wording.Num(int64(level)))
		a.Maybe("levelName", wording.Str(s.Levels.Name(level)))
	}
	for i, r := range m.Top {
		if _, theirs := have[r.Account]; theirs {
			a.Maybe("rank", wording.Num(int64(i+1)))
			break
		}
	}
}

// Ranking fills in who leads.
func (m *Memory) Ranking(t *room.Turn, a wording.Args) {
	s := room.Section[Section](t.Plan, Name)
	if s.On && t.Plan.Uses("ranks") {
		a.Maybe("ranks", wording.Str(listed(m.Top)))
	}
	if s.On && t.Plan.Uses("seasonRanks") {
		a.Maybe("seasonRanks", wording.Str(listed(m.TopSeason)))
	}
	if t.Plan.Uses("mostActive") {
		a.Maybe("mostActive", wording.Str(mostActive(t)))
	}
}

func listed(list []Ranked) string {
	var out []string
	for i, r := range list[:min(len(list), toldRanks)] {
		out = append(out, fmt.Sprintf("%d. %s %d", i+1, plain.Name(r.Name), r.Gathered))
	}
	return strings.Join(out, ", ")
}

// mostActive names who said most tonight: no neighbours, and not the streamer.
func mostActive(t *room.Turn) string {
	gs := t.State.Guests()
	keys := slices.DeleteFunc(slices.Collect(maps.Keys(gs)), func(k string) bool {
		p := gs[k].Person(k)
		return gs[k].Lines == 0 || t.Plan.IsNeighbour(p) || p.Is(event.Streamer)
	})
	slices.SortFunc(keys, func(a, b string) int { return cmp.Or(cmp.Compare(gs[b].Lines, gs[a].Lines), strings.Compare(a, b)) })
	var out []string
	for _, k := range keys[:min(len(keys), toldRanks)] {
		out = append(out, nameOf(gs[k]))
	}
	return plain.List(out, "and")
}

func nameOf(g *hall.Guest) string { return cmp.Or(g.Name, g.Login) }
