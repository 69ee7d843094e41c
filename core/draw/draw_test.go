package draw_test

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/trouble"
	"vividporch/core/who"
)

// An evening at which something is given away.
type evening struct{ *housetest.Evening }

func begin(t *testing.T, change ...func(*housefile.Settings)) evening {
	t.Helper()
	says := housetest.Says
	s := housetest.Base()
	s.Courtesy = []courtesy.Courtesy{
		says(happening.DrawOpenedType, "Open: {prize}.{hasWord, select, yes { Say {word}.} other {}}{hasProof, select, yes { {proof}} other {}}"),
		says(happening.DrawClosedType, "Closed with {entries}."),
		says(happening.DrawWonType, "{name} was drawn for {prize}: {seconds} seconds."),
		says(happening.DrawClaimedType, "{name} has {prize}."),
		says(happening.DrawUnclaimedType, "{name} said nothing."),
		says(happening.DrawUnwonType, "Nobody has {prize}."),
		says(happening.DrawCancelledType, "Called off: {reason}."),
	}
	for _, f := range change {
		f(s)
	}
	return evening{housetest.Begin(t, s)}
}

// log is all that was decided.
func (e evening) log() (out []draw.Logged) {
	for _, l := range e.Log {
		for _, d := range l.Decisions {
			out = append(out, draw.Logged{Seq: l.Event.Seq, At: l.At, Decision: d})
		}
	}
	return out
}

func (e evening) opens(t giveaway.Terms) *draw.Draw {
	e.T.Helper()
	if len(t.Prizes) == 0 {
		t.Prizes = []string{"a print of the kelp bed"}
	}
	raw, _ := json.Marshal(t)
	e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: raw, Member: "Odalys Brine"})
	return e.draw()
}

func (e evening) draw() *draw.Draw { return draw.Now(e.S.Rooms) }

func (e evening) asks(act, account, reason string) []hall.Decision {
	e.T.Helper()
	return e.Happens(&event.DrawCalled{Act: act, Account: account, Reason: reason, Member: "Odalys Brine"})
}

// entries are the logins of those that count, in order.
func entries(d *draw.Draw) (out []string) {
	for _, e := range d.Page("").Entries {
		if e.In {
			out = append(out, e.Name)
		}
	}
	return out
}

// checked has the script of the docs check a draw.
func checked(t *testing.T, p draw.Page) (says string, right bool) {
	t.Helper()
	raw, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "draw.json")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("python3", "../../docs/contract/check_draw.py", file).CombinedOutput()
	return string(out), err == nil
}

func neighbours(s *housefile.Settings) { s.Neighbours = []string{"shellbot"} }

var byWord = giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", ClaimIn: 60}

func TestADrawFromItsOpeningToTheWinnerWhoSpeaksUp(t *testing.T) {
	e := begin(t)
	d := e.opens(byWord)
	if d.State != draw.Open || len(d.Commit) != 64 {
		t.Fatalf("%+v", d)
	}
	e.After(10 * time.Second)
	e.Heard("Open: a print of the kelp bed. Say !tide. " + d.Commit)
	e.Chat("limpet_lena: !tide", "kelpwright: !TIDE please", "limpet_lena: !tide", "sandhopper9: what is !tide", "mossy_mare: !tide")
	if got := entries(e.draw()); !slices.Equal(got, []string{"limpet_lena", "kelpwright", "mossy_mare"}) {
		t.Fatalf("entered: %q", got)
	}
	if p := e.draw().Page("tidepool_hours"); p.Secret != "" || p.Digest != "" {
		t.Error("the secret is out before entries are closed")
	}
	e.asks(event.DrawDraw, "", "")
	d = e.draw()
	if d.State != draw.Drawing || len(d.Picks) != 1 || d.Picks[0].State != draw.Pending {
		t.Fatalf("%+v", d)
	}
	winner := d.Picks[0].Login
	e.After(5 * time.Second)
	e.Heard(winner + " was drawn for a print of the kelp bed: 60 seconds.")
	e.Chat("sandhopper9: who is it?", winner+": me!")
	if d = e.draw(); d.State != draw.Over || d.Picks[0].State != draw.Claimed {
		t.Fatalf("%+v", d)
	}
	e.After(5 * time.Second)
	e.Heard(winner + " has a print of the kelp bed.")
	if says, right := checked(t, d.Page("tidepool_hours")); !right {
		t.Error(says)
	}
}

