package happening_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/wording"
)

// told is data in which everything that can be told is told.
var told = `{"platform": "quayside", "title": "Brittle stars", "category": "Field and microscope", "url": "https://quayside.example/x",
	"person": {"platform": "quayside", "id": "8841", "login": "limpet_lena", "name": "Limpet Lena"}, "text": "for tea", "messageId": "m7",
	"viewers": 37, "months": 14, "count": 5, "cost": 400, "quantity": 2, "seconds": 60, "tier": "Harbour", "currency": "EUR", "message": "for the anemone",
	"reward": "Name a hermit crab", "label": "the anemone opens", "item": "Enamel mug", "place": "The Boathouse", "by": "grebe_watch", "reason": "rude", "was": "lena",
	"campaign": "the boathouse roof", "from": "2031-05-18", "days": [{"person": {"platform": "quayside", "id": "8841", "name": "Limpet Lena"}, "kind": "birthday", "on": "2031-05-20"}], "level": 7, "with": {"platform": "quayside", "id": "9", "login": "mossy_mare"}, "found": "a brittle star", "stake": 20, "won": 40, "one": 1, "in": 8, "lifted": 9, "mark": 12, "prize": 25, "question": "will it move?", "answer": "Yes", "open": true,
	"draw": "kq3mz7wa2hd5xv4c", "prizes": ["a print", "a print", "a badge"], "word": "!tide", "ask": "How many arms?", "entries": 43, "commit": "3f9a", "number": 12, "hint": "more than a hand", "left": 3, "name": "tide.turned", "fields": {"height": 3.2, "where": "the gully"}}`

// full reads it as the data of a happening.
func full(t *testing.T, h *happening.Happening) event.Data {
	t.Helper()
	amount, told := `"12.50"`, told
	if h.Type == happening.PointsGivenType {
		amount, told = "300", strings.Replace(told, `"months"`, `"to": {"platform": "quayside", "id": "9", "name": "mossy_mare"}, "months"`, 1)
	}
	if strings.Contains(h.Type, "credits") {
		amount = "300"
	}
	doc := strings.Replace(told, `"months"`, `"amount": `+amount+`, "months"`, 1)
	if strings.Contains(h.Type, "gifted") {
		doc = strings.Replace(doc, `"months"`, `"to": [{"platform": "quayside", "id": "9", "name": "mossy_mare"}], "months"`, 1)
	}
	data, err := happening.Kinds.ParseData(h.Type, json.RawMessage(doc))
	if err != nil {
		t.Fatalf("%s: %v", h.Type, err)
	}
	return data
}

func TestEverythingThatCanHappenIsToldWhole(t *testing.T) {
	seen := map[string]bool{}
	for _, h := range happening.Catalogue {
		t.Run(h.Type, func(t *testing.T) {
			if seen[h.Type] || h.Words == "" || happening.Of(h.Type) != h || happening.Called(h.Type) != h.Words {
				t.Errorf("%q is called %q", h.Type, h.Words)
			}
			seen[h.Type] = true
			if h.Data == nil {
				if strings.Contains(h.Type, ".") || !h.IsWhen() {
					t.Error("is neither an event nor a when")
				}
				return
			}
			data := full(t, h)
			for _, n := range h.Numbers {
				if v, currency, ok := n.Of(data); !ok || v == 0 || (n.Name == "amount") != (currency == "EUR") {
					t.Errorf("its %s are %v %q", n.Name, v, currency)
				}
			}
			for name, text := range h.Asked(data) {
				if text == "" {
					t.Errorf("its %s is empty", name)
				}
			}
			args := wording.Args{}
			h.Tell(data, args)
			for _, f := range h.FillIns {
				if v, ok := args[f.Name]; f.Of != nil && (!ok || v.IsNum != (f.Kind == wording.Number) || !v.IsNum && v.Text == "") {
					t.Errorf("{%s} is %+v", f.Name, v)
				}
			}
			if h.Entry != nil && h.Entry(data).Kind == "" {
				t.Error("stands in the conversation as nothing")
			}
			if b := h.Book; b.Support != nil && (b.Support(data).Kind == "" || b.Support(data).Count == 0) || (b.Raid != "") != (b.Viewers != nil) {
				t.Errorf("the book makes %+v of it", b)
			}
		})
	}
	outside, _ := happening.Kinds.Types()
	for _, kind := range outside {
		if !seen[kind] {
			t.Errorf("%s comes in and is in no catalogue", kind)
		}
	}
}

func TestWhatASenderLeavesOutBringsNoFillIn(t *testing.T) {
	args := wording.Args{}
	data, err := happening.Kinds.ParseData("porch.shop.sold", json.RawMessage(`{"person": {"platform": "quayside", "id": "1"}, "item": "Enamel mug", "quantity": 1}`))
	if err != nil {
		t.Fatal(err)
	}
	h := happening.OfData(data)
	h.Tell(data, args)
	if _, has := args["amount"]; has || args["item"].Text != "Enamel mug" {
		t.Errorf("%+v", args)
	}
	if _, _, ok := h.Numbers[1].Of(data); ok {
		t.Error("an amount is measured that nobody told")
	}
}

func TestWhatCouldNotBeReadOfAnOldLogIsNothingThatHappens(t *testing.T) {
	lost := happening.Kinds.Restore("porch.raid.came", json.RawMessage(`{"viewers": "many"}`))
	if h := happening.OfData(lost); h.IsWhen() || len(h.Numbers) > 0 || happening.OfData(nil).IsWhen() {
		t.Errorf("%+v", h)
	}
}

func TestTheFieldsOfAnotherServicesEventStandUnderTheirOwnNames(t *testing.T) {
	data := &happening.Other{Name: "tide.turned", Fields: map[string]any{"height": 3.2, "event": "a trick", "name": "somebody", "gone": nil}}
	args := wording.Args{"name": wording.Name("limpet_lena")}
	h := happening.OfData(data)
	h.Tell(data, args)
	if args["height"].Num != 3.2 || args["name"].Text != "limpet_lena" || args["event"].Text != "tide.turned" {
		t.Errorf("%+v", args)
	}
	if asked := h.Asked(data); asked["event"] != "tide.turned" || asked["height"] != "3.2" {
		t.Errorf("%v", asked)
	}
}

func TestAnEveningIsToldInItsOrder(t *testing.T) {
	var order []string
	for _, w := range happening.Whens() {
		order = append(order, w.Type)
	}
	at := func(kind string) int { return slices.Index(order, kind) }
	if at(happening.StreamOpenedType) != 0 || at(happening.Arrival) > at(happening.RaidCameType) || at(happening.StreamClosedType) != len(order)-1 {
		t.Errorf("%v", order)
	}
	if slices.Contains(order, happening.ChatSaidType) {
		t.Error("a further line of chat is nothing that a courtesy is for")
	}
}
