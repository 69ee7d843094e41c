package world

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
)

// The past of the sample house: sixty streams over twenty weeks, three a week on the
// same weekdays, and about 260 people with habits.
const (
	PastStreams = 60
	peopleMost  = 260
)

// PastStream is when one of the past streams was on. The last was two days before
// the written evening; one a week falls on the evening's own weekday.
func PastStream(number int) (opened, closed time.Time) {
	back := PastStreams - number
	opened = Opening.AddDate(0, 0, -7*(back/3)-[]int{2, 4, 7}[back%3])
	return opened, opened.Add(2*time.Hour + time.Duration(17*(number%5))*time.Minute)
}

// Crews are the crews of the sample world.
var Crews = []event.BookCrewed{
	{ID: "low-water-league", Name: "Low Water League", Emblem: "kelp", Initials: "LWL"},
	{ID: "lantern-row", Name: "Lantern Row", Emblem: "lamp", Initials: "LR"},
	{ID: "quiet-moths", Name: "Quiet Moths", Emblem: "moth", Initials: "QM"},
}

// habit is how likely somebody comes to a stream.
type habit func(number int) float64

func always(p float64) habit { return func(int) float64 { return p } }

// weekday comes on one of the three evenings of the week.
func weekday(slot int, p float64) habit {
	return func(n int) float64 {
		if (PastStreams-n)%3 == slot {
			return p
		}
		return 0.04
	}
}

func from(first int, p float64) habit {
	return func(n int) float64 {
		if n < first {
			return 0
		}
		return p
	}
}

func until(last int, p float64) habit {
	return func(n int) float64 {
		if n > last {
			return 0
		}
		return p
	}
}

func once(stream int) habit {
	return func(n int) float64 {
		if n == stream {
			return 1
		}
		return 0
	}
}

// story is what is told of one person of the world, besides how they come.
type story struct {
	come     habit
	crews    []string
	birthday int // days after the evening; nothing when noDay
	year     int
	sayAs    string
	pronouns string
	note     string
	zone     string
	tags     []string
	trusted  bool
	leaveBe  bool
	was      string
	follows  int // days before the evening; 0 not
	came     []raidOf
	went     []raidOf
}

type raidOf struct {
	stream  int
	viewers int64
}

const noDay = 9999

