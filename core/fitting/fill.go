package fitting

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"vividporch/core/output"
	"vividporch/core/pointer"
)

// Values fill the fill-ins of a body, by their names: texts, numbers (float64) or lists.
type Values map[string]any

// fillIns are those that every profile may use; the greeting has {secret} and {proof} besides, [Back] has {was}.
var fillIns = []string{"id", "effect", "text", "media", "loud", "voice", "seconds", "milliseconds", "colour", "hex", "red", "green", "blue", "hue", "saturation", "brightness", "colours", "everySeconds", "scene", "act", "percent", "try"}

// ValuesOf are the values for what a fitting is told, under the id of this one request.
func ValuesOf(told output.Told, id string) Values {
	v := Values{}
	for _, name := range fillIns {
		v[name] = ""
	}
	for _, name := range []string{"loud", "seconds", "red", "green", "blue", "hue", "saturation", "brightness", "everySeconds", "percent"} {
		v[name] = 0.0
	}
	v["colours"], v["try"] = []any{}, false
	var flat map[string]any
	json.Unmarshal(told.JSON(), &flat) // it was written a moment ago
	for name, x := range flat {
		if slices.Contains(fillIns, name) {
			v[name] = x
		}
	}
	v["id"], v["milliseconds"] = id, math.Round(v["seconds"].(float64)*1000)
	if c, ok := v["colour"].(string); ok && c != "" {
		maps.Copy(v, coloured(c))
	}
	return v
}

// coloured is a colour "#rrggbb" as lamps take it: red, green and blue 0 to 255; hue 0 to 360, saturation and brightness
// 0 to 100, as HSV has them.
func coloured(colour string) Values {
	var r, g, b float64
	var ri, gi, bi int
	if n, _ := fmt.Sscanf(colour, "#%02x%02x%02x", &ri, &gi, &bi); n != 3 {
		return nil
	}
	r, g, b = float64(ri), float64(gi), float64(bi)
	most, least := max(r, g, b), min(r, g, b)
	hue, spread := 0.0, most-least
	switch {
	case spread == 0:
	case most == r:
		hue = math.Mod((g-b)/spread+6, 6)
	case most == g:
		hue = (b-r)/spread + 2
	default:
		hue = (r-g)/spread + 4
	}
	saturation := 0.0
	if most > 0 {
		saturation = spread / most
	}
	return Values{"hex": colour[1:], "red": r, "green": g, "blue": b, "hue": math.Round(hue * 60), "saturation": math.Round(saturation * 100), "brightness": math.Round(most / 2.55)}
}

var mark = regexp.MustCompile(`\{([a-zA-Z]+)\}`)

// used are the fill-ins that a text uses.
func used(text string) (out []string) {
	for _, m := range mark.FindAllStringSubmatch(text, -1) {
		out = append(out, m[1])
	}
	return out
}

// Body is a body filled in, as JSON; nil for none. What fills it stays a value, whatever is in it.
func (v Values) Body(body json.RawMessage) ([]byte, error) {
	if len(body) == 0 {
		return nil, nil
	}
	x, err := pointer.Read(body)
	if err != nil {
		return nil, err
	}
	return json.Marshal(v.filled(x))
}

func (v Values) filled(x any) any {
	switch x := x.(type) {
	case string:
		if m := mark.FindStringSubmatch(x); m != nil && m[0] == x {
			if value, known := v[m[1]]; known {
				return value
			}
		}
		return v.Text(x)
	case []any:
		out := make([]any, len(x))
		for i := range x {
			out[i] = v.filled(x[i])
		}
		return out
	case map[string]any:
		out := make(map[string]any, len(x))
		for k := range x {
			out[k] = v.filled(x[k])
		}
		return out
	}
	return x
}

// Text is a text filled in.
func (v Values) Text(text string) string {
	return mark.ReplaceAllStringFunc(text, func(m string) string {
		if value, known := v[m[1:len(m)-1]]; known {
			return written(value)
		}
		return m
	})
}

// Path is a path filled in; what fills it is one segment of it.
func (v Values) Path(path string) string {
	return mark.ReplaceAllStringFunc(path, func(m string) string {
		if value, known := v[m[1:len(m)-1]]; known {
			return segment(written(value))
		}
		return m
	})
}

// segment is a text as one segment of a path, all but unreserved characters escaped (RFC 3986, section 2).
func segment(text string) string {
	var out strings.Builder
	for _, b := range []byte(text) {
		if b >= '0' && b <= '9' || b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || strings.IndexByte("-_~", b) >= 0 {
			out.WriteByte(b)
		} else { // a dot too: no segment leads up
			fmt.Fprintf(&out, "%%%02X", b)
		}
	}
	return out.String()
}

func written(value any) string {
	if list, ok := value.([]any); ok {
		texts := []string{}
		for _, x := range list {
			texts = append(texts, fmt.Sprint(x))
		}
		return strings.Join(texts, " ")
	}
	return fmt.Sprint(value)
}

// Holds reports whether a test holds of a message that [pointer.Read] read; no test always does.
func (v Values) Holds(t *Test, message any) bool {
	if t == nil {
		return true
	}
	at, there := pointer.Get(message, t.At)
	if t.Is == nil || !there {
		return there
	}
	want := t.Is
	if text, ok := want.(string); ok {
		want = v.Text(text)
	}
	if text, ok := pointer.Text(at); ok {
		return text == fmt.Sprint(want)
	}
	return reflect.DeepEqual(at, want)
}

// Prove is what a greeting's proof comes to, of what the fitting said first. Without rounds it is nothing.
func (g *Greeting) Prove(secret string, first any) string {
	at := func(p string) string {
		if p == "" {
			return ""
		}
		x, _ := pointer.Get(first, p)
		text, _ := pointer.Text(x)
		return text
	}
	parts := map[string]string{"secret": secret, "salt": at(g.Salt), "challenge": at(g.Challenge)}
	for _, round := range g.Proof {
		all := ""
		for _, name := range round {
			all += parts[name]
		}
		sum := sha256.Sum256([]byte(all))
		parts["before"] = base64.StdEncoding.EncodeToString(sum[:])
	}
	return parts["before"]
}

// Judge is what an answer tells: what it was before, or why it was not done; refused where it was not.
func (v Values) Judge(a *Answer, message any) (was, reason string, refused bool) {
	if a.Was != "" {
		x, _ := pointer.Get(message, a.Was)
		was, _ = pointer.Text(x)
	}
	if v.Holds(a.Done, message) {
		return was, "", false
	}
	if a.Reason != "" {
		x, _ := pointer.Get(message, a.Reason)
		reason, _ = pointer.Text(x)
	}
	return "", reason, true
}
