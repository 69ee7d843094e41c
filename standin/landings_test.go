package standin_test

import (
	"bytes"
	"encoding/base64"
	"encoding/json"
	"image"
	"image/png"
	"testing"

	"vividporch/core/place"
	"vividporch/core/profile"
)

// The form in which the shipped profile has the boathouse take a post is the one it takes.
func TestAPostInTheProfilesFormIsWhatTheBoathouseTakes(t *testing.T) {
	c := profile.Of(nil, "boathouse").Community
	var pic bytes.Buffer
	png.Encode(&pic, image.NewGray(image.Rect(0, 0, 2, 2)))
	for name, c := range map[string]struct {
		post           place.Post
		picture, under string
		want           string
	}{
		"a text alone":      {place.Post{Text: "The tide \"turns\""}, "", "", `{"message":"The tide \"turns\""}`},
		"an announcement":   {place.Post{Text: "Live", Title: "Low water", Category: "Field", Link: "https://a.example", Call: "all"}, "", "", `{"board":{"heading":"Low water","line":"Field","link":"https://a.example"},"may-ring":["all"],"message":"@all Live"}`},
		"under another":     {place.Post{Text: "It was"}, "", "post-1", `{"message":"It was","under":"post-1"}`},
		"with a picture":    {place.Post{Text: "Welcome"}, base64.StdEncoding.EncodeToString(pic.Bytes())[:8], "", `{"message":"Welcome","picture":"iVBORw0K"}`},
		"a title of braces": {place.Post{Text: "{call} {text}"}, "", "", `{"message":"{call} {text}"}`},
	} {
		t.Run(name, func(t *testing.T) {
			body, err := c.post.Form(profile.Of(nil, "boathouse").Community.Body, c.picture, c.under)
			if err != nil || string(body) != c.want {
				t.Errorf("%v %s", err, body)
			}
		})
	}
	var answer any
	json.Unmarshal([]byte(`{"landings": [{"id": "news", "title": "News", "may": ["write", "call", "sweep"]}, {"title": "no id"}]}`), &answer)
	list := c.Landings.Read(answer)
	if len(list) != 1 || list[0].ID != "news" || !list[0].May["write"] || !list[0].May["call"] || list[0].May["picture"] || len(list[0].May) != 2 {
		t.Errorf("%+v", list)
	}
}
