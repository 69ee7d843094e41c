package pearls_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/formats/pearls"
)

func TestAListOfAnyShapeIsReadAndWhatIsBrokenIsRefusedByItsNumber(t *testing.T) {
	for name, file := range map[string]string{
		"commas":            "login,points\n@limpet_lena,1200\nkelpwright,840.00\n",
		"semicolons":        "User Name;Balance\nlimpet_lena;1 200\nkelpwright;840\n",
		"tabs, and a mark":  "\ufeffpoints\tnick\n1200\tlimpet_lena\n840\tkelpwright\n",
		"ends as elsewhere": "login,points\r\n\"limpet_lena\",\"1,200\"\r\nkelpwright,840",
	} {
		rows, refused, err := pearls.Read([]byte(file))
		if err != nil || len(refused) != 0 || len(rows) != 2 {
			t.Errorf("%s: %+v, refused %+v, %v", name, rows, refused, err)
			continue
		}
		if rows[0].Login != "limpet_lena" || rows[0].Points != 1200 || rows[1].Login != "kelpwright" || rows[1].Points != 840 || rows[1].N != 3 {
			t.Errorf("%s: %+v", name, rows)
		}
	}
	rows, refused, err := pearls.Read([]byte("account,platform,points\nquayside:7,Quayside,5\n,,5\nquayside:8,,-3\nquayside:9,,many\nquayside:10,,99999999999999\nquayside:11\n"))
	if err != nil || len(rows) != 1 || rows[0].Account != "quayside:7" || rows[0].Platform != "quayside" {
		t.Fatalf("%+v, %v", rows, err)
	}
	for i, want := range []string{"names nobody", "1 point at least", "no whole number", "more points than anybody can", "no whole number"} {
		if i >= len(refused) || refused[i].N != i+3 || !strings.Contains(refused[i].Why, want) {
			t.Errorf("row %d: want %q in %+v", i+3, want, refused)
		}
	}
}

func TestAFileThatIsNoListSaysWhatItLacks(t *testing.T) {
	for name, file := range map[string]string{"nothing": "", "no points": "login,streams\na,1", "nobody": "points\n1", "no heading": "limpet_lena,1200"} {
		var fault *event.FieldError
		if _, _, err := pearls.Read([]byte(file)); !errors.As(err, &fault) || fault.Remedy == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
	var long strings.Builder
	long.WriteString("login,points\n")
	for i := range pearls.MostRows + 1 {
		fmt.Fprintf(&long, "p%d,1\n", i)
	}
	if _, _, err := pearls.Read([]byte(long.String())); err == nil || !strings.Contains(err.Error(), "200000") {
		t.Errorf("a file of too many rows: %v", err)
	}
}

func FuzzAnyListIsReadOrRefused(f *testing.F) {
	for _, s := range []string{"login,points\na,1", "a;b\n\"", "points,login\n1,\"x\ny\"\n\x00,\xff", "\ufeffaccount\tpoints\n\t\t"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		rows, refused, err := pearls.Read(raw)
		if err != nil && len(rows)+len(refused) > 0 {
			t.Error("both refused and read")
		}
		last := 1
		for _, r := range rows {
			if r.N <= last || r.Points < 1 || r.Points > event.MostPoints || r.Account == "" && r.Login == "" || strings.ContainsAny(r.Login+r.Account, "\n\r\x00") {
				t.Errorf("%+v after row %d", r, last)
			}
			last = r.N
		}
	})
}
