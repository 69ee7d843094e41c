package places

import (
	"bytes"
	"context"
	"fmt"
	"image"
	_ "image/gif" // pictures that people have
	_ "image/jpeg"
	_ "image/png"
	"io"
	"net/http"
	"time"

	_ "golang.org/x/image/webp"

	"vividporch/core/happening"
	"vividporch/core/place"
	"vividporch/core/room"
	"vividporch/core/wording"
	"vividporch/formats/welcome"
)

// Bounds of a picture that is fetched.
const (
	faceWithin = 5 * time.Second
	mostFace   = 4 << 20 // bytes
	mostSide   = 4096    // pixels
)

// Picture draws what a post keeps of a picture. A face that cannot be fetched is drawn as the first letters of the name:
// nobody waits for their welcome because a picture is gone.
func (s *signed) Picture(ctx context.Context, of string) ([]byte, error) {
	d, err := place.ReadDrawn(of)
	if err != nil {
		return nil, err
	}
	c := welcome.Card{Name: d.Name, Text: d.Text, Ground: d.Ground, Frame: d.Frame, At: d.At}
	if d.Face != "" {
		c.Face, _ = s.face(ctx, d.Face)
	}
	if d.Shelf != "" {
		if m, err := s.shelf(ctx, d.Shelf); err == nil {
			c.Picture, _ = picture(m)
		}
	}
	var out bytes.Buffer
	err = welcome.Draw(&out, c)
	return out.Bytes(), err
}

// face fetches somebody's picture.
func (s *signed) face(ctx context.Context, at string) (image.Image, error) {
	ctx, cancel := context.WithTimeout(ctx, faceWithin)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return nil, err
	}
	res, err := s.http.Do(req)
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("the picture's site answered %d", res.StatusCode)
	}
	raw, err := io.ReadAll(io.LimitReader(res.Body, mostFace))
	if err != nil {
		return nil, err
	}
	return picture(raw)
}

// picture reads a picture, unless it is one that would fill the memory.
func picture(raw []byte) (image.Image, error) {
	conf, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return nil, err
	}
	if conf.Width < 1 || conf.Height < 1 || conf.Width > mostSide || conf.Height > mostSide {
		return nil, fmt.Errorf("a picture of %d by %d is too large", conf.Width, conf.Height)
	}
	img, _, err := image.Decode(bytes.NewReader(raw))
	return img, err
}

// Sample draws a picture as it would be drawn for somebody of a name, to be looked at while it is set up: with the words of
// a courtesy of a when. Words that are not right yet say what is wrong.
func (p *Places) Sample(ctx context.Context, d place.Drawn, when, words string) ([]byte, error) {
	d.Face = "" // nobody's
	switch w, err := wording.Parse(words); {
	case err != nil:
		d.Text = err.Error()
	case happening.Of(when).IsWhen():
		d.Text = w.Render(room.SampleArgs(p.cfg.Plan(), when, room.Sample{Name: d.Name, Streams: 1}))
	default:
		d.Text = w.Render(nil)
	}
	return p.cfg.Signed.Picture(ctx, d.String())
}
