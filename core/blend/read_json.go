package blend

import (
	"bytes"
	"encoding/json"
	"strings"

	"compactparcel/core/span"
)

// identifying are the members that tell the objects of an array apart, the best first.
var identifying = []string{"id", "name", "key", "slug", "to", "href", "field", "property"}

// readJSON reads a JSON text value by value; nil when it is none.
func readJSON(src []byte) *doc {
	if !json.Valid(src) {
		return nil
	}
	b := build(src, langJSON)
	b.value("", span.Span{Start: -1})
	d := b.done()
	for _, n := range d.nodes {
		n.identify(d.src)
	}
	return d
}

// blank passes over white space.
func (b *builder) blank(i int) int {
	for i < len(b.src) && isSpace(b.src[i]) {
		i++
	}
	return i
}

// value reads one value; key is that of the member that it belongs to, at its place.
func (b *builder) value(key string, keyAt span.Span) {
	start := b.blank(b.at)
	open := start
	if keyAt.Start >= 0 {
		open = keyAt.Start
		start = b.blank(b.blank(keyAt.End) + 1) // behind the colon
	}
	b.at = min(b.at, open)
	switch c := b.src[start]; c {
	case '{', '[':
		n := &node{shape: holds, kind: key + string(c)}
		b.down(n, span.Span{Start: open, End: start + 1})
		for {
			i := b.blank(b.at)
			if b.src[i] == ',' {
				b.at = i + 1
				continue
			}
			if b.src[i] == '}' || b.src[i] == ']' {
				b.up(span.Span{Start: i, End: i + 1})
				return
			}
			if c == '{' {
				end := stringEnd(b.src, i)
				var k string
				_ = json.Unmarshal(b.src[i:end], &k) // it is valid
				b.value(k+":", span.Span{Start: i, End: end})
			} else {
				b.value("", span.Span{Start: -1})
			}
		}
	default:
		end := start
		if c == '"' {
			end = stringEnd(b.src, start)
		} else {
			for end < len(b.src) && !isSpace(b.src[end]) && !strings.ContainsRune(",]}", rune(b.src[end])) {
				end++
			}
		}
		p := part{
			name:  key,
			value: string(b.src[start:end]),
			at:    span.Span{Start: open, End: end},
			in:    span.Span{Start: start, End: end},
		}
		if c == '"' {
			p.how = quoted
		}
		n := &node{shape: leaf, kind: key, parts: []part{p}}
		if key == "" {
			n.id = p.value
		}
		b.add(n, span.Span{Start: open, End: end})
	}
}

func stringEnd(src []byte, i int) int {
	for k := i + 1; k < len(src); k++ {
		switch src[k] {
		case '\\':
			k++
		case '"':
			return k + 1
		}
	}
	return len(src)
}

// identify tells an object of an array by one of its members.
func (n *node) identify(src []byte) {
	if n.kind != "{" {
		return
	}
	for _, name := range identifying {
		for _, k := range n.kids {
			if k.shape == leaf && k.kind == name+":" && !bytes.Equal(k.parts[0].in.Of(src), []byte(`""`)) {
				n.id = name + "=" + k.parts[0].value
				return
			}
		}
	}
}
