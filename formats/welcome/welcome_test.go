package welcome

import (
	"bytes"
	"image"
	"image/png"
	"math/rand/v2"
	"testing"

	"vividporch/core/plain"
)

// people are names as they come.
var people = map[string]string{
	"plain":    "limpet_lena",
	"two":      "Odalys Brine",
	"long":     "the_very_long_handle_of_somebody_who_counts_every_barnacle_on_the_pier",
	"words":    "A person whose name is a whole sentence about the moths at the lantern in June",
	"arabic":   "فانوس البحر",
	"hebrew":   "מגדלור קטן",
	"mixed":    "Lena فانوس 42",
	"japanese": "灯台守のカモメ",
	"korean":   "바닷가 등불",
	"hindi":    "दीपक सागर",
	"thai":     "โคมไฟ ริมทะเล",
	"cyrillic": "Маяк Тихий",
	"greek":    "Φάρος",
	"viet":     "Ngọn Hải Đăng",
	"emoji":    "🦀 crab 🌊 lamp",
	"family":   "👨‍👩‍👧 tides",
	"marks":    "Z͑ͫ̓ͪ̂ͫ̽͏̴̙̤̞͉͚̯̞̠͍A̴̵̜̰͔ͫ͗͢L",
	"nothing":  "",
	"unknown":  "\U00012000\U00012001", // cuneiform, of which no font ships
}

func drawn(t *testing.T, c Card) image.Image {
	t.Helper()
	var b bytes.Buffer
	if err := Draw(&b, c); err != nil {
		t.Fatal(err)
	}
	img, err := png.Decode(&b)
	if err != nil || img.Bounds() != image.Rect(0, 0, Width, Height) {
		t.Fatalf("%v, %v", err, img.Bounds())
	}
	return img
}

// differs counts the pixels in a box in which two pictures differ.
func differs(a, b image.Image, in image.Rectangle) (n int) {
	for y := in.Min.Y; y < in.Max.Y; y++ {
		for x := in.Min.X; x < in.Max.X; x++ {
			if a.At(x, y) != b.At(x, y) {
				n++
			}
		}
	}
	return n
}

func TestEveryNameIsDrawnWithinThePicture(t *testing.T) {
	for _, at := range []string{Left, Middle, Right} {
		empty := drawn(t, Card{At: at})
		for name, who := range people {
			t.Run(at+" "+name, func(t *testing.T) {
				img := drawn(t, Card{Name: who, At: at})
				n := differs(img, empty, img.Bounds())
				switch {
				case name == "nothing" || name == "unknown":
				case n < 400:
					t.Errorf("%d pixels are of it", n)
				}
				for _, edge := range []image.Rectangle{image.Rect(0, 40, 40, Height), image.Rect(Width-40, 40, Width, Height)} {
					if n := differs(img, empty, edge); n > 0 {
						t.Errorf("%d pixels of it stand in the margin %v", n, edge)
					}
				}
			})
		}
	}
}

func TestALongNameIsSetSmallerAndThenCutInItsMiddle(t *testing.T) {
	f := facesOf(heading)
	for name, want := range map[string]bool{"plain": false, "long": true} {
		runes := f.known(people[name])
		set, cut := wrapped(f, runes, 26, 1, 640)
		if cut != want || len(set) != 1 {
			t.Errorf("%s: %d lines, cut %v", name, len(set), cut)
		}
	}
	text := []rune("the_first_and_the_last")
	for range 8 {
		text = shorter(text)
	}
	if got := string(text); got != "the_fir…he_last" {
		t.Errorf("cut to %q", got)
	}
}

func TestTheFirstLettersStandForWhoHasNoPicture(t *testing.T) {
	for name, want := range map[string]string{"limpet_lena": "LL", "Odalys Brine": "OB", "sandhopper9": "S", "فانوس البحر": "ف", "灯台守のカモメ": "灯", "🦀 crab": "C", "": "", "42 crabs": "4C", "🦀🦀": ""} {
		if got := plain.Initials(name); got != want {
			t.Errorf("%q has the letters %q, want %q", name, got, want)
		}
	}
}

func TestWhatNoFontHasLeavesNoEmptyBox(t *testing.T) {
	f := facesOf(body)
	if got := string(f.known("tide \U00012000\U00012001 pool")); got != "tide  pool" {
		t.Errorf("%q", got)
	}
	if direction([]rune("42 فانوس")) != direction([]rune("فانوس")) || direction([]rune("Lena فانوس")) == direction([]rune("فانوس")) {
		t.Error("the first letter says where a line begins")
	}
}

func TestAPictureOfTheirsHangsInTheLantern(t *testing.T) {
	red := image.NewRGBA(image.Rect(0, 0, 30, 90))
	for i := 0; i < len(red.Pix); i += 4 {
		red.Pix[i], red.Pix[i+3] = 0xff, 0xff
	}
	for at, x := range map[string]int{Left: 150, Middle: Width / 2, Right: Width - 150} {
		img := drawn(t, Card{Name: "Lena", Face: red, At: at, Picture: red})
		if r, g, b, _ := img.At(x, 150).RGBA(); r>>8 < 0xf0 || g>>8 > 0x20 || b>>8 > 0x20 {
			t.Errorf("%s: %d %d %d", at, r>>8, g>>8, b>>8)
		}
	}
}

// Whatever is in a name or a text, a picture comes of it.
func TestWhateverIsInANameAPictureComesOfIt(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 21))
	scripts := [][2]rune{{0x4e00, 0x9fff}, {0x3040, 0x30ff}, {0xac00, 0xd7a3}, {0x600, 0x6ff}, {0x900, 0x97f}, {0xe00, 0xe7f}, {0x1f300, 0x1faff}, {0x20, 0x7e}, {0x300, 0x36f}, {0x200b, 0x2060}, {0, 0x20}}
	text := func() string {
		var out []rune
		mixed, s := r.IntN(2) == 0, scripts[r.IntN(len(scripts))]
		for range r.IntN(90) {
			if mixed {
				s = scripts[r.IntN(len(scripts))]
			}
			out = append(out, s[0]+r.Int32N(s[1]-s[0]))
		}
		return string(out)
	}
	for range 24 {
		c := Card{Name: text(), Text: text(), At: []string{Left, Middle, Right}[r.IntN(3)]}
		t.Run("", func(t *testing.T) {
			defer func() {
				if e := recover(); e != nil {
					t.Errorf("%q, %q: %v", c.Name, c.Text, e)
				}
			}()
			drawn(t, c)
		})
	}
}
