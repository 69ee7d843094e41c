// Package event holds everything that can happen on a channel: one Go type per
// happening and one JSON shape for all of them, CloudEvents 1.0 in structured
// mode (https://github.com/cloudevents/spec, "JSON Event Format").
//
// An [Event] is an envelope (who sent it, when it happened, when the house took
// it) round a [Data]. [Kinds.Parse] reads one from JSON and says exactly which field is
// wrong and how to mend it; [Event.MarshalJSON] writes it back. What a sender
// adds beyond the contract is kept in the data's raw form, not refused.
package event

import (
	"crypto/sha256"
	"encoding/base32"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"vividporch/core/pointer"
)

// Tolerances of the contract.
const (
	// LateAfter is how old an event may be, when the house takes it, and still
	// make the house speak by itself.
	LateAfter = 2 * time.Minute
	// AheadBy is how far ahead of the house's clock a time may lie before it is
	// taken as the moment of logging and marked.
	AheadBy = time.Minute
)

// Event is one thing that happened, as it stands in a channel's log.
type Event struct {
	Seq    int64     // number in the channel's log, from 1; 0 before it is logged
	Door   string    // where it came in: a door's name, "desk" or "house"
	Source string    // CloudEvents source
	ID     string    // CloudEvents id; (Door, Source, ID) is unique in a channel
	Type   string    // "porch.chat.said" and so on
	Time   time.Time // when it happened
	Logged time.Time // when the house took it; the core's clock
	Ahead  bool      // Time lay too far ahead and was taken as Logged
	Data   Data
	Raw    json.RawMessage // the data as it came, unknown fields included; may be nil
	Ext    json.RawMessage // further CloudEvents attributes, as an object of what came; nil where there were none
	Depth  int             // how many events raised each other before this one; not logged

	Cause int64 `json:"-"` // of a raised event: the number of what came first of all

	cleaned bool // by [Event.Clean], at the door
}

// Digest names an event in what is made of it, lines and look-ups. It tells one event from
// every other, whatever number each got in the log, so that the same evening rehearsed
// makes the same lines. It is 16 letters and digits of the digest of [Event.Key].
func (e *Event) Digest() string {
	sum := sha256.Sum256([]byte(e.Key()))
	return strings.ToLower(base32.StdEncoding.EncodeToString(sum[:10]))
}

// Data is the part of an event that differs by type.
type Data interface {
	// Type returns the CloudEvents type this data belongs to.
	Type() string
	// Validate returns a *FieldError for the first field that cannot stand.
	Validate() error
}

// FieldError names the field that is wrong, as a path into the event, and what
// the sender should do about it.
type FieldError struct {
	Field  string `json:"field"`
	Remedy string `json:"remedy"`
}

func (e *FieldError) Error() string { return e.Field + ": " + e.Remedy }

// Wrong is what is wrong with a field, and the remedy.
func Wrong(field, remedy string, args ...any) error {
	return &FieldError{Field: field, Remedy: fmt.Sprintf(remedy, args...)}
}

// envelope is the CloudEvents JSON form. "logged" and "door" are our extension
// attributes; a sender's own are kept in [Event.Ext].
type envelope struct {
	SpecVersion string          `json:"specversion"`
	ID          string          `json:"id"`
	Source      string          `json:"source"`
	Type        string          `json:"type"`
	Time        *time.Time      `json:"time,omitempty"`
	Logged      *time.Time      `json:"logged,omitempty"`
	Door        string          `json:"door,omitempty"`
	ContentType string          `json:"datacontenttype,omitempty"`
	Data        json.RawMessage `json:"data,omitempty"`
}

