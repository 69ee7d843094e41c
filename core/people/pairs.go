package people

import (
	"strconv"
	"strings"

	"vividporch/core/plain"
)

// Half is one side of a pair of records that may be the same person.
type Half struct {
	Person   int64
	Platform string
	Login    string
	Name     string
	Streams  []int // attended
}

// Evidence weighs two accounts on two platforms: what speaks for their being one
// person, and what against. ok is false when nothing does.
func Evidence(a, b Half) (because []string, ok bool) {
	if a.Person == b.Person || a.Platform == b.Platform {
		return nil, false
	}
	la, lb := strings.ToLower(a.Login), strings.ToLower(b.Login)
	switch {
	case la == "" || lb == "":
		return nil, false
	case la == lb:
		because = append(because, "the same login, "+a.Login)
	case bare(la) == bare(lb) && len(bare(la)) >= 4:
		because = append(because, "the same login but for signs and digits: "+a.Login+", "+b.Login)
	case len(la) >= 6 && len(lb) >= 6 && plain.Edits(la, lb) == 1:
		because = append(because, "logins one letter apart: "+a.Login+", "+b.Login)
	default:
		return nil, false
	}
	if a.Name != "" && strings.EqualFold(a.Name, b.Name) && !strings.EqualFold(a.Name, a.Login) {
		because = append(because, "the same name, "+a.Name)
	}
	both := 0
	in := map[int]bool{}
	for _, n := range a.Streams {
		in[n] = true
	}
	for _, n := range b.Streams {
		if in[n] {
			both++
		}
	}
	switch {
	case both > 0:
		because = append(because, "both were at "+count(both, "stream"))
	case len(a.Streams) > 0 && len(b.Streams) > 0:
		because = append(because, "never both at one stream")
	}
	return because, true
}

// bare is a login without signs and digits at its ends and between.
func bare(s string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r > 127 {
			return r
		}
		return -1
	}, s)
}

func itoa(n int) string { return strconv.Itoa(n) }
