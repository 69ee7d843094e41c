package who

import (
	"strings"
	"time"
)

// Embody makes a cause be what a flat who asks for, as far as one can; but for days of the
// week, which whoever looks for a moment goes through.
func (w *Who) Embody(c *Cause) {
	for _, f := range w.flat() {
		f.embody(c)
	}
}

func (w *Who) embody(c *Cause) {
	if w.Account != "" {
		c.Known.Accounts = append(c.Known.Accounts, w.Account)
		c.Person.Platform, c.Person.ID, _ = strings.Cut(w.Account, ":")
	}
	if w.Crews != nil {
		of := w.Crews.Of
		if w.Crews.In == "one" || w.Crews.In == "any" {
			of = of[:1]
		}
		c.Known.Crews = append(c.Known.Crews, of...)
	}
	if w.Mark != "" {
		c.Marks = append(c.Marks, w.Mark)
	}
	if w.Date != nil {
		w.Date.embody(c)
	}
	if w.Role != "" {
		c.Person.Roles = append(c.Person.Roles, w.Role)
	}
	if w.Tag != "" {
		c.Known.Tags = append(c.Known.Tags, w.Tag)
	}
	c.Known.Trusted = c.Known.Trusted || w.Trusted
	if w.Standing != "" {
		c.Standing = w.Standing
	}
	if w.Platform != "" {
		c.Person.Platform = w.Platform
	}
	c.Known.Attended = max(c.Known.Attended, w.Attended-1)
	day := c.At.Format(time.DateOnly)
	if w.Since != "" && day < w.Since || w.Until != "" && day > w.Until {
		day = w.Since
		if day == "" {
			day = w.Until
		}
		if d, err := time.Parse(time.DateOnly, day); err == nil {
			c.At = time.Date(d.Year(), d.Month(), d.Day(), c.At.Hour(), c.At.Minute(), 0, 0, c.At.Location())
		}
	}
	if w.Hours != nil && !w.Hours.Hold(c.At) {
		if at, err := time.Parse("15:04", w.Hours.From); err == nil {
			c.At = time.Date(c.At.Year(), c.At.Month(), c.At.Day(), at.Hour(), at.Minute(), 0, 0, c.At.Location())
		}
	}
	for k, v := range w.Fields {
		c.Fields[k] = v
	}
}
