package courtesy

import (
	"strings"

	"vividporch/core/wording"
)

var common = []wording.FillIn{
	{Name: "channel", Kind: wording.Text, Tells: "this channel's name", Example: "tidepool_hours"},
	{Name: "platform", Kind: wording.Text, Tells: "where it happened", Example: "Quayside"},
	{Name: "now", Kind: wording.Moment, Tells: "day and time, in the channel's zone", Example: "Nov 24, 2026"},
}

var about = []wording.FillIn{
	{Name: "name", Kind: wording.Text, Tells: "the person's name, as it is said", Example: "limpet_lena"},
	{Name: "streams", Kind: wording.Number, Tells: "streams they were at, tonight included", Example: "41"},
	{Name: "followed", Kind: wording.Moment, Tells: "since when they follow", Example: "Mar 3, 2025", Optional: true},
	{Name: "link", Kind: wording.Text, Tells: "where to find them; of a command, whoever is meant", Example: "https://quayside.example/night_heron_cam", Optional: true},
	{Name: "category", Kind: wording.Text, Tells: "what they last streamed", Example: "Reedbed at dusk", Optional: true},
}

// FillIns lists what a when can offer to its wordings.
func FillIns(when string) []wording.FillIn {
	switch when {
	case "porch.raid.came":
		return join(about, []wording.FillIn{
			{Name: "viewers", Kind: wording.Number, Tells: "how many they brought", Example: "120"},
			{Name: "raids", Kind: wording.Number, Tells: "how often they have come, this one included", Example: "3"},
		}, common)
	case "porch.stream.opened", "porch.stream.changed", "porch.stream.closed":
		return join(common, []wording.FillIn{
			{Name: "title", Kind: wording.Text, Tells: "the stream's title", Example: "What the tide left in the gully", Optional: true},
			{Name: "category", Kind: wording.Text, Tells: "the stream's category", Example: "Field and microscope", Optional: true},
			{Name: "link", Kind: wording.Text, Tells: "where to watch", Example: "https://quayside.example/tidepool_hours", Optional: true},
		})
	}
	if when == Hand {
		return join(brought[when], common)
	}
	return join(about, brought[when], common)
}

// brought are the fill-ins that a happening brings of itself.
var brought = map[string][]wording.FillIn{
	"porch.raid.went":          {viewers},
	"porch.channel.shown":      {viewers},
	"porch.support.subscribed": {{Name: "months", Kind: wording.Number, Tells: "months in all", Example: "14"}, tier},
	"porch.support.gifted": {{Name: "gifts", Kind: wording.Number, Tells: "how many they gave", Example: "5"}, tier,
		{Name: "to", Kind: wording.Text, Tells: "who got it, when it was for one person", Example: "mossy_mare", Optional: true}},
	"porch.support.tipped":  {amount, message},
	"porch.support.credits": {{Name: "credits", Kind: wording.Number, Tells: "credits spent", Example: "300"}, message},
	"porch.reward.claimed": {{Name: "reward", Kind: wording.Text, Tells: "the reward's name", Example: "Name a hermit crab", Optional: true},
		{Name: "cost", Kind: wording.Number, Tells: "what it cost, in points", Example: "400"}, message},
	"porch.shop.sold":       shop,
	"porch.shop.gifted":     shop,
	"porch.shop.used":       shop,
	"porch.person.banned":   {moderator, reason},
	"porch.chat.removed":    {moderator, reason},
	"porch.person.timedout": {{Name: "seconds", Kind: wording.Number, Tells: "how long", Example: "600"}, moderator, reason},
	"porch.person.joined":   {{Name: "place", Kind: wording.Text, Tells: "the community server", Example: "The Boathouse", Optional: true}},
	Command:                 {{Name: "asker", Kind: wording.Text, Tells: "who asked, where somebody else is meant", Example: "limpet_lena", Optional: true}, meant, {Name: "rest", Kind: wording.Text, Tells: "what stood after the command", Example: "how high tonight?", Optional: true}},
	Hand:                    {{Name: "asker", Kind: wording.Text, Tells: "the member who asked", Example: "Odalys Brine"}, meant, about[3], about[4]},
	"porch.other":           {{Name: "event", Kind: wording.Text, Tells: "the event's own name", Example: "tide.turned", Optional: true}},
}

var (
	viewers   = wording.FillIn{Name: "viewers", Kind: wording.Number, Tells: "how many viewers", Example: "120"}
	tier      = wording.FillIn{Name: "tier", Kind: wording.Text, Tells: "the tier's name", Example: "Harbour", Optional: true}
	amount    = wording.FillIn{Name: "amount", Kind: wording.Text, Tells: "the amount with its currency", Example: "12.50 EUR", Optional: true}
	message   = wording.FillIn{Name: "message", Kind: wording.Text, Tells: "what they wrote with it", Example: "for the anemone", Optional: true}
	meant     = wording.FillIn{Name: "meant", Kind: wording.Text, Tells: "who is meant, when somebody was named", Example: "mossy_mare", Optional: true}
	moderator = wording.FillIn{Name: "by", Kind: wording.Text, Tells: "who did it", Example: "grebe_watch", Optional: true}
	reason    = wording.FillIn{Name: "reason", Kind: wording.Text, Tells: "the reason given", Example: "the same line forty times", Optional: true}
	shop      = []wording.FillIn{{Name: "item", Kind: wording.Text, Tells: "the item", Example: "Enamel mug", Optional: true},
		{Name: "items", Kind: wording.Number, Tells: "how many", Example: "2"}, amount, message}
)

