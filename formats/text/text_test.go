package text_test

import (
	"io"
	"strings"
	"testing"

	"golang.org/x/text/encoding/unicode"

	"vividporch/formats/text"
)

// lines reads all there are, joined by a bar.
func lines(t *testing.T, file string) string {
	t.Helper()
	l := text.NewLines(strings.NewReader(file))
	var out []string
	for want := 1; ; want++ {
		raw, n, long, err := l.Next()
		if err == io.EOF {
			return strings.Join(out, "|")
		}
		if err != nil || n != want || long {
			t.Fatalf("line %d of %q: number %d, long %v, %v", want, file, n, long, err)
		}
		out = append(out, string(raw))
	}
}

func TestLinesAreReadHoweverTheyEndAndWhateverTheEncoding(t *testing.T) {
	for file, want := range map[string]string{
		"one\ntwo\n":           "one|two",
		"one\r\ntwo":           "one|two",
		"\n\nthree":            "||three",
		"":                     "",
		"\xef\xbb\xbfone\ntwo": "one|two",
	} {
		if got := lines(t, file); got != want {
			t.Errorf("%q: %q", file, got)
		}
	}
	for _, order := range []unicode.Endianness{unicode.LittleEndian, unicode.BigEndian} {
		file, err := unicode.UTF16(order, unicode.UseBOM).NewEncoder().String("märz\nπέντε 🐚")
		if err != nil {
			t.Fatal(err)
		}
		if got := lines(t, file); got != "märz|πέντε 🐚" {
			t.Errorf("%q", got)
		}
	}
}

func TestALineOfManyMegabytesIsCutAndTheNextOneIsWhole(t *testing.T) {
	l := text.NewLines(io.MultiReader(strings.NewReader(strings.Repeat("x", 9<<20)), strings.NewReader("\nthe next")))
	raw, n, long, err := l.Next()
	if err != nil || n != 1 || !long || len(raw) > text.LineMost+2 {
		t.Errorf("%d bytes, number %d, long %v, %v", len(raw), n, long, err)
	}
	if raw, n, long, err = l.Next(); err != nil || n != 2 || long || string(raw) != "the next" {
		t.Errorf("%q, number %d, long %v, %v", raw, n, long, err)
	}
}

func TestALineThatIsGivenBackIsReadAgainUnderItsNumber(t *testing.T) {
	l := text.NewLines(strings.NewReader("one\ntwo"))
	raw, n, long, _ := l.Next()
	l.Back(raw, n, long)
	if again, m, _, _ := l.Next(); string(again) != "one" || m != 1 {
		t.Errorf("%q, number %d", again, m)
	}
	if next, m, _, _ := l.Next(); string(next) != "two" || m != 2 {
		t.Errorf("%q, number %d", next, m)
	}
}
