package place

import (
	"encoding/json"
	"fmt"
	"strings"
	"unicode"

	"vividporch/core/plain"
	"vividporch/core/wording"
)

// irc is a channel of a chat network (RFC 2812), in which the house stands under a nick of its own.
var irc = &Kind{Name: "irc", Addressed: true, Secrets: []string{"password"}, Safe: ircSafe, Render: line,
	Check: func(p *Place, fault func(at, what, remedy string)) {
		talkAddress(p, fault, "irc", "ircs", "6697")
		if p.Room == "" || !strings.ContainsRune("#&+!", rune(p.Room[0])) || strings.ContainsAny(p.Room, " ,\x07\r\n\x00") || len(p.Room) > 50 {
			fault("room", fmt.Sprintf("%q is no channel", p.Room), "write it with its sign: #lamp-log")
		}
		if !isNick(p.Account) {
			fault("account", fmt.Sprintf("%q is no nick", p.Account), "use letters, digits, - and _, at most 30")
		}
	}}

// xmpp is a room of an XMPP server (XEP-0045), in which the house stands under the name of its account.
var xmpp = &Kind{Name: "xmpp", Addressed: true, Secrets: []string{"password"}, Safe: xmppSafe, Render: line,
	Check: func(p *Place, fault func(at, what, remedy string)) {
		talkAddress(p, fault, "xmpp", "xmpps", "5222")
		if !isBareJID(p.Room) {
			fault("room", fmt.Sprintf("%q is no room", p.Room), "write its whole address: lamp-log@rooms.lowtide.example")
		}
		if !isBareJID(p.Account) {
			fault("account", fmt.Sprintf("%q is no account", p.Account), "write its whole address: porchlamp@lowtide.example")
		}
	}}

// talkAddress checks the address of a chat network's server: a scheme, a host, a port and nothing behind it.
func talkAddress(p *Place, fault func(at, what, remedy string), open, encrypted, port string) {
	if p.URL == "" {
		return // not yet
	}
	scheme, host, ok := strings.Cut(p.URL, "://")
	if !ok || scheme != open && scheme != encrypted || host == "" || strings.ContainsAny(host, "/?#@ ") || strings.HasPrefix(host, ":") {
		fault("url", "is no server of this kind", "write "+encrypted+"://host:"+port+", or "+open+":// for one without encryption")
	}
}

// line is a text as one line.
func line(_ *Place, args wording.Args) (json.RawMessage, error) {
	return json.Marshal(entry{plain.Guard(oneLine(args["text"].Text), plain.CommandSigns)})
}

// ircSafe takes out what colours a line there, or asks a client for something: control characters.
func ircSafe(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return -1
		}
		return r
	}, oneLine(s))
}

// joiner shows nothing and is no blank, so that what stands behind it opens no styled passage (XEP-0393 section 6).
const joiner = "\u2060"

var unstyled = strings.NewReplacer("*", joiner+"*", "_", joiner+"_", "~", joiner+"~", "`", joiner+"`", ">", joiner+">")

// xmppSafe keeps other people's text from being styled, from quoting, and from calling anybody.
func xmppSafe(s string) string { return unstyled.Replace(plain.NoPing(ircSafe(s))) }

// isNick reports whether a name is a nick (RFC 2812 section 2.3.1), or one of the longer ones that networks take today.
func isNick(s string) bool {
	for i, r := range s {
		letter := r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || strings.ContainsRune("[]\\`_^{|}", r)
		if !letter && (i == 0 || (r < '0' || r > '9') && r != '-') {
			return false
		}
	}
	return s != "" && len(s) <= 30
}

// isBareJID reports whether a text is a bare address of XMPP (RFC 7622): somebody at a domain.
func isBareJID(s string) bool {
	local, domain, ok := strings.Cut(s, "@")
	return ok && local != "" && domain != "" && len(s) <= 300 && !strings.ContainsAny(local, "\"&'/:<>@ \t\r\n") && !strings.ContainsAny(domain, "@/ \t\r\n")
}
