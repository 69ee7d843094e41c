package happening

import (
	"vividporch/core/event"
	"vividporch/core/wording"
)

// StreamInfo is what a platform says of a stream. RecordingURL is where the
// recording can be found, when the platform keeps one.
type StreamInfo struct {
	Platform     string `json:"platform"`
	Title        string `json:"title,omitempty"`
	Category     string `json:"category,omitempty"`
	URL          string `json:"url,omitempty"`
	RecordingURL string `json:"recordingUrl,omitempty"`
}

func (s *StreamInfo) OnPlatform() string { return s.Platform }

func (s *StreamInfo) Validate() error {
	return event.FirstOf(event.Filled("platform", s.Platform), event.Short("platform", s.Platform, 60), event.Short("title", s.Title, 2000), event.Short("category", s.Category, 500), event.Short("url", s.URL, 2000))
}

// OfTheStream is what an event tells of the stream that is on: a platform that opened or changed, or a member who
// declared it. Whoever keeps what a stream is called asks here.
func OfTheStream(d event.Data) (told StreamInfo, ok bool) {
	switch d := d.(type) {
	case *StreamOpened:
		return d.StreamInfo, true
	case *StreamChanged:
		return d.StreamInfo, true
	case *event.StreamDeclared:
		return StreamInfo{Title: d.Title}, true
	}
	return told, false
}

// streamFillIns are the fill-ins about the stream.
var streamFillIns = []FillIn{
	Offered(wording.FillIn{Name: "title", Kind: wording.Text, Tells: "the stream's title", Example: "What the tide left in the gully", Optional: true}),
	Offered(wording.FillIn{Name: "category", Kind: wording.Text, Tells: "the stream's category", Example: "Field and microscope", Optional: true}),
	Offered(wording.FillIn{Name: "years", Kind: wording.Number, Tells: "on the channel's own day: how many years it makes; else 0", Example: "5"}),
	Offered(wording.FillIn{Name: "link", Kind: wording.Text, Tells: "where to watch", Example: "https://quayside.example/tidepool_hours", Optional: true}),
}
