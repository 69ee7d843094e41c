// Package list understands a pasted list of accounts.
package list

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"vividporch/core/people"
)

// Entry is one entry of a pasted list of accounts, as it was understood.
type Entry struct {
	Line     int    `json:"line"` // from 1
	Said     string `json:"said"` // as it stood there
	Platform string `json:"platform,omitempty"`
	Login    string `json:"login,omitempty"`
	Why      string `json:"why,omitempty"` // why it is left out; "" when it is taken
}

// Read understands a pasted list of accounts: names one a line or between
// commas, semicolons and spaces, with or without an at-sign, in any case, as full
// links or as "platform:login", with a heading or a number in front. platforms are
// those the house knows; a link's host tells which one is meant, else def holds.
// Those in own are the streamer's, and are left out.
func Read(text, def string, platforms []string, own people.NeverList) []Entry {
	var out []Entry
	seen := map[string]int{}
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(strings.TrimPrefix(line, "\ufeff"))
		for _, said := range strings.FieldsFunc(line, func(r rune) bool { return strings.ContainsRune(",; \t\r\"", r) }) {
			l := Entry{Line: i + 1, Said: said, Platform: def}
			l.Login, l.Platform = loginOf(said, def, platforms)
			key := l.Platform + ":" + l.Login
			switch {
			case isCount(said):
				continue // "1." in front of a name
			case l.Login == "":
				l.Why = "is no account's name"
			case own[l.Login] || own[key]:
				l.Why = "is the streamer's own"
			case seen[key] > 0:
				l.Why = fmt.Sprintf("stands in line %d already", seen[key])
			}
			if l.Why == "" {
				seen[key] = i + 1
			}
			out = append(out, l)
		}
	}
	return out
}

// loginOf finds an account's name in what was typed.
func loginOf(said, def string, platforms []string) (login, platform string) {
	platform = def
	s := strings.ToLower(strings.Trim(said, "<>()[]"))
	if _, rest, ok := strings.Cut(s, "://"); ok || strings.Contains(s, "/") {
		if ok {
			s = rest
		}
		host, path, _ := strings.Cut(s, "/")
		host, _, _ = strings.Cut(host, ":")
		for _, p := range platforms {
			if strings.Contains("."+host+".", "."+p+".") {
				platform = p
			}
		}
		path, _, _ = strings.Cut(path, "?")
		parts := strings.FieldsFunc(path, func(r rune) bool { return r == '/' || r == '#' })
		if len(parts) == 0 {
			return "", platform
		}
		s = parts[0]
	} else if p, rest, ok := strings.Cut(s, ":"); ok && slices.Contains(platforms, p) {
		platform, s = p, rest
	}
	s = strings.TrimLeft(s, "@#")
	for _, r := range s {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.IsMark(r) && !strings.ContainsRune("_-.|^[]{}", r) {
			return "", platform
		}
	}
	if strings.Trim(s, "_-.|^[]{}") == "" || len(s) > 60 {
		return "", platform
	}
	return s, platform
}

// isCount reports whether something is only a list's number: "1.", "2)", "-".
func isCount(s string) bool {
	return strings.Trim(s, "0123456789") != s && strings.Trim(s, "0123456789.)") == "" && strings.ContainsAny(s, ".)") || strings.Trim(s, "-*•") == ""
}
