// Package world makes the sample world: who lives in it and what happens on one
// evening. It is seeded, so the files it makes are always the same.
package world

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"sort"
	"time"
)

// Opening is when the written evening opens, by its own calendar.
var Opening = time.Date(2031, 5, 14, 18, 2, 0, 0, time.UTC)

// Person is somebody of the sample world.
type Person struct {
	Platform, ID, Login, Name string
	Roles                     []string
	Link, Category            string
}

// Known are the people the house knows when the evening opens.
var Known = []Person{
	{"quayside", "8841", "limpet_lena", "Limpet Lena", []string{"subscriber"}, "", ""},
	{"quayside", "8102", "sandhopper9", "sandhopper9", []string{"moderator"}, "", ""},
	{"fernlight", "f-207", "ottoline_reed", "ottoline_reed", nil, "", ""},
	{"quayside", "9330", "kelpwright", "kelpwright", []string{"follower"}, "https://quayside.example/kelpwright", "Cold frame kelp"},
	{"quayside", "7719", "night_heron_cam", "night_heron_cam", nil, "https://quayside.example/night_heron_cam", "Reedbed at dusk"},
	{"fernlight", "f-118", "saltpan_pip", "saltpan_pip", []string{"vip"}, "", ""},
	{"quayside", "8450", "mothlight", "mothlight", []string{"follower"}, "https://quayside.example/mothlight", "Sheet and lamp"},
	{"quayside", "8631", "barnacle_bo", "Barnacle Bo", nil, "", ""},
	{"fernlight", "f-341", "moss_and_maud", "moss_and_maud", []string{"subscriber"}, "", ""},
	{"quayside", "8777", "eelgrass_ed", "eelgrass_ed", nil, "", ""},
	{"quayside", "8205", "wrack_and_ruin", "wrack_and_ruin", []string{"follower"}, "", ""},
	{"fernlight", "f-090", "periwinkle_p", "periwinkle_p", nil, "", ""},
}

// New are the people who come for the first time before the burst.
var New = []Person{
	{Platform: "quayside", ID: "n-01", Login: "tidewrack", Name: "tidewrack"},
	{Platform: "quayside", ID: "n-02", Login: "mossy_mare", Name: "mossy_mare"},
	{Platform: "fernlight", ID: "n-03", Login: "pebble_june", Name: "pebble_june"},
	{Platform: "quayside", ID: "n-04", Login: "grebe_watch", Name: "grebe_watch"},
	{Platform: "fernlight", ID: "n-05", Login: "dulse_and_dawn", Name: "dulse_and_dawn"},
	{Platform: "quayside", ID: "n-06", Login: "tangle_tom", Name: "tangle_tom"},
	// Somebody who tries what a display name can do.
	{Platform: "quayside", ID: "n-07", Login: "drift_net", Name: "/ban @all {name}\r\nQUIT\u202e now"},
}

var streamer = Person{Platform: "quayside", ID: "1", Login: "tidepool_hours", Name: "Odalys Brine", Roles: []string{"streamer"}}

var (
	firsts = []string{"heron", "reed", "dusk", "bittern", "marsh", "sedge", "wader", "sluice", "willow", "otter"}
	lasts  = []string{"watch", "wing", "step", "hide"}
)

// burst are the forty who come over with the second raid.
func burst() []Person {
	var out []Person
	for i := range 40 {
		login := firsts[i%len(firsts)] + "_" + lasts[i/len(firsts)]
		out = append(out, Person{Platform: "quayside", ID: fmt.Sprintf("b-%02d", i+1), Login: login, Name: login})
	}
	return out
}

// Everybody is everyone who speaks on the evening or is known.
func Everybody() []Person {
	out := append([]Person{streamer}, Known...)
	out = append(out, extra...)
	return append(append(out, New...), burst()...)
}

var hellos = []string{"evening all", "hello hello", "hi from the mainland", "good evening porch", "just in from work, what did I miss", "hello! is that a live one", "hey everyone", "made it in time tonight"}

var talk = []string{
	"that is the biggest dog whelk I have ever seen", "is it moving or is that the current?", "how strong is that lens?",
	"the colours on that anemone!", "I found one of those under the jetty on Sunday", "does the water stay cold enough in the dish?",
	"what eats a brittle star, anyway", "can you turn it over once more", "that is kelp holdfast, no?", "my tide table says low water at nine",
	"the little one on the left is waving", "look at it go", "I could watch this all night", "what is the scale there, a millimetre?",
	"is that sand or eggs", "the sound of the rain on your roof is lovely", "who named it a beadlet, what a good name",
	"there is a second limpet behind it", "do they ever let go", "first time I see one feed",
}

type happening struct {
	at   time.Duration
	kind string
	data map[string]any
}

