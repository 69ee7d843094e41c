package happening

import "vividporch/core/event"

// SocialLiked: somebody likes a post.
type SocialLiked struct{ Social }

func (*SocialLiked) Type() string { return "porch.social.liked" }

var socialLiked = &Happening{Data: func() event.Data { return &SocialLiked{} }, Words: "a like of a post", Slots: []Slot{Thanks, Free}}
