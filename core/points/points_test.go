package points_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/points"
)

// An evening on which people gather points.
type evening struct{ *housetest.Evening }

func begin(t *testing.T, s points.Section, courtesies ...courtesy.Courtesy) evening {
	t.Helper()
	s.On = true
	if s.One == "" {
		s.One = "pearl"
	}
	f := housetest.Base()
	f.Neighbours = []string{"shellbot"}
	f.Courtesy = courtesies
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	f.Rooms = map[string]json.RawMessage{points.Name: raw}
	return evening{housetest.Begin(t, f)}
}

func say(text string) output.Output {
	return output.Output{ID: "say", Do: &output.Say{}, Alternatives: []string{text}}
}

// has is what everybody has by the ledger alone: the sum of all entries, by account.
func (e evening) ledger() map[string]int64 {
	out := map[string]int64{}
	for _, l := range e.Log {
		for i := range l.Decisions {
			entry, ok := points.EntryOf(&l.Decisions[i])
			if !ok {
				continue
			}
			out[l.Decisions[i].Person] += entry.Amount
			for account, n := range entry.Amounts {
				out[account] += n
			}
		}
	}
	delete(out, "")
	return out
}

func (e evening) has(login string) int64 {
	key := housetest.Viewer(login).Key()
	raw := e.S.Kept[key][points.Name]
	if raw == nil {
		raw = e.S.KeptLast[key][points.Name]
	}
	return points.MemoryOf(e.S.Rooms).Has(raw)
}

// grants somebody so many by hand.
func (e evening) grants(login string, n int64) []hall.Decision {
	return e.Happens(&event.PointsGranted{Person: housetest.Viewer(login), Amount: n, Member: "Odalys Brine"})
}

func TestBeingHereLinesAndComingAreGrantedInOneDecisionEveryTenMinutes(t *testing.T) {
	e := begin(t, points.Section{Here: 10, Line: 1, Lines: 2, Visit: 5})
	e.Chat("limpet_lena: evening", "limpet_lena: one", "limpet_lena: two", "limpet_lena: three", "kelpwright: hello", "shellbot: I am a machine", "tidepool_hours: welcome")
	e.After(10 * time.Minute)
	if got, want := e.ledger(), map[string]int64{"quayside:id-limpet_lena": 10 + 2 + 5, "quayside:id-kelpwright": 10 + 1 + 5}; fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("%v, not %v", got, want)
	}
	n := 0
	for _, l := range e.Log {
		for _, d := range l.Decisions {
			if d.Kind == points.Kind {
				n++
			}
		}
	}
	if n != 1 {
		t.Errorf("%d decisions", n)
	}
	e.After(10 * time.Minute) // nobody spoke lately
	if got := e.has("limpet_lena"); got != 17 {
		t.Errorf("has %d", got)
	}
	e.Chat("kelpwright: still here")
	e.Happens(&event.StreamDeclared{Act: "closed"})
	if got := e.has("kelpwright"); got != 17 {
		t.Errorf("at the end: %d", got) // the line since the last grant; ten minutes were not whole
	}
}

func TestACommandThatCostsIsPaidOnceItIsDoneAndGivenBackWhenItIsDropped(t *testing.T) {
	wish := housetest.Asked("wish", say("A wish of {name}."))
	wish.Cost = 30
	e := begin(t, points.Section{}, wish)
	e.Chat("limpet_lena: evening", "limpet_lena: !wish")
	e.After(2 * time.Second)
	e.Heard("30 pearls")
	if e.has("limpet_lena") != 0 {
		t.Error("paid what they did not have")
	}
	e.grants("limpet_lena", 50)
	e.Chat("limpet_lena: !wish")
	e.After(5 * time.Second)
	e.Heard("A wish of limpet_lena.")
	if got := e.has("limpet_lena"); got != 20 {
		t.Fatalf("has %d", got)
	}
	e.grants("limpet_lena", 30)
	e.Happens(&event.Hushed{On: true})
	e.Chat("limpet_lena: !wish")
	if got := e.has("limpet_lena"); got != 20 {
		t.Errorf("held under hush: has %d", got)
	}
	e.After(10 * time.Minute) // given up
	if got := e.has("limpet_lena"); got != 50 {
		t.Errorf("given back: has %d", got)
	}
	if got := e.ledger()["quayside:id-limpet_lena"]; got != 50 {
		t.Errorf("by the ledger %d", got)
	}
}

