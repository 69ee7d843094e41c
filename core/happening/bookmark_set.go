package happening

import (
	"cmp"

	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// MostLabel is how long the label of a bookmark may be, in bytes.
const MostLabel = 200

// BookmarkSet: a moment of the stream was marked: by somebody in chat, by a member, or with a key from outside.
type BookmarkSet struct {
	Person *event.Person `json:"person,omitempty"`
	Member string        `json:"member,omitempty"`
	Key    string        `json:"key,omitempty"` // what the key is called that it was set with
	Label  string        `json:"label,omitempty"`
}

// Who is who set it in chat, or nil.
func (b *BookmarkSet) Who() *event.Person { return b.Person }

// By names who or what set it.
func (b *BookmarkSet) By() string {
	if b.Person != nil {
		return plain.Name(b.Person.Shown())
	}
	return cmp.Or(b.Member, b.Key)
}

// Validate refuses a label that is too long.
func (b *BookmarkSet) Validate() error {
	if b.Person != nil {
		if err := b.Person.Validate("data.person"); err != nil {
			return err
		}
	}
	return event.Short("label", b.Label, MostLabel)
}

// BookmarkSetType is the type of it.
const BookmarkSetType = "porch.bookmark.set"

func (*BookmarkSet) Type() string { return BookmarkSetType }

var bookmarkSet = &Happening{Data: func() event.Data { return &BookmarkSet{} }, Within: true, Words: "a bookmark", Slots: []Slot{Free}, Frame: OfStream,
	Told: "{into}{hasLabel, select, yes {: {label}} other {}}{hasBy, select, yes { ({by})} other {}}{hasRecording, select, yes { · {recording}} other {}}",
	FillIns: append([]FillIn{
		Says("label", "what it is called", "the anemone opens", func(d *BookmarkSet) string { return plain.Text(d.Label) }),
		Says("by", "who or what set it", "sandhopper9", (*BookmarkSet).By),
		Offered(wording.FillIn{Name: "into", Kind: wording.Text, Tells: "how far into the stream it is: hours, minutes and seconds", Example: "1:02:33"}),
		Offered(wording.FillIn{Name: "recording", Kind: wording.Text, Tells: "the link into the recording, where there is one", Example: "https://quayside.example/recordings/88?at=3753", Optional: true}),
	}, streamFillIns...),
	Entry: func(d event.Data) Entry {
		b := d.(*BookmarkSet)
		text := "marked a moment" + labelled(b.Label)
		if by := b.By(); b.Person == nil && by != "" { // else their name stands before it
			text = by + " " + text
		}
		return Entry{Kind: "happening", Text: text}
	}}

func labelled(label string) string {
	if label = plain.Text(label); label == "" {
		return ""
	}
	return ": " + label
}
