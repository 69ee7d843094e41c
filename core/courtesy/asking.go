package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/spoken"
	"vividporch/core/wording"
)

// Asking is how a command is asked for, beside its names: by words anywhere in a line, how
// often, and what is said to whoever asks too soon.
type Asking struct {
	Words    []string `json:"words,omitempty"`                                                  // heard anywhere in a line, whole words; several are a phrase
	Rest     float64  `json:"restSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"`       // least time between two answers, whoever asks
	Person   float64  `json:"personSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"`     // and between two to one person
	Resting  []string `json:"resting,omitempty"`                                                // said once to whoever asks too soon; none is silence
	Unlisted bool     `json:"unlisted,omitempty"`                                               // left off the list of what viewers can ask
	Leaves   string   `json:"leaves,omitempty" jsonschema:"description=account of a neighbour"` // a neighbour answers it: all is done but what is said in chat
}

// IsZero reports whether nothing is set of it.
func (a *Asking) IsZero() bool {
	return len(a.Words) == 0 && a.Rest == 0 && a.Person == 0 && len(a.Resting) == 0 && !a.Unlisted && a.Leaves == ""
}

// mostAsked bounds names, and words, of one command.
const mostAsked = 20

// mostName is how many bytes a name or a phrase may have.
const mostName = 40

// asking checks how a command is asked for.
func (c *Courtesy) asking(fault func(at, what, remedy string)) {
	a := c.Asked
	switch {
	case c.When == happening.Neighbour:
		if a != nil && (a.Rest != 0 || a.Person != 0 || len(a.Resting) > 0 || a.Leaves != "") {
			fault("asked", "says more than the words to hear", "keep the words alone")
		}
		for _, f := range c.WordFaults() {
			fault(f.At, f.What, f.Remedy)
		}
		return
	case c.When != happening.Command:
		if a != nil {
			fault("asked", "is no matter of this when", "take it out; only commands are asked for")
		}
		return
	}
	if len(c.Asks) == 0 && (a == nil || len(a.Words) == 0) && !c.Who.Nobody {
		fault("asks", "are missing", `name a word it is asked by, "tides"`)
	}
	for _, f := range c.WordFaults() {
		fault(f.At, f.What, f.Remedy)
	}
	if a == nil {
		return
	}
	for _, x := range []struct {
		at string
		n  float64
	}{{"asked.restSeconds", a.Rest}, {"asked.personSeconds", a.Person}} {
		if x.n < 0 || x.n > 86_400 {
			fault(x.at, "is out of range", "use 0 to 86400 seconds")
		}
	}
}

// WordFaults are the names and words of a command that nobody could ask by.
func (c *Courtesy) WordFaults() (out []Fault) {
	fault := func(at, what, remedy string) {
		out = append(out, Fault{Courtesy: c.ID, At: at, What: what, Remedy: remedy})
	}
	if len(c.Asks) > mostAsked {
		fault("asks", "are too many", fmt.Sprintf("keep to %d names", mostAsked))
	}
	for i, name := range c.Asks {
		if what, remedy := NameFault(name); what != "" {
			fault(fmt.Sprintf("asks.%d", i), what, remedy)
		}
	}
	if c.Asked == nil {
		return out
	}
	if len(c.Asked.Words) > mostAsked {
		fault("asked.words", "are too many", fmt.Sprintf("keep to %d", mostAsked))
	}
	for i, phrase := range c.Asked.Words {
		if n := len(spoken.Words(phrase)); n == 0 || n > spoken.MostWords || len(phrase) > 2*mostName {
			fault(fmt.Sprintf("asked.words.%d", i), "is no word that can be heard in a sentence", fmt.Sprintf("write 1 to %d words of letters and digits", spoken.MostWords))
		}
	}
	return out
}

// NameFault says what is wrong with a word that a command is asked by, and the remedy.
func NameFault(name string) (what, remedy string) {
	folded := spoken.Fold(name)
	switch bare := strings.TrimLeftFunc(folded, func(r rune) bool { return spoken.IsSigned(string(r)) }); {
	case folded == "" || bare == "":
		return "is missing", `name the word it is asked by, "tides"`
	case strings.ContainsAny(name, " \t\r\n"):
		return "is more than one word", "write it as one, or hear it as words in a sentence"
	case len(name) > mostName:
		return "is too long", fmt.Sprintf("keep to %d letters", mostName)
	case strings.HasPrefix(folded, "/"):
		return "begins like what platforms keep for themselves", "take another sign, or none: each platform's own stands in front then"
	}
	return "", ""
}

// Hears is what the commands of a set are asked by.
func (s *Set) Hears() *spoken.Lexicon { return &s.lexicon }

// listen makes a command's names and words heard.
func (s *Set) listen(r *Ready) {
	if r.When == happening.Neighbour && r.Asked != nil {
		for _, phrase := range r.Asked.Words {
			r.within.Phrase(phrase)
		}
		return
	}
	if r.When != happening.Command {
		return
	}
	r.tells = r.tellsOfThem()
	for _, name := range r.Asks {
		if name = spoken.Fold(name); name == "" || slices.Contains(r.names, name) {
			continue
		}
		s.lexicon.Name(name)
		r.names = append(r.names, name)
		s.asked[name] = append(s.asked[name], r)
	}
	if r.Asked == nil {
		return
	}
	for _, phrase := range r.Asked.Words {
		words := strings.Join(spoken.Words(phrase), " ")
		if words == "" || slices.Contains(r.phrases, words) {
			continue
		}
		s.lexicon.Phrase(phrase)
		r.phrases = append(r.phrases, words)
		s.phrases[words] = append(s.phrases[words], r)
	}
}

