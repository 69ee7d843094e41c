package event

import (
	"maps"
	"regexp"
	"slices"
)

// kinds makes an empty data value for each type.
var kinds = map[string]func() Data{}

func register(fresh func() Data) bool { kinds[fresh().Type()] = fresh; return true }

func sortedKinds() []string { return slices.Sorted(maps.Keys(kinds)) }

// by is the part most happenings share: the person they are about.
type by struct {
	Person Person `json:"person"`
}

func (b *by) Who() *Person    { return &b.Person }
func (b *by) Validate() error { return b.Person.validate("data.person") }

func all(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}

func atLeast(field string, n, low int64) error {
	if n < low {
		return wrong("data."+field, "is %d; it must be %d or more", n, low)
	}
	return nil
}

func filled(field, s string) error {
	if s == "" {
		return wrong("data."+field, "is missing")
	}
	return nil
}

func short(field, s string, most int) error {
	if len(s) > most {
		return wrong("data."+field, "is longer than %d bytes", most)
	}
	return nil
}

// StreamInfo is what a platform says of a stream. RecordingURL is where the
// recording can be found, when the platform keeps one.
type StreamInfo struct {
	Platform     string `json:"platform"`
	Title        string `json:"title,omitempty"`
	Category     string `json:"category,omitempty"`
	URL          string `json:"url,omitempty"`
	RecordingURL string `json:"recordingUrl,omitempty"`
}

func (s *StreamInfo) of() string { return s.Platform }

func (s *StreamInfo) Validate() error {
	return all(filled("platform", s.Platform), short("platform", s.Platform, 60), short("title", s.Title, 2000), short("category", s.Category, 500), short("url", s.URL, 2000))
}

// StreamOpened: a platform says the stream is on.
type StreamOpened struct{ StreamInfo }

// StreamChanged: title or category changed.
type StreamChanged struct{ StreamInfo }

// StreamClosed: a platform says the stream is off.
type StreamClosed struct{ StreamInfo }

// StreamViewers: how many are watching on a platform.
type StreamViewers struct {
	Platform string `json:"platform"`
	Viewers  int64  `json:"viewers"`
}

func (s *StreamViewers) of() string { return s.Platform }

func (s *StreamViewers) Validate() error {
	return all(filled("platform", s.Platform), atLeast("viewers", s.Viewers, 0))
}

// ChatSaid: a line in chat.
type ChatSaid struct {
	by
	Text      string `json:"text"`
	MessageID string `json:"messageId,omitempty"`
	ReplyTo   string `json:"replyTo,omitempty"`
}

func (c *ChatSaid) Validate() error { return all(c.by.Validate(), short("text", c.Text, 16_384)) }

// ChatRemoved: somebody took a line out of chat.
type ChatRemoved struct {
	by
	By        string `json:"by,omitempty"`
	MessageID string `json:"messageId,omitempty"`
	Reason    string `json:"reason,omitempty"`
}

// PersonFollowed: somebody follows the channel from now on.
type PersonFollowed struct{ by }

// PersonBanned: somebody was banned.
type PersonBanned struct {
	by
	By     string `json:"by,omitempty"`
	Reason string `json:"reason,omitempty"`
}

// PersonTimedOut: somebody may not speak for a while. Seconds is how long.
type PersonTimedOut struct {
	by
	By      string `json:"by,omitempty"`
	Seconds int64  `json:"seconds"`
	Reason  string `json:"reason,omitempty"`
}

func (p *PersonTimedOut) Validate() error {
	return all(p.by.Validate(), atLeast("seconds", p.Seconds, 1))
}

// PersonRenamed: an account has a new login or name; Was is the old login.
type PersonRenamed struct {
	by
	Was string `json:"was,omitempty"`
}

// PersonJoined: somebody joined the community server called Place.
type PersonJoined struct {
	by
	Place string `json:"place,omitempty"`
}

// PersonEntered: somebody is in the room and has not spoken.
type PersonEntered struct{ by }

// PersonLeft: somebody seems to have left the room; a hint only.
type PersonLeft struct{ by }

// RaidCame: a fellow streamer brought Viewers people over.
type RaidCame struct {
	by
	Viewers int64 `json:"viewers"`
}

func (r *RaidCame) Validate() error {
	return all(r.by.Validate(), atLeast("viewers", r.Viewers, 0))
}

