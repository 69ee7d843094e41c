// Package reading understands other services' messages: whatever JSON one of them sends is made
// one of our happenings, by pointing at its fields and by nothing else.
//
// A [Reading] says of which messages it holds ([Condition]) and where in them stands what the
// happening needs ([Take]); pointers are those of RFC 6901. A message is understood by exactly
// the readings that hold of it. A reading tells only of what another service can know: no chat,
// no stream, no removal; and nobody gets a role by it.
package reading

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/pointer"
)

// Reading is how one sort of message is understood.
type Reading struct {
	Name  string          `json:"name" jsonschema:"minLength=1,maxLength=60"`
	Doors []string        `json:"doors,omitempty"` // that it reads at; one of none is only offered where it fits
	If    []Condition     `json:"if,omitempty"`    // all must hold
	Makes string          `json:"makes"`           // the type of a happening: "porch.support.tipped"
	Take  map[string]Take `json:"take"`            // its fields, "person.name" and "amount", and where they stand
}

// Condition holds of some messages.
type Condition struct {
	At  string `json:"at"`                                                                              // pointer
	How string `json:"how" jsonschema:"enum=is,enum=is not,enum=is there,enum=is not there,enum=holds"` // "holds": these letters, in any case
	Is  string `json:"is,omitempty"`
}

// How a condition holds.
const (
	Is         = "is"
	IsNot      = "is not"
	IsThere    = "is there"
	IsNotThere = "is not there"
	Holds      = "holds"
)

// Hows are the ways in which a condition holds.
var Hows = []string{Is, IsNot, IsThere, IsNotThere, Holds}

// Take is where a field stands, or what it always is.
type Take struct {
	At    string `json:"at,omitempty"`    // pointer; none leads nowhere
	Is    string `json:"is,omitempty"`    // what it is where nothing stands there
	Cents bool   `json:"cents,omitempty"` // of an amount: it counts hundredths
}

// Limits of a reading.
const (
	MostReadings = 200
	mostIf       = 20
	mostTake     = 60
	mostText     = 400 // bytes of what is compared or always is
)

// Understood is what a reading makes of a message, or why it cannot.
type Understood struct {
	Reading string
	Data    event.Data
	Raw     json.RawMessage // of the data
	Time    time.Time       // zero where the message does not tell
	Fault   *event.FieldError
}

// Understand reads a message, as [pointer.Read] gives it, with every reading that is for a door
// and holds. Persons stand under the platform.
func Understand(list []Reading, door, platform string, message any) []Understood {
	var out []Understood
	for i := range list {
		if r := &list[i]; slices.Contains(r.Doors, door) && r.Fits(message) {
			out = append(out, r.Read(platform, message))
		}
	}
	return out
}

// Fits reports whether every condition holds of a message.
func (r *Reading) Fits(message any) bool {
	return !slices.ContainsFunc(r.If, func(c Condition) bool { return !c.holds(message) })
}

func (c *Condition) holds(message any) bool {
	v, there := pointer.Get(message, c.At)
	there = there && v != nil
	text, plain := pointer.Text(v)
	switch c.How {
	case IsThere:
		return there
	case IsNotThere:
		return !there
	case Is:
		return plain && text == c.Is
	case IsNot:
		return !plain || text != c.Is
	case Holds:
		return plain && strings.Contains(strings.ToLower(text), strings.ToLower(c.Is))
	}
	return false
}

