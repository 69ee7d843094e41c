package house_test

import (
	"strings"
	"testing"
	"time"

	"vividporch/core/bookmark"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
)

// marking is a house with a command for notes and one for bookmarks, and what is said of both.
func marking(s *housefile.Settings) {
	stage(s)
	command := func(id string, does output.Does) courtesy.Courtesy {
		return courtesy.Courtesy{ID: id, On: true, When: happening.Command, Slot: happening.Answer, Asks: []string{id}, OffLine: true, Do: []output.Output{{ID: "it", Do: does}}}
	}
	s.Courtesy = []courtesy.Courtesy{command("note", &output.Note{}), command("mark", &output.Bookmark{}),
		says("thanks", happening.NoteLeftType, happening.Thanks, who.Who{}, nil, "{name}, it is kept"),
		says("marked", happening.BookmarkSetType, happening.Free, who.Who{}, nil, "at {into}{hasLabel, select, yes {: {label}} other {}}{hasRecording, select, yes { {recording}} other {}}")}
	s.Courtesy[2].OffLine = true
	s.Rooms["bookmark"] = []byte(`{"recording": "{recording}?at={seconds}"}`)
}

func (e *evening) notes() (out []string) {
	for _, it := range e.s.Waiting {
		if it.Kind == "note" {
			out = append(out, it.Name+": "+it.Text)
		}
	}
	return out
}

func (e *evening) lived(ds []hall.Decision) {
	e.t.Helper()
	for _, d := range ds {
		if d.Kind == "happens" {
			e.happens(raised(e.t, d))
		}
	}
}

// raised is what a decision has happen.
func raised(t *testing.T, d hall.Decision) event.Data {
	t.Helper()
	kind := d.Output
	data, err := happening.Kinds.ParseData(kind, []byte(strings.TrimSuffix(strings.SplitN(string(d.Body), `"data":`, 2)[1], "}")))
	if err != nil {
		t.Fatal(err)
	}
	return data
}

func TestANoteFromChatWaitsForTheStreamerAndItsWriterIsThanked(t *testing.T) {
	e := begin(t, marking)
	e.lived(e.happens(line("mossy_mare", "!note the mussels moved since Tuesday"))) // no stream is on: a note is a note
	e.after(10 * time.Second)
	if got := strings.Join(e.notes(), "; "); got != "mossy_mare: the mussels moved since Tuesday" {
		t.Errorf("%q", got)
	}
	e.wantSaid(1, "thanks")
	e.lived(e.happens(line("mossy_mare", "!note")))
	e.wantReason("the note has no words")
	if len(e.notes()) != 1 {
		t.Errorf("%q", e.notes())
	}
	e.happens(&event.WaitingDone{Item: e.s.Waiting[0].ID, Member: "Odalys Brine"})
	if len(e.notes()) != 0 {
		t.Errorf("done with: %q", e.notes())
	}
}

func TestANoteLeftAtALandingWaitsUnderHushAndLateToo(t *testing.T) {
	e := begin(t, marking)
	e.happens(&event.Hushed{On: true})
	left := &happening.NoteLeft{Text: "see you\non Thursday", Place: "Newcomers"}
	left.Person = viewer("kelpwright")
	e.happened(time.Hour, left)
	if got := strings.Join(e.notes(), "; "); got != "kelpwright: see you on Thursday" {
		t.Errorf("%q", got)
	}
}

func TestABookmarkSaysHowFarIntoTheStreamAndTheRecordingItIs(t *testing.T) {
	e := begin(t, marking)
	opens := on("quayside")
	opens.RecordingURL = "https://quayside.example/rec/88"
	e.happens(opens)
	e.after(62*time.Minute + 33*time.Second)
	e.happens(&happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: "quayside"}})
	e.after(20 * time.Second) // a short drop is none
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	e.lived(e.happens(line("mossy_mare", "!mark the anemone opens")))
	e.after(time.Minute)
	if got := e.texts("marked"); len(got) != 1 || got[0] != "at 1:02:53: the anemone opens https://quayside.example/rec/88?at=3773" {
		t.Errorf("%q", got)
	}
	marks := bookmark.Tonight(e.s.Rooms)
	if len(marks) != 1 || marks[0].By != "mossy_mare" || marks[0].Label != "the anemone opens" {
		t.Errorf("%+v", marks)
	}
}

