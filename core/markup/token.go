package markup

import (
	"bytes"
	"html"
	"iter"
	"slices"

	"compactparcel/core/span"

	xhtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"
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

// CodePoints gives for each character of a text, with its references resolved, and for its end, the offset
// of the source bytes it came from. CR LF is one character, as browsers read it (HTML, section 13.2.3.5).
func CodePoints(raw []byte) []int {
	offs := decodedOffsets(raw)
	var out []int
	was := rune(0)
	for i, c := range html.UnescapeString(string(raw)) {
		if c != '\n' || was != '\r' {
			out = append(out, offs[i])
		}
		was = c
	}
	return append(out, len(raw))
}

// lower folds ASCII only, as the standard does; other bytes keep their length.
func lower(b []byte) string {
	if !slices.ContainsFunc(b, func(c byte) bool { return c >= 'A' && c <= 'Z' }) {
		return atom.String(b) // one text for all names that HTML knows
	}
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

// eachToken reads the tokens of src, as long as use wants more. The x/net/html tokenizer
// decides what a token is; the attributes' places are found within its raw bytes by the
// rules of the HTML standard, section 13.2.5.
func eachToken(src []byte, use func(token) bool) {
	z := xhtml.NewTokenizer(bytes.NewReader(src))
	at := 0
	for {
		kind := z.Next()
		n := len(z.Raw())
		if kind == xhtml.ErrorToken {
			if n > 0 {
				use(token{kind: xhtml.TextToken, span: span.Span{Start: at, End: at + n}})
			}
			return
		}
		t := token{kind: kind, span: span.Span{Start: at, End: at + n}}
		at += n
		switch kind {
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			if t.tag, t.attrs = readTag(src, t.span); t.tag == "noscript" {
				z.NextIsNotRawText() // it is read as who runs no scripts reads it
			}
		case xhtml.EndTagToken:
			name, _ := z.TagName()
			t.tag = string(name)
		}
		if !use(t) {
			return
		}
	}
}

// tokenize reads all tokens of src.
func tokenize(src []byte) []token {
	out := make([]token, 0, 2*bytes.Count(src, []byte("<"))+1)
	eachToken(src, func(t token) bool {
		out = append(out, t)
		return true
	})
	return out
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
	if n := bytes.Count(src[i:end], []byte("=")); n > 0 {
		attrs = make([]Attr, 0, min(n, 16))
	}
	var seen names
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
		if seen.first(a.Name, attrs) { // a repeated attribute is ignored, as browsers do
			if attrs = append(attrs, a); len(attrs) > MaxAttributes {
				return tag, attrs // one too many says that it is beyond the limit: nobody looks at more
			}
		}
	}
}

// names tells which attributes a tag has already: few are looked through, many are in a map.
type names map[string]bool

func (n *names) first(name string, attrs []Attr) bool {
	if len(attrs) < 16 {
		for i := range attrs {
			if attrs[i].Name == name {
				return false
			}
		}
		return true
	}
	if *n == nil {
		*n = names{}
		for _, a := range attrs {
			(*n)[a.Name] = true
		}
	}
	if (*n)[name] {
		return false
	}
	(*n)[name] = true
	return true
}

// Tags gives the start tags of src as elements without a tree around them: enough for
// what only looks at attributes, and much quicker than Parse. Inner is that of style
// and script elements. An element is good until the next one.
func Tags(src []byte) iter.Seq[*Node] {
	return func(yield func(*Node) bool) {
		foreign := 0
		var held Node // of a style or script element, until its text is known
		waits := false
		eachToken(src, func(t token) bool {
			if waits {
				waits = false
				if t.kind == xhtml.TextToken {
					held.Inner = t.span
				}
				if !yield(&held) {
					return false
				}
			}
			switch t.kind {
			case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
				n := Node{Tag: t.tag, Attrs: t.attrs, Own: true, Start: t.span}
				if t.tag == "svg" && t.kind == xhtml.StartTagToken {
					foreign++
				}
				if foreign > 0 {
					n.Space = "svg"
				}
				held = n
				if waits = t.tag == "style" || t.tag == "script"; waits {
					return true
				}
				return yield(&held)
			case xhtml.EndTagToken:
				if t.tag == "svg" && foreign > 0 {
					foreign--
				}
			}
			return true
		})
		if waits {
			yield(&held)
		}
	}
}

// Elements gives the elements as their tags stand in the source, in that order, without a
// tree: each knows where it begins and ends. ok is false when the nesting goes beyond
// MaxDepth. It is much quicker than Parse.
func Elements(src []byte) (list []Node, ok bool) {
	tokens, ends := readAll(src)
	if ends == nil {
		return nil, false
	}
	svgTo := -1
	for i, t := range tokens {
		if t.kind != xhtml.StartTagToken && t.kind != xhtml.SelfClosingTagToken {
			continue
		}
		n := Node{
			Tag:    t.tag,
			Attrs:  t.attrs,
			Own:    true,
			Start:  t.span,
			Inner:  ends[i].inner,
			End:    ends[i].tag,
			Closed: ends[i].closed,
		}
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
