package happening

import "vividporch/core/event"

// Other is any other service's event, by name, with a flat map of fields.
type Other struct {
	Name   string         `json:"name"`
	Person *event.Person  `json:"person,omitempty"`
	Fields map[string]any `json:"fields,omitempty"`
}

// Who is the person named, or nil.
func (o *Other) Who() *event.Person { return o.Person }

// Validate refuses a missing name and fields that are not flat.
func (o *Other) Validate() error {
	if err := event.Filled("name", o.Name); err != nil {
		return err
	}
	for k, v := range o.Fields {
		switch v.(type) {
		case nil, string, bool, float64:
		default:
			return event.Wrong("data.fields."+k, "must be a text, a number or true/false; the map is flat")
		}
	}
	if o.Person != nil {
		return o.Person.Validate("data.person")
	}
	return nil
}

// OtherType is the type of it.
const OtherType = "porch.other"

func (*Other) Type() string { return OtherType }

var other = &Happening{Data: func() event.Data { return &Other{} }, Words: "another service's event", Slots: []Slot{Thanks, Free},
	Texts:   []Text{TextOf("event", func(d *Other) string { return d.Name })},
	FillIns: []FillIn{Says("event", "the event's own name", "tide.turned", func(d *Other) string { return d.Name })},
	More:    func(d event.Data) map[string]any { return d.(*Other).Fields },
	Entry:   Happened(func(d *Other) string { return d.Name })}
