package place

import (
	"encoding/json"

	"vividporch/core/wording"
)

// feed is what others subscribe to, at an address of the house's own that carries its key: an Atom feed (RFC 4287) of
// what went there last. Other people's text stands in it as text, so there is nothing in it to call anybody with.
var feed = &Kind{Name: "feed", Safe: asItIs,
	Check: func(*Place, func(at, what, remedy string)) {},
	Render: func(_ *Place, args wording.Args) (json.RawMessage, error) {
		return json.Marshal(entry{args["text"].Text})
	}}

// entry is what is kept for a feed.
type entry struct {
	Text string `json:"text"`
}

func asItIs(s string) string { return s }
