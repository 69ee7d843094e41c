package happening

import "vividporch/core/event"

// SocialFollowed: somebody follows the social account.
type SocialFollowed struct{ Social }

func (*SocialFollowed) Type() string { return "porch.social.followed" }

var socialFollowed = &Happening{Data: func() event.Data { return &SocialFollowed{} }, Words: "a follow of the social account", Slots: []Slot{Thanks, Free}}
