package desk

import (
	"context"
	"reflect"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/store/members"
)

// lets are the courtesies that are on and let people in chat change what commands answer.
func lets(s *housefile.Settings) []courtesy.Courtesy {
	return slices.DeleteFunc(slices.Clone(s.Courtesy), func(c courtesy.Courtesy) bool {
		return !c.On || c.Away || !slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Kind() == output.KindKeep })
	})
}

// mayLead refuses a change by which a door, a place or a fitting that has a secret would
// lead elsewhere, unless the owner makes it, and others that are for the owner alone. The secret would not go there either: it is
// bound to the address that it was given for.
func (desk *Desk) mayLead(ctx context.Context, by By, before, after *housefile.Settings) error {
	if by.Role == members.RoleOwner {
		return nil
	}
	if before.Reach != after.Reach {
		return &event.FieldError{Field: "reach", Remedy: "is for the owner to say"}
	}
	was := lets(before)
	for _, c := range lets(after) {
		if !slices.ContainsFunc(was, func(b courtesy.Courtesy) bool { return reflect.DeepEqual(b, c) }) {
			return &event.FieldError{Field: "on", Remedy: "lets people in chat change what commands answer: only the owner switches that on, or changes it while it is on"}
		}
	}
	for i := range after.Doors {
		d := &after.Doors[i]
		own := slices.ContainsFunc(after.Doors, func(o housefile.Door) bool { return !o.IsService() && o.Platform == d.Platform })
		if was := before.DoorNamed(d.Name); d.IsService() && own && (was == nil || was.Platform != d.Platform) {
			return &event.FieldError{Field: "platform", Remedy: "stands for " + plain.Titled(d.Platform) + "'s people: only the owner may let another service speak of them"}
		}
	}
	leads, is := before.Leads(), after.Leads()
	for name, address := range leads {
		if is[name] == address || is[name] == "" { // taking it away leads nowhere
			continue
		}
		secrets, err := desk.store.Safe.SecretSlots(ctx, desk.channel, name)
		if err != nil {
			return err
		}
		if len(secrets) > 0 {
			return &event.FieldError{Field: name, Remedy: "has a secret, so only the owner may lead it to another address (" + address + " → " + is[name] + ")"}
		}
	}
	return nil
}
