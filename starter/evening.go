package starter

import (
	"fmt"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/rehearsal"
)

// Minute is how long the made-up evening lasts.
const Minute = 60 * time.Second

// pastStreams is how many streams there were before the made-up evening, one every third day.
const pastStreams = 12

// known is who is in the made-up guest book: the streams they came to, and what the platform
// tells of their own.
var known = []struct {
	id, login, name string
	attended        []int
	category        string
}{
	{"41", "limpet_lena", "Limpet Lena", []int{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, ""},
	{"42", "kelpwright", "kelpwright", []int{4, 9}, "Cold frame kelp"},
	{"43", "moss_mare", "Moss Mare", []int{11, 12}, ""},
	{"44", "night_heron_cam", "Night Heron Cam", []int{2}, "Herons, live"},
}

// Evening is a made-up evening of a minute that opens at a time on a platform, with the guest
// book that it is lived with.
func Evening(opens time.Time, platform string) ([]event.Event, *rehearsal.Book, error) {
	opens = opens.UTC().Truncate(time.Second)
	var script []event.Event
	at := func(seconds float64, d event.Data) {
		script = append(script, event.Event{ID: fmt.Sprint("made-up-", len(script)), Source: "made-up", Door: "made-up", Type: d.Type(), Time: opens.Add(time.Duration(seconds * float64(time.Second))), Data: d})
	}
	of := func(login string) event.Person {
		for _, k := range known {
			if k.login == login {
				return event.Person{Platform: platform, ID: k.id, Login: login, Name: k.name}
			}
		}
		return event.Person{Platform: platform, ID: "new-" + login, Login: login, Name: login}
	}
	says := func(seconds float64, login, text string) {
		d := &happening.ChatSaid{Text: text}
		d.Person = of(login)
		at(seconds, d)
	}
	at(0, &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: platform, Title: "A made-up evening", Category: "Rock pools"}})
	says(4, "limpet_lena", "Here already! Kettle is on.")
	says(9, "sandhopper9", "hello, first time here, what is this about?")
	says(13, "limpet_lena", "Rock pools, mostly. You will like it.")
	says(17, "moss_mare", "back again, the last one was lovely")
	follow := &happening.PersonFollowed{}
	follow.Person = of("sandhopper9")
	at(22, follow)
	says(26, "kelpwright", "just finished my own stream, so here I am")
	raid := &happening.RaidCame{Viewers: 23}
	raid.Person = of("night_heron_cam")
	at(33, raid)
	for i, login := range []string{"gull_and_ladder", "brinewife", "low_lantern", "tern_about"} {
		says(35+float64(i)*0.7, login, []string{"came with the herons!", "hello everybody", "what a nice place", "hi from the heron stream"}[i])
	}
	sub := &happening.Subscribed{Months: 7, Tier: "usual"}
	sub.Person = of("limpet_lena")
	at(44, sub)
	tip := &happening.Tipped{Amount: "5.00", Currency: "EUR", Message: "for new slides"}
	tip.Person = of("moss_mare")
	at(50, tip)
	says(54, "brinewife", "is that an anemone?")
	says(57, "limpet_lena", "a beadlet, yes")

	var file strings.Builder
	day := 72 * time.Hour
	stamp := func(t time.Time) string { return t.Format(time.RFC3339) }
	first := opens.Add(-pastStreams * day)
	file.WriteString(`{"zone":"","seed":"","streams":[`)
	for n := range pastStreams {
		from := first.Add(time.Duration(n) * day)
		fmt.Fprintf(&file, `%s{"number":%d,"opened":%q,"closed":%q}`, comma(n), n+1, stamp(from), stamp(from.Add(2*time.Hour)))
	}
	file.WriteString("]}\n")
	for _, k := range known {
		fmt.Fprintf(&file, `{"accounts":[{"platform":%q,"id":%q,"login":%q,"name":%q,"visits":[`, platform, k.id, k.login, k.name)
		for i, n := range k.attended {
			from := first.Add(time.Duration(n-1) * day)
			fmt.Fprintf(&file, `%s{"stream":%d,"first":%q,"last":%q,"lines":9}`, comma(i), n, stamp(from.Add(10*time.Minute)), stamp(from.Add(80*time.Minute)))
		}
		file.WriteString("]}]")
		if k.category != "" {
			fmt.Fprintf(&file, `,"fetched":{"link":%q,"category":%q,"at":%q}`, "https://quayside.example/"+k.login, k.category, stamp(opens.Add(-day)))
		}
		file.WriteString("}\n")
	}
	book, err := rehearsal.ReadBook(strings.NewReader(file.String()))
	return script, book, err
}

func comma(n int) string {
	if n == 0 {
		return ""
	}
	return ","
}