func TestWhoSaysNothingIsDrawnAgainUntilNobodyIsLeft(t *testing.T) {
	e := begin(t)
	e.opens(giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", ClaimIn: 30, Prizes: []string{"a print", "a limpet badge"}})
	e.Chat("limpet_lena: !tide", "kelpwright: !tide", "mossy_mare: !tide")
	e.asks(event.DrawDraw, "", "")
	if n := len(e.draw().Picks); n != 2 {
		t.Fatalf("%d picked for two prizes", n)
	}
	e.Chat(e.draw().Picks[0].Login + ": here")
	e.After(31 * time.Second)
	d := e.draw()
	if len(d.Picks) != 3 || d.Picks[1].State != draw.Passed || d.Picks[2].Prize != 1 {
		t.Fatalf("%+v", d.Picks)
	}
	e.After(31 * time.Second)
	if d = e.draw(); d.State != draw.Over || !slices.Equal(d.Unwon, []int{1}) {
		t.Fatalf("%s %v", d.State, d.Unwon)
	}
	e.After(10 * time.Second)
	e.Heard("Nobody has a limpet badge.")
	won := map[string]int{}
	for _, p := range d.Picks {
		won[p.Account]++
	}
	for who, n := range won {
		if n > 1 {
			t.Errorf("%s was picked %d times", who, n)
		}
	}
	if says, right := checked(t, d.Page("")); !right {
		t.Error(says)
	}
}

func TestATamperedListIsFoundOut(t *testing.T) {
	e := begin(t)
	e.opens(byWord)
	e.Chat("limpet_lena: !tide", "kelpwright: !tide", "mossy_mare: !tide", "pebble_june: !tide")
	e.asks(event.DrawDraw, "", "")
	right := e.draw().Page("")
	for name, tamper := range map[string]func(p *draw.Page){
		"an entry left out":         func(p *draw.Page) { p.Entries = p.Entries[1:] },
		"an entry of somebody else": func(p *draw.Page) { p.Entries[0].Account = "quayside:id-somebody" },
		"another secret":            func(p *draw.Page) { p.Secret = fmt.Sprintf("%x", sha256.Sum256([]byte("another"))) },
		"another winner": func(p *draw.Page) {
			for _, o := range p.Entries {
				if o.Mark != p.Picks[0].Mark {
					p.Picks[0].Mark = o.Mark
					return
				}
			}
		},
		"an entry that counts no more": func(p *draw.Page) { p.Entries[2].In = false },
	} {
		t.Run(name, func(t *testing.T) {
			raw, _ := json.Marshal(right)
			var p draw.Page
			json.Unmarshal(raw, &p)
			tamper(&p)
			if says, ok := checked(t, p); ok || !strings.Contains(says, "WRONG") {
				t.Errorf("not found: %s", says)
			}
		})
	}
	if says, ok := checked(t, right); !ok {
		t.Error(says)
	}
}

func TestWhoMayNotWinNeverEnters(t *testing.T) {
	e := begin(t, neighbours)
	lena := &people.Known{Person: 1, Accounts: []string{"quayside:id-limpet_lena", "fernlight:id-lena_elsewhere"}}
	e.Known = map[string]*people.Known{"limpet_lena": lena, "lena_elsewhere": lena, "odalys": {Person: 2, Member: event.Streamer}}
	bar := &event.DrawBarred{Person: housetest.Viewer("kelpwright"), On: true, Reason: "is family", Member: "Odalys Brine"}
	e.Happens(bar)
	e.opens(giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", Who: &who.Who{Not: []who.Who{{Role: event.Moderator}}}})
	e.Chat("limpet_lena: !tide", "lena_elsewhere@fernlight: !tide", "kelpwright: !tide", "shellbot: !tide", "porchlamp: !tide", "tidepool_hours: !tide", "odalys: !tide")
	mod := &happening.ChatSaid{Text: "!tide"}
	mod.Person = housetest.Viewer("mossy_mare")
	mod.Person.Roles = []event.Role{event.Moderator}
	if why := housetest.Refused(e.Happens(mod)); !strings.Contains(why, "moderator") {
		t.Errorf("a moderator: %q", why)
	}
	if got := entries(e.draw()); !slices.Equal(got, []string{"limpet_lena"}) {
		t.Errorf("entered: %q", got)
	}
	bar.On = false
	e.Happens(bar)
	e.Chat("kelpwright: !tide")
	if got := entries(e.draw()); !slices.Equal(got, []string{"limpet_lena", "kelpwright"}) {
		t.Errorf("let in again: %q", got)
	}
}

func TestWhoWonLatelyWaitsSoManyDraws(t *testing.T) {
	e := begin(t)
	terms := giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", Rest: 2}
	win := func(logins ...string) string {
		e.opens(terms)
		for _, l := range logins {
			e.Chat(l + ": !tide")
		}
		e.asks(event.DrawDraw, "", "")
		if d := e.draw(); len(d.Picks) > 0 {
			return d.Picks[0].Login
		}
		return ""
	}
	if win("limpet_lena") != "limpet_lena" {
		t.Fatal("did not win alone")
	}
	if won := win("limpet_lena", "kelpwright"); won != "kelpwright" {
		t.Errorf("%q wins at once again", won)
	}
	if won := win("limpet_lena", "kelpwright"); won != "" {
		t.Errorf("%q wins within two draws", won)
	}
	if won := win("limpet_lena", "mossy_mare", "kelpwright"); won == "kelpwright" { // whose win was the one before the last
		t.Errorf("%q wins within two draws", won)
	}
}

func TestAPersonMergedWhileADrawIsOpenCountsOnce(t *testing.T) {
	e := begin(t)
	e.opens(byWord)
	e.Chat("limpet_lena: !tide", "lena_elsewhere@fernlight: !tide", "mossy_mare: !tide")
	e.Happens(&event.BookMerged{Kept: 1, Gone: 2, Accounts: []string{"quayside:id-limpet_lena", "fernlight:id-lena_elsewhere"}})
	if got := entries(e.draw()); !slices.Equal(got, []string{"limpet_lena", "mossy_mare"}) {
		t.Errorf("in: %q", got)
	}
	e.Chat("lena_elsewhere@fernlight: !tide")
	if got := entries(e.draw()); len(got) != 2 {
		t.Errorf("in: %q", got)
	}
}

func TestAmongThoseWhoSpokeLately(t *testing.T) {
	e := begin(t)
	e.Chat("limpet_lena: evening")
	e.After(11 * time.Minute)
	e.Chat("kelpwright: hello", "mossy_mare: hello", "porchlamp: I am the house")
	e.opens(giveaway.Terms{Way: giveaway.Lately, Minutes: 10})
	e.asks(event.DrawDraw, "", "")
	d := e.draw()
	if got := entries(d); !slices.Equal(got, []string{"kelpwright", "mossy_mare"}) || len(d.Picks) != 1 {
		t.Errorf("in: %q, %d picks", got, len(d.Picks))
	}
	if says, right := checked(t, d.Page("")); !right {
		t.Error(says)
	}
}

func TestTheFirstRightAnswerWins(t *testing.T) {
	for _, c := range []struct {
		name  string
		loose bool
		lines []string
		wins  string
	}{
		{"as it is written", false, []string{"limpet_lena: a crab?", "kelpwright: Brittle Star!", "mossy_mare: brittle star"}, "kelpwright"},
		{"strictly no sentence", false, []string{"limpet_lena: it is a brittle star", "kelpwright: brittle star"}, "kelpwright"},
		{"with a slip, where that is free", true, []string{"limpet_lena: is it a britle star?"}, "limpet_lena"},
		{"with letters that changed places", true, []string{"limpet_lena: birttle star"}, "limpet_lena"},
		{"in one word", true, []string{"limpet_lena: brittlestar"}, "limpet_lena"},
		{"not with everything that lives there", true, []string{"limpet_lena: crab limpet mussel kelp wrack anemone brittle star"}, ""},
		{"not with what is only like it", true, []string{"limpet_lena: little stair"}, ""},
		{"in another language that is right, too", false, []string{"limpet_lena: Schlangenstern"}, "limpet_lena"},
	} {
		t.Run(c.name, func(t *testing.T) {
			e := begin(t)
			e.Chat("sandhopper9: brittle star") // before it was asked
			e.opens(giveaway.Terms{Way: giveaway.ByAnswer, Ask: "What has five arms and runs?", Answers: []string{"brittle star", "Schlangenstern"}, Loose: c.loose, ClaimIn: 60})
			e.Chat(c.lines...)
			d := e.draw()
			if c.wins == "" {
				if d.State != draw.Open || len(d.Picks) > 0 {
					t.Errorf("%s, %+v", d.State, d.Picks)
				}
				return
			}
			if d.State != draw.Over || len(d.Picks) != 1 || d.Picks[0].Login != c.wins {
				t.Fatalf("%s, %+v", d.State, d.Picks)
			}
			if says, right := checked(t, d.Page("")); !right {
				t.Error(says)
			}
		})
	}
}

func TestAnAnswerThatWasSaidBeforeTheQuestionAndComesLateIsNone(t *testing.T) {
	e := begin(t)
	said := e.Now
	e.After(5 * time.Second)
	e.opens(giveaway.Terms{Way: giveaway.ByAnswer, Answers: []string{"five"}})
	c := &happening.ChatSaid{Text: "five"}
	c.Person = housetest.Viewer("limpet_lena")
	e.Lives(event.Event{Door: "quayside", Source: "quayside", Time: said, Data: c}, nil)
	if d := e.draw(); len(d.Picks) > 0 {
		t.Errorf("%+v", d.Picks)
	}
}

func TestTheNearestNumberWinsAndOfTwoTheEarlier(t *testing.T) {
	n := int64(212)
	e := begin(t)
	e.opens(giveaway.Terms{Way: giveaway.ByNumber, From: 1, To: 500, Number: &n, Guesses: 2})
	e.Chat("limpet_lena: 200", "kelpwright: 224", "mossy_mare: 600", "pebble_june: #210", "sandhopper9: 214", "pebble_june: 1", "pebble_june: 212", "tidewrack: I say 212")
	if got := entries(e.draw()); len(got) != 5 {
		t.Fatalf("guesses of %q", got)
	}
	e.asks(event.DrawDraw, "", "")
	d := e.draw()
	if d.State != draw.Over || d.Picks[0].Login != "pebble_june" { // 210 and 214 are as near; 210 came first, and a third guess did not count
		t.Fatalf("%s %+v", d.State, d.Picks)
	}
	if says, right := checked(t, d.Page("")); !right {
		t.Error(says)
	}
}

func TestTheExactNumberEndsItAtOnceAndANumberOfChanceIsToldAtTheEnd(t *testing.T) {
	n := int64(7)
	e := begin(t)
	e.opens(giveaway.Terms{Way: giveaway.ByNumber, From: 1, To: 9, Number: &n, Exact: true})
	e.Chat("limpet_lena: 8", "kelpwright: 7")
	if d := e.draw(); d.State != draw.Over || d.Picks[0].Login != "kelpwright" {
		t.Errorf("%s %+v", d.State, d.Picks)
	}
	e.opens(giveaway.Terms{Way: giveaway.ByNumber, From: 1, To: 3})
	if p := e.draw().Page(""); p.Answer != nil || p.Keeps != nil {
		t.Error("the number is out")
	}
	e.Chat("limpet_lena: 1", "kelpwright: 2", "mossy_mare: 3")
	e.asks(event.DrawDraw, "", "")
	d := e.draw()
	p := d.Page("")
	if p.Answer == nil || d.Picks[0].Login != []string{"limpet_lena", "kelpwright", "mossy_mare"}[*p.Answer-1] {
		t.Errorf("%+v of %v", d.Picks, p.Answer)
	}
	if says, right := checked(t, p); !right {
		t.Error(says)
	}
}

func TestADrawClosesByItselfAfterRemindersAndAHint(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, housetest.Says(happening.DrawRemindedType, "Still open for {minutesLeft} minutes.{hasHint, select, yes { Hint: {hint}.} other {}}"))
	})
	e.opens(giveaway.Terms{Way: giveaway.ByAnswer, Answers: []string{"limpet"}, Hint: "it clings", HintIn: 3, RemindIn: 2, CloseIn: 5})
	e.After(2*time.Minute + 10*time.Second)
	e.Heard("Still open for 3 minutes.")
	if slices.ContainsFunc(e.Lines, func(s string) bool { return strings.Contains(s, "clings") }) {
		t.Error("the hint came early")
	}
	e.After(time.Minute)
	e.Heard("Hint: it clings.")
	e.After(2 * time.Minute)
	if d := e.draw(); d.State != draw.Over || len(d.Unwon) != 1 {
		t.Errorf("%s %v", d.State, d.Unwon)
	}
	e.Heard("Nobody has a print of the kelp bed.")
}

