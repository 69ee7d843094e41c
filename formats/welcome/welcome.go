// Package welcome draws the picture that welcomes somebody: their own picture in the frame of a lantern, or else the
// first letters of their name, with their name and a few words beside it, as PNG.
//
// Names come in any script, with emoji, from right to left and at any length: what does not fit is set smaller, and
// what does not fit then is cut in its middle. The fonts ship with the house (SIL Open Font License 1.1).
package welcome

import (
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"strings"

	"vividporch/core/plain"

	"github.com/fogleman/gg"
	"golang.org/x/image/draw"
)

// Width and Height are the size of a picture, in pixels.
const (
	Width  = 1000
	Height = 400
)

// Card is what is drawn. Nothing in it is wrong: what is not known is drawn as usual.
type Card struct {
	Name    string
	Text    string      // a few words beside the name
	Face    image.Image // their own picture; nil for the first letters of their name
	Ground  string      // Dusk, Linen or Tide; Picture's, where there is one
	Picture image.Image // behind everything; nil for none
	Frame   string      // Cord, Board or None
	At      string      // where the lantern hangs: Left, Middle or Right
}

// Grounds, frames and places of the lantern. The first of each is usual.
const (
	Dusk, Linen, Tide   = "dusk", "linen", "tide"
	Cord, Board, None   = "cord", "board", "none"
	Left, Middle, Right = "left", "middle", "right"
)

// look are the colours of a ground: those of the house's own themes.
type look struct{ top, foot, hill, line, text, soft, light color.Color }

func hex(s string) color.Color {
	c := gg.NewContext(1, 1)
	c.SetHexColor(s)
	c.SetPixel(0, 0)
	return c.Image().At(0, 0)
}

// ink is written on the lamp's light, whatever the ground.
var ink = hex("#1c1405")

var looks = map[string]look{
	Dusk:  {hex("#0e1d20"), hex("#1b3539"), hex("#15292c"), hex("#284549"), hex("#f4ecdd"), hex("#b3c2bc"), hex("#f6a821")},
	Linen: {hex("#fffdf7"), hex("#efe7d8"), hex("#faf5ea"), hex("#d9cdb8"), hex("#1b2d30"), hex("#45595b"), hex("#f6a821")},
	Tide:  {hex("#143a42"), hex("#0b6272"), hex("#12505b"), hex("#4bb9c8"), hex("#f4ecdd"), hex("#d3ecee"), hex("#f6a821")},
}

// Draw writes the picture.
func Draw(w io.Writer, c Card) error {
	l, ok := looks[c.Ground]
	if !ok {
		l = looks[Dusk]
	}
	dc := gg.NewContext(Width, Height)
	ground(dc, l, c.Picture)
	const size = 190.0 // of the lantern
	x, textX, wide := 150.0, 290.0, 640.0
	centred := false
	switch c.At {
	case Right:
		x, textX, wide = Width-150, 70, 640
	case Middle:
		x, textX, wide, centred = Width/2, 70, Width-140, true
	}
	y := Height/2 + 8.0
	if centred {
		y = 128
	}
	if c.Frame == Board {
		board(dc, l, textX-24, map[bool]float64{true: 222, false: 108}[centred], wide+48, map[bool]float64{true: 132, false: 190}[centred])
	}
	lantern(dc, l, c, x, y, map[bool]float64{true: 136, false: size}[centred])
	img := dc.Image().(draw.Image)
	name, text := strings.TrimSpace(c.Name), strings.TrimSpace(c.Text)
	if centred {
		bottom := write(img, name, heading, 46, 24, 1, l.text, int(textX), 228, int(wide), true)
		write(img, text, body, 24, 18, 2, l.soft, int(textX), bottom+4, int(wide), true)
	} else {
		top := 130
		if text == "" {
			top = 168
		}
		bottom := write(img, name, heading, 58, 26, 1, l.text, int(textX), top, int(wide), false)
		write(img, text, body, 28, 18, 3, l.soft, int(textX), bottom+10, int(wide), false)
	}
	return png.Encode(w, img)
}

