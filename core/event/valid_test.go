package event_test

import (
	"errors"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
)

func word(s string) *string { return &s }

func TestWhatAMemberAsksForIsRefusedAtItsFieldWhenItCannotBe(t *testing.T) {
	lena := event.Person{Platform: "quayside", ID: "8841", Login: "limpet_lena"}
	long := strings.Repeat("x", 5000)
	for _, c := range []struct {
		data          event.Data
		field, remedy string
	}{
		{&event.DeskAsked{Act: "sing"}, "data.act", `"shoutout", "greet", "thank", "celebrate", "courtesy" or "try"`},
		{&event.DeskAsked{Act: "greet"}, "data.person.platform", "missing"},
		{&event.DeskAsked{Act: "try"}, "data.courtesy", "missing"},
		{&event.DeskSaid{}, "data.text", "missing"},
		{&event.DeskSaid{Text: long}, "data.text", "4000"},
		{&event.DeskActed{Act: "title", Text: "x"}, "data.platform", "missing"},
		{&event.DeskActed{Platform: "quayside"}, "data.act", "missing"},
		{&event.StreamDeclared{Act: "paused"}, "data.act", `"opened", "closed" or "new"`},
		{&event.LineReworded{LineHand: event.LineHand{Line: "7.greet.chat"}}, "data.text", "missing"},
		{&event.LineDropped{}, "data.line", "missing"},
		{&event.WaitingDone{}, "data.item", "missing"},
		{&event.SettingsChanged{}, "data.version", "1 or more"},
		{&event.BookEdited{}, "data.persons", "choose somebody"},
		{&event.BookEdited{Persons: []int64{1}, Edit: event.Edit{AddTags: []string{"two\nlines"}}}, "data.tags", "line breaks"},
		{&event.BookEdited{Persons: []int64{1}, Edit: event.Edit{AddRoles: []event.Role{"king"}}}, "data.roles", "moderator"},
		{&event.BookEdited{Persons: []int64{1}, Edit: event.Edit{Set: event.Hand{Zone: word("Atlantis/Reef")}}}, "data.zone", "IANA"},
		{&event.BookMerged{Kept: 1}, "data.gone", "choose two"},
		{&event.BookMerged{Kept: 1, Gone: 1}, "data.gone", "same record"},
		{&event.BookParted{}, "data.part", "choose the record"},
		{&event.BookCrewed{Name: "Lantern Row"}, "data.id", "missing"},
		{&event.BookCrewed{ID: "row", Name: " ", Emblem: event.Emblems[0]}, "data.name", "missing or longer"},
		{&event.BookCrewed{ID: "row", Partly: true, Name: "  "}, "data.name", "missing or longer"},
		{&event.BookCrewed{ID: "row", Partly: true, Emblem: "anvil"}, "data.emblem", event.Emblems[0]},
		{&event.BookCrewed{ID: "row", Name: "Lantern Row", Emblem: "anvil"}, "data.emblem", event.Emblems[0]},
		{&event.BookCrewed{ID: "row", Name: "Lantern Row", Emblem: event.Emblems[0], Initials: "LROW"}, "data.initials", "three"},
	} {
		err := c.data.Validate()
		var f *event.FieldError
		if !errors.As(err, &f) || f.Field != c.field || !strings.Contains(f.Remedy, c.remedy) {
			t.Errorf("%T %+v\n gave %v, want field %s and a remedy with %q", c.data, c.data, err, c.field, c.remedy)
		}
	}
	for _, fine := range []event.Data{
		&event.DeskAsked{Act: "greet", Person: lena}, &event.DeskAsked{Act: "courtesy", Courtesy: "print-on-the-wall"}, &event.DeskSaid{Text: "the kettle is on"},
		&event.BookCrewed{ID: "row", Gone: true}, &event.BookCrewed{ID: "row", Partly: true, Initials: "LR"}, &event.BookMerged{Kept: 1, Gone: 2}, &event.StreamDeclared{Act: "new"}, &event.Hushed{},
	} {
		if err := fine.Validate(); err != nil {
			t.Errorf("%T %+v: %v", fine, fine, err)
		}
	}
}

func TestWhatIsTooMuchOrTooLittleIsNamed(t *testing.T) {
	many := strings.Repeat("x", 20_000)
	for _, c := range []struct{ kind, data, field string }{
		{"porch.stream.opened", `{"title":"Gully"}`, "data.platform"},
		{"porch.stream.opened", `{"platform":"quayside","title":"` + many + `"}`, "data.title"},
		{"porch.stream.viewers", `{"platform":"quayside","viewers":-1}`, "data.viewers"},
		{"porch.chat.said", `{"person":` + whelk + `,"text":"` + many + `"}`, "data.text"},
		{"porch.person.timedout", `{"person":` + whelk + `,"seconds":0}`, "data.seconds"},
		{"porch.support.gifted", `{"person":` + whelk + `,"count":0}`, "data.count"},
		{"porch.support.subscribed", `{"person":` + whelk + `,"months":-1}`, "data.months"},
		{"porch.support.credits", `{"person":` + whelk + `,"amount":0}`, "data.amount"},
		{"porch.reward.claimed", `{"person":` + whelk + `,"cost":5}`, "data.reward"},
		{"porch.shop.sold", `{"person":` + whelk + `,"item":"print","quantity":0}`, "data.quantity"},
		{"porch.shop.sold", `{"person":` + whelk + `,"item":"print","quantity":1,"amount":"4"}`, "data.currency"},
		{"porch.channel.shown", `{"person":` + whelk + `,"viewers":-9}`, "data.viewers"},
		{"porch.raid.went", `{"person":` + whelk + `,"viewers":1.5}`, "data.viewers"},
		{"porch.other", `{"fields":{}}`, "data.name"},
		{"porch.chat.said", `{"person":[],"text":"hi"}`, "data.person"},
		{"porch.chat.said", `{"person":` + whelk + `,"text":7}`, "data.text"},
		{"porch.support.gifted", `{"person":` + whelk + `,"count":1,"to":"everyone"}`, "data.to"},
	} {
		_, err := happening.Kinds.Parse([]byte(cloud(c.kind, c.data)))
		var f *event.FieldError
		if !errors.As(err, &f) || f.Field != c.field || f.Remedy == "" {
			t.Errorf("%s %.90s\n gave %v, want field %s", c.kind, c.data, err, c.field)
		}
	}
}

func TestWhatTheHouseLogsItselfIsToldFromWhatComesIn(t *testing.T) {
	outside, own := happening.Kinds.Types()
	if len(own) < 20 {
		t.Fatalf("only %d types of our own", len(own))
	}
	for _, kind := range own {
		if !event.IsOwn(kind) {
			t.Errorf("%s is not known as our own", kind)
		}
	}
	for _, kind := range outside {
		if event.IsOwn(kind) {
			t.Errorf("%s is taken for our own", kind)
		}
	}
	_, err := happening.Kinds.Parse([]byte(cloud("porch.support.gifted", `{"person":`+whelk+`,"count":1,"to":"everyone"}`)))
	if err == nil || !strings.Contains(err.Error(), "holds a string; it must be a list") {
		t.Error(err)
	}
	_, err = happening.Kinds.Parse([]byte(cloud("porch.chat.said", `{"person":`+whelk+`,"text":["a"]}`)))
	if err == nil || !strings.Contains(err.Error(), "data.text: holds an array; it must be a text") {
		t.Error(err)
	}
}
