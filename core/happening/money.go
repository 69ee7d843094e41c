package happening

import (
	"regexp"

	"vividporch/core/event"
)

var (
	decimal  = regexp.MustCompile(`^[0-9]{1,12}(\.[0-9]{1,4})?$`)
	currency = regexp.MustCompile(`^[A-Z]{3}$`)
)

func money(amount, cur string) error {
	if !decimal.MatchString(amount) {
		return event.Wrong("data.amount", `%q is no amount; send a string such as "12.50"`, amount)
	}
	if !currency.MatchString(cur) {
		return event.Wrong("data.currency", `%q is no currency; send its ISO 4217 code, such as "EUR"`, cur)
	}
	return nil
}