// Parse reads one event in CloudEvents structured JSON and checks it. A missing
// time is left zero: the door that takes the event stamps it. Every error is a
// *FieldError.
func (k Kinds) Parse(raw []byte) (Event, error) {
	if pointer.Deeper(raw, mostDepth) {
		return Event{}, Wrong("event", "is nested more than %d deep; send it flatter", mostDepth)
	}
	raw = CleanJSON(raw) // before it is checked: what is checked is what is kept
	var env envelope
	if err := json.Unmarshal(raw, &env); err != nil {
		return Event{}, shapeError("", err)
	}
	switch {
	case env.SpecVersion == "":
		return Event{}, Wrong("specversion", `is missing; write "1.0"`)
	case !strings.HasPrefix(env.SpecVersion, "1."):
		return Event{}, Wrong("specversion", `is %q; this house reads CloudEvents "1.0"`, env.SpecVersion)
	case env.ID == "":
		return Event{}, Wrong("id", "is missing; give each event of a source an id of its own")
	case len(env.ID) > 200:
		return Event{}, Wrong("id", "is longer than 200 bytes; use a shorter one")
	case env.Source == "":
		return Event{}, Wrong("source", "is missing; name the sender, as a URI reference")
	case len(env.Source) > 400:
		return Event{}, Wrong("source", "is longer than 400 bytes; use a shorter one")
	case env.Type == "":
		return Event{}, Wrong("type", "is missing; see the event contract for the list")
	}
	data, err := k.ParseData(env.Type, env.Data)
	if err != nil {
		return Event{}, err
	}
	var ext json.RawMessage
	if hasFurther(raw) {
		if ext, err = furtherAttributes(raw); err != nil {
			return Event{}, err
		}
	}
	ev := Event{Ext: ext, ID: env.ID, Source: env.Source, Type: env.Type, Door: env.Door, Data: data, Raw: env.Data}
	if env.Time != nil {
		if y := env.Time.Year(); y < 1970 || y > 9998 {
			return Event{}, Wrong("time", "is in the year %d; send when it happened, as RFC 3339", y)
		}
		ev.Time = *env.Time
	}
	if env.Logged != nil {
		ev.Logged = *env.Logged
	}
	return ev, nil
}

// ours are the attributes that an envelope holds itself.
var ours = []string{"specversion", "id", "source", "type", "time", "logged", "door", "datacontenttype", "data"}

// hasFurther reports whether an object may have members that the contract does not name.
// Nearly no event has, and looking is far cheaper than reading it twice.
func hasFurther(raw []byte) bool {
	depth, key := 0, false // key: the next text at depth 1 names a member
	for i := 0; i < len(raw); i++ {
		switch raw[i] {
		case '"':
			from := i + 1
			for i++; i < len(raw) && raw[i] != '"'; i++ {
				if raw[i] == '\\' {
					i++
				}
			}
			if depth == 1 && key && !slices.Contains(ours, string(raw[from:min(i, len(raw))])) {
				return true
			}
			key = false
		case '{', '[':
			depth++
			key = depth == 1
		case '}', ']':
			depth--
		case ',':
			key = depth == 1
		}
	}
	return false
}

// furtherAttributes are the attributes of an event that the contract does not name, as an
// object; nil when there are none. One without a value is absent (JSON Event Format 3.1).
func furtherAttributes(raw []byte) (json.RawMessage, error) {
	var all map[string]json.RawMessage
	if err := json.Unmarshal(raw, &all); err != nil {
		return nil, shapeError("", err)
	}
	if _, ok := all["data_base64"]; ok {
		return nil, Wrong("data_base64", "is not read here; send the data as JSON, in data")
	}
	for _, name := range ours {
		delete(all, name)
	}
	for name, v := range all {
		if string(v) == "null" {
			delete(all, name)
		}
	}
	if len(all) == 0 {
		return nil, nil
	}
	return json.Marshal(all)
}

// mostDepth is how deep an event's JSON may be nested, unknown fields included: a
// database reads each level on its stack.
const mostDepth = 100

// ParseData reads and checks the data of one type. Every error is a *FieldError.
func (k Kinds) ParseData(kind string, raw json.RawMessage) (Data, error) {
	fresh, ok := k[kind]
	if !ok {
		return nil, Wrong("type", `%q is not in the event contract; send "porch.other" with a name and fields of your own`, kind)
	}
	data := fresh()
	if len(raw) == 0 || string(raw) == "null" {
		raw = []byte("{}")
	}
	if err := json.Unmarshal(raw, data); err != nil {
		return nil, shapeError("data", err)
	}
	if err := data.Validate(); err != nil {
		return nil, err
	}
	return data, nil
}

// Restore reads the data of a logged event. What is logged is never held against
// the contract again: an old house may have taken what this one would refuse, and
// what is too strange to be read is a [Lost].
func (k Kinds) Restore(kind string, raw json.RawMessage) Data {
	data := k.Fresh(kind)
	if data == nil {
		return &Lost{Kind: kind}
	}
	if len(raw) > 0 && json.Unmarshal(raw, data) != nil {
		return &Lost{Kind: kind}
	}
	clean(reflect.ValueOf(data))
	return data
}

// Lost is a logged event whose data this house cannot read. It moves nothing.
type Lost struct{ Kind string }

// Type is the event's type, as it was logged.
func (l *Lost) Type() string { return l.Kind }

// Validate refuses: nothing of the kind is ever taken.
func (l *Lost) Validate() error { return Wrong("type", "%q cannot be read", l.Kind) }

