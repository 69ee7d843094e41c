package standin

import (
	"hash/fnv"
	"image"
	"image/color"
	"image/png"
	"net/http"
)

// face draws somebody's picture: a small mosaic of shells, the same for the same name.
func face(w http.ResponseWriter, r *http.Request) {
	h := fnv.New64a()
	h.Write([]byte(r.PathValue("file")))
	bits := h.Sum64()
	shells := []color.RGBA{{0xf6, 0xa8, 0x21, 0xff}, {0x6c, 0xbb, 0x83, 0xff}, {0x4b, 0xb9, 0xc8, 0xff}, {0xdb, 0x8e, 0x84, 0xff}}
	mine, ground := shells[bits&3], color.RGBA{0x14, 0x3a, 0x42, 0xff}
	const side, cells = 200, 5
	img := image.NewRGBA(image.Rect(0, 0, side, side))
	for y := range side {
		for x := range side {
			cx, cy := x*cells/side, y*cells/side
			cx = min(cx, cells-1-cx) // the same on both sides
			c := ground
			if bits>>(2+uint(cy*3+cx))&1 == 1 {
				c = mine
			}
			img.SetRGBA(x, y, c)
		}
	}
	w.Header().Set("Content-Type", "image/png")
	png.Encode(w, img)
}
