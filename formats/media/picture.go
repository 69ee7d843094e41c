package media

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image"
	_ "image/gif"
	_ "image/jpeg"
	_ "image/png"
	"io"
	"strconv"
	"strings"

	_ "golang.org/x/image/webp"
)

func picture(data []byte, kind string) (Info, error) {
	c, format, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return Info{}, unreadable(kind, err)
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
