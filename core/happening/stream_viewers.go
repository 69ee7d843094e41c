package happening

import "vividporch/core/event"

// StreamViewers: how many are watching on a platform.
type StreamViewers struct {
	Platform string `json:"platform"`
	Viewers  int64  `json:"viewers"`
}

func (s *StreamViewers) OnPlatform() string { return s.Platform }

func (s *StreamViewers) Validate() error {
	return event.FirstOf(event.Filled("platform", s.Platform), event.AtLeast("viewers", s.Viewers, 0))
}

func (*StreamViewers) Type() string { return "porch.stream.viewers" }

var streamViewers = &Happening{Data: func() event.Data { return &StreamViewers{} }, Within: true, Words: "a count of viewers"}
