// Command make draws, plays and films what a new house's shelf begins with, into the folder it is given: a dozen pictures
// for cards, eight short sounds, and two short films, one that is transparent by itself and one on a plain green ground.
// All of it is made here; nothing is taken from anywhere. Sounds and films are put into their containers by ffmpeg.
package main

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"log"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/fogleman/gg"
)

func main() {
	if len(os.Args) != 2 {
		log.Fatal("make FOLDER")
	}
	dir := os.Args[1]
	for name, inner := range pictures {
		svg := `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200">` + painted(inner) + "</svg>\n"
		must(os.WriteFile(filepath.Join(dir, name+".svg"), []byte(svg), 0o644))
	}
	for name, s := range sounds {
		encode(filepath.Join(dir, name+".ogg"), wav(s), "-f", "wav", "-i", "pipe:0", "-c:a", "libvorbis", "-q:a", "3", "-fflags", "+bitexact", "-flags:a", "+bitexact", "-map_metadata", "-1")
	}
	film(filepath.Join(dir, "heron.webm"), true)
	film(filepath.Join(dir, "heron-on-green.webm"), false)
}

func must(err error) {
	if err != nil {
		log.Fatal(err)
	}
}

// encode has ffmpeg write a file of what it is handed.
func encode(path string, in []byte, args ...string) {
	cmd := exec.Command("ffmpeg", append(append([]string{"-hide_banner", "-loglevel", "error", "-y"}, args...), path)...)
	cmd.Stdin, cmd.Stderr = bytes.NewReader(in), os.Stderr
	must(cmd.Run())
}

// Colours of the sample world.
var colours = strings.NewReplacer("@lamp", "#f6a821", "@glow", "#fbd48a", "@ink", "#0e1d20", "@linen", "#f4ecdd", "@water", "#4bb9c8", "@deep", "#1d6470", "@fern", "#6cbb83", "@moss", "#3f7f55", "@clay", "#db8e84", "@rust", "#b5533f", "@iron", "#93a39f")

func painted(s string) string { return colours.Replace(s) }

