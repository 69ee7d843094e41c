package wording

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// parser walks the source once. Quoting follows ICU's default mode: two
// apostrophes are one; a single one quotes only before a brace, or before # in a
// plural, up to the next single one. As in ICU, # stands for the number only in an
// arm of the plural itself, not in a select within it.
type parser struct {
	src string
	pos int
}

// maxDepth bounds nesting, so that no wording can exhaust the stack.
const maxDepth = 16

func (p *parser) fail(from, to int, what, remedy string) error {
	return &Problem{From: from, To: min(max(to, from), len(p.src)), What: what, Remedy: remedy}
}

func (p *parser) message(plural bool, depth int) ([]node, error) {
	var out []node
	var b strings.Builder
	start := p.pos
	flush := func() {
		if b.Len() > 0 {
			out = append(out, &text{span{start, p.pos}, b.String()})
			b.Reset()
		}
	}
	if depth > maxDepth {
		return nil, p.fail(p.pos, p.pos+1, "choices are nested too deeply", fmt.Sprintf("keep to %d levels", maxDepth))
	}
	for p.pos < len(p.src) {
		c := p.src[p.pos]
		switch {
		case c == '\'':
			p.quote(&b, plural)
		case c == '{':
			flush()
			n, err := p.braces(depth)
			if err != nil {
				return nil, err
			}
			out = append(out, n)
			start = p.pos
		case c == '}':
			if depth == 0 {
				return nil, p.fail(p.pos, p.pos+1, "a closing brace without an opening one", "take it out, or write '}' for a real brace")
			}
			flush()
			return out, nil
		case c == '#' && plural:
			flush()
			out = append(out, &hash{span{p.pos, p.pos + 1}})
			p.pos++
			start = p.pos
		default:
			b.WriteByte(c)
			p.pos++
		}
	}
	if depth > 0 {
		return nil, p.fail(len(p.src), len(p.src), "a closing brace is missing", "close every { with a }")
	}
	flush()
	return out, nil
}

func (p *parser) quote(b *strings.Builder, plural bool) {
	rest := p.src[p.pos+1:]
	switch {
	case strings.HasPrefix(rest, "'"):
		b.WriteByte('\'')
		p.pos += 2
	case strings.HasPrefix(rest, "{"), strings.HasPrefix(rest, "}"), plural && strings.HasPrefix(rest, "#"):
		p.pos++
		for p.pos < len(p.src) {
			if p.src[p.pos] == '\'' {
				p.pos++
				if p.pos < len(p.src) && p.src[p.pos] == '\'' {
					b.WriteByte('\'')
					p.pos++
					continue
				}
				return
			}
			b.WriteByte(p.src[p.pos])
			p.pos++
		}
	default:
		b.WriteByte('\'')
		p.pos++
	}
}

func (p *parser) space() {
	for p.pos < len(p.src) && strings.IndexByte(" \t\r\n", p.src[p.pos]) >= 0 {
		p.pos++
	}
}

// word reads up to white space, a comma or a brace.
func (p *parser) word() string {
	from := p.pos
	for p.pos < len(p.src) && strings.IndexByte(" \t\r\n,{}'#", p.src[p.pos]) < 0 {
		p.pos++
	}
	return p.src[from:p.pos]
}

// braces reads one {…}: a fill-in or a choice.
func (p *parser) braces(depth int) (node, error) {
	open := p.pos
	p.pos++
	p.space()
	name := p.word()
	if name == "" {
		return nil, p.fail(open, p.pos+1, "an empty fill-in", "name it between the braces, or write '{' for a real brace")
	}
	p.space()
	if p.pos >= len(p.src) {
		return nil, p.fail(open, len(p.src), "this fill-in is not closed", "add a closing brace")
	}
	switch p.src[p.pos] {
	case '}':
		p.pos++
		return &fill{span: span{open, p.pos}, name: name}, nil
	case ',':
		p.pos++
	default:
		return nil, p.fail(open, p.pos+1, "a fill-in's name is one word", "close it after the name, or put a comma there")
	}
	p.space()
	kindAt := p.pos
	kind := p.word()
	p.space()
	switch kind {
	case "number":
		return p.styled(open, name, kind, "integer, percent, or ::currency/EUR", func(s string) bool {
			code, money := strings.CutPrefix(s, "::currency/")
			return s == "integer" || s == "percent" || money && len(code) == 3 && strings.ToUpper(code) == code
		})
	case "plural", "selectordinal", "select":
		return p.choice(open, name, kind, depth)
	case "date", "time":
		return p.styled(open, name, kind, "short, medium, long or full", func(s string) bool { _, ok := dateStyles[s]; return ok && s != "" })
	}
	return nil, p.fail(kindAt, max(p.pos, kindAt+1), fmt.Sprintf("%q is no kind of fill-in", kind), "use number, date, time, plural, selectordinal or select")
}

