package happening

import (
	"strings"

	"vividporch/core/wording"
)

// Rewards are the happenings of points and of games, in their order.
func Rewards() (types []string) {
	for _, h := range Catalogue {
		if strings.HasPrefix(h.Type, "porch.points.") || strings.HasPrefix(h.Type, "porch.game.") {
			types = append(types, h.Type)
		}
	}
	return types
}

// pearls is a fill-in of points in the channel's own words, which the house works out.
func pearls(name, tells, example string) FillIn {
	return Offered(wording.FillIn{Name: name, Kind: wording.Text, Tells: tells, Example: example})
}
