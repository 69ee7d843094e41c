package happening

import "vividporch/core/event"

// SocialReposted: somebody passes a post on.
type SocialReposted struct{ Social }

func (*SocialReposted) Type() string { return "porch.social.reposted" }

var socialReposted = &Happening{Data: func() event.Data { return &SocialReposted{} }, Words: "a post passed on", Slots: []Slot{Thanks, Free}}
