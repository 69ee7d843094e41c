package porch_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/porchtest"
	"vividporch/spec"
)

func TestEveryHappeningStandsInTheConversationInWords(t *testing.T) {
	b := porchtest.Launch(t)
	q := b.Street.Platforms["quayside"]
	goLive(b)
	lena := map[string]any{"platform": "quayside", "id": "8841", "login": "limpet_lena", "name": "Limpet Lena"}
	with := func(more map[string]any) map[string]any {
		out := map[string]any{"person": lena}
		for k, v := range more {
			out[k] = v
		}
		return out
	}
	for _, c := range []struct {
		kind string
		data map[string]any
		text string
	}{
		{"porch.support.subscribed", with(map[string]any{"months": 1}), "subscribed, 1 month"},
		{"porch.support.subscribed", with(map[string]any{"months": 14}), "subscribed, 14 months"},
		{"porch.support.gifted", with(map[string]any{"count": 5}), "gave 5 subscriptions"},
		{"porch.support.tipped", with(map[string]any{"amount": "12.50", "currency": "EUR", "message": "for the anemone"}), "tipped 12.50 EUR: for the anemone"},
		{"porch.support.credits", with(map[string]any{"amount": 300}), "gave 300 credits"},
		{"porch.reward.claimed", with(map[string]any{"reward": "Name a hermit crab", "cost": 400}), "claimed Name a hermit crab"},
		{"porch.shop.sold", with(map[string]any{"item": "Enamel mug", "quantity": 1}), "bought Enamel mug"},
		{"porch.shop.gifted", with(map[string]any{"item": "Enamel mug", "quantity": 1}), "gave Enamel mug from the shop"},
		{"porch.shop.used", with(map[string]any{"item": "Fog horn", "quantity": 1}), "used Fog horn"},
		{"porch.channel.shown", with(map[string]any{"viewers": 9}), "shows this channel to 9 viewers"},
		{"porch.raid.went", with(map[string]any{"viewers": 40}), "was raided by us with 40 viewers"},
		{"porch.person.timedout", with(map[string]any{"seconds": 60, "by": "grebe_watch"}), "was timed out for 60 seconds"},
		{"porch.person.banned", with(map[string]any{"by": "grebe_watch"}), "was banned"},
		{"porch.person.joined", with(map[string]any{"place": "The Boathouse"}), "joined The Boathouse"},
		{"porch.other", map[string]any{"name": "tide.turned\x07\u202e", "fields": map[string]any{"height": 3.2}}, "tide.turned"},
	} {
		q.Send(c.kind, 0, c.data)
		b.Until(c.kind+" stands there as "+c.text, func() bool {
			return slices.ContainsFunc(b.Porch().Entries, func(e spec.Entry) bool {
				return e.Kind == spec.EntryKindHappening && e.Text == c.text && (c.data["person"] == nil || e.Name == "Limpet Lena")
			})
		})
	}
}

func TestWhatComesAndGoesOnTheDeskAndTheStreamStandsThereToo(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	has := func(part string) func() bool {
		return func() bool {
			return slices.ContainsFunc(b.Porch().Entries, func(e spec.Entry) bool { return strings.Contains(e.Text, part) })
		}
	}
	goLive(b)
	b.Until("the opening", has("Stream 1 opens"))
	b.Do("POST", "/api/desk/hush", spec.Switch{On: true}, nil)
	b.Until("hush", has("Hush"))
	before := b.Porch() // the opening may be among what is held
	if !before.Hush {
		t.Error("hush is not shown")
	}
	says := b.Street.Platforms["quayside"]
	says.Chat.Say(lena, "evening")
	b.Until("her greeting is held", func() bool { return b.Porch().Held == before.Held+1 })
	b.Do("POST", "/api/desk/hush", spec.Switch{}, nil)
	b.Until("hush lifted", has("Hush lifted"))
	if b.Porch().Held != 0 {
		t.Error("nothing is held any more")
	}
	says.Shut(0)
	b.Street.Platforms["quayside"].Open("Gully", "Field", 0)
	b.Until("it goes on", has("The stream goes on: was gone for"))
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "closed"}, nil)
	b.Until("its end", has("Stream 1 has ended"))
}
