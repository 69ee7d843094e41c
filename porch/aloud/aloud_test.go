package aloud

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"math"
	"os/exec"
	"slices"
	"strings"
	"testing"
)

// tone is a WAV of a sine of 997 Hz, so loud in dB below full scale, so many seconds.
func tone(db float64, seconds int) []byte {
	const rate = 48000
	var b bytes.Buffer
	n := uint32(rate * seconds * 2)
	b.WriteString("RIFF")
	binary.Write(&b, binary.LittleEndian, 36+n)
	b.WriteString("WAVEfmt ")
	for _, v := range []any{uint32(16), uint16(1), uint16(1), uint32(rate), uint32(2 * rate), uint16(2), uint16(16)} {
		binary.Write(&b, binary.LittleEndian, v)
	}
	b.WriteString("data")
	binary.Write(&b, binary.LittleEndian, n)
	for i := range rate * seconds {
		binary.Write(&b, binary.LittleEndian, int16(32767*math.Pow(10, db/20)*math.Sin(2*math.Pi*997*float64(i)/rate)))
	}
	return b.Bytes()
}

func has(t *testing.T, program string) {
	t.Helper()
	if _, err := exec.LookPath(program); err != nil {
		t.Skip(program + " is not installed")
	}
}

// A sine of 997 Hz at full scale on one channel is -3.01 LUFS (ITU-R BS.1770-4, annex 1).
func TestHowLoudAFileIsIsMeasured(t *testing.T) {
	has(t, "ffmpeg")
	for _, db := range []float64{-6, -26} {
		got, err := Measure(t.Context(), tone(db, 4), "audio/wav")
		if err != nil || math.Abs(got.LUFS-(db-3.01)) > 0.2 || math.Abs(got.Peak-db) > 0.3 {
			t.Errorf("%g dB: %+v %v", db, got, err)
		}
	}
}

func TestWhatCannotBeMeasuredSaysSo(t *testing.T) {
	has(t, "ffmpeg")
	if _, err := Measure(t.Context(), make([]byte, 100), "image/png"); !errors.Is(err, ErrSilent) {
		t.Errorf("a picture: %v", err)
	}
	if _, err := Measure(t.Context(), tone(-100, 1), "audio/wav"); !errors.Is(err, ErrSilent) {
		t.Errorf("silence: %v", err)
	}
	if _, err := Measure(t.Context(), []byte("RIFF and nothing"), "audio/wav"); err == nil {
		t.Error("half a file was measured")
	}
	// A file is read as what it was recognised, not as what it says: a list of addresses is no sound.
	if _, err := Measure(t.Context(), []byte("#EXTM3U\nhttp://127.0.0.1:9/a.ts\n"), "audio/mpeg"); err == nil {
		t.Error("a list of addresses was followed")
	}
}

func TestWordsAreSpokenOnceAndKept(t *testing.T) {
	has(t, "espeak-ng")
	var s Speaker
	long, err := s.Say(t.Context(), "Lena, her birthday, forty-first stream", "en-gb")
	if err != nil || long.Seconds < 1 || long.Seconds > 10 {
		t.Fatalf("%v s, %v", long.Seconds, err)
	}
	again, err := s.Say(t.Context(), "Lena, her birthday, forty-first stream", "en-gb")
	if err != nil || &again.WAV[0] != &long.WAV[0] {
		t.Errorf("spoken anew: %v", err)
	}
	if n := binary.LittleEndian.Uint32(long.WAV[40:]); int(n) != len(long.WAV)-44 {
		t.Errorf("the head says %d of %d bytes", n, len(long.WAV)-44)
	}
	if _, err := s.Say(t.Context(), " [[ ]] ", "en-gb"); err == nil {
		t.Error("nothing was spoken")
	}
	if other, err := s.Say(t.Context(), "hello", "no such voice"); err != nil || other.Seconds == 0 {
		t.Errorf("a voice that is not there: %v", err)
	}
	if !slices.Contains(s.Voices(context.Background()), "en-gb") {
		t.Errorf("voices %v", s.Voices(context.Background()))
	}
}

func TestNothingInATextSteersTheSpeaker(t *testing.T) {
	for text, want := range map[string]string{
		"hello [[h@l'oU]] there": "hello h@l'oU there",
		"a [[[[ b ]]]]":          "a b",
		"<voice name=x>hi":       "voice name=x hi",
	} {
		if got := strings.Join(strings.Fields(cleaned(text)), " "); got != want {
			t.Errorf("%q is spoken as %q", text, got)
		}
	}
	if n := len([]rune(cleaned(strings.Repeat("oh ", 900)))); n > mostText {
		t.Errorf("%d letters are spoken at once", n)
	}
}
