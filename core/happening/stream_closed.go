package happening

import (
	"slices"

	"vividporch/core/event"
	"vividporch/core/wording"
)

// StreamClosed: a platform says the stream is off.
type StreamClosed struct{ StreamInfo }

// StreamClosedType is the type of it.
const StreamClosedType = "porch.stream.closed"

func (*StreamClosed) Type() string { return StreamClosedType }

var streamClosed = &Happening{Data: func() event.Data { return &StreamClosed{} }, Within: true, Words: "the end of the stream", Lane: Closes, Slots: []Slot{Free},
	Told: "{channel} has ended for tonight{hasTitle, select, yes { · {title}} other {}}: {spoke, plural, =0 {nobody spoke} one {one person spoke} other {# people spoke}}" +
		"{newcomers, plural, =0 {} other { · # new}}{regulars, plural, =0 {} one { · # regular} other { · # regulars}}{raided, plural, =0 {} other { · # came with raids}}" +
		"{lines, plural, =0 {} one { · # line} other { · # lines}}{bookmarks, plural, =0 {} one { · # bookmark} other { · # bookmarks}}",
	Frame: OfStream,
	Starters: []string{
		"That was it for today. Thank you for coming!",
		"{channel} says good night{newcomers, plural, =0 {} one {, also to the one who came for the first time} other {, also to the # who came for the first time}}.",
		"Good night, everybody. {spoke, plural, =0 {See you next time!} one {One of you spoke tonight.} other {# of you spoke tonight.}}",
	},
	FillIns: slices.Concat(streamFillIns, []FillIn{
		Offered(wording.FillIn{Name: "length", Kind: wording.Text, Tells: "how long the stream was", Example: "3 hours and 12 minutes"}),
		Offered(wording.FillIn{Name: "watched", Kind: wording.Number, Tells: "the most who watched at once; 0 where no platform tells", Example: "64"}),
		Offered(wording.FillIn{Name: "spoke", Kind: wording.Number, Tells: "how many people spoke", Example: "31"}),
		Offered(wording.FillIn{Name: "newcomers", Kind: wording.Number, Tells: "how many of them were new", Example: "6"}),
		Offered(wording.FillIn{Name: "regulars", Kind: wording.Number, Tells: "how many of them were regulars", Example: "9"}),
		Offered(wording.FillIn{Name: "raided", Kind: wording.Number, Tells: "how many people raids brought", Example: "120"}),
		Offered(wording.FillIn{Name: "lines", Kind: wording.Number, Tells: "how many lines people said", Example: "1486"}),
		Offered(wording.FillIn{Name: "share", Kind: wording.Number, Tells: "how much of chat was the house’s, in percent", Example: "9"}),
		Offered(wording.FillIn{Name: "bookmarks", Kind: wording.Number, Tells: "how many bookmarks were set", Example: "4"}),
	})}