// ground is an evening shore, or a picture that fills everything, darkened so that words can be read.
func ground(dc *gg.Context, l look, picture image.Image) {
	if picture != nil {
		filled := fill(picture, Width, Height)
		dc.DrawImage(filled, 0, 0)
		r, g, b, _ := l.top.RGBA()
		dc.SetRGBA(float64(r)/0xffff, float64(g)/0xffff, float64(b)/0xffff, 0.62)
		dc.DrawRectangle(0, 0, Width, Height)
		dc.Fill()
		return
	}
	sky := gg.NewLinearGradient(0, 0, 0, Height)
	sky.AddColorStop(0, l.top)
	sky.AddColorStop(1, l.foot)
	dc.SetFillStyle(sky)
	dc.DrawRectangle(0, 0, Width, Height)
	dc.Fill()
	for i, h := range []float64{358, 374, 388} { // three tide lines
		dc.MoveTo(0, Height)
		dc.LineTo(0, h)
		for x := 0.0; x <= Width; x += 10 {
			dc.LineTo(x, h+7*math.Sin(x/(90+30*float64(i))+float64(i)*1.7))
		}
		dc.LineTo(Width, Height)
		dc.ClosePath()
		dc.SetColor(l.hill)
		dc.FillPreserve()
		dc.SetColor(l.line)
		dc.SetLineWidth(1.5)
		dc.Stroke()
	}
}

// board is a plank behind the words, hung by two cords.
func board(dc *gg.Context, l look, x, y, w, h float64) {
	dc.SetColor(l.line)
	dc.SetLineWidth(2)
	for _, at := range []float64{x + 40, x + w - 40} {
		dc.DrawLine(at, 0, at, y)
		dc.Stroke()
	}
	dc.DrawRoundedRectangle(x, y, w, h, 14)
	dc.SetColor(l.hill)
	dc.FillPreserve()
	dc.SetColor(l.line)
	dc.Stroke()
}

// lantern is the mark of a person: a rounded lantern with their picture, or their first letters, in it.
func lantern(dc *gg.Context, l look, c Card, x, y, size float64) {
	w, h := size*0.84, size
	left, top := x-w/2, y-h/2
	dc.SetColor(l.light)
	dc.SetLineWidth(3)
	if c.Frame != None { // it hangs from the upper edge
		dc.DrawLine(x, 0, x, top-26)
		dc.Stroke()
		dc.DrawArc(x, top-14, 12, math.Pi, 2*math.Pi)
		dc.Stroke()
	}
	dc.DrawRoundedRectangle(left+w*0.2, top-14, w*0.6, 16, 6)
	dc.Fill()
	dc.DrawRoundedRectangle(left+w*0.24, top+h-2, w*0.52, 14, 6)
	dc.Fill()
	dc.DrawRoundedRectangle(left, top, w, h, w*0.3)
	dc.SetColor(l.light)
	dc.Fill()
	in := 8.0
	if c.Face != nil {
		dc.DrawRoundedRectangle(left+in, top+in, w-2*in, h-2*in, w*0.3-in)
		dc.Clip()
		dc.DrawImage(fill(c.Face, int(w-2*in), int(h-2*in)), int(left+in), int(top+in))
		dc.ResetClip()
		return
	}
	if first := plain.Initials(c.Name); first != "" {
		write(dc.Image().(draw.Image), first, heading, int(size*0.4), 20, 1, ink, int(left+in), int(y-size*0.26), int(w-2*in), true)
	}
}

// fill scales a picture so that it covers a box, and cuts what stands over.
func fill(src image.Image, w, h int) image.Image {
	b := src.Bounds()
	scale := max(float64(w)/float64(b.Dx()), float64(h)/float64(b.Dy()))
	cw, ch := int(float64(w)/scale), int(float64(h)/scale)
	x, y := b.Min.X+(b.Dx()-cw)/2, b.Min.Y+(b.Dy()-ch)/2
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.CatmullRom.Scale(out, out.Bounds(), src, image.Rect(x, y, x+max(1, cw), y+max(1, ch)), draw.Src, nil)
	return out
}
