package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/prose"
	"vividporch/store/keys"
	"vividporch/store/members"
	"vividporch/store/pg"
)

// SetSection puts a section of the house file in the place of the one there is.
func (desk *Desk) SetSection(ctx context.Context, by By, section string, value json.RawMessage) (int64, error) {
	return desk.ChangeSettings(ctx, by, sectionWords(section), func(s *housefile.Settings) error { return named(s.SetSection(section, value)) })
}

// sectionWords say in the list of changes what a section is.
func sectionWords(section string) string {
	if w := map[string]string{"name": "what the house is called", "zone": "the time zone", "channel": "the channel's name", "reach": "how the house is reached",
		"graceSeconds": "the grace time", "never": "who is never greeted", "leapDay": "29 February", "joined": "words for several people at once", "alsoOn": "a second platform", "announcing": "what comes too late",
		"unclear": "asking back whom a command means"}[section]; w != "" {
		return w
	}
	return section
}

// named makes an error that begins with the name of its field one that a form can show there.
func named(err error) error {
	if err == nil {
		return nil
	}
	field, remedy, ok := strings.Cut(err.Error(), ": ")
	if !ok {
		return &event.FieldError{Field: "value", Remedy: err.Error()}
	}
	if strings.Contains(field, " ") {
		return &event.FieldError{Field: "value", Remedy: remedy}
	}
	return &event.FieldError{Field: field, Remedy: remedy}
}

// Rename gives a door, a place or a fitting another name, in every courtesy that uses it too;
// what is kept under its name in secret goes along.
func (desk *Desk) Rename(ctx context.Context, by By, section, from, to string) (int64, error) {
	if err := desk.house.Plan().Whole.Clone().Rename(section, from, to); err != nil {
		return 0, named(err)
	}
	// First: a secret that goes by a name nobody has yet does no harm.
	if err := desk.store.Safe.AlsoUnder(ctx, desk.channel, from, to); err != nil {
		return 0, err
	}
	back := func() {}
	switch section {
	case "places": // what is on its way there is carried on under the new name
		move := func(from, to string) error {
			return errors.Join(desk.store.Jobs.Rename(ctx, desk.channel, from, to), desk.store.Keys.Rename(ctx, desk.channel, keys.Feed+from, keys.Feed+to))
		}
		if err := move(from, to); err != nil {
			return 0, err
		}
		back = func() { _ = move(to, from) }
	case "doors":
		if err := desk.store.Kept.Rename(ctx, desk.channel, from, to); err != nil {
			return 0, err
		}
	}
	version, err := desk.ChangeSettings(ctx, by, fmt.Sprintf("%s is %s now", from, to), func(s *housefile.Settings) error { return named(s.Rename(section, from, to)) })
	if err != nil {
		back()
	}
	return version, err
}

// TakeAway takes a door, a place or a fitting away, with the outputs that lead there.
func (desk *Desk) TakeAway(ctx context.Context, by By, section, name string) (int64, error) {
	return desk.ChangeSettings(ctx, by, name+" is taken away", func(s *housefile.Settings) error { return named(s.TakeAway(section, name)) })
}

// AnnounceAt has the opening of the stream announced at a place too.
func (desk *Desk) AnnounceAt(ctx context.Context, by By, place string) (int64, error) {
	return desk.ChangeSettings(ctx, by, "the opening is announced at "+place, func(s *housefile.Settings) error {
		if !s.Has("places", place) {
			return &event.FieldError{Field: "place", Remedy: "is none; reload the page"}
		}
		s.Courtesy = prose.AnnouncedAt(s.Courtesy, place)
		return nil
	})
}

// RelayAt has a happening posted at a place too, and says by which courtesy.
func (desk *Desk) RelayAt(ctx context.Context, by By, when, place string) (version int64, id string, err error) {
	version, err = desk.ChangeSettings(ctx, by, happening.Of(when).Words+" is posted at "+place, func(s *housefile.Settings) error {
		switch {
		case !s.Has("places", place):
			return &event.FieldError{Field: "place", Remedy: "is none; reload the page"}
		case !happening.Of(when).IsWhen():
			return &event.FieldError{Field: "when", Remedy: "is nothing that can happen; reload the page"}
		}
		s.Courtesy, id = prose.RelayedAt(s.Courtesy, when, place)
		return nil
	})
	return version, id, err
}

// mostSecret is how many bytes a secret may have.
const mostSecret = 4096

// leastSecret is how many bytes a service's own secret has at least.
const leastSecret = 8

// SetSecret keeps a secret of a door, a place or a fitting, for where it leads now.
func (desk *Desk) SetSecret(ctx context.Context, name, slot, value string) error {
	value = strings.TrimSpace(value)
	switch s := desk.house.Plan().Whole; {
	case value == "" || len(value) > mostSecret:
		return &event.FieldError{Field: "value", Remedy: "write the secret; it has at most 4096 bytes"}
	case s.FreeSecret(name, slot):
		if len(value) < leastSecret && !strings.HasPrefix(name, "signin:") {
			return &event.FieldError{Field: "value", Remedy: fmt.Sprintf("is too short to keep anybody out; use at least %d letters", leastSecret)}
		}
		return desk.store.Safe.SetSecret(ctx, desk.channel, s, name, slot, value)
	case slot != "password":
		if _, err := webhooks.NewWebhook(value); err != nil {
			return &event.FieldError{Field: "value", Remedy: "is no signing secret; it begins with whsec_ and goes on in base64"}
		}
		fallthrough
	default:
		if _, ok := s.SecretFor(name, slot); !ok {
			return &event.FieldError{Field: "name", Remedy: "has no such secret; reload the page"}
		}
		return desk.store.Safe.SetSecret(ctx, desk.channel, s, name, slot, value)
	}
}

// LinkMember links a member to an account of the guest book, or with "" to none. One that a platform
// vouched for need not be in the book yet.
func (desk *Desk) LinkMember(ctx context.Context, by string, member int64, account string, vouched bool) error {
	list, err := desk.store.Members.List(ctx, desk.channel, time.Hour)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(list, func(m members.MemberRow) bool { return m.ID == member })
	if at < 0 {
		return pg.ErrNone
	}
	return desk.Link(ctx, by, &list[at].Member, list, account, vouched)
}

// oneHouse refuses a channel that another house of this database looks after.
func (desk *Desk) oneHouse(ctx context.Context, before, after *housefile.Settings) error {
	if strings.EqualFold(before.Channel, after.Channel) {
		return nil
	}
	docs, err := desk.store.Houses(ctx, desk.channel)
	if err != nil {
		return err
	}
	for _, doc := range docs {
		if s, err := housefile.ReadStored(doc); err == nil && strings.EqualFold(s.Channel, after.Channel) {
			return &event.FieldError{Field: "channel", Remedy: "is looked after by another house here already: two would greet everybody twice"}
		}
	}
	return nil
}