// JoinedFillIns lists what a line for several people can use.
func JoinedFillIns(when string) []wording.FillIn {
	return join([]wording.FillIn{
		{Name: "names", Kind: wording.Text, Tells: "up to six names", Example: "tidewrack, mossy_mare, pebble_june"},
		{Name: "more", Kind: wording.Number, Tells: "how many beyond those named", Example: "9"},
		{Name: "count", Kind: wording.Number, Tells: "how many in all", Example: "12"},
	}, total(when), common)
}

// total is the sum of what several brought, for whens with a number.
func total(when string) []wording.FillIn {
	switch n := MainNumber(when); n {
	case "":
		return nil
	case "amount":
		return []wording.FillIn{{Name: "total", Kind: wording.Text, Tells: "all amounts together, by currency", Example: "22.50 EUR and 5 USD"}}
	default:
		return []wording.FillIn{{Name: "total", Kind: wording.Number, Tells: "all " + n + " together", Example: "31"}}
	}
}

func join(lists ...[]wording.FillIn) []wording.FillIn {
	var out []wording.FillIn
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// whens are the happenings a courtesy can have as its cause, with the numbers that
// come with each, the main one first.
var whens = map[string][]string{
	Arrival: nil, Hello: nil, Command: nil, Hand: nil, "porch.stream.opened": nil, "porch.stream.changed": nil, "porch.stream.closed": nil,
	"porch.raid.came": {"viewers"}, "porch.raid.went": {"viewers"}, "porch.channel.shown": {"viewers"},
	"porch.person.followed": nil, "porch.person.banned": nil, "porch.chat.removed": nil, "porch.person.timedout": nil, "porch.person.joined": nil, "porch.person.entered": nil,
	"porch.support.subscribed": {"months"}, "porch.support.gifted": {"gifts"}, "porch.support.tipped": {"amount"}, "porch.support.credits": {"credits"},
	"porch.reward.claimed": {"cost"}, "porch.shop.sold": {"items", "amount"}, "porch.shop.gifted": {"items", "amount"}, "porch.shop.used": {"items"},
	"porch.social.followed": nil, "porch.social.liked": nil, "porch.social.reposted": nil, "porch.other": nil,
}

// When is a cause a courtesy can have: what it is called, which numbers and texts
// come with it, and which slots make sense for it.
type When struct {
	Type    string
	Words   string
	Numbers []string
	Fields  []string
	Slots   []Slot
}

// fieldsOf are the texts of a happening that a who can ask for.
var fieldsOf = map[string][]string{
	"porch.support.subscribed": {"tier"}, "porch.support.gifted": {"tier"}, "porch.support.tipped": {"campaign"}, "porch.reward.claimed": {"reward"},
	"porch.shop.sold": {"item"}, "porch.shop.gifted": {"item"}, "porch.shop.used": {"item"}, "porch.person.joined": {"place"}, "porch.other": {"event"},
}

// Whens lists every cause, in the order in which an evening goes.
func Whens() []When {
	order := []string{"porch.stream.opened", "porch.stream.changed", Arrival, Hello, Command, Hand, "porch.person.entered", "porch.raid.came", "porch.person.followed",
		"porch.support.subscribed", "porch.support.gifted", "porch.support.tipped", "porch.support.credits", "porch.reward.claimed",
		"porch.shop.sold", "porch.shop.gifted", "porch.shop.used", "porch.channel.shown", "porch.person.joined", "porch.person.timedout", "porch.person.banned", "porch.chat.removed",
		"porch.social.followed", "porch.social.liked", "porch.social.reposted", "porch.other", "porch.raid.went", "porch.stream.closed"}
	words := map[string]string{Arrival: "someone's first line", "porch.stream.opened": "the opening of the stream", "porch.raid.came": "a raid"}
	var out []When
	for _, t := range order {
		w := When{Type: t, Words: words[t], Numbers: whens[t], Fields: fieldsOf[t], Slots: []Slot{Thanks, Free}}
		if w.Words == "" {
			w.Words = happenings[t]
		}
		switch {
		case t == Arrival:
			w.Slots = []Slot{Greeting, ShoutOut, Free}
		case t == Hello, t == Command:
			w.Slots = []Slot{Answer, Free}
		case t == Hand:
			w.Slots = []Slot{Free}
		case t == "porch.raid.came":
			w.Slots = []Slot{Thanks, ShoutOut, Free}
		case strings.HasPrefix(t, "porch.stream."):
			w.Slots = []Slot{Free}
		}
		out = append(out, w)
	}
	return out
}

// Called says what an event is in a few words, whatever it is: "a raid".
func Called(kind string) string {
	for _, w := range Whens() {
		if w.Type == kind {
			return w.Words
		}
	}
	switch {
	case kind == "porch.chat.said":
		return "a line of chat"
	case kind == "porch.house.woke":
		return "what was due"
	case strings.HasPrefix(kind, "porch.desk."), strings.HasPrefix(kind, "porch.book."), strings.HasPrefix(kind, "porch.settings."):
		return "something done by hand"
	}
	return "an event (" + kind + ")"
}

// MainNumber names the number a happening is measured by, or "".
func MainNumber(when string) string {
	if n := whens[when]; len(n) > 0 {
		return n[0]
	}
	return ""
}
