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