func TestWhatThePlatformRefusesIsGivenBack(t *testing.T) {
	clip := housetest.Asked("vip", output.Output{ID: "act", Do: &output.Platform{Act: output.GiveVIP}})
	clip.Cost = 10
	e := begin(t, points.Section{}, clip)
	e.grants("limpet_lena", 10)
	e.Chat("limpet_lena: !vip")
	e.After(5 * time.Second)
	if got := e.has("limpet_lena"); got != 0 {
		t.Fatalf("has %d", got)
	}
	line := ""
	for _, l := range e.Log {
		for _, d := range l.Decisions {
			if d.Kind == hall.Kind(output.KindPlatform) {
				line = d.Line
			}
		}
	}
	e.Happens(&event.ActRefused{ActOutcome: event.ActOutcome{Line: line, To: "quayside", Effect: "platform", Act: string(output.GiveVIP), Reason: "not here"}})
	e.After(time.Second)
	if got := e.has("limpet_lena"); got != 10 {
		t.Errorf("given back: has %d", got)
	}
}

func TestOneOutputMayCostWhileTheRestIsFree(t *testing.T) {
	o := say("And a lantern for {name}.")
	o.Cost = 5
	both := housetest.Asked("light", say("Good evening, {name}."), o)
	both.Do[1].ID = "lantern"
	e := begin(t, points.Section{}, both)
	e.Chat("limpet_lena: hm", "limpet_lena: !light")
	e.After(8 * time.Second)
	e.Heard("Good evening, limpet_lena.")
	if slices.ContainsFunc(e.Lines, func(s string) bool { return strings.Contains(s, "lantern") }) {
		t.Error("a lantern for nothing")
	}
	e.grants("limpet_lena", 7)
	e.Chat("limpet_lena: !light")
	e.After(8 * time.Second)
	e.Heard("And a lantern for limpet_lena.")
	if got := e.has("limpet_lena"); got != 2 {
		t.Errorf("has %d", got)
	}
}

func TestPointsAreGivenToSomebodyElseAndNeverFromNothing(t *testing.T) {
	e := begin(t, points.Section{}, housetest.Asked("give", output.Output{Do: &output.Give{}}), housetest.Says(happening.PointsGivenType, "{name} gives {gift} to {given}."))
	e.Chat("limpet_lena: evening", "kelpwright: evening", "shellbot: beep")
	e.grants("limpet_lena", 40)
	for _, c := range []struct{ line, why string }{
		{"limpet_lena: !give @limpet_lena 10", "nobody gives to themselves"},
		{"limpet_lena: !give @kelpwright -5", "it takes one at least"},
		{"limpet_lena: !give @kelpwright 99999999999999999999", "no number"},
		{"limpet_lena: !give @kelpwright 41", "you have 40 pearls"},
		{"limpet_lena: !give @kelpwright", "say how many"},
		{"limpet_lena: !give @shellbot 5", "a neighbour has no use"},
		{"limpet_lena: !give @porchlamp 5", "own has no use"},
	} {
		from := len(e.Log)
		e.Chat(c.line)
		why := ""
		for _, l := range e.Log[from:] {
			for _, d := range l.Decisions {
				if d.Kind == hall.Refuse && strings.Contains(d.Because[0], c.why) {
					why = d.Because[0]
				}
			}
		}
		if why == "" && !strings.Contains(c.line, "porchlamp") { // whom nobody here goes by that name
			t.Errorf("%s: not refused for %q", c.line, c.why)
		}
	}
	e.After(time.Minute)
	e.Chat("limpet_lena: !give @kelpwright 15")
	e.After(20 * time.Second)
	e.Heard("limpet_lena gives 15 pearls to kelpwright.")
	if a, b := e.has("limpet_lena"), e.has("kelpwright"); a != 25 || b != 15 {
		t.Errorf("%d and %d", a, b)
	}
}

