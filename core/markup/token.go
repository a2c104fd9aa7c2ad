package markup

import (
	"bytes"
	"html"

	"compactparcel/core/span"

	xhtml "golang.org/x/net/html"
)

// token is one token of the source with its place.
type token struct {
	kind  xhtml.TokenType
	tag   string // lower case
	span  span.Span
	attrs []Attr
}

// Attr is one attribute as it stands in the source.
type Attr struct {
	Name string // lower case, as the tokenizer reads it
	// Value is decoded: character references are resolved.
	Value string
	// At is the place of the value without its quotes; it is empty, just behind
	// the name, when the attribute has no value.
	At span.Span
	// Quote is the quote character, 0 when there is none.
	Quote byte
	// All is the whole attribute, name to closing quote.
	All span.Span
	// raw tells that source and decoded value are the same bytes.
	raw bool
}

// Offset gives the source place of the decoded bytes [from, to) of the value.
func (a Attr) Offset(src []byte, from, to int) span.Span {
	if a.raw {
		return span.Span{Start: a.At.Start + from, End: a.At.Start + to}
	}
	offs := decodedOffsets(a.At.Of(src))
	from, to = min(from, len(offs)-1), min(to, len(offs)-1)
	return span.Span{Start: a.At.Start + offs[from], End: a.At.Start + offs[to]}
}

// decodedOffsets gives for each byte of the decoded text, and for its end, the
// offset of the source bytes it came from.
func decodedOffsets(raw []byte) []int {
	var offs []int
	for i := 0; i < len(raw); {
		n := 1
		if raw[i] == '&' {
			j := i + 1
			for j < len(raw) && j-i < 40 && (raw[j] == '#' || isAlnum(raw[j])) {
				j++
			}
			if j < len(raw) && raw[j] == ';' {
				j++
			}
			n = j - i
		}
		decoded := html.UnescapeString(string(raw[i : i+n]))
		for k := range len(decoded) {
			if decoded == string(raw[i:i+n]) {
				offs = append(offs, i+k)
			} else {
				offs = append(offs, i)
			}
		}
		i += n
	}
	return append(offs, len(raw))
}

// lower folds ASCII only, as the standard does; other bytes keep their length.
func lower(b []byte) string {
	out := make([]byte, len(b))
	for i, c := range b {
		if c >= 'A' && c <= 'Z' {
			c += 'a' - 'A'
		}
		out[i] = c
	}
	return string(out)
}