var pictures = map[string]string{
	"a-lantern":           `<path d="M100 20v30M70 56h60" stroke="@iron" stroke-width="9" stroke-linecap="round"/><path d="M62 64h76c16 15 23 33 23 54s-7 40-23 54H62c-16-14-23-33-23-54s7-39 23-54Z" fill="@lamp"/><path d="M100 84c14 18 18 30 18 42a18 18 0 0 1-36 0c0-12 4-24 18-42Z" fill="@glow"/><path d="M74 182h52" stroke="@iron" stroke-width="9" stroke-linecap="round"/>`,
	"a-limpet":            `<path d="M18 152C34 84 66 44 104 44s66 42 78 108c-44 20-120 20-164 0Z" fill="@linen"/><path d="M104 44 60 160M104 44l-12 122M104 44l20 120M104 44l54 108" stroke="@iron" stroke-width="6" fill="none"/><path d="M10 164c60 22 120 22 180 0" stroke="@water" stroke-width="8" fill="none" stroke-linecap="round"/>`,
	"a-heron":             `<path d="M70 196V132M92 196v-62" stroke="@lamp" stroke-width="6" stroke-linecap="round"/><path d="M46 92c22-20 66-22 92 6-8 30-40 44-72 40-20-2-36-14-50-34 10-2 20-6 30-12Z" fill="@iron"/><path d="M128 100c20-16 10-40-4-52-10-9-4-26 10-28s24 6 26 16" fill="none" stroke="@linen" stroke-width="13" stroke-linecap="round"/><path d="m158 30 36 10-36 4Z" fill="@lamp"/><circle cx="150" cy="32" r="4" fill="@ink"/>`,
	"kelp":                `<path d="M100 196C92 160 108 132 100 98s8-62 0-92" stroke="@moss" stroke-width="9" fill="none"/><path d="M100 156c-40-4-60-22-66-48 34 0 58 16 66 48ZM100 120c38-6 58-26 62-54-34 4-56 22-62 54ZM100 84c-34-6-50-24-52-48 28 4 46 20 52 48ZM100 50c24-6 36-20 38-38-22 2-34 16-38 38Z" fill="@fern"/>`,
	"a-moth":              `<path d="M100 70C70 20 20 24 14 66s34 60 86 34c52 26 92 8 86-34S130 20 100 70Z" fill="@clay"/><path d="M100 100c-34 2-58 26-50 50s42 24 50-14c8 38 42 38 50 14s-16-48-50-50Z" fill="@rust"/><path d="M100 60v92" stroke="@ink" stroke-width="12" stroke-linecap="round"/><path d="M100 62C92 40 84 32 74 28M100 62c8-22 16-30 26-34" stroke="@ink" stroke-width="5" fill="none"/><circle cx="56" cy="66" r="12" fill="@linen"/><circle cx="144" cy="66" r="12" fill="@linen"/>`,
	"an-anemone":          `<path d="M60 190c-8-40-4-66 6-84h68c10 18 14 44 6 84Z" fill="@rust"/><g stroke="@clay" stroke-width="11" stroke-linecap="round" fill="none"><path d="M72 108C60 80 40 74 26 78"/><path d="M80 104C74 66 62 44 44 34"/><path d="M92 102c-2-40-4-62-12-84"/><path d="M108 102c2-40 6-62 14-84"/><path d="M120 104c6-38 18-60 36-70"/><path d="M128 108c12-28 32-34 46-30"/></g>`,
	"a-starfish":          `<path d="M100 14c16 24 18 44 24 56 24-4 44-2 66 10-16 22-34 30-44 42 6 20 8 42-4 64-22-10-32-26-42-34-10 8-20 24-42 34-12-22-10-44-4-64-10-12-28-20-44-42 22-12 42-14 66-10 6-12 8-32 24-56Z" fill="@clay"/><g fill="@rust"><circle cx="100" cy="102" r="8"/><circle cx="100" cy="64" r="5"/><circle cx="64" cy="92" r="5"/><circle cx="136" cy="92" r="5"/><circle cx="78" cy="136" r="5"/><circle cx="122" cy="136" r="5"/></g>`,
	"a-periwinkle":        `<path d="M30 160c-14-56 22-112 72-116s86 38 78 82-52 56-84 40-30-62 2-70 46 28 26 42" fill="none" stroke="@linen" stroke-width="22" stroke-linecap="round"/><path d="M18 176h150" stroke="@water" stroke-width="8" stroke-linecap="round"/>`,
	"a-rowing-boat":       `<path d="M14 104h172c-6 34-26 54-50 54H64c-24 0-44-20-50-54Z" fill="@rust"/><path d="M14 104h172" stroke="@linen" stroke-width="9"/><path d="M64 60l92 84" stroke="@iron" stroke-width="8" stroke-linecap="round"/><path d="M6 172c24-10 40 8 64 0s40-8 64 0 40 8 60 0" stroke="@water" stroke-width="8" fill="none" stroke-linecap="round"/>`,
	"a-jug-of-oil":        `<path d="M60 70h66c20 18 28 38 28 58 0 34-22 54-61 54s-61-20-61-54c0-20 8-40 28-58Z" fill="@deep"/><path d="M66 70V46h54v24" fill="@iron"/><path d="M126 76c30-4 44 14 34 42" stroke="@iron" stroke-width="10" fill="none"/><path d="M40 120c34 10 72 10 106 0 2 36-18 56-53 56s-55-20-53-56Z" fill="@lamp"/>`,
	"a-shell":             `<path d="M100 180c-16-6-24-12-28-20C34 144 16 108 20 74c30-40 130-40 160 0 4 34-14 70-52 86-4 8-12 14-28 20Z" fill="@glow"/><path d="M100 172 36 66M100 172 66 50M100 172V44M100 172l34-122M100 172l64-106" stroke="@clay" stroke-width="6" fill="none"/>`,
	"the-moon-over-water": `<circle cx="100" cy="72" r="52" fill="@glow"/><circle cx="84" cy="60" r="9" fill="@lamp"/><circle cx="118" cy="84" r="6" fill="@lamp"/><path d="M20 146c24-10 40 8 64 0s40-8 64 0 28 6 36 2M44 170c20-8 32 6 52 0s32-6 52 0 14 4 20 2" stroke="@water" stroke-width="8" fill="none" stroke-linecap="round"/>`,
}

const rate = 44100

// note is one tone: its pitch in Hz, when it begins and how long it rings, in seconds, and how loud, of 1.
type note struct{ hz, at, rings, loud float64 }

// sound is what notes add up to; each sounds with these partials.
type sound struct {
	seconds  float64
	notes    []note
	partials []float64 // loudness of the first, second…
	noise    func(t float64) float64
}

var (
	bell  = []float64{1, 0.6, 0.4, 0.25, 0.15}
	wood  = []float64{1, 0.2, 0.35}
	soft  = []float64{1, 0.12}
	surf  = func(t float64) float64 { return 0.5 * math.Pow(math.Sin(math.Pi*min(1, t/2)), 2) }
	drops = func(t float64) float64 { return 0 }
)

var sounds = map[string]sound{
	"small-bell":  {1.4, []note{{1318.5, 0, 1.2, 0.5}}, bell, drops},
	"two-bells":   {1.8, []note{{1046.5, 0, 1, 0.4}, {1568, 0.22, 1.4, 0.4}}, bell, drops},
	"three-drips": {1.0, []note{{1975, 0, 0.12, 0.5}, {2349, 0.28, 0.12, 0.5}, {1760, 0.6, 0.2, 0.5}}, soft, drops},
	"oar":         {0.9, []note{{196, 0, 0.3, 0.5}, {147, 0.4, 0.4, 0.5}}, wood, drops},
	"knock":       {0.7, []note{{330, 0, 0.1, 0.6}, {330, 0.22, 0.1, 0.6}, {294, 0.44, 0.14, 0.6}}, wood, drops},
	"lamp-is-lit": {1.6, []note{{523.3, 0, 1.2, 0.3}, {659.3, 0.12, 1.2, 0.3}, {784, 0.24, 1.2, 0.3}, {1046.5, 0.36, 1.2, 0.3}}, soft, drops},
	"tide-comes":  {2.0, nil, soft, surf},
	"low-water":   {1.6, []note{{784, 0, 1, 0.3}, {659.3, 0.2, 1, 0.3}, {523.3, 0.4, 1.1, 0.3}}, soft, drops},
}