func TestAPersonPaysFromAllTheirAccountsAndTakesEachOneAlongWhenParted(t *testing.T) {
	wish := housetest.Asked("wish", say("A wish of {name}."))
	wish.Cost = 30
	e := begin(t, points.Section{}, wish)
	lena := &people.Known{Person: 1, Accounts: []string{"quayside:id-limpet_lena", "fernlight:id-lena"}}
	e.Known = map[string]*people.Known{"limpet_lena": lena, "lena": lena}
	e.grants("limpet_lena", 20)
	e.grants("lena@fernlight", 20)
	e.Chat("limpet_lena: !wish")
	e.After(3 * time.Second)
	e.Heard("A wish of limpet_lena.")
	if a, b := e.has("limpet_lena"), e.has("lena@fernlight"); a != 0 || b != 10 {
		t.Errorf("%d and %d: first from the account that asks, and none owes anything", a, b)
	}
}

func TestAPersonOnTwoPlatformsIsHereOnceAndReachesALevelWithBoth(t *testing.T) {
	e := begin(t, points.Section{Here: 10, Line: 6, Lines: 1, Levels: points.Levels{First: 20, Tell: points.TellSaid}}, housetest.Says(happening.LevelReachedType, "{name} is on level {level}"))
	lena := &people.Known{Person: 1, Accounts: []string{"quayside:id-limpet_lena", "fernlight:id-lena"}}
	e.Known = map[string]*people.Known{"limpet_lena": lena, "lena": lena}
	e.Chat("limpet_lena: evening", "lena@fernlight: evening here too", "kelpwright: evening")
	e.After(10 * time.Minute)
	if a, b, c := e.has("limpet_lena"), e.has("lena@fernlight"), e.has("kelpwright"); a+b != 22 || c != 16 {
		t.Errorf("%d and %d of one person, and %d", a, b, c)
	}
	if n := strings.Count(strings.Join(e.Lines, "\n"), "is on level 1"); n != 1 {
		t.Errorf("a level is told %d times: %q", n, e.Lines)
	}
}

func TestAResetIsTakenBackWithWhatWasGatheredSince(t *testing.T) {
	e := begin(t, points.Section{})
	e.grants("limpet_lena", 100)
	e.Happens(&event.PointsReset{Member: "Odalys Brine"})
	if got := e.has("limpet_lena"); got != 0 {
		t.Fatalf("after a reset %d", got)
	}
	if why := housetest.Refused(e.Happens(&event.PointsReset{Member: "Odalys Brine"})); !strings.Contains(why, "nothing was gathered") {
		t.Errorf("a second press begins anew again, and what was there is gone for good: %q", why)
	}
	e.grants("limpet_lena", 7)
	e.Restarted()
	e.Happens(&event.PointsReset{Undo: true, Member: "Odalys Brine"})
	if got := e.has("limpet_lena"); got != 107 {
		t.Errorf("taken back: %d", got)
	}
	if why := housetest.Refused(e.Happens(&event.PointsReset{Undo: true, Member: "Odalys Brine"})); !strings.Contains(why, "nothing to take back") {
		t.Errorf("twice: %q", why)
	}
	e.Happens(&event.PointsReset{Season: true, Member: "Odalys Brine"})
	e.grants("kelpwright", 9)
	if top := points.MemoryOf(e.S.Rooms).TopSeason; len(top) != 1 || top[0].Name != "kelpwright" {
		t.Errorf("the season's list: %+v", top)
	}
	if top := points.MemoryOf(e.S.Rooms).Top; len(top) != 2 || top[0].Gathered != 107 {
		t.Errorf("the list: %+v", top)
	}
	if why := housetest.Refused(e.Happens(&event.PointsReset{Season: true, Member: "Odalys Brine"})); why != "" {
		t.Errorf("a season in which somebody gathered cannot end: %q", why)
	}
}

