package profile

import (
	"encoding/json"
	"strings"
)

// Social is how a social site is posted to by who signed in there. Each body is JSON whose texts are wordings.
type Social struct {
	Post    Send   `json:"post"`              // with {text}
	ID      string `json:"id,omitempty"`      // pointer to a post's id in the answer
	Limit   int    `json:"limit,omitempty"`   // characters a post may have; 0 is not known
	Message *Send  `json:"message,omitempty"` // to one person, with {to} and {text}; nil cannot be
	Picture *Send  `json:"picture,omitempty"` // the account's own, with {picture}: a file as base64
	Banner  *Send  `json:"banner,omitempty"`  // with {picture}
}

// Send is one thing that can be sent: where to, and in what form.
type Send struct {
	Address string          `json:"address"`
	Method  string          `json:"method,omitempty"` // none is POST
	Body    json.RawMessage `json:"body"`
}

// Sending is how something is sent; nil for what the site cannot.
func (s *Social) Sending(does string) *Send {
	switch does {
	case "":
		return &s.Post
	case "message":
		return s.Message
	case "picture":
		return s.Picture
	case "banner":
		return s.Banner
	}
	return nil
}

func (s *Social) check(address func(at, a string, needed bool), points func(at, to string, needed bool), fault func(at, what, remedy string)) {
	points("social.id", s.ID, false)
	if s.Limit < 0 || s.Limit > 100_000 {
		fault("social.limit", "is out of range", "use 0 to 100000 characters")
	}
	for _, x := range []struct{ at, does, needs string }{{"post", "", "{text}"}, {"message", "message", "{to}"}, {"picture", "picture", "{picture}"}, {"banner", "banner", "{picture}"}} {
		send := s.Sending(x.does)
		if send == nil {
			continue
		}
		address("social."+x.at+".address", send.Address, true)
		if m := send.Method; m != "" && m != "POST" && m != "PUT" && m != "PATCH" {
			fault("social."+x.at+".method", "is not known", "use POST, PUT or PATCH")
		}
		var body map[string]any
		if json.Unmarshal(send.Body, &body) != nil || !strings.Contains(string(send.Body), x.needs) {
			fault("social."+x.at+".body", "is no JSON object with "+x.needs+" in it", "write what the site takes")
		}
	}
}

// leads are the addresses that it leads to.
func (s *Social) leads() (out []string) {
	for _, does := range []string{"", "message", "picture", "banner"} {
		if send := s.Sending(does); send != nil {
			out = append(out, send.Address)
		}
	}
	return out
}
