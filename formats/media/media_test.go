package media_test

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/png"
	"math"
	"os"
	"strings"
	"testing"

	"vividporch/formats/media"
)

func drawn(w, h int) []byte {
	var b bytes.Buffer
	png.Encode(&b, image.NewGray(image.Rect(0, 0, w, h)))
	return b.Bytes()
}

// bell is a WAV of so many seconds at 8000 bytes a second.
func bell(seconds int) []byte {
	var b bytes.Buffer
	n := uint32(8000 * seconds)
	b.WriteString("RIFF")
	binary.Write(&b, binary.LittleEndian, 36+n)
	b.WriteString("WAVEfmt ")
	for _, v := range []any{uint32(16), uint16(1), uint16(1), uint32(8000), uint32(8000), uint16(1), uint16(8)} {
		binary.Write(&b, binary.LittleEndian, v)
	}
	b.WriteString("data")
	binary.Write(&b, binary.LittleEndian, n)
	b.Write(make([]byte, n))
	return b.Bytes()
}

func TestAFileIsWhatItsContentSays(t *testing.T) {
	for name, c := range map[string]struct {
		data []byte
		want media.Info
	}{
		"a picture":       {drawn(40, 30), media.Info{Type: "image/png", Kind: media.Picture, Width: 40, Height: 30}},
		"a bell":          {bell(3), media.Info{Type: "audio/wav", Kind: media.Sound, Seconds: 3}},
		"a drawing":       {[]byte(`<?xml version="1.0"?><!-- a limpet --><svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 48"><path d="M0 0h9" fill="url(#g)"/></svg>`), media.Info{Type: "image/svg+xml", Kind: media.Picture, Width: 64, Height: 48}},
		"a sized drawing": {[]byte(`<svg width="20px" height="10"></svg>`), media.Info{Type: "image/svg+xml", Kind: media.Picture, Width: 20, Height: 10}},
	} {
		if got, err := media.Read(c.data); err != nil || got != c.want {
			t.Errorf("%s: %+v %v", name, got, err)
		}
	}
}

func TestLengthAndSizeAreReadFromSoundsAndFilms(t *testing.T) {
	for name, want := range map[string]media.Info{
		"bell.mp3":     {Type: "audio/mpeg", Kind: media.Sound, Seconds: 1},
		"bell-vbr.mp3": {Type: "audio/mpeg", Kind: media.Sound, Seconds: 1},
		"bell.ogg":     {Type: "audio/ogg", Kind: media.Sound, Seconds: 1.25},
		"bell.opus":    {Type: "audio/ogg", Kind: media.Sound, Seconds: 1.25},
		"bell.m4a":     {Type: "audio/mp4", Kind: media.Sound, Seconds: 1.25},
		"pool.mp4":     {Type: "video/mp4", Kind: media.Film, Width: 64, Height: 48, Seconds: 1.5},
		"pool.webm":    {Type: "video/webm", Kind: media.Film, Width: 64, Height: 48, Seconds: 2},
	} {
		data, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		got, err := media.Read(data)
		if math.Abs(got.Seconds-want.Seconds) > 0.08 { // an encoder pads up to a frame or two
			t.Errorf("%s: %v seconds, want %v", name, got.Seconds, want.Seconds)
		}
		if got.Seconds = want.Seconds; err != nil || got != want {
			t.Errorf("%s: %+v %v", name, got, err)
		}
		// Cut off after its head, it is refused, or the head still tells.
		if got, err := media.Read(data[:len(data)/50]); err == nil && got.Kind != want.Kind {
			t.Errorf("%s cut off: %+v", name, got)
		}
	}
}

func TestWhatLiesOrCouldDoHarmIsRefusedWithTheReason(t *testing.T) {
	svg := func(inner string) []byte {
		return []byte(`<svg xmlns="http://www.w3.org/2000/svg">` + inner + `</svg>`)
	}
	for want, data := range map[string][]byte{
		"the file is empty":                nil,
		"is application/zip":               []byte("PK\x03\x04 a house"),
		"is text/html":                     []byte("<!doctype html><script>1</script>"),
		"cannot be read as one":            append([]byte("\x89PNG\r\n\x1a\n"), "and then nothing"...),
		"it holds no sound":                append(bell(0)[:12], "and more words than sound"...),
		"it holds neither Vorbis nor Opus": []byte("OggS\x00\x02 a film perhaps"),
		"begins like audio/mpeg":           []byte("ID3\x04\x00\x00\x00\x00\x00\x00 only a title"),
		"begins like video/webm":           []byte("\x1a\x45\xdf\xa3 and words"),
		"it is \"matroska\"":               []byte("\x1a\x45\xdf\xa3\x8b\x42\x82\x88matroska"),
		"it has no movie header":           []byte("\x00\x00\x00\x14ftypmp42\x00\x00\x00\x00mp42"),
		"holds <script>":                   svg(`<script>alert(1)</script>`),
		"the attribute onload":             svg(`<g onload="x()"/>`),
		"holds <foreignObject>":            svg(`<foreignObject><body/></foreignObject>`),
		"links to":                         svg(`<use href="https://elsewhere.example/a.svg#x"/>`),
		"loads something from elsewhere":   svg(`<path style="fill: url(https://elsewhere.example)"/>`),
		"holds <animate>":                  svg(`<animate attributeName="href" to="javascript:x()"/>`),
		"holds <style>":                    svg(`<style>@import "https://elsewhere.example"</style>`),
		"declares entities":                []byte(`<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg>&a;</svg>`),
		"is no well-formed SVG":            []byte(`<svg><path></svg>`),
		"holds <?xml-stylesheet?>":         []byte(`<?xml-stylesheet href="x"?><svg/>`),
		"begins with <html>":               []byte(`<html><svg/></html>` + strings.Repeat(" ", 3)),
	} {
		if got, err := media.Read(data); err == nil || !strings.Contains(err.Error(), want) && !(want == "begins with <html>" && strings.Contains(err.Error(), "text/html")) {
			t.Errorf("want %q, got %+v %v", want, got, err)
		}
	}
}

func TestAFilmThatIsCutOffSaysHowMuchOfItIsMissing(t *testing.T) {
	for _, name := range []string{"pool.mp4", "pool.webm", "../../../starter/shelf/heron.webm"} {
		data, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := media.Read(data); err != nil {
			t.Errorf("%s is whole: %v", name, err)
		}
		for _, n := range []int{len(data) - 1, len(data) / 2} {
			if _, err := media.Read(data[:n]); err == nil || !strings.Contains(err.Error(), "it is cut off: at least") {
				t.Errorf("%d bytes of %s: %v", n, name, err)
			}
		}
	}
}

func FuzzAnyFileIsReadOrRefused(f *testing.F) {
	f.Add(drawn(2, 2))
	f.Add(bell(1))
	f.Add([]byte("OggS\x00\x02\x01vorbis"))
	f.Add([]byte("<svg/>"))
	for _, name := range []string{"bell.mp3", "bell.ogg", "bell.opus", "bell.m4a", "pool.mp4", "pool.webm"} {
		data, err := os.ReadFile("testdata/" + name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		if info, err := media.Read(data); err == nil && (info.Type == "" || info.Kind == "" || info.Seconds < 0) {
			t.Fatalf("%+v", info)
		}
	})
}
