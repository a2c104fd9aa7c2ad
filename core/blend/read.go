package blend

import (
	"bytes"
	"html"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

// squeeze sets the formatting of a value aside.
func squeeze(p part) string {
	switch p.how {
	case decls, sheet:
		return string(css.Normalize([]byte(p.value)))
	case list:
		return string(css.Normalize([]byte(p.value + "{}")))
	default:
	}
	return strings.Join(strings.Fields(p.value), " ")
}

// builder puts nodes into a document one behind the other; what lies between two is the
// lead of the second.
type builder struct {
	src  []byte
	at   int // how far the source is read
	in   *node
	lang language
}

func build(src []byte, lang language) *builder {
	return &builder{src: src, lang: lang, in: &node{shape: holds}}
}

func (b *builder) add(n *node, open span.Span) *node {
	if b.lang == langSheet {
		b.aside(open.Start)
	}
	return b.put(n, open)
}

func (b *builder) put(n *node, open span.Span) *node {
	n.lead = span.Span{Start: b.at, End: open.Start}
	n.open = open
	n.parent = b.in
	b.in.kids = append(b.in.kids, n)
	b.at = open.End
	return n
}

func (b *builder) down(n *node, open span.Span) {
	b.add(n, open)
	b.in = n
}

func (b *builder) up(shut span.Span) {
	if b.lang == langSheet {
		b.aside(shut.Start)
	}
	b.in.tail = span.Span{Start: b.at, End: shut.Start}
	b.in.endTag = shut
	b.at = shut.End
	b.in = b.in.parent
}

// aside reads what stands between the rules of a stylesheet: comments, and what is none.
func (b *builder) aside(to int) {
	for b.at < to {
		i := b.at
		for i < to && (isSpace(b.src[i]) || b.src[i] == ';') {
			i++
		}
		if i >= to {
			return
		}
		end, kind := to, "text"
		if bytes.HasPrefix(b.src[i:to], []byte("/*")) {
			kind = "comment"
			if j := bytes.Index(b.src[i+2:to], []byte("*/")); j >= 0 {
				end = i + 2 + j + 2
			}
		} else if j := bytes.Index(b.src[i:to], []byte("/*")); j > 0 {
			end = i + j
		}
		for kind == "text" && end > i && (isSpace(b.src[end-1]) || b.src[end-1] == ';') {
			end--
		}
		s := span.Span{Start: i, End: end}
		b.put(&node{shape: leaf, kind: kind, parts: []part{{value: string(s.Of(b.src)), at: s, in: s}}}, s)
	}
}

func (b *builder) done() *doc {
	if b.lang == langSheet {
		b.aside(len(b.src))
	}
	b.in.tail = span.Span{Start: b.at, End: len(b.src)}
	b.in.endTag = span.Span{Start: len(b.src), End: len(b.src)}
	return (&doc{src: b.src, lang: b.lang, root: b.in}).settle()
}

// words adds the words of [b.at, to).
func (b *builder) words(to int, decode bool) {
	for i := b.at; i < to; {
		if isSpace(b.src[i]) {
			i++
			continue
		}
		k := i
		for k < to && !isSpace(b.src[k]) {
			k++
		}
		text := string(b.src[i:k])
		if decode {
			text = html.UnescapeString(text)
		}
		b.add(&node{shape: word, parts: []part{{value: text}}}, span.Span{Start: i, End: k})
		i = k
	}
}

// readLines reads a text line by line.
func readLines(src []byte) *doc {
	b := build(src, langLines)
	for b.at < len(src) {
		end := len(src)
		if i := bytes.IndexByte(src[b.at:], '\n'); i >= 0 {
			end = b.at + i + 1
		}
		text := string(src[b.at:end])
		b.add(&node{shape: word, parts: []part{{value: strings.TrimRight(text, "\r\n")}}},
			span.Span{Start: b.at, End: end})
	}
	return b.done()
}

// readWords reads a text word by word.
func readWords(src []byte) *doc {
	b := build(src, langMarkup)
	b.words(len(src), false)
	return b.done()
}

// readMarkup reads HTML as its tags stand in the source; nil when it is too deep.
func readMarkup(src []byte) *doc {
	all, ok := markup.Elements(src)
	if !ok {
		return nil
	}
	b := build(src, langMarkup)
	var open []*markup.Node
	closeTo := func(at int) {
		for len(open) > 0 && open[len(open)-1].End.Start <= at {
			n := open[len(open)-1]
			open = open[:len(open)-1]
			b.gap(n.End.Start)
			b.up(n.End)
		}
	}
	for i := range all {
		n := &all[i]
		closeTo(n.Start.Start)
		if n.Start.Start < b.at { // within a text that was read as one
			continue
		}
		b.gap(n.Start.Start)
		made := &node{shape: holds, kind: n.Tag, parts: attributes(n)}
		if id := n.Value("id"); id != "" {
			made.id = "#" + id
		}
		switch {
		case void[n.Tag] || n.Space != "" && !n.Closed && b.src[n.Start.End-2] == '/':
			made.shape = leaf
			b.add(made, n.Start)
			continue
		case opaque[n.Tag]:
			b.down(made, n.Start)
			if n.Inner.Len() > 0 {
				h := lines
				if n.Tag == "style" {
					h = sheet
				}
				b.add(
					&node{
						shape: leaf,
						kind:  "text of " + n.Tag,
						parts: []part{{value: string(n.Inner.Of(src)), how: h, at: n.Inner, in: n.Inner}},
					},
					n.Inner,
				)
			}
			b.up(n.End)
			continue
		}
		b.down(made, n.Start)
		open = append(open, n)
	}
	closeTo(len(src))
	b.gap(len(src))
	return b.done()
}

// void elements have no content (HTML, section 13.1.2).
var void = map[string]bool{
	"area":   true,
	"base":   true,
	"br":     true,
	"col":    true,
	"embed":  true,
	"hr":     true,
	"img":    true,
	"input":  true,
	"link":   true,
	"meta":   true,
	"param":  true,
	"source": true,
	"track":  true,
	"wbr":    true,
}

var opaque = map[string]bool{"script": true, "style": true, "pre": true, "textarea": true}

func attributes(n *markup.Node) []part {
	out := make([]part, 0, len(n.Attrs))
	for _, a := range n.Attrs {
		h := whole
		switch a.Name {
		case "class", "rel":
			h = set
		case "style":
			h = decls
		case "alt", "title", "content", "placeholder", "aria-label":
			h = prose
		}
		out = append(out, part{name: a.Name, value: a.Value, how: h, at: a.All, in: a.At})
	}
	return out
}

// gap reads what stands between two tags: words, comments, doctypes, stray end tags.
func (b *builder) gap(to int) {
	for b.at < to {
		i := bytes.IndexByte(b.src[b.at:to], '<')
		if i < 0 {
			b.words(to, true)
			return
		}
		start := b.at + i
		end := to
		var kind string
		rest := b.src[start:to]
		switch {
		case bytes.HasPrefix(rest, []byte("<!--")):
			kind = "comment"
			if j := bytes.Index(rest[4:], []byte("-->")); j >= 0 {
				end = start + 4 + j + 3
			}
		case len(rest) > 1 && (rest[1] == '!' || rest[1] == '/' || rest[1] == '?'):
			kind = "mark"
			if j := bytes.IndexByte(rest, '>'); j >= 0 {
				end = start + j + 1
			}
		default: // a "<" that begins nothing
			k := start + 1
			for k < to && b.src[k] != '<' && !isSpace(b.src[k]) {
				k++
			}
			b.words(start, true)
			b.words(k, true)
			if b.at < k {
				b.at = k
			}
			continue
		}
		b.words(start, true)
		s := span.Span{Start: start, End: end}
		b.add(&node{shape: leaf, kind: kind, parts: []part{{value: string(s.Of(b.src)), at: s, in: s}}}, s)
	}
}

// readSheet reads a stylesheet rule by rule; nil when it is too large.
func readSheet(src []byte) *doc {
	s := css.Parse(src)
	if s.Opaque {
		return nil
	}
	b := build(src, langSheet)
	b.rules(s.Rules, nil)
	return b.done()
}

// readDecls reads the content of a style attribute.
func readDecls(src []byte) *doc {
	b := build(src, langSheet)
	b.rules(nil, css.ParseDeclarations(src).Decls)
	return b.done()
}

func (b *builder) rules(rules []*css.Rule, ds []css.Decl) {
	for len(rules) > 0 || len(ds) > 0 {
		if len(ds) > 0 && (len(rules) == 0 || ds[0].Start < rules[0].Start) {
			d := ds[0]
			ds = ds[1:]
			end := d.End
			for end < len(b.src) && isSpace(b.src[end]) {
				end++
			}
			if end < len(b.src) && b.src[end] == ';' {
				end++
			} else {
				end = d.End
			}
			if d.Start < b.at {
				continue
			}
			if b.src[end-1] != ';' {
				for end > d.Start && isSpace(b.src[end-1]) {
					end--
				}
			}
			value := span.Span{Start: d.Value.Start, End: d.End}
			for value.End > value.Start && (isSpace(b.src[value.End-1]) || b.src[value.End-1] == ';') {
				value.End--
			}
			b.add(
				&node{
					shape: leaf,
					kind:  d.Name + ":",
					parts: []part{
						{
							name:  d.Name,
							value: string(value.Of(b.src)),
							at:    span.Span{Start: d.Start, End: end},
							in:    value,
						},
					},
				},
				span.Span{Start: d.Start, End: end},
			)
			continue
		}
		r := rules[0]
		rules = rules[1:]
		if r.Start < b.at {
			continue
		}
		if !r.HasBody {
			b.add(
				&node{
					shape: leaf,
					kind:  "@" + r.At,
					parts: []part{{value: string(r.Of(b.src)), at: r.Span, in: r.Span}},
				},
				r.Span,
			)
			continue
		}
		head := span.Span{Start: r.Start, End: r.Body.Start}
		for head.Start < head.End && isSpace(b.src[head.Start]) {
			head.Start++
		}
		n := &node{shape: holds, kind: "rule"}
		p := part{
			name:  "selector",
			value: strings.TrimSpace(string(r.Prelude.Of(b.src))),
			how:   list,
			at:    head,
			in:    r.Prelude,
		}
		if r.At != "" {
			n.kind, p.how = "@"+r.At, whole
		}
		n.parts = []part{p}
		b.down(n, head)
		b.rules(r.Rules, r.Decls)
		b.up(span.Span{Start: r.Body.End, End: r.End})
	}
}
