package reading

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pointer"
)

// Kind is what sort of value a field holds.
type Kind string

// The kinds of fields.
const (
	Text   Kind = "text"
	Whole  Kind = "whole number"
	Amount Kind = "amount" // a decimal: "12.50"
	Money  Kind = "currency"
	Moment Kind = "time"
	Any    Kind = "anything" // a text, a number, or true or false
)

// Field is something a happening can be told of: its name in the event contract and its kind.
type Field struct {
	Name string
	Kind Kind
}

// Makes are the types of happenings that readings make, in the order in which an evening goes.
func Makes() []string {
	var out []string
	for _, h := range happening.Catalogue {
		if h.Data != nil && !h.Within {
			out = append(out, h.Type)
		}
	}
	return out
}

// Fields are what a happening can be told of, who it is of first; time, when it happened, last.
func Fields(kind string) []Field {
	h := happening.Of(kind)
	if h.Data == nil || h.Within {
		return nil
	}
	out := []Field{{"person.id", Text}, {"person.login", Text}, {"person.name", Text}}
	for _, f := range flat(reflect.TypeOf(h.Data()).Elem()) {
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case name == "person" || name == "" || name == "-":
		case name == "amount" && f.Type.Kind() == reflect.String:
			out = append(out, Field{name, Amount})
		case name == "currency":
			out = append(out, Field{name, Money})
		case f.Type.Kind() == reflect.String:
			out = append(out, Field{name, Text})
		case f.Type.Kind() == reflect.Int64:
			out = append(out, Field{name, Whole})
		}
	}
	return append(out, Field{"time", Moment})
}

// flat are the fields of a struct with those of what is embedded in it.
func flat(t reflect.Type) []reflect.StructField {
	var out []reflect.StructField
	for i := range t.NumField() {
		if f := t.Field(i); f.Anonymous && f.Type.Kind() == reflect.Struct {
			out = append(out, flat(f.Type)...)
		} else {
			out = append(out, f)
		}
	}
	return out
}

// from takes a field's value from a message. there is false where it tells nothing.
func (t Take) from(message any, f Field) (v any, there bool, err error) {
	var at any
	if t.At != "" {
		at, _ = pointer.Get(message, t.At)
	}
	if at == nil || at == "" {
		if t.Is == "" {
			return nil, false, nil
		}
		at = t.Is
	}
	text, plain := pointer.Text(at)
	if !plain {
		return nil, false, fmt.Errorf("%s holds a list or an object; point at a value in it", t.At)
	}
	switch f.Kind {
	case Whole:
		v, err = whole(text)
	case Amount:
		v, err = amount(text, t.Cents)
	case Money:
		v = strings.ToUpper(strings.TrimSpace(text))
	case Moment:
		v, err = moment(text)
	case Any:
		v = anything(at)
	default:
		v = event.CleanText(text)
	}
	if err != nil {
		return nil, false, fmt.Errorf("%s holds %q; %w", t.At, event.Shortened(text, 60), err)
	}
	return v, true, nil
}

var errWhole = errors.New("it must be a whole number")

func whole(text string) (int64, error) {
	text = strings.TrimSpace(text)
	if head, tail, ok := strings.Cut(text, "."); ok && strings.Trim(tail, "0") == "" {
		text = head
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return 0, errWhole
	}
	return n, nil
}

// decimals is an amount as people and services write it.
var decimals = regexp.MustCompile(`^([0-9]{1,14})(?:[.,]([0-9]{1,4}))?$`)

// amount reads "5", "5.00", "5,00" or, in cents, "500": no cent is lost to a binary number.
func amount(text string, cents bool) (string, error) {
	m := decimals.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil {
		return "", errors.New(`it must be an amount such as 12.50, without its currency`)
	}
	if !cents {
		if m[2] == "" {
			return m[1], nil
		}
		return m[1] + "." + m[2], nil
	}
	if strings.Trim(m[2], "0") != "" {
		return "", errors.New("it counts hundredths and must be a whole number")
	}
	digits := strings.TrimLeft(m[1], "0")
	digits = strings.Repeat("0", max(0, 3-len(digits))) + digits
	return digits[:len(digits)-2] + "." + digits[len(digits)-2:], nil
}

// moment reads a time as RFC 3339 has it, or as seconds or milliseconds since 1970 began.
func moment(text string) (time.Time, error) {
	if t, err := time.Parse(time.RFC3339Nano, strings.TrimSpace(text)); err == nil {
		return t, yearOf(t)
	}
	n, err := strconv.ParseFloat(text, 64)
	if err != nil || math.IsNaN(n) || n < 0 || n > 1e15 {
		return time.Time{}, errors.New("it must be a time: as RFC 3339 has it, or in seconds since 1970")
	}
	if n > 1e11 { // no year that anybody means, in seconds
		n /= 1000
	}
	t := time.UnixMilli(int64(n * 1000)).UTC()
	return t, yearOf(t)
}

func yearOf(t time.Time) error {
	if y := t.Year(); y < 1970 || y > 9998 {
		return errors.New("it must be a time of these years")
	}
	return nil
}

// safeDigits is how many decimal digits a binary number keeps (IEEE 754, binary64).
const safeDigits = 15

// anything is a value as it is; a number that would lose digits stays the text it was.
func anything(v any) any {
	n, ok := v.(json.Number)
	if !ok {
		return v
	}
	f, err := n.Float64()
	if digits := strings.Count(n.String(), "") - 1; err != nil || digits > safeDigits {
		return n.String()
	}
	return f
}
