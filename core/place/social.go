package place

import (
	"encoding/json"
	"fmt"
	"slices"

	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/core/wording"
)

// social is the channel's account at a social site that the house is signed in to. Besides posting, each thing it may do
// is switched on by itself.
var social = &Kind{Name: "social", Safe: postSafe, Chosen: func(p *Place) bool { return p.Platform != "" },
	Most: func(p *Place, of func(string) *profile.Profile) int {
		if s := of(p.Platform).Social; s != nil {
			return s.Limit
		}
		return 0
	},
	Check: func(p *Place, fault func(at, what, remedy string)) {
		if p.Platform == "" {
			fault("platform", "does not say which site it is at", "choose one that the house is signed in to")
		}
		for _, a := range p.Allows {
			if a != "message" && a != "picture" && a != "banner" {
				fault("allows", fmt.Sprintf("%q is nothing that can be switched on", a), "use message, picture or banner")
			}
		}
	},
	Render: func(_ *Place, args wording.Args) (json.RawMessage, error) {
		return json.Marshal(Post{Text: args["text"].Text, Does: args["does"].Text, To: args["to"].Text, Shelf: args["shelf"].Text})
	},
	Cannot: func(p *Place, what string, of func(string) *profile.Profile) string {
		s := of(p.Platform).Social
		switch {
		case s == nil:
			return plain.Titled(p.Platform) + " is no social site that the house knows of"
		case what == "account":
			return ""
		case what == "message" || what == "portrait" || what == "banner":
			does := map[string]string{"message": "message", "portrait": "picture", "banner": "banner"}[what]
			if s.Sending(does) == nil {
				return of(p.Platform).Title + " takes none of that"
			}
			if !slices.Contains(p.Allows, does) {
				return "it is not switched on for this account"
			}
			return ""
		}
		return usually[what]
	}}

// usually is why a place does not do more than take texts.
var usually = map[string]string{"edit": "what stands there cannot be changed", "under": "nothing there can stand under something else",
	"call": "nobody can be called there", "picture": "no picture can hang there", "account": "it is no social account",
	"message": "it sends no messages to one person", "portrait": "it has no picture of its own", "banner": "it has no banner"}