// RaidWent: we took Viewers people to a fellow streamer.
type RaidWent struct {
	by
	Viewers int64 `json:"viewers"`
}

func (r *RaidWent) Validate() error {
	return all(r.by.Validate(), atLeast("viewers", r.Viewers, 0))
}

// Subscribed: a subscription began or went on. Tier is free text; Months counts
// all months, Streak those without a gap.
type Subscribed struct {
	by
	Tier   string `json:"tier,omitempty"`
	Months int64  `json:"months"`
	Streak int64  `json:"streak,omitempty"`
}

func (s *Subscribed) Validate() error {
	return all(s.by.Validate(), atLeast("months", s.Months, 0), atLeast("streak", s.Streak, 0))
}

// Gifted: somebody gave Count subscriptions, to named persons or to chance.
type Gifted struct {
	by
	Count int64    `json:"count"`
	Tier  string   `json:"tier,omitempty"`
	To    []Person `json:"to,omitempty"`
}

func (g *Gifted) Validate() error {
	return all(g.by.Validate(), atLeast("count", g.Count, 1))
}

var (
	decimal  = regexp.MustCompile(`^[0-9]{1,12}(\.[0-9]{1,4})?$`)
	currency = regexp.MustCompile(`^[A-Z]{3}$`)
)

func money(amount, cur string) error {
	if !decimal.MatchString(amount) {
		return wrong("data.amount", `%q is no amount; send a string such as "12.50"`, amount)
	}
	if !currency.MatchString(cur) {
		return wrong("data.currency", `%q is no currency; send its ISO 4217 code, such as "EUR"`, cur)
	}
	return nil
}

// Tipped: money given. Amount is a decimal string, Currency an ISO 4217 code;
// Campaign names the charity drive it belongs to, if any.
type Tipped struct {
	by
	Amount   string `json:"amount"`
	Currency string `json:"currency"`
	Message  string `json:"message,omitempty"`
	Campaign string `json:"campaign,omitempty"`
}

func (t *Tipped) Validate() error {
	return all(t.by.Validate(), money(t.Amount, t.Currency))
}

// Credits: platform credits spent on the channel.
type Credits struct {
	by
	Amount  int64  `json:"amount"`
	Message string `json:"message,omitempty"`
}

func (c *Credits) Validate() error {
	return all(c.by.Validate(), atLeast("amount", c.Amount, 1))
}

// RewardClaimed: a channel reward was claimed, at Cost points.
type RewardClaimed struct {
	by
	Reward string `json:"reward"`
	Cost   int64  `json:"cost"`
	Text   string `json:"text,omitempty"`
}

func (r *RewardClaimed) Validate() error {
	return all(r.by.Validate(), filled("reward", r.Reward), atLeast("cost", r.Cost, 0))
}

// ShopItem is a sale, a gift or a use of an item.
type ShopItem struct {
	by
	Item     string   `json:"item"`
	Quantity int64    `json:"quantity"`
	Amount   string   `json:"amount,omitempty"`
	Currency string   `json:"currency,omitempty"`
	To       []Person `json:"to,omitempty"`
	Message  string   `json:"message,omitempty"`
}

func (s *ShopItem) Validate() error {
	if err := all(s.by.Validate(), filled("item", s.Item), atLeast("quantity", s.Quantity, 1)); err != nil {
		return err
	}
	if s.Amount != "" || s.Currency != "" {
		return money(s.Amount, s.Currency)
	}
	return nil
}

// ShopSold: something was bought in the shop.
type ShopSold struct{ ShopItem }

// ShopGifted: something was bought for somebody else.
type ShopGifted struct{ ShopItem }

// ShopUsed: somebody used an item they own.
type ShopUsed struct{ ShopItem }

// ChannelShown: another channel shows ours to its Viewers.
type ChannelShown struct {
	by
	Viewers int64 `json:"viewers"`
}

func (c *ChannelShown) Validate() error {
	return all(c.by.Validate(), atLeast("viewers", c.Viewers, 0))
}

// Social is what happens on the channel's social account.
type Social struct {
	by
	URL string `json:"url,omitempty"`
}

// SocialFollowed: somebody follows the social account.
type SocialFollowed struct{ Social }

// SocialLiked: somebody likes a post.
type SocialLiked struct{ Social }

// SocialReposted: somebody passes a post on.
type SocialReposted struct{ Social }

