package event_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
)

const whelk = `{"platform":"quayside","id":"8841","login":"limpet_lena","name":"Limpet Lena","roles":["subscriber"]}`

func cloud(kind, data string) string {
	return fmt.Sprintf(`{"specversion":"1.0","id":"e1","source":"https://quayside.example","type":%q,"time":"2031-05-14T19:02:00Z","data":%s}`, kind, data)
}

func TestEveryTypeOfTheContractIsRead(t *testing.T) {
	for kind, data := range map[string]string{
		"porch.stream.opened":      `{"platform":"quayside","title":"Gully"}`,
		"porch.stream.changed":     `{"platform":"quayside","title":"Gully"}`,
		"porch.stream.closed":      `{"platform":"quayside"}`,
		"porch.stream.viewers":     `{"platform":"quayside","viewers":12}`,
		"porch.chat.said":          `{"person":` + whelk + `,"text":"hello","messageId":"m1"}`,
		"porch.chat.removed":       `{"person":` + whelk + `,"by":"sandhopper9"}`,
		"porch.person.followed":    `{"person":` + whelk + `}`,
		"porch.person.banned":      `{"person":` + whelk + `,"by":"sandhopper9"}`,
		"porch.person.timedout":    `{"person":` + whelk + `,"seconds":60}`,
		"porch.person.renamed":     `{"person":` + whelk + `,"was":"lena"}`,
		"porch.person.joined":      `{"person":` + whelk + `,"place":"boathouse"}`,
		"porch.person.entered":     `{"person":` + whelk + `}`,
		"porch.person.left":        `{"person":` + whelk + `}`,
		"porch.raid.came":          `{"person":` + whelk + `,"viewers":37}`,
		"porch.raid.went":          `{"person":` + whelk + `,"viewers":37}`,
		"porch.support.subscribed": `{"person":` + whelk + `,"tier":"oar","months":3}`,
		"porch.support.gifted":     `{"person":` + whelk + `,"count":5}`,
		"porch.support.tipped":     `{"person":` + whelk + `,"amount":"12.50","currency":"EUR"}`,
		"porch.support.credits":    `{"person":` + whelk + `,"amount":100}`,
		"porch.reward.claimed":     `{"person":` + whelk + `,"reward":"name a limpet","cost":300}`,
		"porch.shop.sold":          `{"person":` + whelk + `,"item":"print","quantity":1}`,
		"porch.shop.gifted":        `{"person":` + whelk + `,"item":"print","quantity":1}`,
		"porch.shop.used":          `{"person":` + whelk + `,"item":"lamp","quantity":1}`,
		"porch.channel.shown":      `{"person":` + whelk + `,"viewers":9}`,
		"porch.social.followed":    `{"person":` + whelk + `}`,
		"porch.social.liked":       `{"person":` + whelk + `,"url":"https://skerry.example/1"}`,
		"porch.social.reposted":    `{"person":` + whelk + `}`,
		"porch.note.left":          `{"person":` + whelk + `,"text":"the mussels moved","place":"Newcomers"}`,
		"porch.other":              `{"name":"tide.turned","fields":{"height":1.2}}`,
	} {
		ev, err := happening.Kinds.Parse([]byte(cloud(kind, data)))
		if err != nil {
			t.Errorf("%s: %v", kind, err)
			continue
		}
		raw, err := json.Marshal(ev)
		if err != nil {
			t.Fatal(err)
		}
		again, err := happening.Kinds.Parse(raw)
		if err != nil || again.Type != kind || again.ID != "e1" || !again.Time.Equal(ev.Time) {
			t.Errorf("%s does not come back as it went out: %s %v", kind, raw, err)
		}
	}
	if outside, _ := happening.Kinds.Types(); len(outside) != 30 {
		t.Errorf("the contract has 30 types, the house reads %d", len(outside))
	}
}

