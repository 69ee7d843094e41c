package store_test

import (
	"math/rand/v2"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/who"
	"vividporch/store/find"
	"vividporch/store/members"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

// account is an account of the book, with what the house is told of its person.
type account struct {
	person event.Person
	known  *people.Known
}

// accounts are all accounts of the book, by the person they are found under.
func (b *book) accounts() map[int64][]account {
	b.t.Helper()
	rows, err := b.s.SQL.Query(`SELECT person, platform, id, login FROM accounts WHERE channel = $1 ORDER BY key`, b.channel)
	if err != nil {
		b.t.Fatal(err)
	}
	defer rows.Close()
	out, ask := map[int64][]account{}, []event.Person{}
	for rows.Next() {
		var id int64
		var p event.Person
		if err := rows.Scan(&id, &p.Platform, &p.ID, &p.Login); err != nil {
			b.t.Fatal(err)
		}
		out[id], ask = append(out[id], account{person: p}), append(ask, p)
	}
	known, _, err := b.s.Book.Known(b.t.Context(), b.channel, ask, 99_999)
	if err != nil {
		b.t.Fatal(err)
	}
	for _, as := range out {
		for i := range as {
			if as[i].known = known[as[i].person.Key()]; as[i].known == nil {
				b.t.Fatalf("nobody is behind %s", as[i].person.Key())
			}
		}
	}
	return out
}

// meets reports whether the courtesies' own matching holds for somebody in the book, by any
// account of theirs, as the house is told of them.
func meets(t *testing.T, w who.Who, r find.Row, accounts []account) bool {
	t.Helper()
	set, faults := courtesy.Load([]courtesy.Courtesy{{ID: "it", On: true, When: happening.Arrival, Who: w}}, courtesy.World{})
	if len(faults) > 0 {
		t.Fatalf("%+v: %v", w, faults)
	}
	for _, a := range accounts {
		c := who.Cause{When: happening.Arrival, Live: true, At: dusk, Standing: people.Standing(r.Standing), Known: a.known, Person: a.person}
		for _, role := range r.Roles {
			c.Person.Roles = append(c.Person.Roles, event.Role(role))
		}
		if m := a.known.MemberBy(a.person); m != "" { // as the turn does
			c.Person.Roles = append(c.Person.Roles, m)
		}
		if a.known.Streams() {
			c.Marks = []people.Mark{people.Fellow}
		}
		if ok, _ := set.All()[0].Fits(c); ok {
			return true
		}
	}
	return false
}

// someWho makes up a who, some of them with others inside.
func someWho(r *rand.Rand, keys []string, deep int) who.Who {
	var w who.Who
	crews := []string{"low-water-league", "lantern-row", "quiet-moths"}
	r.Shuffle(len(crews), func(i, j int) { crews[i], crews[j] = crews[j], crews[i] })
	switch r.IntN(9) {
	case 0:
		w.Crews = &who.Crews{Of: crews[:1+r.IntN(3)], In: []string{"", "all", "one", "any"}[r.IntN(4)]}
	case 1:
		w.Standing = people.Standings[r.IntN(len(people.Standings))]
	case 2:
		w.Role, w.OrAbove = []event.Role{event.Subscriber, event.Moderator, event.VIP}[r.IntN(3)], r.IntN(2) == 0
	case 3:
		w.Tag = []string{"Printmaker", "moths", "nobody has this"}[r.IntN(3)]
	case 4:
		w.Trusted = true
	case 5:
		w.Attended = 1 + r.IntN(40)
	case 6:
		w.Mark = people.Fellow
	case 7:
		w.Account = keys[r.IntN(len(keys))]
	case 8: // what somebody is as a member, by the account they linked
		w.Role, w.OrAbove = []event.Role{event.Streamer, event.CoHost}[r.IntN(2)], r.IntN(2) == 0
	}
	for deep > 0 && r.IntN(2) == 0 {
		deep--
		switch r.IntN(3) {
		case 0:
			w.All = append(w.All, someWho(r, keys, deep))
		case 1:
			w.Any = append(w.Any, someWho(r, keys, deep), someWho(r, keys, deep))
		case 2:
			w.Not = append(w.Not, someWho(r, keys, deep))
		}
	}
	return w
}

var yes = true

func TestWhomACourtesyIsAboutIsCountedAsItWouldMatch(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "whom")
	b.does(&event.BookEdited{Persons: []int64{1, 2, 3, 4, 5, 8, 13, 21, 34, 55}, Edit: event.Edit{AddTags: []string{"printmaker"}}})
	b.does(&event.BookEdited{Persons: []int64{2, 3, 5, 7, 11, 13, 17}, Edit: event.Edit{Set: event.Hand{Trusted: &yes}, AddTags: []string{"Moths"}}})
	b.does(&event.BookMerged{Kept: 6, Gone: 9})
	b.does(&event.BookMerged{Kept: 10, Gone: 12})
	accounts := b.accounts()
	if len(accounts[6]) < 2 || accounts[9] != nil {
		t.Fatalf("%+v %+v", accounts[6], accounts[9])
	}
	keys := []string{"quayside:nobody"}
	for _, id := range []int64{6, 10, 20} {
		keys = append(keys, accounts[id][len(accounts[id])-1].person.Key())
	}
	for i, role := range []string{members.RoleOwner, members.RoleCoHost, members.RoleHelper} {
		if err := b.s.DB.Create(&tables.Member{Channel: b.channel, Name: role, Role: role, Account: keys[i+1]}).Error; err != nil {
			t.Fatal(err)
		}
	}
	accounts = b.accounts()
	page, err := b.s.Find.People(t.Context(), b.channel, find.Query{Limit: 500})
	if err != nil || len(page.Rows) < 200 {
		t.Fatalf("%d rows, %v", len(page.Rows), err)
	}
	r := rand.New(rand.NewPCG(3, 9))
	some := 0
	for range 300 {
		w := someWho(r, keys, 3)
		if r.IntN(4) == 0 {
			w.Platform = []string{"quayside", "fernlight"}[r.IntN(2)]
		}
		want := 0
		for _, row := range page.Rows {
			if meets(t, w, row, accounts[row.ID]) {
				want++
			}
		}
		m, err := b.s.Find.CountWho(t.Context(), b.channel, &w)
		if err != nil || m.People != want || m.AtMost || m.More || m.Lately > m.People {
			t.Fatalf("%+v: %+v %v, want %d", w, m, err, want)
		}
		if want > 0 && want < len(page.Rows) {
			some++
		}
	}
	if some < 120 {
		t.Errorf("only %d of them tell people apart", some)
	}
}