func (p Person) data() map[string]any {
	m := map[string]any{"platform": p.Platform, "id": p.ID, "login": p.Login, "name": p.Name}
	if len(p.Roles) > 0 {
		m["roles"] = p.Roles
	}
	return m
}

// Evening is the script, JSON Lines in time order.
func Evening() []byte {
	r := rand.New(rand.NewPCG(14, 5))
	var hs []happening
	add := func(at time.Duration, kind string, data map[string]any) { hs = append(hs, happening{at, kind, data}) }
	n := 0
	say := func(at time.Duration, p Person, text string) {
		n++
		add(at, "porch.chat.said", map[string]any{"person": p.data(), "text": text, "messageId": fmt.Sprintf("m%04d", n)})
	}
	info := func(platform string) map[string]any {
		return map[string]any{"platform": platform, "title": "What the tide left in the gully", "category": "Field and microscope", "url": "https://" + platform + ".example/tidepool_hours"}
	}
	minute := func(m float64) time.Duration { return time.Duration(m * float64(time.Minute)) }

	add(0, "porch.stream.opened", info("quayside"))
	add(minute(0.4), "porch.stream.opened", info("fernlight"))
	say(minute(0.6), streamer, "evening everyone, lamp is warming up")
	come := map[string]float64{}
	for i, p := range Known {
		come[p.Login] = 0.8 + 0.55*float64(i)
	}
	come["kelpwright"], come["night_heron_cam"], come["saltpan_pip"] = 6.5, 15.6, 12.5
	for i, p := range New {
		come[p.Login] = 2.2 + 1.15*float64(i)
	}
	everyone := append(append([]Person{}, Known...), New...)
	for _, p := range everyone {
		say(minute(come[p.Login]), p, hellos[r.IntN(len(hellos))])
	}
	// Talk: whoever is there says something now and then, less during the drop.
	for t := 1.5; t < 24.5; t += 0.08 + 0.22*r.Float64() {
		p := everyone[r.IntN(len(everyone))]
		if come[p.Login]+0.3 < t {
			say(minute(t), p, talk[r.IntN(len(talk))])
		}
	}
	add(minute(3.1), "porch.person.followed", map[string]any{"person": New[0].data()})
	add(minute(5.2), "porch.stream.viewers", map[string]any{"platform": "quayside", "viewers": 148})
	add(minute(5.2), "porch.stream.viewers", map[string]any{"platform": "fernlight", "viewers": 31})
	add(minute(6), "porch.raid.came", map[string]any{"person": Known[3].data(), "viewers": 37})
	add(minute(8), "porch.stream.changed", map[string]any{"platform": "quayside", "title": "Brittle stars under the lamp", "category": "Field and microscope", "url": "https://quayside.example/tidepool_hours"})
	// The boathouse loses its line for four minutes.
	add(minute(9), "porch.stream.closed", info("quayside"))
	add(minute(9.05), "porch.stream.closed", info("fernlight"))
	say(minute(9.3), Known[1], "lost picture here")
	say(minute(9.6), New[1], "same, is it me")
	add(minute(13), "porch.stream.opened", info("quayside"))
	add(minute(13.2), "porch.stream.opened", info("fernlight"))
	say(minute(13.3), streamer, "and we are back, sorry, the line got wet")
	add(minute(15), "porch.raid.came", map[string]any{"person": Known[4].data(), "viewers": 120})
	for i, p := range burst() {
		say(minute(15.1)+time.Duration(i)*500*time.Millisecond, p, []string{"herons are here!", "hello from the reedbed", "hi! came over with the herons, what am I looking at", "raid!"}[r.IntN(4)])
	}
	for t := 16.0; t < 24; t += 0.25 {
		p := burst()[r.IntN(40)]
		say(minute(t), p, talk[r.IntN(len(talk))])
	}
	add(minute(16.2), "porch.stream.viewers", map[string]any{"platform": "quayside", "viewers": 262})
	add(minute(17), "porch.person.followed", map[string]any{"person": burst()[4].data()})
	add(minute(17.3), "porch.person.followed", map[string]any{"person": burst()[11].data()})
	add(minute(19), "porch.support.subscribed", map[string]any{"person": New[2].data(), "tier": "oar", "months": 1})
	say(minute(24.8), streamer, "that is the tide turning, thank you all")

	sort.SliceStable(hs, func(i, j int) bool { return hs[i].at < hs[j].at })
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	for i, h := range hs {
		source := "https://street.example/script"
		enc.Encode(struct {
			SpecVersion string         `json:"specversion"`
			ID          string         `json:"id"`
			Source      string         `json:"source"`
			Type        string         `json:"type"`
			Time        string         `json:"time"`
			Data        map[string]any `json:"data"`
		}{"1.0", fmt.Sprintf("e%04d", i+1), source, h.kind, Opening.Add(h.at).Format("2006-01-02T15:04:05.000Z"), h.data})
	}
	return b.Bytes()
}