// Other is any other service's event, by name, with a flat map of fields.
type Other struct {
	Name   string         `json:"name"`
	Person *Person        `json:"person,omitempty"`
	Fields map[string]any `json:"fields,omitempty"`
}

// Who is the person named, or nil.
func (o *Other) Who() *Person { return o.Person }

// Validate refuses a missing name and fields that are not flat.
func (o *Other) Validate() error {
	if err := filled("name", o.Name); err != nil {
		return err
	}
	for k, v := range o.Fields {
		switch v.(type) {
		case nil, string, bool, float64:
		default:
			return wrong("data.fields."+k, "must be a text, a number or true/false; the map is flat")
		}
	}
	if o.Person != nil {
		return o.Person.validate("data.person")
	}
	return nil
}

// The type names, one a happening.
func (*StreamOpened) Type() string   { return "porch.stream.opened" }
func (*StreamChanged) Type() string  { return "porch.stream.changed" }
func (*StreamClosed) Type() string   { return "porch.stream.closed" }
func (*StreamViewers) Type() string  { return "porch.stream.viewers" }
func (*ChatSaid) Type() string       { return "porch.chat.said" }
func (*ChatRemoved) Type() string    { return "porch.chat.removed" }
func (*PersonFollowed) Type() string { return "porch.person.followed" }
func (*PersonBanned) Type() string   { return "porch.person.banned" }
func (*PersonTimedOut) Type() string { return "porch.person.timedout" }
func (*PersonRenamed) Type() string  { return "porch.person.renamed" }
func (*PersonJoined) Type() string   { return "porch.person.joined" }
func (*PersonEntered) Type() string  { return "porch.person.entered" }
func (*PersonLeft) Type() string     { return "porch.person.left" }
func (*RaidCame) Type() string       { return "porch.raid.came" }
func (*RaidWent) Type() string       { return "porch.raid.went" }
func (*Subscribed) Type() string     { return "porch.support.subscribed" }
func (*Gifted) Type() string         { return "porch.support.gifted" }
func (*Tipped) Type() string         { return "porch.support.tipped" }
func (*Credits) Type() string        { return "porch.support.credits" }
func (*RewardClaimed) Type() string  { return "porch.reward.claimed" }
func (*ShopSold) Type() string       { return "porch.shop.sold" }
func (*ShopGifted) Type() string     { return "porch.shop.gifted" }
func (*ShopUsed) Type() string       { return "porch.shop.used" }
func (*ChannelShown) Type() string   { return "porch.channel.shown" }
func (*SocialFollowed) Type() string { return "porch.social.followed" }
func (*SocialLiked) Type() string    { return "porch.social.liked" }
func (*SocialReposted) Type() string { return "porch.social.reposted" }
func (*Other) Type() string          { return "porch.other" }

var _ = register(func() Data { return &StreamOpened{} }) &&
	register(func() Data { return &StreamChanged{} }) &&
	register(func() Data { return &StreamClosed{} }) &&
	register(func() Data { return &StreamViewers{} }) &&
	register(func() Data { return &ChatSaid{} }) &&
	register(func() Data { return &ChatRemoved{} }) &&
	register(func() Data { return &PersonFollowed{} }) &&
	register(func() Data { return &PersonBanned{} }) &&
	register(func() Data { return &PersonTimedOut{} }) &&
	register(func() Data { return &PersonRenamed{} }) &&
	register(func() Data { return &PersonJoined{} }) &&
	register(func() Data { return &PersonEntered{} }) &&
	register(func() Data { return &PersonLeft{} }) &&
	register(func() Data { return &RaidCame{} }) &&
	register(func() Data { return &RaidWent{} }) &&
	register(func() Data { return &Subscribed{} }) &&
	register(func() Data { return &Gifted{} }) &&
	register(func() Data { return &Tipped{} }) &&
	register(func() Data { return &Credits{} }) &&
	register(func() Data { return &RewardClaimed{} }) &&
	register(func() Data { return &ShopSold{} }) &&
	register(func() Data { return &ShopGifted{} }) &&
	register(func() Data { return &ShopUsed{} }) &&
	register(func() Data { return &ChannelShown{} }) &&
	register(func() Data { return &SocialFollowed{} }) &&
	register(func() Data { return &SocialLiked{} }) &&
	register(func() Data { return &SocialReposted{} }) &&
	register(func() Data { return &Other{} })
