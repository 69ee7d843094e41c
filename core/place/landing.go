package place

import (
	"encoding/json"

	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/core/wording"
)

// landing is a landing of a community server that the house is signed in to. What is made for it is a [Post]; in which
// form the server takes it is told by the server's profile.
var landing = &Kind{Name: "landing", Safe: postSafe, Chosen: func(p *Place) bool { return p.Landing != "" },
	Check: func(p *Place, fault func(at, what, remedy string)) {
		if p.Platform == "" {
			fault("platform", "does not say which community server it is at", "choose one that the house is signed in to")
		}
		if p.Landing == "" {
			fault("landing", "does not say which landing it is", "choose one from the list")
		}
	},
	Render: func(_ *Place, args wording.Args) (json.RawMessage, error) {
		return json.Marshal(Post{Text: args["text"].Text, Title: args["title"].Text, Category: args["category"].Text, Link: args["link"].Text, Call: args["call"].Text, Picture: args["picture"].Text})
	},
	Cannot: func(p *Place, what string, of func(string) *profile.Profile) string {
		c := of(p.Platform).Community
		switch {
		case c == nil:
			return plain.Titled(p.Platform) + " is no community server that the house knows of"
		case what == "edit" && c.Edit == "":
			return "what stands there cannot be changed"
		case what == "under" && !c.Under:
			return usually[what]
		case what == "edit" || what == "under" || what == "call" || what == "picture":
			return ""
		}
		return usually[what]
	}}

// Post is what is posted at a landing, or by a social account.
type Post struct {
	Text     string `json:"text"`
	Title    string `json:"title,omitempty"`
	Category string `json:"category,omitempty"`
	Link     string `json:"link,omitempty"`
	Call     string `json:"call,omitempty"`    // the group that is called
	Picture  string `json:"picture,omitempty"` // what is drawn: see [Drawn]

	// Of a social account.
	Does  string `json:"does,omitempty"`  // "message", "picture" or "banner"; none is a post
	To    string `json:"to,omitempty"`    // whom a message is for
	Shelf string `json:"shelf,omitempty"` // the picture on the shelf
}

// Form fills the form in which a site takes a post. picture is a file as base64, under the id of what it stands
// under; what stays empty is left out.
func (p *Post) Form(form json.RawMessage, picture, under string) (json.RawMessage, error) {
	var body any
	if err := json.Unmarshal(form, &body); err != nil {
		return nil, err
	}
	args := wording.Args{}
	for name, text := range map[string]string{"text": p.Text, "title": p.Title, "category": p.Category, "link": p.Link, "call": p.Call, "to": p.To, "picture": picture, "under": under} {
		args.Maybe(name, wording.Value{Text: text})
	}
	body, err := filled(body, args)
	if err != nil {
		return nil, err
	}
	return json.Marshal(withoutEmpty(body))
}

// withoutEmpty leaves out of a JSON value what is empty.
func withoutEmpty(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for k := range v {
			if v[k] = withoutEmpty(v[k]); isEmpty(v[k]) {
				delete(v, k)
			}
		}
	case []any:
		out := []any{}
		for _, x := range v {
			if x = withoutEmpty(x); !isEmpty(x) {
				out = append(out, x)
			}
		}
		return out
	}
	return v
}

func isEmpty(v any) bool {
	switch v := v.(type) {
	case nil:
		return true
	case string:
		return v == ""
	case map[string]any:
		return len(v) == 0
	case []any:
		return len(v) == 0
	}
	return false
}
