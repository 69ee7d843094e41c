package trouble

import (
	"fmt"
	"strconv"

	"vividporch/core/wordlist"
)

// KindWords is the name of it.
const KindWords Kind = "words"

// Words looks for words, however they are disguised.
type Words struct {
	Words []wordlist.Word `json:"words,omitempty"`

	list *wordlist.List
}

var words = Spec{New: func() Does { return &Words{} }, Title: "Words"}

// Kind is the name of it.
func (*Words) Kind() Kind { return KindWords }

// Says tells what it looks for.
func (w *Words) Says() string {
	if n := len(w.Words); n != 1 {
		return fmt.Sprintf("one of %d words", n)
	}
	return "the word “" + w.Words[0].Text + "”"
}

// mostWord is how many bytes a word may have.
const mostWord = 200

// Check reports what is no word.
func (w *Words) Check(fault func(at, what, remedy string)) {
	if len(w.Words) > wordlist.Most {
		fault("words", "are too many", fmt.Sprintf("keep at most %d", wordlist.Most))
		return
	}
	for i, x := range w.Words {
		if wordlist.New(w.Words[i:i+1]).Empty() || len(x.Text) > mostWord {
			fault(fmt.Sprintf("words.%d", i), "has no letter, or is too long", fmt.Sprintf("write a word of at most %d bytes", mostWord))
		}
	}
}

func (w *Words) ready() { w.list = wordlist.New(w.Words) }

// Finds tells the word that a line has.
func (w *Words) Finds(l *Line, _ Lately) string {
	if w.list == nil {
		w.ready()
	}
	if x, ok := w.list.Find(l.Text); ok {
		return "the word “" + x.Text + "”"
	}
	return ""
}

func itoa(n int) string { return strconv.Itoa(n) }
