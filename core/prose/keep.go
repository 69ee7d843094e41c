package prose

import (
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// Kept are settings in which a command answers something in plain words: one there is, whose answer
// is such words alone, or else a new one that anybody may ask for. shown is how it is asked for on a
// platform. why says, to whoever wrote it, what keeps it from being so; then nothing is changed.
func Kept(s *housefile.Settings, platform, name, answer string) (next *housefile.Settings, shown, why string) {
	name, answer = strings.TrimSpace(name), strings.TrimSpace(answer)
	bare := s.Bare(name)
	if what, remedy := courtesy.NameFault(name); what != "" {
		return nil, "", "the name " + what + ": " + remedy
	}
	if answer == "" {
		return nil, "", "the answer is missing: write it behind the name"
	}
	shown = written(s, platform, plain.Text(bare))
	words := wording.Quoted(plain.Text(answer))
	next = s.Clone()
	at, there := next.ByName()[bare]
	if !there {
		next.Courtesy = append(next.Courtesy, Answering(next.Courtesy, []string{bare}, words))
		return next, shown, ""
	}
	c := &next.Courtesy[at]
	if !inPlainWords(c) {
		return nil, shown, "it does more than answer in plain words: change it on the Porch"
	}
	c.Do[0].Alternatives, c.Do[0].Weights = []string{words}, nil
	return next, shown, ""
}

// inPlainWords reports whether a command says words without a fill-in, and nothing else.
func inPlainWords(c *courtesy.Courtesy) bool {
	return len(c.Do) == 1 && c.Do[0].Kind() == output.KindSay && len(c.Do[0].Joined) == 0 && !slices.ContainsFunc(c.Do[0].Alternatives, func(src string) bool {
		w, err := wording.Parse(src)
		return err != nil || !w.Plain()
	})
}
