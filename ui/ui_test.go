package ui_test

import (
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// luminance is the relative luminance of a colour (WCAG 2.2).
func luminance(hex string) float64 {
	v, _ := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
	part := func(c uint64) float64 {
		s := float64(c&255) / 255
		if s <= 0.04045 {
			return s / 12.92
		}
		return math.Pow((s+0.055)/1.055, 2.4)
	}
	return 0.2126*part(v>>16) + 0.7152*part(v>>8) + 0.0722*part(v)
}

func contrast(a, b string) float64 {
	x, y := luminance(a), luminance(b)
	return (math.Max(x, y) + 0.05) / (math.Min(x, y) + 0.05)
}

func TestEveryTextCanBeReadOnEveryGroundInBothThemes(t *testing.T) {
	raw, err := os.ReadFile("src/tokens.css")
	if err != nil {
		t.Fatal(err)
	}
	dusk, linen, ok := strings.Cut(string(raw), `[data-theme="linen"]`)
	if !ok {
		t.Fatal("the tokens have no linen theme")
	}
	token := regexp.MustCompile(`--color-([a-z0-9-]+):\s*(#[0-9a-f]{6})`)
	values := map[string]string{}
	for name, css := range map[string]string{"dusk": dusk, "linen": dusk + linen} {
		for _, m := range token.FindAllStringSubmatch(css, -1) {
			values[m[1]] = m[2]
		}
		for _, text := range []string{"text", "text-2", "text-3", "marigold", "persimmon", "fern", "lagoon", "rose-clay"} {
			for _, ground := range []string{"ground", "surface", "surface-2"} {
				if c := contrast(values[text], values[ground]); c < 4.5 {
					t.Errorf("%s: %s on %s has a contrast of %.2f, less than 4.5", name, text, ground, c)
				}
			}
		}
		for _, pair := range [][2]string{{"lagoon", "lagoon-soft"}, {"persimmon", "persimmon-soft"}, {"text", "persimmon-soft"}, {"text", "marigold-soft"}, {"text-2", "marigold-soft"}} {
			if c := contrast(values[pair[0]], values[pair[1]]); c < 4.5 {
				t.Errorf("%s: %s on %s has a contrast of %.2f, less than 4.5", name, pair[0], pair[1], c)
			}
		}
		if c := contrast(values["on-lamp"], values["lamp"]); c < 4.5 {
			t.Errorf("%s: the text of lit buttons has a contrast of %.2f", name, c)
		}
	}
}

func TestHexesLiveInTheTokensAlone(t *testing.T) {
	hex := regexp.MustCompile(`#[0-9a-fA-F]{6}\b`)
	err := filepath.WalkDir("src", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || path == filepath.Join("src", "tokens.css") || strings.Contains(path, ".test.") {
			return err
		}
		raw, err := os.ReadFile(path)
		for _, h := range hex.FindAllString(string(raw), -1) {
			if h != lampAsGiven {
				t.Errorf("%s has a colour of its own: %s", path, h)
			}
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// lampAsGiven is no colour of the page: what a lamp on the stage is lit in, until another is chosen.
const lampAsGiven = "#f2b53c"