// Read makes the happening of a message that a reading holds of.
func (r *Reading) Read(platform string, message any) Understood {
	out := Understood{Reading: r.Name}
	fail := func(err error) Understood {
		if f, ok := err.(*event.FieldError); ok {
			out.Fault = f
		} else {
			out.Fault = &event.FieldError{Field: "event", Remedy: err.Error()}
		}
		return out
	}
	data, own := map[string]any{}, map[string]any{}
	var who event.Person
	for _, f := range Fields(r.Makes) {
		t, ok := r.Take[f.Name]
		if !ok {
			continue
		}
		v, there, err := t.from(message, f)
		switch {
		case err != nil:
			return fail(event.Wrong("data."+f.Name, "%s", err))
		case !there:
		case f.Name == "time":
			out.Time = v.(time.Time)
		case f.Name == "person.id":
			who.ID = v.(string)
		case f.Name == "person.login":
			who.Login = v.(string)
		case f.Name == "person.name":
			who.Name = v.(string)
		default:
			data[f.Name] = v
		}
	}
	if r.Makes == happening.OtherType {
		for name, t := range r.Take {
			name, ok := strings.CutPrefix(name, "fields.")
			if !ok {
				continue
			}
			if v, there, err := t.from(message, Field{Kind: Any}); err != nil {
				return fail(event.Wrong("data.fields."+name, "%s", err))
			} else if there {
				own[name] = v
			}
		}
		data["fields"] = own
	}
	if who.ID == "" && (who.Login != "" || who.Name != "") { // whoever it is goes by a name alone, for which nobody vouches
		who.ID, who.Nick = people.Provisional+strings.ToLower(cmp.Or(who.Login, who.Name)), true
	}
	if who.ID != "" {
		who.Platform = platform
		data["person"] = who
	}
	raw, err := json.Marshal(data)
	if err != nil {
		return fail(err)
	}
	raw = event.CleanJSON(raw)
	if out.Data, err = happening.Kinds.ParseData(r.Makes, raw); err != nil {
		return fail(err)
	}
	out.Raw = raw
	return out
}

// Check tells every fault of a reading by its field, with a remedy.
func (r *Reading) Check(fault func(at, what, remedy string)) {
	if r.Name == "" || len(r.Name) > 60 || strings.ContainsAny(r.Name, "/?#") {
		fault("name", "is missing, too long, or holds a slash", "name it in at most 60 letters")
	}
	if !slices.Contains(Makes(), r.Makes) {
		fault("makes", fmt.Sprintf("%q is nothing that another service tells of", r.Makes), "use one of "+strings.Join(Makes(), ", "))
	}
	if len(r.If) > mostIf || len(r.Take) > mostTake {
		fault("take", "is more than can be pointed at", fmt.Sprintf("use at most %d conditions and %d fields", mostIf, mostTake))
	}
	for i, c := range r.If {
		at := fmt.Sprintf("if.%d", i)
		if err := pointer.Check(c.At); err != nil {
			fault(at+".at", err.Error(), "point at a field of a message")
		}
		if !slices.Contains(Hows, c.How) {
			fault(at+".how", fmt.Sprintf("%q is no way to compare", c.How), "use "+strings.Join(Hows, ", "))
		}
		if len(c.Is) > mostText {
			fault(at+".is", "is too long", fmt.Sprintf("use at most %d bytes", mostText))
		}
	}
	fields := Fields(r.Makes)
	for name, t := range r.Take {
		at := "take." + name
		own, ok := strings.CutPrefix(name, "fields.")
		known := slices.IndexFunc(fields, func(f Field) bool { return f.Name == name })
		switch {
		case known < 0 && !(ok && own != "" && len(own) <= 60 && r.Makes == happening.OtherType):
			fault(at, "is no field of "+happening.Called(r.Makes), "take it out")
		case t.Cents && (known < 0 || fields[known].Kind != Amount):
			fault(at+".cents", "is for amounts alone", "take it out")
		case len(t.Is) > mostText:
			fault(at+".is", "is too long", fmt.Sprintf("use at most %d bytes", mostText))
		}
		if err := pointer.Check(t.At); err != nil {
			fault(at+".at", err.Error(), "point at a field of a message")
		}
	}
}

// Format is the format of the readings' file that this house reads and writes.
const Format = 1

// File is readings on their way from one house to another.
type File struct {
	Format   int       `json:"format" jsonschema:"enum=1"`
	Readings []Reading `json:"readings"`
}
