package reading

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/pointer"
)

// Service is how another service's messages come in: sent to a door of the kind "hook", or heard
// by one of the kind "listen".
type Service struct {
	Proof  Proof  `json:"proof,omitzero"` // of a hook: that it was them who sent it
	Listen Listen `json:"listen,omitzero"`
	Repeat Repeat `json:"repeat,omitzero"`
}

// Proof is how a message sent to a hook proves where it comes from.
type Proof struct {
	How              string  `json:"how,omitempty" jsonschema:"enum=hmac,enum=token,enum=webhook"`
	Header           string  `json:"header,omitempty"`                                               // hmac, token: the header it stands in; of a token none is in the address, as ?key=
	Encoding         string  `json:"encoding,omitempty" jsonschema:"enum=hex,enum=base64"`           // hmac; none is hex
	Prefix           string  `json:"prefix,omitempty"`                                               // hmac: what stands before it: "sha256="
	TimeHeader       string  `json:"timeHeader,omitempty"`                                           // hmac: with when it was sent, in seconds since 1970, which is signed too
	Signed           string  `json:"signed,omitempty"`                                               // hmac: what is signed where there is a time; none is "{time}.{body}"
	ToleranceSeconds float64 `json:"toleranceSeconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // either way; none is five minutes
}

// How a message proves its origin.
const (
	HMAC    = "hmac"    // HMAC-SHA-256 of the body (RFC 2104) in a header
	Token   = "token"   // a secret word in a header or in the address
	Webhook = "webhook" // as Standard Webhooks has it
)

// Listen is where a service is listened to: a WebSocket (RFC 6455) at ws or wss, an event stream
// (text/event-stream, as the HTML standard has it) at http or https. {token} in the address or
// the greeting is where the token goes; else it is sent as a bearer token (RFC 6750).
type Listen struct {
	Address      string  `json:"address,omitempty"`
	Greeting     string  `json:"greeting,omitempty"`                                         // said once the way is open; WebSocket alone
	Alive        string  `json:"alive,omitempty"`                                            // said now and then; none is the WebSocket's own ping
	AliveSeconds float64 `json:"aliveSeconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // how often; a way on which nothing came for twice as long is opened anew; none is half a minute
}

// Repeat is when a message is one that came before.
type Repeat struct {
	At      string  `json:"at,omitempty"`                                          // pointer to its own id
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // without one: the same bytes within so long; none is five minutes
}

// Usual values.
const (
	UsualTolerance = 300 // seconds
	UsualRepeat    = 300
	UsualAlive     = 30
)

// mostPiece is how many bytes a piece of a service's setting may have.
const mostPiece = 2000

// Check tells every fault by its field, with a remedy. kind is the door's.
func (s *Service) Check(kind string, fault func(at, what, remedy string)) {
	p, l := &s.Proof, &s.Listen
	for at, text := range map[string]string{"proof.header": p.Header, "proof.prefix": p.Prefix, "proof.timeHeader": p.TimeHeader, "proof.signed": p.Signed, "listen.address": l.Address, "listen.greeting": l.Greeting, "listen.alive": l.Alive} {
		if len(text) > mostPiece || strings.ContainsAny(text, "\r\n") && at != "listen.greeting" && at != "listen.alive" {
			fault(at, "is too long or of several lines", fmt.Sprintf("use at most %d bytes on one line", mostPiece))
		}
	}
	for at, name := range map[string]string{"proof.header": p.Header, "proof.timeHeader": p.TimeHeader} {
		if strings.ContainsAny(name, " :") {
			fault(at, "is no name of a header", `write the name alone: "X-Signature"`)
		}
	}
	if kind == "hook" {
		switch {
		case !slices.Contains([]string{"", HMAC, Token, Webhook}, p.How):
			fault("proof.how", fmt.Sprintf("%q proves nothing", p.How), "use hmac, token or webhook")
		case p.How == HMAC && p.Header == "":
			fault("proof.header", "is missing", "name the header that the signature stands in")
		case p.Encoding != "" && p.Encoding != "hex" && p.Encoding != "base64":
			fault("proof.encoding", fmt.Sprintf("%q is not known", p.Encoding), "use hex or base64")
		case p.ToleranceSeconds < 0 || p.ToleranceSeconds > 3600:
			fault("proof.toleranceSeconds", "is out of range", "use 0 to 3600 seconds")
		case p.Signed != "" && !(strings.Contains(p.Signed, "{time}") && strings.Contains(p.Signed, "{body}")):
			fault("proof.signed", "leaves something unsigned", `write both {time} and {body}: "{time}.{body}"`)
		}
	}
	if kind == "listen" {
		scheme, rest, _ := strings.Cut(l.Address, "://")
		switch {
		case l.Address != "" && (!slices.Contains([]string{"ws", "wss", "http", "https"}, scheme) || rest == "" || strings.ContainsAny(rest, " @")):
			fault("listen.address", "is nothing to listen to", "write a WebSocket's address (wss://…) or an event stream's (https://…)")
		case l.AliveSeconds < 0 || l.AliveSeconds > 3600:
			fault("listen.aliveSeconds", "is out of range", "use 0 to 3600 seconds")
		}
	}
	if s.Repeat.Seconds < 0 || s.Repeat.Seconds > 3600 {
		fault("repeat.seconds", "is out of range", "use 0 to 3600 seconds")
	}
	if err := pointer.Check(s.Repeat.At); err != nil {
		fault("repeat.at", err.Error(), "point at the message's own id")
	}
}
