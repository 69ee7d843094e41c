package media

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math/bits"
	"time"

	"github.com/at-wat/ebml-go"
)

// film checks what was read of a film.
func film(kind string, width, height int, seconds float64) (Info, error) {
	if width < 1 || height < 1 {
		return Info{}, unreadable(kind, "it holds no picture")
	}
	if width > 16384 || height > 16384 || width*height > MostPixels {
		return Info{}, fmt.Errorf("has %d × %d pixels; keep to 8192 × 8192", width, height)
	}
	if !(seconds >= 0 && seconds < 24*60*60) {
		seconds = 0
	}
	return Info{Type: kind, Kind: Film, Width: width, Height: height, Seconds: seconds}, nil
}

// webm reads size and length from the Info and Tracks of a WebM file, which is EBML
// (RFC 8794) with the elements of Matroska (RFC 9559).
func webm(data []byte) (Info, error) {
	const kind = "video/webm"
	var doc struct {
		Header struct {
			DocType string `ebml:"EBMLDocType"`
		} `ebml:"EBML"`
		Segment struct {
			Info struct {
				Scale    uint64  `ebml:"TimecodeScale"` // nanoseconds
				Duration float64 `ebml:"Duration"`
			} `ebml:"Info"`
			Tracks struct {
				Entries []struct {
					Video *struct {
						Width  uint64 `ebml:"PixelWidth"`
						Height uint64 `ebml:"PixelHeight"`
					} `ebml:"Video"`
				} `ebml:"TrackEntry"`
			} `ebml:"Tracks,stop"` // the pictures themselves come after
		} `ebml:"Segment"`
	}
	if missing := segmentLacks(data); missing > 0 {
		return Info{}, unreadable(kind, cutOff(missing))
	}
	err := guarded(func() error {
		return ebml.Unmarshal(bytes.NewReader(data), &doc, ebml.WithIgnoreUnknown(true), ebml.WithMaxLeafElementSize(1<<20))
	})
	if err != nil && !errors.Is(err, ebml.ErrReadStopped) {
		return Info{}, unreadable(kind, err)
	}
	if doc.Header.DocType != "webm" {
		return Info{}, unreadable(kind, fmt.Sprintf("it is %q", doc.Header.DocType))
	}
	if doc.Segment.Info.Scale == 0 {
		doc.Segment.Info.Scale = uint64(time.Millisecond)
	}
	seconds := doc.Segment.Info.Duration * float64(doc.Segment.Info.Scale) / float64(time.Second)
	for _, e := range doc.Segment.Tracks.Entries {
		if e.Video != nil {
			return film(kind, int(min(e.Video.Width, 1<<20)), int(min(e.Video.Height, 1<<20)), seconds)
		}
	}
	return Info{}, unreadable(kind, "it holds no picture")
}

// cutOff says that the end of a file is missing.
func cutOff(missing uint64) string {
	return fmt.Sprintf("it is cut off: at least %d bytes of it are missing; fetch or export it again", missing)
}

// segmentLacks is how many bytes are missing of a WebM's segment; none where it does not say how long it is, as those that were
// written as they were recorded do not (RFC 8794, section 6.2).
func segmentLacks(data []byte) uint64 {
	for at := uint64(0); at < uint64(len(data)); {
		id, n := vint(data[at:], true)
		size, m := vint(data[at+uint64(n):], false)
		if n == 0 || m == 0 {
			return 0
		}
		begins := at + uint64(n+m)
		if id == 0x18538067 { // the segment
			if size == 1<<(7*m)-1 || size <= uint64(len(data))-begins {
				return 0
			}
			return size - (uint64(len(data)) - begins)
		}
		if size > uint64(len(data))-begins {
			return 0
		}
		at = begins + size
	}
	return 0
}

// vint reads a number of variable length, with its marker or without (RFC 8794, section 4), and tells how many bytes it takes; 0
// for none.
func vint(data []byte, marked bool) (v uint64, length int) {
	if len(data) == 0 {
		return 0, 0
	}
	length = bits.LeadingZeros8(data[0]) + 1
	if length > 8 || length > len(data) {
		return 0, 0
	}
	for _, b := range data[:length] {
		v = v<<8 | uint64(b)
	}
	if !marked {
		v &^= 1 << (7 * length)
	}
	return v, length
}

// guarded runs a decoder that is not ours; a file made to break it is an error.
func guarded(read func() error) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("%v", r)
		}
	}()
	return read()
}

// mp4 reads length and size from the movie header and the track headers (ISO/IEC
// 14496-12, 8.2.2 and 8.3.2). One without a picture is a sound.
func mp4(data []byte) (Info, error) {
	const kind = "video/mp4"
	seconds, width, height, found := 0.0, 0, 0, false
	if missing := boxLacks(data); missing > 0 {
		return Info{}, unreadable(kind, cutOff(missing))
	}
	boxes(data, func(name string, body []byte) {
		if name != "moov" {
			return
		}
		boxes(body, func(name string, body []byte) {
			switch name {
			case "mvhd":
				seconds, found = movieLength(body), true
			case "trak":
				boxes(body, func(name string, body []byte) {
					if w, h := trackSize(body); name == "tkhd" && w > width {
						width, height = w, h
					}
				})
			}
		})
	})
	switch {
	case !found:
		return Info{}, unreadable(kind, "it has no movie header")
	case width == 0 && seconds > 0:
		return Info{Type: "audio/mp4", Kind: Sound, Seconds: seconds}, nil
	}
	return film(kind, width, height, seconds)
}

// boxLacks is how many bytes are missing of the last box of a file.
func boxLacks(data []byte) uint64 {
	for len(data) >= 16 {
		size := uint64(binary.BigEndian.Uint32(data))
		if size == 1 {
			size = binary.BigEndian.Uint64(data[8:])
		}
		switch {
		case size < 8: // to the end of the file, or no box at all
			return 0
		case size > uint64(len(data)):
			return size - uint64(len(data))
		}
		data = data[size:]
	}
	return 0
}

// boxes calls f for each box in data (14496-12, 4.2). It ends where one does not fit.
func boxes(data []byte, f func(name string, body []byte)) {
	for len(data) >= 8 {
		size, head := uint64(binary.BigEndian.Uint32(data)), uint64(8)
		switch {
		case size == 1 && len(data) >= 16:
			size, head = binary.BigEndian.Uint64(data[8:]), 16
		case size == 0:
			size = uint64(len(data))
		}
		if size < head || size > uint64(len(data)) {
			return
		}
		f(string(data[4:8]), data[head:size])
		data = data[size:]
	}
}

// movieLength reads scale and duration, which version 1 of the box writes wider.
func movieLength(b []byte) float64 {
	var scale, n uint64
	switch {
	case len(b) >= 20 && b[0] == 0:
		scale, n = uint64(binary.BigEndian.Uint32(b[12:])), uint64(binary.BigEndian.Uint32(b[16:]))
	case len(b) >= 32 && b[0] == 1:
		scale, n = uint64(binary.BigEndian.Uint32(b[20:])), binary.BigEndian.Uint64(b[24:])
	}
	if scale == 0 {
		return 0
	}
	return float64(n) / float64(scale)
}

// trackSize reads the size at the end of the box, in 16.16 fixed point.
func trackSize(b []byte) (width, height int) {
	if len(b) < 84 {
		return 0, 0
	}
	b = b[len(b)-8:]
	return int(binary.BigEndian.Uint32(b) >> 16), int(binary.BigEndian.Uint32(b[4:]) >> 16)
}
