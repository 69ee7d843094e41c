package who

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/spoken"
)

// Cause is what courtesies are matched against: one event, seen through what is
// known of its person. At is the moment in the channel's zone.
type Cause struct {
	When       string
	Person     event.Person
	Known      *people.Known
	Standing   people.Standing
	Marks      []people.Mark
	Quantities []Quantity
	Fields     map[string]string // texts of a happening's own fields
	Heard      spoken.Heard      // of a command: what was asked for
	Line       string            // what a neighbour said
	Dates      *Dates            // days of theirs; nil where no courtesy asks for one
	At         time.Time
	Live       bool
}

// is reports whether an account belongs to the person behind a cause.
func (c *Cause) is(account string) bool {
	return account == c.Person.Key() || c.Known != nil && slices.Contains(c.Known.Accounts, account)
}

func (c *Cause) crews() []string {
	if c.Known == nil {
		return nil
	}
	return c.Known.Crews
}

func (c *Cause) tagged(tag string) bool {
	return c.Known != nil && slices.ContainsFunc(c.Known.Tags, func(t string) bool { return strings.EqualFold(t, tag) })
}

// attended counts the streams somebody was at, tonight included.
func (c *Cause) attended() int {
	if c.Known == nil {
		return 1
	}
	return c.Known.Attended + 1
}
