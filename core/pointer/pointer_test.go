package pointer_test

import (
	"errors"
	"strings"
	"testing"

	"vividporch/core/pointer"
)

// The examples of RFC 6901, section 5.
func TestThePointersOfTheStandardLeadWhereItSays(t *testing.T) {
	v, err := pointer.Read([]byte(`{"foo":["bar","baz"],"":0,"a/b":1,"c%d":2,"e^f":3,"g|h":4,"i\\j":5,"k\"l":6," ":7,"m~n":8}`))
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ at, want string }{
		{"/foo/0", "bar"}, {"/", "0"}, {"/a~1b", "1"}, {"/c%d", "2"}, {"/e^f", "3"}, {"/g|h", "4"}, {`/i\j`, "5"}, {`/k"l`, "6"}, {"/ ", "7"}, {"/m~0n", "8"},
	} {
		got, ok := pointer.Get(v, c.at)
		if text, is := pointer.Text(got); !ok || !is || text != c.want {
			t.Errorf("%s leads to %v", c.at, got)
		}
	}
	if all, ok := pointer.Get(v, ""); !ok || len(all.(map[string]any)) != 10 {
		t.Errorf("the whole: %v", all)
	}
	for _, at := range []string{"/foo/2", "/foo/-", "/foo/01", "/foo/0/x", "/none", "/foo/-1", "foo", "/foo/99999999999999999999"} {
		if got, ok := pointer.Get(v, at); ok {
			t.Errorf("%s leads to %v", at, got)
		}
	}
}

func TestNumbersStayAsTheyWereWritten(t *testing.T) {
	for _, n := range []string{"9223372036854775808", "12345678901234567890123", "0.10", "1e400", "-0"} {
		v, err := pointer.Read([]byte(`{"n":` + n + `}`))
		if err != nil {
			t.Fatalf("%s: %v", n, err)
		}
		at, _ := pointer.Get(v, "/n")
		if text, _ := pointer.Text(at); text != n {
			t.Errorf("%s became %s", n, text)
		}
	}
}

func TestWhatCannotBeReadIsRefused(t *testing.T) {
	for body, want := range map[string]error{"": pointer.ErrNotJSON, "{": pointer.ErrNotJSON, "tip=5": pointer.ErrNotJSON, `{"a":1}{"b":2}`: pointer.ErrNotJSON,
		strings.Repeat("[", pointer.MostDeep+1) + strings.Repeat("]", pointer.MostDeep+1): pointer.ErrDeep,
		strings.Repeat("[", 1<<20): pointer.ErrDeep} {
		if _, err := pointer.Read([]byte(body)); !errors.Is(err, want) {
			t.Errorf("%.40s: %v", body, err)
		}
	}
	if _, err := pointer.Read([]byte(`{"say":"` + strings.Repeat("[", 200) + `\""}`)); err != nil {
		t.Errorf("brackets in words nest nothing: %v", err)
	}
}

func TestOfAKeyThatStandsTwiceTheLastCounts(t *testing.T) {
	v, _ := pointer.Read([]byte(`{"who":"limpet_lena","who":"kelpwright"}`))
	if at, _ := pointer.Get(v, "/who"); at != "kelpwright" {
		t.Errorf("got %v", at)
	}
}

func TestAWrongPointerSaysWhatIsWrong(t *testing.T) {
	for _, p := range []string{"who", "/a~", "/a~2", "/" + strings.Repeat("x", 600)} {
		if pointer.Check(p) == nil {
			t.Errorf("%.20s passes", p)
		}
	}
	if p := pointer.Step(pointer.Step("", "a/b~c"), "0"); p != "/a~1b~0c/0" || pointer.Check(p) != nil {
		t.Errorf("got %s", p)
	}
}
