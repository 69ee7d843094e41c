// Package irc is the house's door to a chat network: a client for IRC as in RFC
// 2812, with IRCv3 message tags, capability negotiation and SASL PLAIN
// (https://ircv3.net/specs/).
//
// [Client] keeps one connection alive and hands on what is said; [ParseMessage]
// and [Message.String] are the line codec; [Split] cuts what the house says to
// what the network takes.
package irc

import (
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
)

// Limits of a line in bytes, line end included: RFC 2812 section 2.3 for the
// message, IRCv3 message-tags for the tags a server may send.
const (
	MaxMessage = 512
	MaxTags    = 8191
	MaxParams  = 15
)

// Message is one line of IRC without its line end.
type Message struct {
	Tags    map[string]string // unescaped; nil when there are none
	Source  string            // without the colon; "" for none
	Command string            // upper case, or three digits
	Params  []string
}

// Errors of the codec.
var (
	ErrEmpty   = errors.New("irc: the line is empty")
	ErrTooLong = errors.New("irc: the line is longer than the protocol allows")
	ErrBytes   = errors.New("irc: the line holds a NUL, CR or LF")
)

// Nick is the nickname part of the source.
func (m *Message) Nick() string {
	if i := strings.IndexAny(m.Source, "!@"); i >= 0 {
		return m.Source[:i]
	}
	return m.Source
}

// Param returns the i-th parameter, or "".
func (m *Message) Param(i int) string {
	if i < len(m.Params) {
		return m.Params[i]
	}
	return ""
}

// Last returns the last parameter, or "".
func (m *Message) Last() string { return m.Param(len(m.Params) - 1) }

// ParseMessage reads one line; a line end at its end is taken off.
func ParseMessage(line string) (Message, error) {
	line = strings.TrimRight(line, "\r\n")
	var m Message
	if strings.ContainsAny(line, "\x00\r\n") {
		return m, ErrBytes
	}
	rest := line
	if strings.HasPrefix(rest, "@") {
		tags, after, ok := strings.Cut(rest[1:], " ")
		if !ok {
			return m, ErrEmpty
		}
		if len(tags)+2 > MaxTags {
			return m, ErrTooLong
		}
		m.Tags = parseTags(tags)
		rest = strings.TrimLeft(after, " ")
	}
	if len(rest)+2 > MaxMessage {
		return m, ErrTooLong
	}
	if strings.HasPrefix(rest, ":") {
		m.Source, rest, _ = strings.Cut(rest[1:], " ")
		rest = strings.TrimLeft(rest, " ")
	}
	cmd, rest, _ := strings.Cut(rest, " ")
	if cmd == "" {
		return m, ErrEmpty
	}
	for _, c := range []byte(cmd) {
		if !(c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z' || c >= '0' && c <= '9') {
			return m, fmt.Errorf("irc: %.20q is no command", cmd)
		}
	}
	m.Command = strings.ToUpper(cmd)
	for {
		rest = strings.TrimLeft(rest, " ")
		if rest == "" {
			return m, nil
		}
		if rest[0] == ':' {
			m.Params = append(m.Params, rest[1:])
			return m, nil
		}
		if len(m.Params) == MaxParams-1 {
			m.Params = append(m.Params, rest)
			return m, nil
		}
		var p string
		p, rest, _ = strings.Cut(rest, " ")
		m.Params = append(m.Params, p)
	}
}

func parseTags(s string) map[string]string {
	tags := map[string]string{}
	for _, t := range strings.Split(s, ";") {
		k, v, _ := strings.Cut(t, "=")
		if k != "" {
			tags[k] = unescape(v)
		}
	}
	if len(tags) == 0 {
		return nil
	}
	return tags
}

// unescape undoes the escapes of IRCv3 message tags; a lone backslash at the end
// is dropped and an unknown escape is the character itself.
func unescape(v string) string {
	if !strings.Contains(v, `\`) {
		return v
	}
	var b strings.Builder
	for i := 0; i < len(v); i++ {
		if v[i] != '\\' {
			b.WriteByte(v[i])
			continue
		}
		if i++; i == len(v) {
			break
		}
		switch v[i] {
		case ':':
			b.WriteByte(';')
		case 's':
			b.WriteByte(' ')
		case 'r':
			b.WriteByte('\r')
		case 'n':
			b.WriteByte('\n')
		default:
			b.WriteByte(v[i])
		}
	}
	return b.String()
}

var escaper = strings.NewReplacer(`\`, `\\`, ";", `\:`, " ", `\s`, "\r", `\r`, "\n", `\n`)

// Check reports what would make the message unreadable as one line: line ends or
// NULs in it, a parameter but the last that is empty, starts with a colon or
// holds a space, or too many parameters.
func (m *Message) Check() error {
	for i, p := range m.Params {
		if strings.ContainsAny(p, "\x00\r\n") {
			return ErrBytes
		}
		if i < len(m.Params)-1 && (p == "" || p[0] == ':' || strings.Contains(p, " ")) {
			return fmt.Errorf("irc: parameter %d cannot stand in the middle: %.20q", i, p)
		}
	}
	switch {
	case len(m.Params) > MaxParams:
		return fmt.Errorf("irc: more than %d parameters", MaxParams)
	case strings.ContainsAny(m.Source+m.Command, "\x00\r\n "):
		return ErrBytes
	case m.Command == "":
		return ErrEmpty
	}
	return nil
}

// String writes the message as one line without its end. The last parameter
// always goes behind a colon.
func (m *Message) String() string {
	var b strings.Builder
	if len(m.Tags) > 0 {
		keys := make([]string, 0, len(m.Tags))
		for k := range m.Tags {
			keys = append(keys, k)
		}
		sort.Strings(keys)
		for i, k := range keys {
			b.WriteByte("@;"[min(i, 1)])
			b.WriteString(k)
			if v := m.Tags[k]; v != "" {
				b.WriteByte('=')
				b.WriteString(escaper.Replace(v))
			}
		}
		b.WriteByte(' ')
	}
	if m.Source != "" {
		b.WriteByte(':')
		b.WriteString(m.Source)
		b.WriteByte(' ')
	}
	b.WriteString(m.Command)
	for i, p := range m.Params {
		b.WriteByte(' ')
		if i == len(m.Params)-1 {
			b.WriteByte(':')
		}
		b.WriteString(p)
	}
	return b.String()
}

// Equal reports whether two messages say the same.
func (m *Message) Equal(o *Message) bool {
	if m.Source != o.Source || m.Command != o.Command || len(m.Tags) != len(o.Tags) || !slices.Equal(m.Params, o.Params) {
		return false
	}
	for k, v := range m.Tags {
		if w, ok := o.Tags[k]; !ok || v != w {
			return false
		}
	}
	return true
}