// shapeError turns what encoding/json says into the field and a remedy.
func shapeError(under string, err error) error {
	field := under
	join := func(name string) string {
		if under == "" {
			return name
		}
		return under + "." + name
	}
	var typ *json.UnmarshalTypeError
	var syn *json.SyntaxError
	var when *time.ParseError
	switch {
	case errors.As(err, &typ):
		if name := jsonPath(typ.Field); name != "" {
			field = join(name)
		}
		if field == "" {
			field = "event"
		}
		return Wrong(field, "holds %s; it must be %s", a(typ.Value), plainKind(typ.Type.Kind().String()))
	case errors.As(err, &when):
		return Wrong(join("time"), "%q is no time; write it as RFC 3339, for example 2031-05-14T19:02:00Z", when.Value)
	case errors.As(err, &syn):
		return Wrong("event", "is not JSON at byte %d", syn.Offset)
	}
	if field == "" {
		field = "event"
	}
	return Wrong(field, "cannot be read: %s", err)
}

// jsonPath leaves the names of embedded Go types out of a path that encoding/json
// gives: what is embedded has no name in JSON.
func jsonPath(path string) string {
	var out []string
	parts := strings.Split(path, ".")
	for i, p := range parts {
		inner := i < len(parts)-1
		if p == "" || inner && (p == "by" || p[0] >= 'A' && p[0] <= 'Z') {
			continue
		}
		out = append(out, p)
	}
	return strings.Join(out, ".")
}

func a(what string) string {
	if strings.ContainsAny(what[:min(1, len(what))], "aeiou") {
		return "an " + what
	}
	return "a " + what
}

func plainKind(kind string) string {
	switch {
	case strings.HasPrefix(kind, "int"):
		return "a whole number"
	case kind == "string":
		return "a text"
	case kind == "slice":
		return "a list"
	case kind == "struct", kind == "map", kind == "ptr":
		return "an object"
	}
	return "a " + kind
}

// Stamp gives an event its place in time: now becomes Logged, a missing time
// becomes now, and a time too far ahead is taken as now and marked.
func (e *Event) Stamp(now time.Time) {
	e.Logged = now
	switch {
	case e.Time.IsZero():
		e.Time = now
	case e.Time.Sub(now) > AheadBy:
		e.Time, e.Ahead = now, true
	}
}

// Late reports whether the event is too old to make the house speak by itself,
// and by how much it was late.
func (e *Event) Late() (time.Duration, bool) {
	d := e.Logged.Sub(e.Time)
	return d, d > LateAfter
}

// DataJSON returns the data as JSON: as it came where that is known.
func (e *Event) DataJSON() (json.RawMessage, error) {
	if len(e.Raw) > 0 {
		return e.Raw, nil
	}
	return json.Marshal(e.Data)
}

// MarshalJSON writes the event as structured CloudEvents JSON, with "logged" and
// "door" as extension attributes where they are known.
func (e Event) MarshalJSON() ([]byte, error) {
	data, err := e.DataJSON()
	if err != nil {
		return nil, err
	}
	env := envelope{SpecVersion: "1.0", ID: e.ID, Source: e.Source, Type: e.Type, Door: e.Door,
		ContentType: "application/json", Data: data}
	if !e.Time.IsZero() {
		env.Time = &e.Time
	}
	if !e.Logged.IsZero() {
		env.Logged = &e.Logged
	}
	out, err := json.Marshal(env)
	if err != nil || len(e.Ext) <= len("{}") {
		return out, err
	}
	return append(append(out[:len(out)-1], ','), e.Ext[1:]...), nil
}

// Key names the event within its channel: door, source and id together.
func (e *Event) Key() string { return e.Door + "\x00" + e.Source + "\x00" + e.ID }

// Who returns the person an event is about, or nil.
func (e *Event) Who() *Person {
	if d, ok := e.Data.(interface{ Who() *Person }); ok {
		return d.Who()
	}
	return nil
}

// Of are the platforms that an event is of, by the field that names each: of its person,
// or of itself. Persons whom somebody gave something to may be of any.
func (e *Event) Of() map[string]string {
	out := map[string]string{}
	if who := e.Who(); who != nil {
		out["data.person.platform"] = who.Platform
	}
	if d, ok := e.Data.(interface{ OnPlatform() string }); ok {
		out["data.platform"] = d.OnPlatform()
	}
	return out
}

// IsOwn reports whether a type is one the house logs itself (desk, settings,
// doors, wakes, answers, outcomes); such events are refused from outside.
func IsOwn(kind string) bool {
	for _, p := range []string{"porch.desk.", "porch.house.", "porch.settings.", "porch.door.", "porch.lookup.", "porch.speech.", "porch.relay.", "porch.act.", "porch.book.", "porch.dates.", "porch.bookmark.", "porch.post.", "porch.overlay.", "porch.draw.", "porch.points.", "porch.game."} {
		if strings.HasPrefix(kind, p) {
			return true
		}
	}
	return false
}