func TestWhatCannotBeDoneIsRefusedAndSaysWhy(t *testing.T) {
	e := begin(t)
	for _, c := range []struct {
		name string
		do   func() []hall.Decision
		why  string
	}{
		{"nothing to close", func() []hall.Decision { return e.asks(event.DrawClose, "", "") }, "no draw"},
		{"no prize", func() []hall.Decision {
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way":"word","word":"!tide","prizes":[" "]}`)})
		}, "terms.prizes.0"},
		{"no such way", func() []hall.Decision {
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way":"shouting","prizes":["a print"]}`)})
		}, "terms.way"},
		{"a word of two", func() []hall.Decision {
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way":"word","word":"low tide","prizes":["a print"]}`)})
		}, "terms.word"},
		{"a number outside its bounds", func() []hall.Decision {
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way":"number","from":1,"to":9,"number":12,"prizes":["a print"]}`)})
		}, "terms.number"},
		{"terms that nobody knows", func() []hall.Decision {
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Ready: "the big one"})
		}, "no draw is kept ready"},
		{"opened by two at once", func() []hall.Decision {
			e.opens(byWord)
			return e.Happens(&event.DrawCalled{Act: event.DrawOpen, Terms: json.RawMessage(`{"way":"word","word":"!b","prizes":["b"]}`)})
		}, "a draw is going on"},
		{"passing over who was not drawn", func() []hall.Decision { return e.asks(event.DrawAgain, "quayside:id-nobody", "") }, "nothing was drawn"},
		{"ended twice", func() []hall.Decision {
			e.asks(event.DrawCancel, "", "the prints are wet")
			return e.asks(event.DrawCancel, "", "really")
		}, "over"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if why := housetest.Refused(c.do()); !strings.Contains(why, c.why) {
				t.Errorf("%q, not %q", why, c.why)
			}
		})
	}
	e.After(5 * time.Second)
	e.Heard("Called off: the prints are wet.")
}