func TestABookmarkWithNoStreamOnIsATry(t *testing.T) {
	e := begin(t, marking)
	e.happens(&happening.BookmarkSet{Key: "the red button"})
	e.after(time.Minute)
	e.wantReason("no stream is on: it was a try")
	if got := e.texts("marked"); len(got) != 0 || len(bookmark.Tonight(e.s.Rooms)) != 0 {
		t.Errorf("%q", got)
	}
}

func TestBookmarksOfTwoKeysAtOnceAreTwoAndANewStreamHasNone(t *testing.T) {
	e := begin(t, marking)
	e.happens(on("quayside"))
	e.after(time.Minute)
	e.happens(&happening.BookmarkSet{Key: "the red button"})
	e.happens(&happening.BookmarkSet{Member: "Odalys Brine", Label: "the gully"})
	if marks := bookmark.Tonight(e.s.Rooms); len(marks) != 2 {
		t.Errorf("%+v", marks)
	}
	e.restore(e.snapshot())
	if marks := bookmark.Tonight(e.s.Rooms); len(marks) != 2 {
		t.Errorf("over a restart: %+v", marks)
	}
	e.happens(&event.StreamDeclared{Act: "new"})
	if marks := bookmark.Tonight(e.s.Rooms); len(marks) != 0 {
		t.Errorf("%+v", marks)
	}
}

func TestWhoeverIsForgottenLeavesTheMomentAndTakesTheirWords(t *testing.T) {
	e := begin(t, marking)
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "hello"))
	p := viewer("mossy_mare")
	e.happens(&happening.BookmarkSet{Person: &p, Label: "where mossy_mare laughed"})
	left := &happening.NoteLeft{Text: "it was I"}
	left.Person = p
	e.happens(left)
	e.happens(&event.BookForgotten{Keys: []string{p.Key()}, Names: []string{"mossy_mare"}})
	marks := bookmark.Tonight(e.s.Rooms)
	if len(marks) != 1 || marks[0].By != "" || marks[0].Label != "" {
		t.Errorf("%+v", marks)
	}
	if len(e.notes()) != 0 || strings.Contains(string(e.snapshot()), "it was I") {
		t.Errorf("%q", e.notes())
	}
}

func TestABookmarkKeepsWhoseItIsWhenSomebodyOfTheSameNameIsForgotten(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	mine, other := viewer("mossy_mare"), viewer("mossy_mare")
	other.Platform, other.ID = "fernlight", "f-9"
	for _, p := range []event.Person{mine, other} {
		e.happens(&happening.BookmarkSet{Person: &p, Label: "the anemone"})
	}
	e.happens(&event.BookForgotten{Keys: []string{mine.Key()}, Names: []string{"mossy_mare"}})
	var by []string
	for _, b := range bookmark.Tonight(e.s.Rooms) {
		by = append(by, b.By+"/"+b.Account)
	}
	if got := strings.Join(by, " "); got != "/ mossy_mare/fernlight:f-9" {
		t.Errorf("they are by %q", got)
	}
}

func TestWhatWaitsKeepsItsNameWhenSomebodyOfTheSameNameIsForgotten(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	gone, same, other := viewer("mossy_mare"), viewer("mossy_mare"), viewer("kelpwright")
	same.Platform, same.ID = "fernlight", "f-9"
	for _, p := range []event.Person{same, other} {
		left := &happening.NoteLeft{Text: "ask mossy_mare"}
		left.Person = p
		e.happens(left)
	}
	e.happens(&event.BookForgotten{Keys: []string{gone.Key()}, Names: []string{"mossy_mare"}})
	if got, want := strings.Join(e.notes(), "; "), same.Shown()+": ask mossy_mare; kelpwright: ask somebody"; got != want {
		t.Errorf("%q", got)
	}
}