// What takes no part in a season does not begin it: a second press would leave the season before for good.
func TestASeasonInWhichAStoneGaveBackOnlyTheStakeIsStillNew(t *testing.T) {
	sand := []output.Find{{Name: "bare sand", Weight: 1, Pays: 1}} // worth just the stake, each time
	e := begin(t, points.Section{}, housetest.Asked("stone", output.Output{Do: &output.Stone{Finds: sand}}), housetest.Asked("shy", output.Output{Do: &output.Unlisted{}}))
	e.grants("limpet_lena", 100)
	e.Happens(&event.PointsReset{Season: true, Member: "Odalys Brine"})
	e.Chat("limpet_lena: !stone 10", "limpet_lena: !shy")
	if got := e.has("limpet_lena"); got != 100 {
		t.Fatalf("the stone was worth its stake, and they have %d", got)
	}
	if why := housetest.Refused(e.Happens(&event.PointsReset{Season: true, Member: "Odalys Brine"})); !strings.Contains(why, "nothing was gathered") {
		t.Errorf("a second press begins a season again, and the one before is gone for good: %q", why)
	}
}

func TestWhoeverIsKeptOffTheListBeginsNothing(t *testing.T) {
	e := begin(t, points.Section{}, housetest.Asked("shy", output.Output{Do: &output.Unlisted{}}))
	e.grants("limpet_lena", 100)
	e.Happens(&event.PointsReset{Member: "Odalys Brine"})
	e.Chat("limpet_lena: !shy")
	if why := housetest.Refused(e.Happens(&event.PointsReset{Member: "Odalys Brine"})); !strings.Contains(why, "nothing was gathered") {
		t.Errorf("a second press begins anew again: %q", why)
	}
}

func TestAnHourInWhichNobodyWasHereBeginsNothing(t *testing.T) {
	e := begin(t, points.Section{Here: 10, Line: 1, Visit: 5})
	e.Happens(&event.PointsReset{Member: "Odalys Brine"})
	e.After(time.Hour)
	if n := points.MemoryOf(e.S.Rooms).Grants; n < 3 {
		t.Fatalf("those here were to be given to %d times", n)
	}
	if why := housetest.Refused(e.Happens(&event.PointsReset{Member: "Odalys Brine"})); !strings.Contains(why, "nothing was gathered") {
		t.Errorf("a second press begins anew again: %q", why)
	}
}

func TestLevelsFollowTheirCurveAndAreToldAsTheSettingsSay(t *testing.T) {
	l := points.Levels{First: 100, Bend: 1.5, Names: []string{"Barnacle", "Limpet", "Periwinkle"}}
	for n, want := range map[int64]int{0: 0, 99: 0, 100: 1, 282: 1, 283: 2, 519: 2, 520: 3, 1_000_000: 464} {
		if got := l.Of(n); got != want {
			t.Errorf("%d points are level %d, not %d", n, got, want)
		}
	}
	for level := 1; level < 400; level++ {
		if l.Of(l.Needs(level)) != level || l.Of(l.Needs(level)-1) != level-1 {
			t.Fatalf("level %d takes %d", level, l.Needs(level))
		}
	}
	for _, tell := range []string{"", points.TellSaid} {
		l.Tell = tell
		e := begin(t, points.Section{Levels: l}, housetest.Says(happening.LevelReachedType, "{name}: {hasTitle, select, yes {{title}} other {}}!"))
		e.Chat("limpet_lena: evening")
		e.grants("limpet_lena", 300)
		e.After(5 * time.Second)
		if said := slices.Contains(e.Lines, "limpet_lena: Limpet!"); said != (tell != "") {
			t.Errorf("told %q: %q", tell, e.Lines)
		}
	}
}