// tellsOfThem reports whether it matters to a command who is named behind it: whether it does more than
// say words, or these tell of whoever is meant.
func (r *Ready) tellsOfThem() bool {
	of := append(happening.AboutThem(), "meant", "asker")
	tells := func(list []*wording.Wording) bool {
		return slices.ContainsFunc(list, func(w *wording.Wording) bool {
			return slices.ContainsFunc(of, func(name string) bool { return name != "name" && w.Uses(name) })
		})
	}
	return tells(r.Resting) || slices.ContainsFunc(r.Outputs, func(o ReadyOutput) bool {
		return o.Way() != output.ToChat && o.Kind() != output.KindKeep && o.Kind() != output.KindAlong || len(o.Own) > 0 || tells(o.Alts) || tells(o.Joined)
	})
}

// TellsOfThem reports whether it matters to any of the commands that were asked for who is named behind
// them: else nobody need be looked for.
func (s *Set) TellsOfThem(h spoken.Heard) bool {
	return slices.ContainsFunc(s.askedFor(h), func(r *Ready) bool { return r.tells })
}

// Does reports whether any of the commands that were asked for does something of a kind.
func (s *Set) Does(h spoken.Heard, kind output.Kind) bool {
	return slices.ContainsFunc(s.askedFor(h), func(r *Ready) bool {
		return slices.ContainsFunc(r.Outputs, func(o ReadyOutput) bool { return o.Kind() == kind })
	})
}

// hears reports whether a command is what was asked for.
func (r *Ready) hears(h spoken.Heard) bool {
	return h.Name != "" && slices.Contains(r.names, h.Name) || h.Signed != "" && slices.Contains(r.names, h.Signed) ||
		h.Phrase != "" && slices.Contains(r.phrases, h.Phrase)
}

// askedFor lists the commands that were asked for, in the order the streamer set.
func (s *Set) askedFor(h spoken.Heard) []*Ready {
	if h.Phrase != "" {
		return s.phrases[h.Phrase]
	}
	found := s.asked[h.Name]
	if also := s.asked[h.Signed]; h.Name == "" {
		found = also
	} else if h.Signed != "" && len(also) > 0 {
		found = append(slices.Clone(found), also...)
		slices.SortFunc(found, func(a, b *Ready) int { return a.order - b.order })
		found = slices.Compact(found)
	}
	return found
}

// Clash is a word that several commands are asked by.
type Clash struct {
	At    string   // in the courtesy: "asks.0", "asked.words.1"
	Word  string   // as it was written
	With  []string // ids of the others, in the order the streamer set
	Apart bool     // they are for different people: each answers its own
}

// Clashes are the names and words of a command, as it stands or as it is being typed, that others
// of the set are asked by too, or would be behind a sign that a platform puts in front. signs are
// those of all platforms, in a row.
func (s *Set) Clashes(c Courtesy, signs string) []Clash {
	var out []Clash
	me := &Ready{Courtesy: c}
	clash := func(where, word string, others []*Ready) {
		x := Clash{At: where, Word: word, Apart: true}
		for _, o := range others {
			if o.ID != c.ID && !slices.Contains(x.With, o.ID) {
				x.With = append(x.With, o.ID)
				x.Apart = x.Apart && !sameWho(me, o)
			}
		}
		if len(x.With) > 0 {
			out = append(out, x)
		}
	}
	for i, name := range c.Asks {
		folded := spoken.Fold(name)
		others := slices.Clone(s.asked[folded])
		for _, sign := range signs {
			if bare, cut := strings.CutPrefix(folded, string(sign)); cut {
				others = append(others, s.asked[bare]...)
			} else if !spoken.IsSigned(folded) {
				others = append(others, s.asked[string(sign)+folded]...)
			}
		}
		clash(fmt.Sprintf("asks.%d", i), name, others)
	}
	if c.Asked != nil {
		for i, phrase := range c.Asked.Words {
			clash(fmt.Sprintf("asked.words.%d", i), phrase, s.phrases[strings.Join(spoken.Words(phrase), " ")])
		}
	}
	return out
}

// sameWho reports whether two commands may be for the same people.
func sameWho(a, b *Ready) bool {
	return a.Slot == b.Slot && !a.Also && !b.Also && !a.Who.Apart(&b.Who)
}

// AskedFor is a command as somebody asks for it who uses its first name.
func (r *Ready) AskedFor() (h spoken.Heard) {
	switch {
	case len(r.names) > 0 && spoken.IsSigned(r.names[0]):
		h.Signed = r.names[0]
	case len(r.names) > 0:
		h.Name = r.names[0]
	case len(r.phrases) > 0:
		h.Phrase = r.phrases[0]
	}
	return h
}

// parseResting reads what is said to whoever asks too soon.
func (r *Ready) parseResting(offered []wording.FillIn, faults []Fault) []Fault {
	if r.Asked == nil || len(r.Asked.Resting) == 0 {
		return faults
	}
	r.Resting, faults = parseAll(r.ID, "asked.resting", r.Asked.Resting, offered, faults)
	return faults
}
