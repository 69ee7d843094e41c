package vtt_test

import (
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/formats/vtt"
)

func TestChaptersComeBackAsTheyWentOut(t *testing.T) {
	list := []vtt.Chapter{{0, "The gully"}, {62*time.Minute + 33*time.Second, "a <limpet> & its --> home"}, {62*time.Minute + 33*time.Second, "twice at once"}, {30 * time.Hour, "long after"}}
	var out strings.Builder
	if err := vtt.Write(&out, "tidepool_hours,\nstream 212", "Opening", list, 31*time.Hour); err != nil {
		t.Fatal(err)
	}
	got, err := vtt.Read(strings.NewReader(out.String()))
	if err != nil {
		t.Fatal(err)
	}
	list[1].Title = "a <limpet> & its → home" // an arrow would end the cue
	if !slices.Equal(got, list) {
		t.Errorf("%v\n%s", got, out.String())
	}
	for _, block := range strings.Split(out.String(), "\n\n")[2:] { // a cue is its number, its times and one line
		if n := strings.Count(strings.TrimSuffix(block, "\n"), "\n"); n != 2 {
			t.Errorf("%q", block)
		}
	}
}

func TestARecordingWithoutABookmarkAtItsBeginningHasAChapterThere(t *testing.T) {
	var out strings.Builder
	if err := vtt.Write(&out, "", "Opening", []vtt.Chapter{{time.Minute, "x"}}, time.Hour); err != nil {
		t.Fatal(err)
	}
	want := "WEBVTT\n\n1\n00:00:00.000 --> 00:01:00.000\nOpening\n\n2\n00:01:00.000 --> 01:00:00.000\nx\n"
	if out.String() != want {
		t.Errorf("%q", out.String())
	}
}

func TestWhatIsNoChapterFileIsRefused(t *testing.T) {
	for _, bad := range []string{"", "SRT\n", "WEBVTT\n\n1\nsoon --> later\nx\n"} {
		if _, err := vtt.Read(strings.NewReader(bad)); err == nil {
			t.Errorf("%q was read", bad)
		}
	}
}

func ExampleWrite() {
	vtt.Write(os.Stdout, "", "Opening", []vtt.Chapter{{62*time.Minute + 33*time.Second, "The anemone opens"}}, 2*time.Hour)
	// Output:
	// WEBVTT
	//
	// 1
	// 00:00:00.000 --> 01:02:33.000
	// Opening
	//
	// 2
	// 01:02:33.000 --> 02:00:00.000
	// The anemone opens
}
