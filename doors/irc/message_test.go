package irc_test

import (
	"errors"
	"strings"
	"testing"

	"vividporch/doors/irc"
)

func TestALineIsTakenApart(t *testing.T) {
	m, err := irc.ParseMessage("@time=2031-05-14T19:02:00Z;name=Limpet\\sLena\\: :limpet!l@pool PRIVMSG #tidepool_hours :hello  there :)\r\n")
	if err != nil {
		t.Fatal(err)
	}
	if m.Tags["name"] != "Limpet Lena;" || m.Nick() != "limpet" || m.Command != "PRIVMSG" || m.Param(0) != "#tidepool_hours" || m.Last() != "hello  there :)" {
		t.Errorf("%+v", m)
	}
}

func TestMalformedAndOversizedLinesAreRefused(t *testing.T) {
	for line, want := range map[string]error{
		"":                    irc.ErrEmpty,
		"   ":                 irc.ErrEmpty,
		":onlysource":         irc.ErrEmpty,
		"@only=tags":          irc.ErrEmpty,
		"PRIVMSG #a :x\x00y":  irc.ErrBytes,
		"PRIVMSG #a :x\rQUIT": irc.ErrBytes,
		"PRIVMSG #a :" + strings.Repeat("x", 600):     irc.ErrTooLong,
		"@a=" + strings.Repeat("x", 9000) + " PING x": irc.ErrTooLong,
	} {
		if _, err := irc.ParseMessage(line); !errors.Is(err, want) {
			t.Errorf("%.30q: got %v, want %v", line, err, want)
		}
	}
	if _, err := irc.ParseMessage("PRIV!MSG x"); err == nil {
		t.Error("a command of signs is no command")
	}
}

func FuzzWhatIsReadIsWrittenTheSame(f *testing.F) {
	for _, s := range []string{"PING :x", "@a=b\\sc;d :n!u@h PRIVMSG #r :hi there", ":s 353 me = #r :@a +b", "CAP * LS :sasl=PLAIN", "A b c d e f g h i j k l m n o p q"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, line string) {
		m, err := irc.ParseMessage(line)
		if err != nil || m.Check() != nil {
			return
		}
		out := m.String()
		if strings.ContainsAny(out, "\r\n\x00") {
			t.Fatalf("a line end inside: %q", out)
		}
		again, err := irc.ParseMessage(out)
		if err != nil {
			if errors.Is(err, irc.ErrTooLong) { // a colon more may be one too many
				return
			}
			t.Fatalf("%q came from %q and cannot be read: %v", out, line, err)
		}
		if !again.Equal(&m) {
			t.Fatalf("%q became %q", line, out)
		}
	})
}
