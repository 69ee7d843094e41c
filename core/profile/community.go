package profile

import (
	"encoding/json"
	"fmt"
	"strings"

	"vividporch/core/pointer"
)

// Community is how a community server is posted to by who signed in there. In its addresses {landing} is one of its
// landings and {post} something that was posted.
type Community struct {
	Landings Landings        `json:"landings"`
	Post     string          `json:"post"`            // where one posts, with POST
	Edit     string          `json:"edit,omitempty"`  // where a post is changed, with PATCH; none cannot be
	ID       string          `json:"id"`              // pointer to a post's id in the answer
	Under    bool            `json:"under,omitempty"` // a post may stand under another one
	Body     json.RawMessage `json:"body"`            // what is sent: JSON whose texts are wordings with {text}, {title}, {category}, {link}, {call}, {picture} (PNG as base64), {under}; what stays empty is left out
}

// Landings are where a community server tells of its landings, and what each pointer leads to in each of them.
type Landings struct {
	Address string            `json:"address"`
	Each    string            `json:"each"` // pointer to the list
	ID      string            `json:"id"`   // pointers into each
	Title   string            `json:"title"`
	Rights  string            `json:"rights"` // the list of what the account that asks may do there
	Words   map[string]string `json:"words"`  // the server's word for a right → ours
}

// Rights are what one may be allowed at a landing, in the order in which they are shown, and what it is called.
var Rights = []struct{ Name, Words string }{{MayWrite, "may write"}, {MayPicture, "may hang pictures"}, {MayCall, "may call people"}}

// The rights.
const (
	MayWrite   = "write"
	MayPicture = "picture"
	MayCall    = "call"
)

// ForPosts is what a permission is for that lets the house post at a community server.
const ForPosts = "posts"

// check tells what is wrong with it.
func (c *Community) check(address func(at, a string, needed bool), points func(at, to string, needed bool), fault func(at, what, remedy string)) {
	address("community.landings.address", c.Landings.Address, true)
	address("community.post", c.Post, true)
	address("community.edit", c.Edit, false)
	points("community.landings.each", c.Landings.Each, false)
	points("community.landings.id", c.Landings.ID, true)
	points("community.landings.title", c.Landings.Title, false)
	points("community.landings.rights", c.Landings.Rights, false)
	points("community.id", c.ID, c.Edit != "" || c.Under)
	if !strings.Contains(c.Post, "{landing}") {
		fault("community.post", "does not say where", "write {landing} where the landing's id goes")
	}
	if c.Edit != "" && !strings.Contains(c.Edit, "{post}") {
		fault("community.edit", "does not say what", "write {post} where the post's id goes")
	}
	var body map[string]any
	if json.Unmarshal(c.Body, &body) != nil || !strings.Contains(string(c.Body), "{text}") {
		fault("community.body", "is no JSON object with {text} in it", `write what the server takes: {"message": "{text}"}`)
	}
	for theirs, ours := range c.Landings.Words {
		if ours != MayWrite && ours != MayPicture && ours != MayCall {
			fault("community.landings.words."+theirs, fmt.Sprintf("%q is no right", ours), "use write, picture or call")
		}
	}
}

// Landing is one landing of a community server, as its account is told of it.
type Landing struct {
	ID, Title string
	May       map[string]bool // our word for a right → whether the account has it
}

// textAt is the text that a pointer leads to; "" for none.
func textAt(v any, to string) string {
	if at, ok := pointer.Get(v, to); ok && to != "" {
		text, _ := pointer.Text(at)
		return text
	}
	return ""
}

// PostID is the id of what was posted, as the server answers it.
func (c *Community) PostID(answer any) string { return textAt(answer, c.ID) }

// Read reads the landings out of the server's answer.
func (l *Landings) Read(answer any) (out []Landing) {
	at, _ := pointer.Get(answer, l.Each)
	list, _ := at.([]any)
	for _, x := range list {
		one := Landing{ID: textAt(x, l.ID), Title: textAt(x, l.Title), May: map[string]bool{}}
		if one.ID == "" {
			continue
		}
		rights, _ := pointer.Get(x, l.Rights)
		has, _ := rights.([]any)
		for _, r := range has {
			if theirs, ok := r.(string); ok && l.Words[theirs] != "" {
				one.May[l.Words[theirs]] = true
			}
		}
		if one.Title == "" {
			one.Title = one.ID
		}
		out = append(out, one)
	}
	return out
}
