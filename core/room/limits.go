package room

// usualLine is how many bytes a line may have where a door does not say.
const usualLine = 400

// Limit is how many bytes a line may have on a platform.
func (p *Plan) Limit(platform string) int {
	if most := p.Profile(platform).Chat.MaxBytes; most > 0 && p.DoorFor(platform) != nil {
		return most
	}
	return usualLine
}

// MostBytes is how many bytes a line may have that goes to some platforms, or to all
// when none is named: what the strictest of them takes.
func (p *Plan) MostBytes(platforms []string) int {
	if len(platforms) == 0 {
		platforms = p.chat
	}
	least := usualLine
	for i, platform := range platforms {
		if n := p.Limit(platform); i == 0 || n < least {
			least = n
		}
	}
	return least
}
