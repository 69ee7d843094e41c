package aloud

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/plain"
)

// Bounds of speech.
const (
	mostText  = 500      // letters that are spoken at once
	mostOut   = 16 << 20 // bytes of it
	keptBytes = 32 << 20 // that are kept at hand, the last ones
	keptMost  = 200
)

// Spoken is words as a sound: WAV, as it came from the speaker, its lengths put right.
type Spoken struct {
	ID       string
	WAV      []byte
	Seconds  float64
	Loudness Loudness
}

// Speaker makes words speech. The zero value is ready; it keeps the last of what it made.
type Speaker struct {
	mu     sync.Mutex
	kept   []Spoken // the newest last
	voices []string
	looked time.Time
}

// Say makes words speech in a voice; none is the usual one. What was made lately is not made again.
func (s *Speaker) Say(ctx context.Context, text, voice string) (Spoken, error) {
	text = cleaned(text)
	if text == "" {
		return Spoken{}, errors.New("there is nothing to speak")
	}
	if !slices.Contains(s.Voices(ctx), voice) {
		voice = usualVoice
	}
	sum := sha256.Sum256([]byte(voice + "\x00" + text))
	id := hex.EncodeToString(sum[:16])
	if had, ok := s.Kept(id); ok {
		return had, nil
	}
	wav, _, err := run(ctx, []byte(text), "espeak-ng", "-v", voice, "-s", "160", "-b", "1", "--stdin", "--stdout")
	if err != nil {
		return Spoken{}, err
	}
	seconds, err := mended(wav)
	if err != nil {
		return Spoken{}, err
	}
	out := Spoken{ID: id, WAV: wav, Seconds: seconds}
	if l, err := Measure(ctx, wav, "audio/wav"); err == nil {
		out.Loudness = l
	}
	s.keep(out)
	return out, nil
}

// usualVoice is spoken in where nothing else is chosen.
const usualVoice = "en-gb"

// cleaned is a text as it is spoken: nothing in it steers the speaker, and it is not long.
func cleaned(text string) string {
	text = plain.Text(text)
	for strings.Contains(text, "[[") || strings.Contains(text, "]]") { // phonemes, in the speaker's own writing
		text = strings.NewReplacer("[[", " ", "]]", " ").Replace(text)
	}
	text = strings.NewReplacer("<", " ", ">", " ", "_", " ").Replace(text)
	r := []rune(strings.TrimSpace(event.CleanText(text)))
	return string(r[:min(len(r), mostText)])
}

// Kept is speech that was made lately.
func (s *Speaker) Kept(id string) (Spoken, bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, x := range s.kept {
		if x.ID == id {
			return x, true
		}
	}
	return Spoken{}, false
}

func (s *Speaker) keep(x Spoken) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.kept = append(s.kept, x)
	bytes := 0
	for i := len(s.kept) - 1; i >= 0; i-- {
		if bytes += len(s.kept[i].WAV); bytes > keptBytes || len(s.kept)-i > keptMost {
			s.kept = slices.Clone(s.kept[i+1:])
			return
		}
	}
}

// Forget lets go of all that was spoken.
func (s *Speaker) Forget() {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.kept = nil
}

// looksAgain is how long the list of voices holds.
const looksAgain = 10 * time.Minute

// Voices are what can be spoken in; none where there is no speaker.
func (s *Speaker) Voices(ctx context.Context) []string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if time.Since(s.looked) < looksAgain {
		return s.voices
	}
	out, _, err := run(ctx, nil, "espeak-ng", "--voices")
	s.looked, s.voices = time.Now(), nil
	if err != nil {
		return nil
	}
	lines := bufio.NewScanner(bytes.NewReader(out))
	for lines.Scan() {
		if f := strings.Fields(lines.Text()); len(f) > 3 && f[0] != "Pty" && !slices.Contains(s.voices, f[1]) {
			s.voices = append(s.voices, f[1])
		}
	}
	slices.Sort(s.voices)
	return s.voices
}

// mended puts the lengths in the head of a WAV right, which a stream is written without (RIFF, as in RFC 2361), and tells how
// long it is in seconds.
func mended(wav []byte) (seconds float64, err error) {
	const head = 44 // one fmt chunk of 16 bytes, then the data
	if len(wav) < head || string(wav[:4]) != "RIFF" || string(wav[8:16]) != "WAVEfmt " || string(wav[36:40]) != "data" {
		return 0, errors.New("the speaker made no sound")
	}
	binary.LittleEndian.PutUint32(wav[4:], uint32(len(wav)-8))
	binary.LittleEndian.PutUint32(wav[40:], uint32(len(wav)-head))
	rate := binary.LittleEndian.Uint32(wav[28:])
	if rate == 0 {
		return 0, errors.New("the speaker made no sound")
	}
	return float64(len(wav)-head) / float64(rate), nil
}