func TestABadEventNamesTheFieldAndTheRemedy(t *testing.T) {
	for _, c := range []struct{ raw, field, remedy string }{
		{`{`, "event", "not JSON"},
		{`[]`, "event", "must be an object"},
		{`{"id":"1","source":"s","type":"porch.chat.said"}`, "specversion", "1.0"},
		{`{"specversion":"1.0","source":"s","type":"porch.chat.said"}`, "id", "id of its own"},
		{`{"specversion":"1.0","id":"1","type":"porch.chat.said"}`, "source", "sender"},
		{cloud("porch.tide.turned", `{}`), "type", "porch.other"},
		{cloud("porch.chat.said", `{"text":"hi"}`), "data.person.platform", "missing"},
		{cloud("porch.chat.said", `{"person":{"platform":"quayside"},"text":"hi"}`), "data.person.id", "stable id"},
		{cloud("porch.raid.came", `{"person":`+whelk+`,"viewers":"many"}`), "data.viewers", "whole number"},
		{cloud("porch.raid.came", `{"person":`+whelk+`,"viewers":-2}`), "data.viewers", "0 or more"},
		{cloud("porch.support.tipped", `{"person":`+whelk+`,"amount":"12,50","currency":"EUR"}`), "data.amount", "12.50"},
		{cloud("porch.support.tipped", `{"person":`+whelk+`,"amount":"12.50","currency":"euro"}`), "data.currency", "ISO 4217"},
		{cloud("porch.person.followed", `{"person":{"platform":"quayside","id":"1","roles":["king"]}}`), "data.person.roles", "moderator"},
		{cloud("porch.other", `{"name":"x","fields":{"deep":{"er":1}}}`), "data.fields.deep", "flat"},
		{strings.Replace(cloud("porch.stream.closed", `{"platform":"quayside"}`), "2031-05-14T19:02:00Z", "tonight", 1), "time", "RFC 3339"},
		{strings.Replace(cloud("porch.stream.closed", `{"platform":"quayside"}`), "2031", "0001", 1), "time", "year 1"},
	} {
		_, err := happening.Kinds.Parse([]byte(c.raw))
		var f *event.FieldError
		if !errors.As(err, &f) || f.Field != c.field || !strings.Contains(f.Remedy, c.remedy) {
			t.Errorf("%.80s\n gave %v, want field %s and a remedy with %q", c.raw, err, c.field, c.remedy)
		}
	}
}

func TestUnknownExtraFieldsAreKept(t *testing.T) {
	ev, err := happening.Kinds.Parse([]byte(cloud("porch.chat.said", `{"person":`+whelk+`,"text":"hi","weather":"fog"}`)))
	if err != nil {
		t.Fatal(err)
	}
	if raw, _ := ev.DataJSON(); !strings.Contains(string(raw), "fog") {
		t.Errorf("the weather is lost: %s", raw)
	}
}

func TestFurtherAttributesOfAnEventAreKept(t *testing.T) {
	const raw = `{"specversion":"1.0","id":"9","source":"quayside","type":"porch.person.followed","subject":"limpet_lena","traceparent":"00-4bf9","sampled":true,"nothing":null,` +
		`"data":{"person":{"platform":"quayside","id":"8841","login":"limpet_lena"}}}`
	ev, err := happening.Kinds.Parse([]byte(raw))
	if err != nil {
		t.Fatal(err)
	}
	ev.Stamp(time.Date(2031, 5, 14, 19, 2, 0, 0, time.UTC))
	ev.Door = "quayside"
	out, err := json.Marshal(ev)
	if err != nil {
		t.Fatal(err)
	}
	var got map[string]any
	if err := json.Unmarshal(out, &got); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	if got["subject"] != "limpet_lena" || got["traceparent"] != "00-4bf9" || got["sampled"] != true || got["door"] != "quayside" || got["logged"] == nil {
		t.Errorf("%s", out)
	}
	if _, there := got["nothing"]; there {
		t.Errorf("one without a value is absent: %s", out)
	}
	again, err := happening.Kinds.Parse(out)
	if err != nil || string(again.Ext) != string(ev.Ext) {
		t.Errorf("%s, not %s (%v)", again.Ext, ev.Ext, err)
	}
	var bad *event.FieldError
	if _, err := happening.Kinds.Parse([]byte(`{"specversion":"1.0","id":"9","source":"s","type":"porch.other","data":{"name":"tide"},"data_base64":"e30="}`)); !errors.As(err, &bad) || bad.Field != "data_base64" {
		t.Errorf("%v", err)
	}
}

func TestATimeFarAheadIsTakenAsNowAndMarked(t *testing.T) {
	now := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	for ahead, marked := range map[time.Duration]bool{30 * time.Second: false, 90 * time.Second: true, 24 * 365 * time.Hour: true} {
		ev := event.Event{Time: now.Add(ahead)}
		ev.Stamp(now)
		if ev.Ahead != marked || marked && !ev.Time.Equal(now) {
			t.Errorf("%s ahead: marked %v, time %s", ahead, ev.Ahead, ev.Time)
		}
	}
	old := event.Event{Time: now.Add(-3 * time.Minute)}
	old.Stamp(now)
	if d, late := old.Late(); !late || d != 3*time.Minute {
		t.Errorf("three minutes late is late: %s %v", d, late)
	}
}
