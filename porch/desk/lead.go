package desk

import (
	"context"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store/members"
)

// mayLead refuses a change by which a door, a place or a fitting that has a secret would
// lead elsewhere, unless the owner makes it. The secret would not go there either: it is
// bound to the address that it was given for.
func (desk *Desk) mayLead(ctx context.Context, by By, before, after *housefile.Settings) error {
	if by.Role == members.RoleOwner {
		return nil
	}
	was, is := before.Leads(), after.Leads()
	for name, address := range was {
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