func TestWhoHidesIsOnNoList(t *testing.T) {
	e := begin(t, points.Section{}, housetest.Asked("unlist", output.Output{Do: &output.Unlisted{}}), housetest.Asked("ranks", say("{hasRanks, select, yes {{ranks}} other {nobody}}")))
	e.Chat("limpet_lena: evening", "kelpwright: evening")
	e.grants("limpet_lena", 90)
	e.grants("kelpwright", 80)
	e.Chat("limpet_lena: !unlist", "kelpwright: !ranks")
	e.After(3 * time.Second)
	e.Heard("1. kelpwright 80")
	e.grants("limpet_lena", 10)
	if top := points.MemoryOf(e.S.Rooms).Top; len(top) != 1 {
		t.Errorf("%+v", top)
	}
}

func TestSupportIsWorthWhatTheSettingsSay(t *testing.T) {
	e := begin(t, points.Section{Support: []points.Support{{When: "porch.support.gifted", Points: 20, Each: true}, {When: "porch.support.subscribed", Points: 50}}})
	g := &happening.Gifted{Count: 3, Tier: "Harbour"}
	g.Person = housetest.Viewer("limpet_lena")
	e.Happens(g)
	sub := &happening.Subscribed{Months: 12, Tier: "Harbour"}
	sub.Person = housetest.Viewer("kelpwright")
	e.Happens(sub)
	if a, b := e.has("limpet_lena"), e.has("kelpwright"); a != 60 || b != 50 {
		t.Errorf("%d and %d", a, b)
	}
}

func TestSwitchedOffNothingCostsAndNothingIsGathered(t *testing.T) {
	f := housetest.Base()
	wish := housetest.Asked("wish", say("A wish."))
	wish.Cost = 5
	f.Courtesy = []courtesy.Courtesy{wish}
	if _, faults := ready(f); len(faults) == 0 {
		t.Error("a cost comes into force while points are off")
	}
}

func TestWhatIsReadAloudIsGivenBackWhenItIsStoppedAndNotOnceItIsOver(t *testing.T) {
	read := housetest.Asked("read", output.Output{ID: "aloud", Do: &output.Speak{Fitting: "player", Letters: 24}, Alternatives: []string{"{hasRest, select, yes {{rest}} other {}}"}})
	read.Cost = 10
	e := begin(t, points.Section{}, read)
	e.grants("limpet_lena", 20)
	e.Chat("limpet_lena: !read the anemone ate a whole crab and would like another")
	e.After(3 * time.Second)
	line, text := "", ""
	for _, l := range e.Log {
		for _, d := range l.Decisions {
			if d.Kind == hall.Kind(output.KindSpeak) {
				line, text = d.Line, d.Text
			}
		}
	}
	if text != "the anemone ate a whole …" {
		t.Errorf("read: %q", text)
	}
	e.Happens(&event.Silenced{Member: "Odalys Brine"})
	e.After(time.Second)
	if got := e.has("limpet_lena"); got != 20 {
		t.Errorf("stopped: has %d", got)
	}
	e.Chat("limpet_lena: !read hello")
	e.After(3 * time.Second)
	for _, l := range e.Log {
		for _, d := range l.Decisions {
			if d.Kind == hall.Kind(output.KindSpeak) {
				line = d.Line
			}
		}
	}
	e.Happens(&event.ActDone{ActOutcome: event.ActOutcome{Line: line, To: "player", Effect: "speak"}})
	e.Happens(&event.Silenced{Member: "Odalys Brine"})
	e.After(time.Second)
	if got := e.has("limpet_lena"); got != 10 {
		t.Errorf("over: has %d", got)
	}
}
