package card_test

import (
	"testing"
	"time"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
)

func TestACardAsOfAStreamKnowsNothingOfWhatCameWithItOrLater(t *testing.T) {
	dusk := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	lena := event.Person{Platform: "quayside", ID: "8841"}
	before, after := dusk.AddDate(0, 0, -3), dusk.Add(time.Hour)
	c := card.Card{
		Streams: []int{3, 4, 5}, FirstSeen: &before, LastSeen: &after, Followed: &after, Fetched: &people.Fetched{At: after},
		Raids:    []card.Raid{{At: before}, {At: dusk}},
		Accounts: []card.Account{{Person: lena, Followed: &after, Visits: []card.Visit{{Stream: 3}, {Stream: 4}}}, {Followed: &before}},
	}
	c.AsOf(4, dusk)
	if len(c.Streams) != 1 || len(c.Raids) != 1 || c.LastSeen != nil || c.Followed != nil || c.Fetched != nil {
		t.Errorf("%+v", c)
	}
	if a := c.Accounts; len(a) != 2 || len(a[0].Visits) != 1 || a[0].Followed != nil || a[1].Followed == nil {
		t.Errorf("%+v", a)
	}
	later := card.Card{FirstSeen: &after, Accounts: []card.Account{{Person: lena}}}
	if later.AsOf(4, dusk); len(later.Accounts) != 0 {
		t.Error("whoever came later was in the book already")
	}
}
