package porch_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/porchtest"
	"vividporch/standin"
)

func TestNothingThatComesInStopsTheHouse(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	q := b.Street.Platforms["quayside"]
	long := strings.Repeat("🐚x", 2000)
	for _, person := range []map[string]any{
		{"platform": "quayside", "id": "nul\x00", "login": "with\x00nul", "name": "a\x00b"},
		{"platform": "quayside", "id": "long", "login": "long_name", "name": long},
		{"platform": "quayside", "id": "marks", "login": "marks", "name": "\u202e\u2066\ufeff"},
	} {
		q.Send("porch.person.followed", 0, map[string]any{"person": person})
		q.Send("porch.support.tipped", 0, map[string]any{"person": person, "amount": "5.00", "currency": "EUR", "message": "for\x00you " + long[:6000]})
		q.Send("porch.other", 0, map[string]any{"name": "tide\x00turned", "person": person, "fields": map[string]any{"k\x00": "v\x00"}})
	}
	q.Chat.Say(standin.Viewer{ID: "5", Login: "tidewrack"}, "and the next one")
	b.Until("the next one is greeted", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(t string) bool { return strings.Contains(t, "tidewrack") })
	})
	if b.Porch().DatabaseGone {
		t.Error("the database is said to be gone")
	}
	var logins string
	want := "long_name, marks, tidewrack, withnul"
	b.Until("all of them stand in the book", func() bool {
		err := b.Store.SQL.QueryRow("SELECT coalesce(string_agg(DISTINCT login, ', ' ORDER BY login), '') FROM account_logins").Scan(&logins)
		return err == nil && len(logins) >= len(want)
	})
	if logins != want {
		t.Errorf("%q", logins)
	}
}