// styled reads the rest of a fill-in that may name a style.
func (p *parser) styled(open int, name, kind, styles string, known func(string) bool) (node, error) {
	style := ""
	if p.pos < len(p.src) && p.src[p.pos] == ',' {
		p.pos++
		p.space()
		from := p.pos
		style = p.word()
		if !known(style) {
			return nil, p.fail(from, max(p.pos, from+1), fmt.Sprintf("%q is no %s style", style, kind), "use "+styles+", or leave it out")
		}
		p.space()
	}
	if p.pos >= len(p.src) || p.src[p.pos] != '}' {
		return nil, p.fail(open, p.pos+1, "this fill-in is not closed", "add a closing brace")
	}
	p.pos++
	return &fill{span: span{open, p.pos}, name: name, kind: kind, style: style}, nil
}

var pluralKeys = []string{"zero", "one", "two", "few", "many", "other"}

func (p *parser) choice(open int, name, kind string, depth int) (node, error) {
	if p.pos >= len(p.src) || p.src[p.pos] != ',' {
		return nil, p.fail(open, p.pos+1, "a "+kind+" needs its cases", "write {"+name+", "+kind+", other {…}}")
	}
	p.pos++
	c := &choice{name: name, kind: kind}
	for {
		p.space()
		if p.pos >= len(p.src) {
			return nil, p.fail(open, len(p.src), "this "+kind+" is not closed", "add a closing brace")
		}
		if p.src[p.pos] == '}' {
			p.pos++
			break
		}
		from := p.pos
		key := p.word()
		if kind != "select" && strings.HasPrefix(key, "offset:") {
			off := strings.TrimPrefix(key, "offset:")
			if off == "" {
				p.space()
				off = p.word()
			}
			n, err := strconv.Atoi(off)
			if err != nil || n < 0 || len(c.keys) > 0 {
				return nil, p.fail(from, p.pos, "the offset cannot be read", "write offset:1 before the first case")
			}
			c.offset = n
			continue
		}
		if key == "" {
			return nil, p.fail(from, from+1, "a case needs a name", "write a name and then its text in braces")
		}
		if kind != "select" && !slices.Contains(pluralKeys, key) {
			if n, err := strconv.Atoi(strings.TrimPrefix(key, "=")); !strings.HasPrefix(key, "=") || err != nil || n < 0 {
				return nil, p.fail(from, p.pos, fmt.Sprintf("%q is no plural case", key), "use one, other, or an exact number such as =1")
			}
		}
		if slices.Contains(c.keys, key) {
			return nil, p.fail(from, p.pos, fmt.Sprintf("the case %q stands twice", key), "keep one of them")
		}
		p.space()
		if p.pos >= len(p.src) || p.src[p.pos] != '{' {
			return nil, p.fail(from, p.pos+1, fmt.Sprintf("the case %q has no text", key), "put its text in braces behind it")
		}
		p.pos++
		arm, err := p.message(kind != "select", depth+1)
		if err != nil {
			return nil, err
		}
		p.pos++ // the closing brace message stopped at
		c.keys = append(c.keys, key)
		c.arms = append(c.arms, arm)
	}
	c.span = span{open, p.pos}
	if !slices.Contains(c.keys, "other") {
		return nil, p.fail(open, p.pos, "the case other is missing", "add other {…}: it is taken when nothing else fits")
	}
	return c, nil
}