// told are the people of whom there is more to tell, by login.
var told = map[string]story{
	"limpet_lena":      {come: always(0.92), birthday: 0, sayAs: "Lena", pronouns: "she/her", note: "Brings the tide tables. Asks about limpets, always.", follows: 822, tags: []string{"tea"}, trusted: true, zone: "Europe/Lisbon"},
	"sandhopper9":      {come: always(0.86), birthday: noDay, follows: 729, trusted: true, tags: []string{"keeps the peace"}, note: "Keeps an eye on chat while the lamp is warming up."},
	"ottoline_reed":    {come: always(0.34), birthday: 41, follows: 214, pronouns: "they/them"},
	"kelpwright":       {come: weekday(0, 0.75), birthday: 105, pronouns: "she/her", crews: []string{"low-water-league", "lantern-row"}, follows: 610, was: "kelp_wright", came: []raidOf{{31, 12}, {42, 20}, {53, 31}}, went: []raidOf{{36, 22}, {50, 26}}, tags: []string{"prints on Fridays"}},
	"night_heron_cam":  {come: weekday(1, 0.12), birthday: noDay, crews: []string{"lantern-row"}, follows: 151, came: []raidOf{{48, 64}, {57, 90}}, note: "The camera over the reedbed. Herons after dusk."},
	"saltpan_pip":      {come: until(30, 0.8), birthday: noDay, follows: 1096, note: "Moved inland; said the evenings are long there."},
	"mothlight":        {come: always(0.3), birthday: -2, crews: []string{"quiet-moths"}, follows: 340},
	"barnacle_bo":      {come: from(20, 0.68), birthday: 160, crews: []string{"quiet-moths"}, follows: 396, sayAs: "Bo"},
	"moss_and_maud":    {come: always(0.62), birthday: 12, year: 1986, follows: 505, sayAs: "Maud", crews: []string{"quiet-moths", "lantern-row"}},
	"eelgrass_ed":      {come: once(60), birthday: noDay},
	"wrack_and_ruin":   {come: weekday(0, 0.95), birthday: noDay, follows: 288, was: "wrack_ruin"},
	"periwinkle_p":     {come: from(55, 0.75), birthday: noDay},
	"driftprint":       {come: always(0.22), birthday: 3, crews: []string{"low-water-league"}, follows: 428, note: "Seaweed prints, Wednesdays.", came: []raidOf{{22, 18}, {39, 25}}, went: []raidOf{{25, 14}, {41, 19}, {55, 30}}},
	"drift.print":      {come: from(30, 0.1), birthday: noDay},
	"whelk_parade":     {come: always(0.18), birthday: noDay, follows: 275, crews: []string{"low-water-league", "quiet-moths"}},
	"saltmarsh_sal":    {come: once(46), birthday: noDay, crews: []string{"low-water-league"}, came: []raidOf{{46, 80}}},
	"tern_and_tide":    {come: weekday(2, 0.3), birthday: 77, crews: []string{"low-water-league", "lantern-row", "quiet-moths"}, came: []raidOf{{18, 9}, {33, 14}, {44, 11}}, follows: 700},
	"foreshore_fen":    {come: always(0.15), birthday: noDay, crews: []string{"low-water-league", "lantern-row"}, came: []raidOf{{28, 40}}, went: []raidOf{{52, 33}, {59, 12}}},
	"gully_greta":      {come: always(0.1), birthday: 200, crews: []string{"low-water-league"}},
	"dusk_dory":        {come: until(24, 0.5), birthday: noDay, crews: []string{"lantern-row", "quiet-moths"}},
	"sheet_and_lamp":   {come: always(0.12), birthday: noDay, crews: []string{"quiet-moths"}, went: []raidOf{{47, 17}}},
	"quiet_quince":     {come: always(0.2), birthday: noDay, leaveBe: true, note: "Likes to read along and not be named."},
	"cockle_cass":      {come: always(0.8), birthday: 5, follows: 365, pronouns: "she/her"},
	"the_tide_keeper_": {come: weekday(0, 0.9), birthday: noDay, follows: 90},
}

// extra are people of the past who are not on the evening.
var extra = []Person{
	{Platform: "quayside", ID: "8312", Login: "driftprint", Name: "driftprint", Roles: []string{"vip"}, Link: "https://quayside.example/driftprint", Category: "Seaweed on paper"},
	{Platform: "fernlight", ID: "f-412", Login: "drift.print", Name: "Driftprint"},
	{Platform: "quayside", ID: "8333", Login: "whelk_parade", Name: "whelk_parade", Link: "https://quayside.example/whelk_parade", Category: "Whelks, slowly"},
	{Platform: "quayside", ID: "8390", Login: "saltmarsh_sal", Name: "Saltmarsh Sal", Link: "https://quayside.example/saltmarsh_sal", Category: "Samphire at low tide"},
	{Platform: "fernlight", ID: "f-520", Login: "tern_and_tide", Name: "tern_and_tide", Link: "https://fernlight.example/tern_and_tide", Category: "Terns on the shingle"},
	{Platform: "quayside", ID: "8421", Login: "foreshore_fen", Name: "Foreshore Fen", Link: "https://quayside.example/foreshore_fen", Category: "Mud, mostly"},
	{Platform: "quayside", ID: "8460", Login: "gully_greta", Name: "gully_greta", Link: "https://quayside.example/gully_greta", Category: "Gully walk"},
	{Platform: "fernlight", ID: "f-533", Login: "dusk_dory", Name: "dusk_dory", Link: "https://fernlight.example/dusk_dory", Category: "Moths at the lamp"},
	{Platform: "quayside", ID: "8489", Login: "sheet_and_lamp", Name: "sheet_and_lamp", Link: "https://quayside.example/sheet_and_lamp", Category: "Sheet and lamp"},
	{Platform: "quayside", ID: "8502", Login: "quiet_quince", Name: "quiet_quince"},
	{Platform: "fernlight", ID: "f-601", Login: "cockle_cass", Name: "Cockle Cass", Roles: []string{"subscriber"}},
	{Platform: "quayside", ID: "8555", Login: "the_tide_keeper_", Name: "The Tide Keeper of the Outer Skerries and All Their Pools"},
}

