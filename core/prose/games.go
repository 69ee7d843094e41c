package prose

import (
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
)

// Game is one of the small games, or something else round points, as it is set up: a command, and what is said of it.
type Game struct {
	Name  string // of its output
	Title string
	Tells string // viewers, on the list of what they can ask
	asks  []string
	does  func() output.Does
	says  []string // happenings that are spoken of
	own   string   // what the command itself says; "" where what comes of it does
}

// Games are all that can be set up with one press.
var Games = []Game{
	{"stone", "Turn a stone", "turn a stone: what lives under it decides", []string{"stone"}, func() output.Does { return &output.Stone{} }, []string{happening.StoneTurnedType}, ""},
	{"race", "Periwinkle race", "race your snail against somebody: whose is first at the rim?", []string{"race"}, func() output.Does { return &output.Race{} }, []string{happening.RaceCalledType, happening.RaceRunType, happening.RaceLapsedType}, ""},
	{"tide", "Bring in the tide", "bring in the tide together: every voice lifts it", []string{"tidein"}, func() output.Does { return &output.Tide{} }, []string{happening.TideTurnsType, happening.TideInType, happening.TideEbbedType}, ""},
	{"anemone", "Ask the anemone", "ask the anemone: it opens, or stays shut", []string{"anemone"}, func() output.Does { return &output.Anemone{} }, []string{happening.AnemoneAskedType}, ""},
	{"give", "Give points away", "give some of yours to somebody", []string{"give"}, func() output.Does { return &output.Give{} }, []string{happening.PointsGivenType}, ""},
	{"unlisted", "Keep off the list", "keep off the list of ranks", []string{"offlist"}, func() output.Does { return &output.Unlisted{} }, nil, "{name}, you are off the list."},
	{"levels", "Levels", "", nil, nil, []string{happening.LevelReachedType}, ""},
	{"say", "What I have, and who leads", "what you have, and who leads", []string{"pearls"}, func() output.Does { return &output.Say{} }, nil, "{name}: {hasPoints, select, yes {{points}} other {nothing yet}}{hasRank, select, yes {, place {rank}} other {}}.{hasRanks, select, yes { {ranks}} other {}}"},
}

// Is reports whether a command is the one by which it is played, by one of its outputs.
func (g *Game) Is(c *courtesy.Courtesy, o *output.Output) bool {
	if g.Name == "say" {
		return slices.Equal(c.Asks, g.asks)
	}
	return o.Kind() == output.Kind(g.Name)
}

// Asked reports whether people ask for it.
func (g *Game) Asked() bool { return len(g.asks) > 0 }

// Playing sets a game up: its command, on at once unless it is there, and words for what comes of it.
func Playing(list []courtesy.Courtesy, g Game) []courtesy.Courtesy {
	if len(g.asks) == 0 { // nobody asks for it: it is only spoken of
		return SpokenOf(list, g.says...)
	}
	there := slices.ContainsFunc(list, func(c courtesy.Courtesy) bool {
		return !c.Away && c.When == happening.Command && (slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Kind() == output.Kind(g.Name) && g.Name != "say" }) || slices.Equal(c.Asks, g.asks))
	})
	if !there {
		c := courtesy.Courtesy{ID: g.asks[0], On: true, When: happening.Command, Slot: happening.Answer, Asks: slices.Clone(g.asks), Tells: g.Tells, Asked: &courtesy.Asking{Person: 5}}
		if slices.ContainsFunc(list, func(o courtesy.Courtesy) bool { return o.ID == c.ID }) {
			c.ID = freeID(list, c.ID)
		}
		if g.Name != "say" {
			c.Do = append(c.Do, output.Output{ID: "play", Do: g.does()})
		}
		if g.own != "" {
			c.Do = append(c.Do, output.Output{ID: "chat", Do: &output.Say{}, Alternatives: []string{g.own}})
		}
		list = append(list, c)
	}
	return SpokenOf(list, g.says...)
}
