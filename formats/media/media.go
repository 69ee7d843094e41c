// Package media tells what a file on the shelf is by its content: its type, size
// and length, whatever its name says. Pictures, sounds and films that a browser can
// show by itself are known; an SVG that could run anything is refused.
package media

import (
	"bytes"
	"encoding/binary"
	"encoding/xml"
	"errors"
	"fmt"
	"image"
	_ "image/gif"
	_ "image/jpeg"
	_ "image/png"
	"io"
	"net/http"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	_ "golang.org/x/image/webp"
)

// Kind is what a file is for.
type Kind string

// The kinds.
const (
	Picture Kind = "picture"
	Sound   Kind = "sound"
	Film    Kind = "film"
)

// Info is what was read from a file. Sizes are in pixels; Seconds is 0 where the
// format does not tell its length in its head.
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
		return Info{Type: "audio/wav", Kind: Sound, Seconds: wav(data)}, nil
	case kind == "application/ogg":
		return Info{Type: "audio/ogg", Kind: Sound, Seconds: ogg(data)}, nil
	case kind == "audio/mpeg", len(data) > 2 && data[0] == 0xff && data[1]&0xe0 == 0xe0:
		return Info{Type: "audio/mpeg", Kind: Sound}, nil
	case kind == "video/webm", kind == "video/mp4":
		return Info{Type: kind, Kind: Film}, nil
	}
	return Info{}, fmt.Errorf("is %s; use PNG, JPEG, GIF, WebP or SVG, WAV, OGG or MP3, WebM or MP4", strings.TrimSuffix(kind, "; charset=utf-8"))
}

func picture(data []byte, kind string) (Info, error) {
	c, format, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Info{}, fmt.Errorf("begins like %s, but cannot be read as one: %w", kind, err)
	}
	if "image/"+format != kind {
		return Info{}, fmt.Errorf("begins like %s and is %s", kind, format)
	}
	if c.Width*c.Height > MostPixels || c.Width > 16384 || c.Height > 16384 {
		return Info{}, fmt.Errorf("has %d × %d pixels; keep to 8192 × 8192", c.Width, c.Height)
	}
	return Info{Type: kind, Kind: Picture, Width: c.Width, Height: c.Height}, nil
}

func looksLikeSVG(data []byte) bool {
	head := bytes.ToLower(data[:min(len(data), 4096)])
	return bytes.Contains(head, []byte("<svg"))
}

// harmless are the elements of SVG 2 that only draw.
var harmless = map[string]bool{"svg": true, "g": true, "defs": true, "title": true, "desc": true, "path": true, "rect": true, "circle": true, "ellipse": true, "line": true, "polyline": true,
	"polygon": true, "text": true, "tspan": true, "textpath": true, "lineargradient": true, "radialgradient": true, "stop": true, "clippath": true, "mask": true, "pattern": true, "symbol": true,
	"use": true, "marker": true, "filter": true, "fegaussianblur": true, "feoffset": true, "feblend": true, "femerge": true, "femergenode": true, "fecolormatrix": true, "feflood": true, "fecomposite": true, "metadata": true}

// svg reads a drawing and refuses whatever could run, load or link.
func svg(data []byte) (Info, error) {
	out := Info{Type: "image/svg+xml", Kind: Picture}
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Entity = map[string]string{} // none may be declared
	seen := false
	for {
		tok, err := dec.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			return Info{}, fmt.Errorf("is no well-formed SVG: %w", err)
		}
		switch t := tok.(type) {
		case xml.Directive:
			if bytes.Contains(bytes.ToUpper(t), []byte("ENTITY")) {
				return Info{}, errors.New("declares entities; save it as a plain SVG")
			}
		case xml.ProcInst:
			if t.Target != "xml" {
				return Info{}, fmt.Errorf("holds <?%s?>; save it as a plain SVG", t.Target)
			}
		case xml.StartElement:
			name := strings.ToLower(t.Name.Local)
			if !seen && name != "svg" {
				return Info{}, fmt.Errorf("begins with <%s>, not with <svg>", t.Name.Local)
			}
			if !harmless[name] {
				return Info{}, fmt.Errorf("holds <%s>, which could do more than draw; take it out", t.Name.Local)
			}
			for _, a := range t.Attr {
				if err := attribute(a); err != nil {
					return Info{}, err
				}
				if !seen {
					switch a.Name.Local {
					case "width":
						out.Width = pixels(a.Value)
					case "height":
						out.Height = pixels(a.Value)
					case "viewBox":
						if f := strings.FieldsFunc(a.Value, func(r rune) bool { return r == ' ' || r == ',' }); len(f) == 4 && out.Width == 0 {
							out.Width, out.Height = pixels(f[2]), pixels(f[3])
						}
					}
				}
			}
			seen = true
		}
	}
	if !seen {
		return Info{}, errors.New("holds no <svg>")
	}
	return out, nil
}

func attribute(a xml.Attr) error {
	name, value := strings.ToLower(a.Name.Local), strings.ToLower(strings.Join(strings.Fields(a.Value), ""))
	switch {
	case strings.HasPrefix(name, "on"):
		return fmt.Errorf("holds the attribute %s, which could run something; take it out", a.Name.Local)
	case name == "href" && !strings.HasPrefix(value, "#"):
		return fmt.Errorf("links to %q; a drawing on the shelf links only to its own parts", a.Value)
	case strings.Contains(value, "javascript:"), strings.Contains(value, "url(") && !strings.Contains(value, "url(#"), strings.Contains(value, "@import"):
		return fmt.Errorf("%s loads something from elsewhere; take it out", a.Name.Local)
	}
	return nil
}

func pixels(s string) int {
	n, _ := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "px"), 64)
	return int(n)
}

// wav reads the length from the fmt and data chunks (RIFF, as in RFC 2361).
func wav(data []byte) float64 {
	rate, size := uint32(0), uint32(0)
	for at := 12; at+8 <= len(data); {
		n := binary.LittleEndian.Uint32(data[at+4:])
		switch string(data[at : at+4]) {
		case "fmt ":
			if at+20 <= len(data) {
				rate = binary.LittleEndian.Uint32(data[at+16:])
			}
		case "data":
			size = min(n, uint32(len(data)-at-8))
		}
		next := at + 8 + int(n) + int(n&1)
		if next <= at {
			break
		}
		at = next
	}
	if rate == 0 {
		return 0
	}
	return float64(size) / float64(rate)
}

// ogg reads the length from the last page's granule position (RFC 3533) and the
// sample rate of Vorbis, or 48 kHz of Opus (RFC 7845).
func ogg(data []byte) float64 {
	rate := 0.0
	if i := bytes.Index(data[:min(len(data), 512)], []byte("\x01vorbis")); i >= 0 && i+16 <= len(data) {
		rate = float64(binary.LittleEndian.Uint32(data[i+12:]))
	} else if bytes.Contains(data[:min(len(data), 512)], []byte("OpusHead")) {
		rate = 48000
	}
	last := bytes.LastIndex(data, []byte("OggS"))
	if rate == 0 || last < 0 || last+14 > len(data) {
		return 0
	}
	return float64(binary.LittleEndian.Uint64(data[last+6:])) / rate
}
