// Package media tells what a file on the shelf is by its content: its type, size
// and length, whatever its name says. Pictures, sounds and films that a browser can
// show by itself are known; an SVG that could run anything is refused.
package media

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Kind is what a file is for.
type Kind string

// The kinds.
const (
	Picture Kind = "picture"
	Sound   Kind = "sound"
	Film    Kind = "film"
)

// Info is what was read from a file. Sizes are in pixels, of pictures and films;
// Seconds is the length of a sound or film, 0 where a film does not tell it.
type Info struct {
	Type          string // media type, as in RFC 6838
	Kind          Kind
	Width, Height int
	Seconds       float64
}

// Most is how many bytes a file may have.
const Most = 20 << 20

// CheckName refuses names that are no plain file names, and says what to use.
func CheckName(name string) error {
	if name == "" || len(name) > 80 || !utf8.ValidString(name) || strings.HasPrefix(name, ".") || strings.ContainsAny(name, "/\\<>:\"|?*") || strings.ContainsFunc(name, unicode.IsControl) {
		return fmt.Errorf("%q is no name for a file; use letters, digits, dashes and dots, at most 80", name)
	}
	return nil
}

// MostPixels bounds the area of a picture, so that none exhausts a browser.
const MostPixels = 8192 * 8192

// Read tells what a file is.
func Read(data []byte) (Info, error) {
	if len(data) == 0 {
		return Info{}, errors.New("the file is empty")
	}
	kind := http.DetectContentType(data)
	switch {
	case kind == "image/png", kind == "image/jpeg", kind == "image/gif", kind == "image/webp":
		return picture(data, kind)
	case strings.HasPrefix(kind, "text/") && looksLikeSVG(data):
		return svg(data)
	case kind == "audio/wave":
		return sound("audio/wav", wav, data)
	case kind == "application/ogg":
		return sound("audio/ogg", ogg, data)
	case kind == "audio/mpeg", len(data) > 2 && data[0] == 0xff && data[1]&0xe0 == 0xe0:
		return sound("audio/mpeg", mp3, data)
	case kind == "video/webm":
		return webm(data)
	case kind == "video/mp4":
		return mp4(data)
	}
	return Info{}, fmt.Errorf("is %s; use PNG, JPEG, GIF, WebP or SVG, WAV, OGG or MP3, WebM or MP4", strings.TrimSuffix(kind, "; charset=utf-8"))
}

// unreadable is the error about a file that is not what its first bytes promise.
func unreadable(kind string, why any) error {
	return fmt.Errorf("begins like %s, but cannot be read as one: %v", kind, why)
}
