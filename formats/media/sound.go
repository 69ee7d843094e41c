package media

import (
	"bytes"
	"encoding/binary"
	"errors"

	gomp3 "github.com/hajimehoshi/go-mp3"
)

// sound reads a sound's length.
func sound(kind string, length func([]byte) (float64, error), data []byte) (Info, error) {
	seconds, err := length(data)
	if err != nil {
		return Info{}, unreadable(kind, err)
	}
	return Info{Type: kind, Kind: Sound, Seconds: seconds}, nil
}

// wav reads the length from the fmt and data chunks (RIFF, as in RFC 2361).
func wav(data []byte) (float64, error) {
	rate, size, found := uint32(0), uint32(0), false
	for at := 12; at+8 <= len(data); {
		n := binary.LittleEndian.Uint32(data[at+4:])
		switch string(data[at : at+4]) {
		case "fmt ":
			if at+20 <= len(data) {
				rate = binary.LittleEndian.Uint32(data[at+16:])
			}
		case "data":
			size, found = min(n, uint32(len(data)-at-8)), true
		}
		at += 8 + int(n) + int(n&1)
	}
	if rate == 0 || !found {
		return 0, errors.New("it holds no sound")
	}
	return float64(size) / float64(rate), nil
}

// ogg reads the length from the last page's granule position (RFC 3533) and the
// sample rate of Vorbis, or 48 kHz of Opus less its pre-skip (RFC 7845, section 4).
func ogg(data []byte) (float64, error) {
	head := data[:min(len(data), 512)]
	rate, skip := 0.0, 0.0
	if i := bytes.Index(head, []byte("\x01vorbis")); i >= 0 && i+16 <= len(data) {
		rate = float64(binary.LittleEndian.Uint32(data[i+12:]))
	} else if i := bytes.Index(head, []byte("OpusHead")); i >= 0 && i+12 <= len(data) {
		rate, skip = 48000, float64(binary.LittleEndian.Uint16(data[i+10:]))
	}
	if rate == 0 {
		return 0, errors.New("it holds neither Vorbis nor Opus")
	}
	last := bytes.LastIndex(data, []byte("OggS"))
	if last < 0 || last+14 > len(data) {
		return 0, errors.New("it has no last page")
	}
	granule := int64(binary.LittleEndian.Uint64(data[last+6:]))
	return max(0, float64(granule)-skip) / rate, nil
}

// mp3 counts the frames; what is decoded has two channels of two bytes a sample.
func mp3(data []byte) (float64, error) {
	var d *gomp3.Decoder
	if err := guarded(func() (err error) { d, err = gomp3.NewDecoder(bytes.NewReader(data)); return err }); err != nil {
		return 0, err
	}
	if d.SampleRate() <= 0 || d.Length() <= 0 {
		return 0, errors.New("it holds no sound")
	}
	return float64(d.Length()) / 4 / float64(d.SampleRate()), nil
}