func TestWhatTheEveningDecidesIsCountedAtMost(t *testing.T) {
	b := sampleWorld(t, storetest.Open(t), "at-most")
	count := func(w who.Who) find.Meant {
		m, err := b.s.Find.CountWho(t.Context(), b.channel, &w)
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	regular := who.Who{Standing: people.Regular}
	all := count(regular)
	if all.People == 0 || all.AtMost {
		t.Fatalf("%+v", all)
	}
	fridays := regular
	fridays.Days = []string{"Friday"}
	if m := count(fridays); m.People != all.People || !m.AtMost {
		t.Errorf("regulars on Fridays: %+v of %+v", m, all)
	}
	notRaiding := regular
	notRaiding.Not = []who.Who{{Mark: people.Raider}}
	if m := count(notRaiding); m.People != all.People || !m.AtMost {
		t.Errorf("regulars who did not raid tonight: %+v of %+v", m, all)
	}
	one := count(who.Who{Account: "quayside:8841"})
	if one.People != 1 || one.Lately != 1 {
		t.Errorf("one person: %+v", one)
	}
	// Nobody has been here lately, once ten more streams have gone by without them.
	for n := 900; n < 910; n++ {
		at := dusk.AddDate(5, 0, n)
		if err := b.s.DB.Create(&tables.Stream{Channel: b.channel, Number: n, Opened: at, Closed: &at}).Error; err != nil {
			t.Fatal(err)
		}
	}
	if m := count(regular); m.People != all.People || m.Lately != 0 {
		t.Errorf("%+v", m)
	}
}