func TestMarkUpInAPrizeIsTextAndTwoOfAKindAreCounted(t *testing.T) {
	e := begin(t)
	e.opens(giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", Prizes: []string{"<b>{name}</b>", "a badge", "a badge"}})
	e.After(5 * time.Second)
	e.Heard("Open: <b>{name}</b> and 2 × a badge.")
}

func TestUnderHushNobodyLosesAPrizeForNotHavingBeenTold(t *testing.T) {
	e := begin(t)
	e.opens(byWord)
	e.Chat("limpet_lena: !tide")
	e.Happens(&event.Hushed{On: true, Member: "Odalys Brine"})
	e.asks(event.DrawDraw, "", "")
	e.After(10 * time.Minute)
	if d := e.draw(); d.Picks[0].State != draw.Pending {
		t.Fatalf("%+v", d.Picks)
	}
	e.Happens(&event.Hushed{On: false, Member: "Odalys Brine"})
	e.After(50 * time.Second)
	if d := e.draw(); d.Picks[0].State != draw.Pending {
		t.Error("the time did not begin anew")
	}
	e.After(11 * time.Second)
	if d := e.draw(); d.Picks[0].State != draw.Passed {
		t.Errorf("%+v", d.Picks)
	}
}

func TestAnEdgeThatDoesNotAnswerIsAskedAgainAndADrawWithoutASecretIsCalledOff(t *testing.T) {
	e := begin(t)
	e.Mute = true
	if d := e.opens(byWord); d.State != draw.Sealing {
		t.Fatal(d.State)
	}
	e.Chat("limpet_lena: !tide")
	if n := len(e.draw().Entries); n > 0 {
		t.Error("entered before there is a secret")
	}
	e.Mute = false
	e.After(6 * time.Second) // asked once more
	if d := e.draw(); d.State != draw.Open {
		t.Fatal(d.State)
	}
	e.Chat("limpet_lena: !tide")
	e.Mute = true
	e.asks(event.DrawDraw, "", "")
	if d := e.draw(); d.State != draw.Closed {
		t.Fatal(d.State)
	}
	wrong := sha256.Sum256([]byte("another"))
	e.Happens(&event.DrawUnsealed{Draw: e.draw().ID, Secret: wrong[:]})
	if d := e.draw(); d.State != draw.Cancelled || !strings.Contains(d.Why, "not the one that was committed to") {
		t.Errorf("%s: %s", d.State, d.Why)
	}
	e.opens(byWord)
	e.After(10 * time.Minute)
	if d := e.draw(); d.State != draw.Cancelled {
		t.Errorf("%s after ten minutes without a secret", d.State)
	}
}

func TestWhoIsForgottenIsCountedAndNotNamedAndNeverWins(t *testing.T) {
	e := begin(t)
	e.opens(byWord)
	e.Chat("limpet_lena: !tide", "kelpwright: !tide")
	e.Happens(&event.BookForgotten{Keys: []string{"quayside:id-kelpwright"}, Names: []string{"kelpwright"}})
	e.asks(event.DrawDraw, "", "")
	d := e.draw()
	if len(d.Picks) != 1 || d.Picks[0].Login != "limpet_lena" {
		t.Fatalf("%+v", d.Picks)
	}
	e.Chat("limpet_lena: here")
	e.Happens(&event.BookForgotten{Keys: []string{"quayside:id-limpet_lena"}, Names: []string{"limpet_lena"}})
	raw, _ := json.Marshal(e.draw().Page(""))
	if strings.Contains(string(raw), "kelpwright") || strings.Contains(string(raw), "limpet_lena") {
		t.Errorf("named still: %s", raw)
	}
	if says, right := checked(t, e.draw().Page("")); !right {
		t.Error(says)
	}
}

func TestADrawIsReadBackFromTheLogAsItWas(t *testing.T) {
	e := begin(t)
	e.opens(giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", ClaimIn: 20, Prizes: []string{"a", "b"}})
	e.Chat("limpet_lena: !tide", "kelpwright: !tide", "mossy_mare: !tide", "pebble_june: !tide")
	e.asks(event.DrawVoid, "quayside:id-pebble_june", "entered for a friend")
	e.asks(event.DrawDraw, "", "")
	e.Chat(e.draw().Picks[1].Login + ": here")
	e.After(time.Minute)
	want, _ := json.Marshal(e.draw().Page("tidepool_hours"))
	d := draw.Replay(e.draw().ID, e.log())
	if d == nil {
		t.Fatal("nothing is read back")
	}
	if got, _ := json.Marshal(d.Page("tidepool_hours")); string(got) != string(want) {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestADrawKeptReadyIsOpenedByACommandOfWhoMay(t *testing.T) {
	does := func(name, act string) courtesy.Courtesy {
		c := housetest.Asked(name, output.Output{Do: &output.Draw{Act: act, Ready: map[bool]string{true: "evening print"}[act == event.DrawOpen]}})
		c.Who = who.Who{Role: event.Moderator, OrAbove: true}
		return c
	}
	e := begin(t, func(s *housefile.Settings) {
		if err := draw.Keep(s, draw.Ready{Name: "evening print", Terms: giveaway.Terms{Way: giveaway.ByWord, Word: "!tide", Prizes: []string{"a print"}, ClaimIn: 60}}); err != nil {
			t.Fatal(err)
		}
		s.Courtesy = append(s.Courtesy, does("giveaway", event.DrawOpen), does("giveawaydraw", event.DrawDraw), does("giveawayoff", event.DrawCancel))
	})
	e.Chat("sandhopper9: !giveaway")
	if e.draw() != nil {
		t.Fatal("anybody opens a draw")
	}
	odalys := housetest.Viewer("limpet_lena")
	odalys.Roles = []event.Role{event.Moderator}
	says := func(text string) {
		c := &happening.ChatSaid{Text: text}
		c.Person = odalys
		e.Happens(c)
	}
	says("!giveaway a badge with a <limpet>")
	d := e.draw()
	if d == nil || d.State != draw.Open || !slices.Equal(d.Prizes, []string{"a badge with a <limpet>"}) {
		t.Fatalf("%+v", d)
	}
	says("!giveaway another") // one at a time: the second is refused, and the first goes on
	if e.draw().ID != d.ID || e.draw().State != draw.Open {
		t.Fatalf("%+v", e.draw())
	}
	e.Chat("kelpwright: !tide", "kelpwright: !giveawaydraw")
	if e.draw().State != draw.Open {
		t.Fatal("anybody draws")
	}
	says("!giveawaydraw")
	if d = e.draw(); len(d.Picks) != 1 || d.Picks[0].Login != "kelpwright" {
		t.Fatalf("%+v", d)
	}
	says("!giveawayoff the tide came")
	if d = e.draw(); d.State != draw.Cancelled || d.Why != "the tide came" {
		t.Fatalf("%+v", d)
	}
}

func TestWhatTheGuardHoldsEntersNobodyUntilItIsAllowed(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Guard.Rules = []trouble.Rule{{ID: "loud", On: true, Do: &trouble.Capitals{Percent: 70, From: 8}, Then: []trouble.Step{{Act: trouble.Hold}}}}
	})
	e.opens(byWord)
	e.Chat("sandhopper9: !tide LET ME HAVE IT", "kelpwright: !tide AND ME AS WELL")
	if got := entries(e.draw()); len(got) != 0 {
		t.Fatalf("entered: %q", got)
	}
	held := guard.HeldNow(e.S.Rooms)
	if len(held) != 2 {
		t.Fatalf("%+v", held)
	}
	for range 2 { // by two members at once
		e.Happens(&event.HeldDecided{Held: held[0].ID, Allow: true, Person: housetest.Viewer("sandhopper9")})
	}
	if got := entries(e.draw()); !slices.Equal(got, []string{"sandhopper9"}) {
		t.Fatalf("entered: %q", got)
	}
	e.asks(event.DrawDraw, "", "")
	e.Happens(&event.HeldDecided{Held: held[1].ID, Allow: true, Person: housetest.Viewer("kelpwright")}) // too late
	if got := entries(e.draw()); !slices.Equal(got, []string{"sandhopper9"}) {
		t.Fatalf("entered: %q", got)
	}
}
