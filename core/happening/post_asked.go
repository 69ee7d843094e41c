package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// MostPost is how long a post that is asked for may be, in bytes. The site's own limit is in its profile.
const MostPost = 4000

// PostAsked: somebody asks for a text to go out under the channel's social account: a viewer by a command, or a member.
type PostAsked struct {
	Person  *event.Person `json:"person,omitempty"`
	Member  string        `json:"member,omitempty"`
	Place   string        `json:"place"` // the account's, by its name
	Text    string        `json:"text"`
	Links   bool          `json:"links,omitempty"`   // it may hold links
	Approve bool          `json:"approve,omitempty"` // it waits for a member
}

// Who is who asks for it in chat, or nil.
func (p *PostAsked) Who() *event.Person { return p.Person }

// Validate refuses a post without words or without a place, and one that is too long.
func (p *PostAsked) Validate() error {
	if p.Person != nil {
		if err := p.Person.Validate("data.person"); err != nil {
			return err
		}
	}
	return event.FirstOf(event.Filled("text", p.Text), event.Short("text", p.Text, MostPost), event.Filled("place", p.Place), event.Short("place", p.Place, 400))
}

// PostAskedType is the type of it.
const PostAskedType = "porch.post.asked"

func (*PostAsked) Type() string { return PostAskedType }

// What becomes of a post that is asked for.
const (
	PostLeaves  = "leaves"
	PostWaits   = "waits"
	PostRefused = "refused"
)

var postAsked = &Happening{Data: func() event.Data { return &PostAsked{} }, Roomed: true, Within: true, Words: "a post being asked for", Slots: []Slot{Free},
	Told: "{name} asks to post{hasPost, select, yes {: {post}} other {}}",
	FillIns: []FillIn{
		Says("post", "what is to be posted", "The night-heron is back at the lock.", func(d *PostAsked) string { return plain.Text(d.Text) }),
		Offered(wording.FillIn{Name: "outcome", Kind: wording.Text, Tells: "what becomes of it: leaves, waits or refused", Example: "waits"}),
		Offered(wording.FillIn{Name: "problem", Kind: wording.Text, Tells: "why it is refused", Example: "it is 20 letters too long", Optional: true}),
	},
	Entry: func(d event.Data) Entry {
		if p := d.(*PostAsked); p.Person == nil { // else their name stands before it
			return Entry{Kind: "happening", Text: p.Member + " posts something"}
		}
		return Entry{Kind: "happening", Text: "asks to post something"}
	}}
