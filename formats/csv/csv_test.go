package csv_test

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"testing/quick"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/formats/csv"
	"vividporch/formats/row"
)

func read(t *testing.T, file string) (rows []row.Row, r *csv.Reader) {
	t.Helper()
	r, err := csv.NewReader(strings.NewReader(file), csv.Options{Platform: "quayside", DayFirst: true})
	if err != nil {
		t.Fatal(err)
	}
	for {
		in, err := r.Next()
		if errors.Is(err, io.EOF) {
			return rows, r
		}
		if err != nil {
			t.Fatal(err)
		}
		rows = append(rows, in)
	}
}

func TestHeadingsAreMatchedLooselyAndCellsAsPeopleWriteThem(t *testing.T) {
	rows, r := read(t, "\ufeffUser Name;Follow Date;B-Day;TAGS;Colour;leave me be\r\n@Limpet_Lena;14/05/2029;3.4.;tea|kelp;red;yes\r\n\r\n\"old;olive\";;;;;\r\n")
	if len(rows) != 2 || len(r.Ignored) != 1 || r.Ignored[0] != "Colour" {
		t.Fatalf("%d rows, %v", len(rows), r.Ignored)
	}
	c := rows[0].Card
	if a := c.Accounts[0]; a.Key() != "quayside:@limpet_lena" || a.Followed.Format("2006-01-02") != "2029-05-14" {
		t.Errorf("%+v", a)
	}
	if c.Birthday.String() != "--04-03" || fmt.Sprint(c.Tags) != "[tea kelp]" || !people.Yes(c.LeaveBe) {
		t.Errorf("%+v", c)
	}
	if rows[1].Card.Accounts[0].Login != "old;olive" || rows[1].N != 4 {
		t.Errorf("%+v", rows[1])
	}
	if list, _ := read(t, "limpet_lena\nkelpwright\n"); len(list) != 2 || list[1].Card.Accounts[0].Login != "kelpwright" {
		t.Errorf("a bare list: %+v", list)
	}
}

func TestABrokenRowIsRefusedAndTheRowsRoundItAreRead(t *testing.T) {
	file := "login,note\ngood_one,fine\nbad\"quote\",x\n\"never closed,x\ngood_two,ok\nwrong_\xff_bytes,x\ntoo,many,cells\ngood_three,\"two\nlines\"\n"
	rows, _ := read(t, file)
	var good []string
	bad := 0
	for _, in := range rows {
		if in.Why == "" {
			good = append(good, in.Card.Accounts[0].Login)
			continue
		}
		bad++
		if in.N == 0 {
			t.Errorf("no row is named: %s", in.Why)
		}
	}
	if fmt.Sprint(good) != "[good_one good_two good_three]" || bad != 4 {
		t.Errorf("read %v, refused %d", good, bad)
	}
}

// endless is a line of a gigabyte that is never in memory.
type endless struct{ left int }

func (e *endless) Read(p []byte) (int, error) {
	if e.left <= 0 {
		return 0, io.EOF
	}
	n := min(len(p), e.left)
	for i := range p[:n] {
		p[i] = 'x'
	}
	e.left -= n
	return n, nil
}

func TestALineOfAGigabyteCostsNoMemory(t *testing.T) {
	file := io.MultiReader(strings.NewReader("login\n"), &endless{1 << 30}, strings.NewReader("\nafter_it\n"))
	r, err := csv.NewReader(file, csv.Options{Platform: "quayside"})
	if err != nil {
		t.Fatal(err)
	}
	long, err := r.Next()
	if err != nil || !strings.Contains(long.Why, "longer than 1 MB") {
		t.Fatalf("%+v %v", long.Why, err)
	}
	if next, err := r.Next(); err != nil || next.Card.Accounts[0].Login != "after_it" {
		t.Errorf("%+v %v", next, err)
	}
}

func TestOtherEncodingsAreReadOrNamed(t *testing.T) {
	utf16 := []byte{0xff, 0xfe}
	for _, r := range "login\nmöwe\n" {
		utf16 = append(utf16, byte(r), byte(r>>8))
	}
	rows, _ := read(t, string(utf16))
	if len(rows) != 1 || rows[0].Card.Accounts[0].Login != "möwe" {
		t.Errorf("UTF-16: %+v", rows)
	}
	rows, _ = read(t, "login\nm\xf6we\n") // Latin-1
	if len(rows) != 1 || !strings.Contains(rows[0].Why, "save the file as UTF-8") {
		t.Errorf("Latin-1: %+v", rows)
	}
	for _, file := range []string{"", "colour,size\nred,7\n", "login,user\na,b\n"} {
		if _, err := csv.NewReader(strings.NewReader(file), csv.Options{}); err == nil {
			t.Errorf("%q was read", file)
		}
	}
}

func TestACellThatASpreadsheetWouldRunIsKeptFromIt(t *testing.T) {
	for _, cell := range []string{"=1+1", "+49", "-x", "@lena", "\tx", "'=1", "''@x"} {
		e := csv.Escape(cell)
		if strings.ContainsAny(e[:1], "=+-@\t\r") || csv.Unescape(e) != cell {
			t.Errorf("%q became %q and %q", cell, e, csv.Unescape(e))
		}
	}
	if err := quick.Check(func(s string) bool { return csv.Unescape(csv.Escape(s)) == s }, nil); err != nil {
		t.Error(err)
	}
}

func TestStreamNumbersAreWrittenBriefly(t *testing.T) {
	for want, nums := range map[string][]int{"": nil, "7": {7}, "1-3 7 9-10": {1, 2, 3, 7, 9, 10}, "-2 -1 0-1": {-2, -1, 0, 1}} {
		if got := csv.Ranges(nums); got != want {
			t.Errorf("%v became %q, want %q", nums, got, want)
		}
		back, err := csv.Numbers(want)
		if err != nil || fmt.Sprint(back) != fmt.Sprint(nums) {
			t.Errorf("%q was read as %v %v", want, back, err)
		}
	}
	if _, err := csv.Numbers("1-999999999"); err == nil {
		t.Error("an endless range was read")
	}
}

func TestWhatIsWrittenIsReadTheSame(t *testing.T) {
	note := "says \"hi\",\nand =more; \u202e"
	c := card.Card{Hand: handOf(note), Streams: []int{1, 2, 5}}
	a := card.Account{Was: []string{"old_lena"}}
	a.Platform, a.ID, a.Login, a.Name = "quayside", "8841", "limpet_lena", "Limpet; Lena"
	b := card.Account{}
	b.Platform, b.ID, b.Login = "fernlight", "@lena", "Lena"
	c.Accounts = []card.Account{a, b}
	var out bytes.Buffer
	w := csv.NewWriter(&out, map[string]string{"low-water-league": "Low Water League"})
	if err := w.Write(&c, "regular"); err != nil {
		t.Fatal(err)
	}
	if err := w.Flush(); err != nil {
		t.Fatal(err)
	}
	rows, r := read(t, out.String())
	if len(rows) != 1 || rows[0].Why != "" || len(r.Ignored) != 0 {
		t.Fatalf("%+v %v", rows, r.Ignored)
	}
	if d := card.Diff(&c, &rows[0].Card); len(d) != 0 {
		t.Errorf("%+v", d)
	}
	if d := card.Diff(&rows[0].Card, &c); len(d) != 0 {
		t.Errorf("something was lost: %+v", d)
	}
}

func handOf(note string) (h event.Hand) {
	yes := true
	h.Note, h.Trusted, h.Tags, h.Crews = &note, &yes, []string{"tea", "kelp"}, []string{"low-water-league"}
	return h
}
