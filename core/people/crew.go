package people

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
)

// Combination is the people who are in exactly these crews.
type Combination struct {
	Crews  []string `json:"crews"`
	People []int64  `json:"people"`
}

// Combine works out which people are in which combination of crews, the most
// crews first, then the most people. Members are given by crew.
func Combine(members map[string][]int64) []Combination {
	in := map[int64][]string{}
	for crew, list := range members {
		for _, p := range list {
			if !slices.Contains(in[p], crew) {
				in[p] = append(in[p], crew)
			}
		}
	}
	by := map[string]*Combination{}
	for p, crews := range in {
		slices.Sort(crews)
		key := strings.Join(crews, "\x00")
		if by[key] == nil {
			by[key] = &Combination{Crews: crews}
		}
		by[key].People = append(by[key].People, p)
	}
	out := make([]Combination, 0, len(by))
	for _, c := range by {
		slices.Sort(c.People)
		out = append(out, *c)
	}
	slices.SortFunc(out, func(a, b Combination) int {
		return cmp.Or(len(b.Crews)-len(a.Crews), len(b.People)-len(a.People), slices.Compare(a.Crews, b.Crews))
	})
	return out
}

// CrewID makes the id of a crew from its name: letters and digits of any script in
// lower case, with hyphens between.
func CrewID(name string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), "-")
}

// Initials are the first letters of up to three words of a crew's name.
func Initials(name string) string {
	var out []rune
	for _, w := range strings.Fields(name) {
		if r := []rune(w)[0]; len(out) < 3 && (unicode.IsLetter(r) || unicode.IsDigit(r)) {
			out = append(out, unicode.ToUpper(r))
		}
	}
	return string(out)
}

// Listed is one entry of a pasted list of accounts, as it was understood.
type Listed struct {
	Line     int    `json:"line"` // from 1
	Said     string `json:"said"` // as it stood there
	Platform string `json:"platform,omitempty"`
	Login    string `json:"login,omitempty"`
	Why      string `json:"why,omitempty"` // why it is left out; "" when it is taken
}

// ReadList understands a pasted list of accounts: names one a line or between
// commas, semicolons and spaces, with or without an at-sign, in any case, as full
// links or as "platform:login", with a heading or a number in front. platforms are
// those the house knows; a link's host tells which one is meant, else def holds.
// Those in own are the streamer's, and are left out.
func ReadList(text, def string, platforms []string, own NeverList) []Listed {
	var out []Listed
	seen := map[string]int{}
	for i, line := range strings.Split(text, "\n") {
		line = strings.TrimSpace(strings.TrimPrefix(line, "\ufeff"))
		for _, said := range strings.FieldsFunc(line, func(r rune) bool { return strings.ContainsRune(",; \t\r\"", r) }) {
			l := Listed{Line: i + 1, Said: said, Platform: def}
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
				l.Why = "stands in line " + itoa(seen[key]) + " already"
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