func isAlnum(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// tokenize reads all tokens of src. The x/net/html tokenizer decides what a
// token is; the attributes' places are found within its raw bytes by the rules
// of the HTML standard, section 13.2.5.
func tokenize(src []byte, context string) []token {
	var z *xhtml.Tokenizer
	if context != "" {
		z = xhtml.NewTokenizerFragment(bytes.NewReader(src), context)
	} else {
		z = xhtml.NewTokenizer(bytes.NewReader(src))
	}
	var out []token
	at := 0
	for {
		kind := z.Next()
		n := len(z.Raw())
		if kind == xhtml.ErrorToken {
			if n > 0 {
				out = append(out, token{kind: xhtml.TextToken, span: span.Span{Start: at, End: at + n}})
			}
			return out
		}
		t := token{kind: kind, span: span.Span{Start: at, End: at + n}}
		at += n
		switch kind {
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			t.tag, t.attrs = readTag(src, t.span)
		case xhtml.EndTagToken:
			name, _ := z.TagName()
			t.tag = string(name)
		}
		out = append(out, t)
	}
}

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

// readTag reads the name and attributes of the start tag at s.
func readTag(src []byte, s span.Span) (string, []Attr) {
	i, end := s.Start+1, s.End
	if end > i && src[end-1] == '>' {
		end--
	}
	start := i
	for i < end && !isSpace(src[i]) && src[i] != '/' {
		i++
	}
	tag := lower(src[start:i])
	var attrs []Attr
	for {
		for i < end && (isSpace(src[i]) || src[i] == '/') {
			i++
		}
		if i >= end {
			return tag, attrs
		}
		a := Attr{}
		nameStart := i
		if src[i] == '=' {
			i++
		}
		for i < end && !isSpace(src[i]) && src[i] != '/' && src[i] != '=' {
			i++
		}
		a.Name = lower(src[nameStart:i])
		a.At = span.Span{Start: i, End: i}
		j := i
		for j < end && isSpace(src[j]) {
			j++
		}
		if j < end && src[j] == '=' {
			i = j + 1
			for i < end && isSpace(src[i]) {
				i++
			}
			if i < end && (src[i] == '"' || src[i] == '\'') {
				a.Quote = src[i]
				i++
				from := i
				for i < end && src[i] != a.Quote {
					i++
				}
				a.At = span.Span{Start: from, End: i}
				if i < end {
					i++
				}
			} else {
				from := i
				for i < end && !isSpace(src[i]) {
					i++
				}
				a.At = span.Span{Start: from, End: i}
			}
		}
		a.All = span.Span{Start: nameStart, End: i}
		raw := a.At.Of(src)
		a.raw = bytes.IndexByte(raw, '&') < 0
		if a.raw {
			a.Value = string(raw)
		} else {
			a.Value = html.UnescapeString(string(raw))
		}
		if !named(attrs, a.Name) { // a repeated attribute is ignored, as browsers do
			attrs = append(attrs, a)
		}
	}
}

func named(attrs []Attr, name string) bool {
	for i := range attrs {
		if attrs[i].Name == name {
			return true
		}
	}
	return false
}

// Tags gives the start tags of src as elements without a tree around them: enough for
// what only looks at attributes, and much quicker than Parse. Inner is that of style
// and script elements.
func Tags(src []byte) []Node {
	tokens := tokenize(src, "")
	var out []Node
	foreign := 0
	for i, t := range tokens {
		switch t.kind {
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			n := Node{Tag: t.tag, Attrs: t.attrs, Own: true, Start: t.span}
			if t.tag == "svg" && t.kind == xhtml.StartTagToken {
				foreign++
			}
			if foreign > 0 {
				n.Space = "svg"
			}
			if (t.tag == "style" || t.tag == "script") && i+1 < len(tokens) && tokens[i+1].kind == xhtml.TextToken {
				n.Inner = tokens[i+1].span
			}
			out = append(out, n)
		case xhtml.EndTagToken:
			if t.tag == "svg" && foreign > 0 {
				foreign--
			}
		}
	}
	return out
}

// Elements gives the elements as their tags stand in the source, in that order, without a
// tree: each knows where it begins and ends. ok is false when the nesting goes beyond
// MaxDepth. It is much quicker than Parse.
func Elements(src []byte) (list []Node, ok bool) {
	tokens := tokenize(src, "")
	ends := matchEnds(tokens, len(src))
	if ends == nil {
		return nil, false
	}
	svgTo := -1
	for i, t := range tokens {
		if t.kind != xhtml.StartTagToken && t.kind != xhtml.SelfClosingTagToken {
			continue
		}
		n := Node{Tag: t.tag, Attrs: t.attrs, Own: true, Start: t.span, Inner: ends[i].inner, End: ends[i].tag, Closed: ends[i].closed}
		if t.tag == "svg" || t.tag == "math" {
			svgTo = max(svgTo, n.End.End)
		}
		if t.span.Start < svgTo {
			n.Space = "svg"
		}
		list = append(list, n)
	}
	return list, true
}

// HasCustomTags tells whether src may hold elements with a dash in their name. It is
// quick, and may say yes for what stands in a comment or a text.
func HasCustomTags(src []byte) bool {
	for {
		i := bytes.IndexByte(src, '<')
		if i < 0 {
			return false
		}
		src = src[i+1:]
		if len(src) == 0 || !isAlnum(src[0]) {
			continue
		}
		for _, c := range src {
			if c == '-' {
				return true
			}
			if isSpace(c) || c == '>' || c == '/' {
				break
			}
		}
	}
}
