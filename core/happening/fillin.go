package happening

import (
	"fmt"
	"slices"
	"strconv"

	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// everywhere are the fill-ins that every happening has.
var everywhere = []wording.FillIn{
	{Name: "channel", Kind: wording.Text, Tells: "this channel's name", Example: "tidepool_hours"},
	{Name: "platform", Kind: wording.Text, Tells: "where it happened", Example: "Quayside"},
	{Name: "now", Kind: wording.Moment, Tells: "day and time, in the channel's zone", Example: "Nov 24, 2026"},
	{Name: "upTime", Kind: wording.Text, Tells: "how long the stream has been on", Example: "2 hours and 5 minutes", Optional: true},
	{Name: "streamTitle", Kind: wording.Text, Tells: "what tonight's stream is called", Example: "What the tide left", Optional: true},
	{Name: "streamCategory", Kind: wording.Text, Tells: "its category", Example: "Field and microscope", Optional: true},
	{Name: "latestPost", Kind: wording.Text, Tells: "what was posted last by the social account", Example: "Low water at nine. Boots on!", Optional: true},
	{Name: "followers", Kind: wording.Number, Tells: "how many follow, as the platform told it lately", Example: "1204", Optional: true},
	{Name: "subscribers", Kind: wording.Number, Tells: "how many subscribe, as the platform told it lately", Example: "38", Optional: true},
	{Name: "watching", Kind: wording.Number, Tells: "how many watch now, as the platform told it lately", Example: "61", Optional: true},
	{Name: "alongside", Kind: wording.Text, Tells: "who streams along tonight", Example: "kelpwright and night_heron_cam", Optional: true},
	{Name: "together", Kind: wording.Text, Tells: "the link that shows all of them and us side by side", Example: "https://side.example/tidepool_hours/kelpwright", Optional: true},
	{Name: "ranks", Kind: wording.Text, Tells: "who gathered most, with how much", Example: "1. limpet_lena 2040, 2. kelpwright 1980", Optional: true},
	{Name: "seasonRanks", Kind: wording.Text, Tells: "who gathered most this season", Example: "1. kelpwright 320, 2. limpet_lena 290", Optional: true},
	{Name: "mostActive", Kind: wording.Text, Tells: "who said most tonight", Example: "kelpwright, sandhopper9 and limpet_lena", Optional: true},
	{Name: "draw", Kind: wording.Text, Tells: "what is to be won in the draw that goes on", Example: "a print of the kelp bed", Optional: true},
	{Name: "drawEntries", Kind: wording.Number, Tells: "how many have entered it", Example: "43", Optional: true},
	{Name: "evenings", Kind: wording.Number, Tells: "streams of this channel, tonight's included", Example: "212"},
}

var (
	theirLink     = wording.FillIn{Name: "link", Kind: wording.Text, Tells: "where to find them; of a command, whoever is meant", Example: "https://quayside.example/night_heron_cam", Optional: true}
	theirCategory = wording.FillIn{Name: "category", Kind: wording.Text, Tells: "what they last streamed", Example: "Reedbed at dusk", Optional: true}
	theMeant      = wording.FillIn{Name: "meant", Kind: wording.Text, Tells: "who is meant, when somebody was named", Example: "mossy_mare", Optional: true}
)

// aboutThem are the fill-ins about a person.
var aboutThem = slices.Concat([]wording.FillIn{
	{Name: "name", Kind: wording.Text, Tells: "the person's name, as it is said", Example: "limpet_lena"},
	{Name: "streams", Kind: wording.Number, Tells: "streams they were at, tonight included", Example: "41"},
	{Name: "inARow", Kind: wording.Number, Tells: "streams in a row that they were at, tonight included; up to 21", Example: "4"},
	{Name: "standing", Kind: wording.Text, Tells: "how they stand: newcomer, returning, regular or long away", Example: "regular"},
	{Name: "followed", Kind: wording.Moment, Tells: "since when they follow", Example: "Mar 3, 2025", Optional: true},
	{Name: "followAge", Kind: wording.Text, Tells: "how long they have followed", Example: "1 year, 8 months, 21 days, 3 hours and 12 minutes", Optional: true},
	{Name: "follows", Kind: wording.Text, Tells: "for a choice: streamer, yes or no", Example: "yes"},
	theirLink, theirCategory,
	{Name: "points", Kind: wording.Text, Tells: "what they have, in the channel's words", Example: "120 pearls", Optional: true},
	{Name: "gathered", Kind: wording.Text, Tells: "all that they ever gathered", Example: "2040 pearls", Optional: true},
	{Name: "level", Kind: wording.Number, Tells: "the level that makes", Example: "7", Optional: true},
	{Name: "levelName", Kind: wording.Text, Tells: "what that level is called", Example: "Periwinkle", Optional: true},
	{Name: "rank", Kind: wording.Number, Tells: "their place among those who gathered most, within the first hundred", Example: "3", Optional: true},
	{Name: "drawNumber", Kind: wording.Number, Tells: "the number of their entry in the draw that goes on", Example: "12", Optional: true},
}, theirDays)

// AboutThem lists the fill-ins that tell of a person.
func AboutThem() (names []string) {
	for _, f := range aboutThem {
		names = append(names, f.Name)
	}
	return names
}

// IsAboutThem reports whether a fill-in tells of a person.
func IsAboutThem(name string) bool {
	return slices.ContainsFunc(aboutThem, func(f wording.FillIn) bool { return f.Name == name })
}

// Offers lists the fill-ins that wordings of it can use.
func (h *Happening) Offers() []wording.FillIn {
	var out []wording.FillIn
	switch h.Frame {
	case OfPerson:
		out = append(out, aboutThem...)
	case OfStream:
		out = append(out, everywhere...)
	}
	for _, f := range h.FillIns {
		out = append(out, f.FillIn)
	}
	if h.Frame != OfStream {
		out = append(out, everywhere...)
	}
	return out
}

// JoinedOffers lists the fill-ins that a line for several people can use.
func (h *Happening) JoinedOffers() []wording.FillIn {
	out := []wording.FillIn{
		{Name: "names", Kind: wording.Text, Tells: "up to six names", Example: "tidewrack, mossy_mare, pebble_june"},
		{Name: "more", Kind: wording.Number, Tells: "how many beyond those named", Example: "9"},
		{Name: "count", Kind: wording.Number, Tells: "how many in all", Example: "12"},
	}
	switch n := h.Main(); n { // the sum of what several brought
	case "":
	case "amount":
		out = append(out, wording.FillIn{Name: "total", Kind: wording.Text, Tells: "all amounts together, by currency", Example: "22.50 EUR and 5 USD"})
	default:
		out = append(out, wording.FillIn{Name: "total", Kind: wording.Number, Tells: "all " + n + " together", Example: "31"})
	}
	return append(out, everywhere...)
}

// Tell fills in what a happening brings of itself.
func (h *Happening) Tell(data event.Data, args wording.Args) {
	for _, f := range h.FillIns {
		switch {
		case f.Of == nil:
		case f.Kind == wording.Number:
			args[f.Name] = f.Of(data)
		default:
			args.Maybe(f.Name, f.Of(data))
		}
	}
	if h.More == nil {
		return
	}
	for name, v := range h.More(data) {
		if _, taken := args[name]; taken || v == nil {
			continue
		}
		if n, ok := v.(float64); ok {
			args.Maybe(name, wording.Value{Num: n, IsNum: true})
		} else {
			args.Maybe(name, wording.Str(plain.Text(FieldText(v))))
		}
	}
}

// Asked are the texts that a courtesy can ask for, as they came: those of the happening
// itself, and its further fields under their own names.
func (h *Happening) Asked(data event.Data) map[string]string {
	if len(h.Texts) == 0 && h.More == nil {
		return nil
	}
	out := map[string]string{}
	for _, t := range h.Texts {
		out[t.Name] = t.Of(data)
	}
	if h.More != nil {
		for name, v := range h.More(data) {
			if _, taken := out[name]; !taken && v != nil {
				out[name] = FieldText(v)
			}
		}
	}
	return out
}

// FieldText writes a field of another service's event: a number with all its digits.
func FieldText(v any) string {
	if n, ok := v.(float64); ok {
		return strconv.FormatFloat(n, 'f', -1, 64)
	}
	return fmt.Sprint(v)
}

// What follows writes the entries of a happening, each for its own type of data.

// Whole is a number of whole things.
func Whole[D event.Data](name string, of func(D) int64) Number {
	return Number{name, func(d event.Data) (float64, string, bool) { return float64(of(d.(D))), "", true }}
}

// Amount is money; none came where the amount is no number.
func Amount[D event.Data](of func(D) (amount, currency string)) Number {
	return Number{"amount", func(d event.Data) (float64, string, bool) {
		a, currency := of(d.(D))
		n, err := strconv.ParseFloat(a, 64)
		return n, currency, err == nil
	}}
}

// TextOf is a text that a courtesy can ask for.
func TextOf[D event.Data](name string, of func(D) string) Text {
	return Text{name, func(d event.Data) string { return of(d.(D)) }}
}

// Count is a fill-in that is a number.
func Count[D event.Data](name, tells, example string, of func(D) int64) FillIn {
	return FillIn{wording.FillIn{Name: name, Kind: wording.Number, Tells: tells, Example: example}, func(d event.Data) wording.Value { return wording.Num(of(d.(D))) }}
}

// Says is a fill-in in words of other people's, which may be missing.
func Says[D event.Data](name, tells, example string, of func(D) string) FillIn {
	return FillIn{wording.FillIn{Name: name, Kind: wording.Text, Tells: tells, Example: example, Optional: true}, func(d event.Data) wording.Value { return wording.Str(plain.Text(of(d.(D)))) }}
}

// Offered is a fill-in that the house works out.
func Offered(f wording.FillIn) FillIn { return FillIn{FillIn: f} }

// Happened is an entry that says what was done, after the name of whoever did it.
func Happened[D event.Data](of func(D) string) func(event.Data) Entry {
	return func(d event.Data) Entry { return Entry{Kind: "happening", Text: plain.Text(of(d.(D)))} }
}

// Gave is support of a kind.
func Gave[D event.Data](of func(D) Support) Book {
	return Book{Visit: true, Support: func(d event.Data) Support { return of(d.(D)) }}
}

// many is a number with what it counts: "1 month", "5 months".
func many(n int64, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprint(n, " ", one, "s")
}
