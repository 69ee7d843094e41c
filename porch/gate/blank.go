package gate

import (
	"encoding/json"
	"strings"
)

// secretWords are what fields that hold secrets are called; a part of the name is enough.
var secretWords = []string{"token", "secret", "password", "passphrase", "authorization", "signature", "apikey", "api_key", "api-key", "credential"}

// Blanked is a message, as [vividporch/core/pointer.Read] gives it, without secrets: those that are known, by
// whatever name, wherever they stand, and whatever stands in a field called like one.
func Blanked(message any, secrets []string) any {
	var known []string
	for _, s := range secrets {
		if len(s) >= 4 { // less is a word like any other
			known = append(known, s, strings.TrimPrefix(s, "whsec_"))
		}
	}
	return blanked(message, known)
}

func blanked(v any, known []string) any {
	switch x := v.(type) {
	case map[string]any:
		out := make(map[string]any, len(x))
		for k, v := range x {
			k = without(k, known)
			if _, deep := v.(map[string]any); !deep && isSecret(k) && v != nil {
				if list, ok := v.([]any); !ok || len(list) > 0 {
					out[k] = blank
					continue
				}
			}
			out[k] = blanked(v, known)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i := range x {
			out[i] = blanked(x[i], known)
		}
		return out
	case string:
		return without(x, known)
	case json.Number:
		if s := without(x.String(), known); s != x.String() {
			return s
		}
	}
	return v
}

func isSecret(name string) bool {
	name = strings.ToLower(name)
	for _, w := range secretWords {
		if strings.Contains(name, w) {
			return true
		}
	}
	return false
}

func without(s string, known []string) string {
	for _, k := range known {
		s = strings.ReplaceAll(s, k, blank)
	}
	return s
}
