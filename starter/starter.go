// Package starter is what a new house begins with: a house file that names nobody and
// nowhere, with sensible courtesies on and the rest there but off; and a made-up evening of
// a minute that shows what they do before anything is connected.
package starter

import (
	"embed"
	"encoding/json"
	"fmt"

	"vividporch/core/housefile"
)

//go:embed house.json
var house []byte

// Shelf holds what is on a new house's shelf, in the folder shelf: pictures for cards, short sounds and two films. All of
// it is made by [vividporch/starter/make].
//
//go:generate go run ./make shelf
//go:embed shelf
var Shelf embed.FS

// House is the house file of a new house on a channel. The seed is its own: from it, and
// from what happens, all chance is drawn.
func House(channel, seed string) ([]byte, error) {
	s, err := housefile.ReadSettings(house)
	if err != nil {
		return nil, fmt.Errorf("the starter set: %w", err)
	}
	s.Channel, s.Seed = channel, seed
	return json.Marshal(s)
}