func wav(s sound) []byte {
	n := int(s.seconds * rate)
	samples := make([]float64, n)
	seed := uint32(7)
	last := 0.0
	for i := range samples {
		t := float64(i) / rate
		for _, k := range s.notes {
			if t < k.at || t > k.at+k.rings {
				continue
			}
			u := t - k.at
			fade := math.Exp(-4*u/k.rings) * min(1, u/0.004)
			for p, loud := range s.partials {
				samples[i] += k.loud * loud * fade * math.Sin(2*math.Pi*k.hz*float64(p+1)*u) / 2
			}
		}
		seed = seed*1664525 + 1013904223 // noise of its own, the same each time
		white := float64(seed)/float64(1<<31) - 1
		last += 0.06 * (white - last)
		samples[i] += 4 * last * s.noise(t)
	}
	var b bytes.Buffer
	b.WriteString("RIFF")
	binary.Write(&b, binary.LittleEndian, uint32(36+2*n))
	b.WriteString("WAVEfmt ")
	for _, v := range []any{uint32(16), uint16(1), uint16(1), uint32(rate), uint32(2 * rate), uint16(2), uint16(16)} {
		binary.Write(&b, binary.LittleEndian, v)
	}
	b.WriteString("data")
	binary.Write(&b, binary.LittleEndian, uint32(2*n))
	for _, v := range samples {
		binary.Write(&b, binary.LittleEndian, int16(32000*max(-1, min(1, v))))
	}
	return b.Bytes()
}

// Of the films, in pixels and frames.
const (
	wide, high = 320, 180
	frames     = 95
	second     = 25
)

// film is a heron that flies from edge to edge: over nothing, or over a plain green.
func film(path string, transparent bool) {
	var raw bytes.Buffer
	for i := range frames {
		dc := gg.NewContext(wide, high)
		if !transparent {
			dc.SetHexColor("#00b140")
			dc.Clear()
		}
		heron(dc, float64(i)/frames)
		raw.Write(dc.Image().(*image.RGBA).Pix)
	}
	format := "yuva420p"
	if !transparent {
		format = "yuv420p"
	}
	encode(path, unmultiplied(raw.Bytes()), "-f", "rawvideo", "-pix_fmt", "rgba", "-s", fmt.Sprintf("%dx%d", wide, high), "-r", fmt.Sprint(second), "-i", "pipe:0",
		"-c:v", "libvpx-vp9", "-pix_fmt", format, "-auto-alt-ref", "0", "-b:v", "0", "-crf", "30", "-row-mt", "0", "-threads", "1", "-fflags", "+bitexact", "-flags:v", "+bitexact", "-map_metadata", "-1")
}

// unmultiplied are pixels whose colours do not hold their transparency, as films have them.
func unmultiplied(pix []byte) []byte {
	for i := 0; i < len(pix); i += 4 {
		if a := int(pix[i+3]); a > 0 && a < 255 {
			for k := range 3 {
				pix[i+k] = byte(min(255, int(pix[i+k])*255/a))
			}
		}
	}
	return pix
}

// heron is drawn at a part of its way, 0 to 1.
func heron(dc *gg.Context, at float64) {
	x := -60 + at*(wide+120)
	y := high/2 + 14*math.Sin(at*2*math.Pi)
	beat := math.Sin(at * 8 * math.Pi)
	dc.SetHexColor("#b3c2bc")
	dc.MoveTo(x-4, y)
	dc.QuadraticTo(x-18, y-50*beat, x-42, y-58*beat)
	dc.QuadraticTo(x-26, y-14*beat, x+14, y)
	dc.Fill()
	dc.SetHexColor("#f4ecdd")
	dc.DrawEllipse(x, y, 34, 11)
	dc.Fill()
	dc.SetLineWidth(9)
	dc.MoveTo(x+28, y-2)
	dc.QuadraticTo(x+46, y+6, x+52, y-10)
	dc.Stroke()
	dc.DrawCircle(x+54, y-12, 8)
	dc.Fill()
	dc.SetHexColor("#f6a821")
	dc.MoveTo(x+60, y-15)
	dc.LineTo(x+86, y-9)
	dc.LineTo(x+60, y-8)
	dc.Fill()
	dc.SetLineWidth(3)
	dc.DrawLine(x-30, y+3, x-62, y+10)
	dc.Stroke()
	dc.SetHexColor("#f4ecdd")
	dc.MoveTo(x+6, y-2)
	dc.QuadraticTo(x-6, y-62*beat, x-24, y-72*beat)
	dc.QuadraticTo(x+10, y-40*beat, x+24, y-2)
	dc.Fill()
}
