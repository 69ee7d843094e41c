package past_test

import (
	"context"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/trouble"
	"vividporch/porch/past"
	"vividporch/store/log"
)

// looker looks at a few lines: who said them, and what; a "-" before means that a moderator took it out.
func looker(read *int, lines ...[2]string) *past.Looker {
	at := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	return past.New(past.Config{Settings: func() *housefile.Settings { return housetest.Base() },
		Past: func() []attendance.Past {
			return []attendance.Past{{Number: 1, Opened: at}, {Number: 2, Opened: at.Add(time.Hour)}}
		},
		Said: func(_ context.Context, since time.Time, _ int) (out []log.Said, err error) {
			*read++
			for i, l := range lines {
				x := log.Said{Seq: int64(i), At: since.Add(time.Duration(i) * time.Second), Removed: l[1][0] == '-'}
				if x.Said.Text = l[1]; x.Removed {
					x.Said.Text = l[1][1:]
				}
				x.Said.Person = event.Person{Platform: "quayside", ID: l[0], Login: l[0]}
				out = append(out, x)
			}
			return out, nil
		},
		Known: func(_ context.Context, account string) (bool, bool, error) {
			return account == "quayside:lena", account == "quayside:trusted", nil
		},
		Spared: func(said *happening.ChatSaid) bool { return said.Person.ID == "grebe" }})
}

func TestARuleIsTriedOnThePastWithRegularsFirstAndTheSparedLeftOut(t *testing.T) {
	read := 0
	l := looker(&read, [2]string{"lena", "WHAT WAS THAT OVER THERE"}, [2]string{"mossy", "LOOK AT THE HERON"}, [2]string{"mossy", "THERE IT IS AGAIN"}, [2]string{"grebe", "CALM DOWN EVERYBODY"}, [2]string{"trusted", "I MAY SHOUT IN HERE"}, [2]string{"mossy", "sorry"})
	r := trouble.Rule{ID: "r", Do: &trouble.Capitals{Percent: 70, From: 8}, Then: trouble.Usual()}
	got, err := l.Try(t.Context(), r)
	if err != nil || got.Streams != 2 || got.Looked != 6 || got.Lines != 3 || got.People != 2 || got.Regulars != 1 || got.Some[0].Said.Said.Person.ID != "lena" || !got.Some[0].Regular || got.Some[1].Said.Said.Text != "THERE IT IS AGAIN" {
		t.Errorf("%+v, %v", got, err)
	}
	r.Not = []string{trouble.Regulars}
	if got, _ = l.Try(t.Context(), r); got.Lines != 2 || got.Regulars != 0 {
		t.Errorf("without the regulars %+v", got)
	}
	r.Do = &trouble.Capitals{Percent: 70, From: 500} // dragged: what was said is not read again
	if got, _ = l.Try(t.Context(), r); got.Lines != 0 || read != 1 {
		t.Errorf("%+v, read %d times", got, read)
	}
	l.Forget()
	if _, err := l.Try(t.Context(), r); err != nil || read != 2 {
		t.Errorf("read %d times: somebody who is forgotten may stand in it", read)
	}
}

func TestWhatModeratorsTookOutTellsWhichRuleIsWorthALook(t *testing.T) {
	read := 0
	l := looker(&read, [2]string{"a", "-free shells at shells.example/free"}, [2]string{"b", "-www.shells.example"}, [2]string{"c", "-LOOK AT ALL MY SHELLS"}, [2]string{"d", "see quayside.example/me"}, [2]string{"e", "-no"})
	got, err := l.Worth(t.Context())
	if err != nil || len(got) != 1 || got[0] != (past.Worth{Kind: trouble.KindLinks, Found: 2, Of: 4}) {
		t.Errorf("%+v, %v", got, err)
	}
}
