package thread_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/core/thread"
)

func TestWhatIsSaidToTheStreamerOrAskedIsTakenUpAgain(t *testing.T) {
	ear := thread.Of("tidepool_hours", "Odalys Brine", "")
	for _, c := range []struct {
		name, line string
		reply      bool
		takes      bool
	}{
		{"a question to the room", "what is that red one?", false, true},
		{"a question with more behind it", "is it alive? looks asleep", false, true},
		{"in full width", "あれは何？", false, true},
		{"in Arabic", "ما هذا؟", false, true},
		{"to the login", "@tidepool_hours the lens is great", false, true},
		{"to the login in the middle, in capitals", "see you, TIDEPOOL_HOURS!", false, true},
		{"to the first name alone", "Odalys, I found one like it", false, true},
		{"to the whole name", "thanks odalys brine", false, true},
		{"a reply to the streamer", "so did I", true, true},
		{"a plain line", "lovely colours tonight", false, false},
		{"a question to somebody else", "@kelpwright are you coming on Friday?", false, false},
		{"to somebody else, and the streamer named", "@kelpwright ask odalys", false, true},
		{"a link with a question mark in it", "https://skerry.example/?q=1", false, false},
		{"a question after a link", "https://skerry.example/?q=1 seen this?", false, true},
		{"signs alone", "??? !!!", false, false},
		{"a word that holds the name", "odalysfan is here", false, false},
		{"nothing", "  ", false, false},
		{"nothing, as a reply", "", true, false},
		{"a doubled sign", "really?!", false, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := ear.Takes(c.line, c.reply); got != c.takes {
				t.Errorf("%q: %v", c.line, got)
			}
		})
	}
}

func TestAShortWordOfANameMeansNobody(t *testing.T) {
	if thread.Of("Mare of Moss").Takes("the colour of it", false) {
		t.Error("“of” is taken for the streamer")
	}
}

func TestASignStandsInEveryLineThatIsTaken(t *testing.T) {
	ear := thread.Of("tidepool_hours", "Odalys Brine")
	for _, line := range []string{"what?", "何？", "hello ODALYS", "@Tidepool_Hours hi", "brine!"} {
		if !ear.Takes(line, false) {
			t.Errorf("%q is not taken", line)
		}
		if !slices.ContainsFunc(ear.Signs(), func(s string) bool { return strings.Contains(strings.ToLower(line), s) }) {
			t.Errorf("%q: none of %q", line, ear.Signs())
		}
	}
}