var (
	pastFirsts = []string{"shore", "brine", "pebble", "fern", "lichen", "curlew", "dunlin", "sorrel", "bramble", "estuary", "harbour", "mussel", "oyster", "plover", "sandpiper", "thrift", "samphire", "spindrift", "gannet", "kittiwake", "rockling", "blenny", "urchin", "sponge", "anemone"}
	pastLasts  = []string{"ann", "ben", "cove", "dan", "ella", "finn", "gil", "holt", "ida", "jo", "kit", "loch", "may", "nell", "otto"}
)

// People is the people file.
func People() []byte {
	r := rand.New(rand.NewPCG(60, 260))
	head := rehearsal.Header{Zone: "Europe/Lisbon", Seed: "a boathouse at low water", Crews: Crews}
	for n := 1; n <= PastStreams; n++ {
		o, c := PastStream(n)
		head.Streams = append(head.Streams, attendance.Past{Number: n, Opened: o, Closed: c})
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.Encode(head)
	n := 0
	put := func(p Person, s story) {
		n++
		enc.Encode(written(r, p, s))
	}
	for _, p := range append(slices.Clone(Known), extra...) {
		put(p, told[p.Login])
	}
	// Whom the two larger raids of the past brought: most of the one stayed, of the
	// other nobody did.
	for i := range 14 {
		name := fmt.Sprintf("%s_%s", []string{"reedbed", "wader", "roost"}[i%3], pastLasts[i])
		put(Person{Platform: "quayside", ID: fmt.Sprintf("h-%02d", i), Login: name, Name: name}, story{birthday: noDay, come: func(s int) float64 {
			switch {
			case s < 48:
				return 0
			case s == 48:
				return 1
			case i < 10:
				return 0.45
			}
			return 0
		}})
	}
	for i := range 16 {
		name := fmt.Sprintf("saltmarsh_%s", pastLasts[i%len(pastLasts)]) + []string{"", "2"}[i/len(pastLasts)]
		put(Person{Platform: "quayside", ID: fmt.Sprintf("m-%02d", i), Login: name, Name: name}, story{birthday: noDay, come: once(46)})
	}
	for i := 0; n < peopleMost; i++ {
		platform, id := "quayside", fmt.Sprint(9400+i)
		if r.IntN(4) == 0 {
			platform, id = "fernlight", fmt.Sprintf("f-%d", 700+i)
		}
		login := pastFirsts[i%len(pastFirsts)] + []string{"_", "", "."}[r.IntN(3)] + pastLasts[(i/len(pastFirsts)+3*i)%len(pastLasts)]
		if r.IntN(5) == 0 {
			login += fmt.Sprint(r.IntN(90) + 7)
		}
		s := story{birthday: noDay}
		switch k := r.IntN(100); {
		case k < 6: // a core of regulars
			s.come, s.follows = always(0.7+0.25*r.Float64()), 60+r.IntN(900)
		case k < 16: // those of one evening a week
			s.come, s.follows = weekday(r.IntN(3), 0.8+0.2*r.Float64()), r.IntN(600)
		case k < 24: // faded
			last := 8 + r.IntN(32)
			s.come, s.follows = until(last, 0.3+0.5*r.Float64()), 200+r.IntN(500)
		case k < 34: // newly keen
			s.come = from(44+r.IntN(14), 0.4+0.4*r.Float64())
		case k < 62: // now and then
			s.come = always(0.03 + 0.2*r.Float64())
			if r.IntN(2) == 0 {
				s.follows = r.IntN(700)
			}
		default: // once
			s.come = once(1 + r.IntN(PastStreams))
		}
		if r.IntN(8) == 0 {
			s.birthday = r.IntN(365)
		}
		put(Person{Platform: platform, ID: id, Login: login, Name: login, Roles: followerOf(s)}, s)
	}
	return b.Bytes()
}

func followerOf(s story) []string {
	if s.follows > 0 {
		return []string{"follower"}
	}
	return nil
}

// written writes one person down.
func written(r *rand.Rand, p Person, s story) card.Card {
	c := card.Card{}
	a := card.Account{Person: event.Person{Platform: p.Platform, ID: p.ID, Login: p.Login, Name: p.Name}}
	for _, role := range p.Roles {
		a.Roles = append(a.Roles, event.Role(role))
	}
	if s.was != "" {
		a.Was = []string{s.was}
	}
	if s.follows > 0 {
		f := Opening.AddDate(0, 0, -s.follows).Add(37 * time.Minute)
		a.Followed = &f
	}
	raids := map[int]time.Time{46: raidAt(46), 48: raidAt(48)}
	for n := 1; n <= PastStreams; n++ {
		if s.come == nil || r.Float64() >= s.come(n) {
			continue
		}
		opened, closed := PastStream(n)
		first := opened.Add(time.Duration(2+r.IntN(50)) * time.Minute)
		if raid, ok := raids[n]; ok && len(a.Visits) == 0 && len(p.ID) > 2 && (p.ID[:2] == "h-" || p.ID[:2] == "m-") {
			first = raid.Add(time.Duration(20+r.IntN(400)) * time.Second)
		}
		last := first.Add(time.Duration(r.Float64() * float64(closed.Sub(first)))).Truncate(time.Second)
		a.Visits = append(a.Visits, card.Visit{Stream: n, First: first, Last: last, Lines: int64(1 + r.IntN(40))})
	}
	text := func(v string) *string {
		if v == "" {
			return nil
		}
		return &v
	}
	yes := func(v bool) *bool {
		if !v {
			return nil
		}
		return &v
	}
	c.SayAs, c.Pronouns, c.Note, c.Zone, c.Trusted, c.LeaveBe = text(s.sayAs), text(s.pronouns), text(s.note), text(s.zone), yes(s.trusted), yes(s.leaveBe)
	c.Tags, c.Crews = s.tags, s.crews
	if s.birthday != noDay && s.come != nil {
		d := dates.On(Opening.AddDate(0, 0, s.birthday), time.UTC)
		d.Year = s.year
		c.Birthday = &d
	}
	for way, list := range map[string][]raidOf{"came": s.came, "went": s.went} {
		for _, f := range list {
			at := raidAt(f.stream)
			if _, closed := PastStream(f.stream); way == "went" {
				at = closed
			}
			c.Raids = append(c.Raids, card.Raid{Way: way, Viewers: f.viewers, At: at})
		}
	}
	slices.SortFunc(c.Raids, func(a, b card.Raid) int { return a.At.Compare(b.At) })
	if p.Link != "" {
		c.Fetched = &people.Fetched{Link: p.Link, Category: p.Category}
	}
	c.Accounts = []card.Account{a}
	return c
}

// raidAt is when a raid of a past stream came.
func raidAt(stream int) time.Time {
	opened, _ := PastStream(stream)
	return opened.Add(61 * time.Minute)
}

// Moved is the people file with its whole past moved, so that the written evening
// is tonight: shift is how far.
func Moved(book *rehearsal.Book, shift time.Duration) (streams []attendance.Past, cards []card.Card) {
	at := func(t *time.Time) *time.Time {
		if t == nil {
			return nil
		}
		m := t.Add(shift)
		return &m
	}
	for _, p := range book.Streams {
		streams = append(streams, attendance.Past{Number: p.Number, Opened: p.Opened.Add(shift), Closed: p.Closed.Add(shift)})
	}
	for _, c := range book.People {
		if b := c.Birthday; b != nil {
			year := b.Year
			moved := dates.On(b.In(Opening.Year(), dates.OnFebruary28).At(time.UTC).Add(shift), time.UTC)
			moved.Year = year
			c.Birthday = &moved
		}
		c.FirstSeen, c.LastSeen = at(c.FirstSeen), at(c.LastSeen)
		c.Accounts = slices.Clone(c.Accounts)
		for i := range c.Accounts {
			a := &c.Accounts[i]
			a.Followed = at(a.Followed)
			a.Visits = slices.Clone(a.Visits)
			for j := range a.Visits {
				a.Visits[j].First, a.Visits[j].Last = a.Visits[j].First.Add(shift), a.Visits[j].Last.Add(shift)
			}
		}
		c.Raids = slices.Clone(c.Raids)
		for i := range c.Raids {
			c.Raids[i].At = c.Raids[i].At.Add(shift)
		}
		cards = append(cards, c)
	}
	return streams, cards
}
