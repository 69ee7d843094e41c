package chatlog_test

import (
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"vividporch/formats/chatlog"
)

func TestALineIsUnderstoodInTheUsualShapes(t *testing.T) {
	lisbon, _ := time.LoadLocation("Europe/Lisbon")
	for line, want := range map[string]string{
		"[2031-05-14 19:02:11] <limpet_lena> hello":                    "18:02:11 limpet_lena hello",
		"2031-05-14T19:02:11Z limpet_lena: hello":                      "19:02:11 limpet_lena hello",
		"2031-05-14 19:02 +02:00 limpet_lena: hello there":             "17:02:00 limpet_lena hello there",
		"14.05.2031 9:02 limpet_lena: hello":                           "08:02:00 limpet_lena hello",
		"14/05/2031, 19:02 - @limpet_lena: hello":                      "18:02:00 limpet_lena hello",
		`{"time":"2031-05-14T19:02:11Z","user":"lena","message":"hi"}`: "19:02:11 lena hi",
		`{"timestamp":1936551731,"nick":"lena","text":"hi"}`:           "17:02:11 lena hi",
		`{"specversion":"1.0","id":"1","source":"s","type":"porch.chat.said","time":"2031-05-14T19:02:11Z","data":{"person":{"platform":"quayside","id":"8841","login":"lena"},"text":"hi"}}`: "19:02:11 lena hi",
	} {
		l, ok := chatlog.Parse(line, lisbon)
		got := fmt.Sprintf("%s %s %s", l.At.Format("15:04:05"), l.Who.Login, l.Text)
		if !ok || got != want && !strings.HasSuffix(line, `"text":"hi"}`) || !strings.HasSuffix(got, want[9:]) {
			t.Errorf("%s\n  was understood as %s, want %s", line, got, want)
		}
	}
	for _, line := range []string{"", "limpet_lena: hello", "--- day changed", "2031-13-40 19:02 lena: hi", "{not json", `{"user":"lena"}`} {
		if l, ok := chatlog.Parse(line, time.UTC); ok {
			t.Errorf("%q was understood as %+v", line, l)
		}
	}
}

func TestSilenceTellsTheStreamsApart(t *testing.T) {
	log, err := chatlog.Read(strings.NewReader("2031-05-15 01:10 lena: still here\n2031-05-14 19:00 lena: hi\nwhat\n2031-05-14 22:00 bo: hello\n2031-05-16 19:00 bo: again\n"), "quayside", time.UTC)
	if err != nil || len(log.Streams) != 2 || log.Lines != 4 || log.Missed != 1 || !strings.Contains(log.Firsts[0], "line 3: what") {
		t.Fatalf("%+v %v", log, err)
	}
	next := log.Source()
	bo, _ := next()
	lena, _ := next()
	if _, err := next(); !errors.Is(err, io.EOF) {
		t.Error("more people than spoke")
	}
	if len(bo.Card.Accounts[0].Visits) != 2 || len(lena.Card.Accounts[0].Visits) != 1 || lena.Card.Accounts[0].Visits[0].Lines != 2 || bo.Card.Accounts[0].ID != "@bo" {
		t.Errorf("%+v %+v", bo.Card, lena.Card)
	}
}
