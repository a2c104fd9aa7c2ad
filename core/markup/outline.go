package markup

import (
	"bytes"

	xhtml "golang.org/x/net/html"
)

// inHead are the elements that may stand in a head without ending it (HTML standard, section
// 13.2.6.4.4), but for those with content of their own.
var inHead = map[string]bool{"title": true, "meta": true, "link": true, "script": true, "style": true, "base": true}

// Outline reads a document whose html, head and body are written out, each once and in their order,
// without working out what is nested in what: html, head and body are as Parse gives them, and all
// other elements stand in head or body in the order of their tags. ok is false for any other
// document: Parse reads that. It takes half as long.
func Outline(src []byte) (t *Tree, ok bool) {
	if !IsDocument(src) {
		return nil, false
	}
	tokens, ends := readAll(src)
	if ends == nil || !regular(src, tokens) {
		return nil, false
	}
	t = &Tree{Source: src, Document: true, Root: &Node{}}
	html, head := (*Node)(nil), (*Node)(nil)
	parent, svgTo := t.Root, -1
	list := make([]Node, 0, len(tokens)/2)
	for i, tok := range tokens {
		if tok.kind == xhtml.EndTagToken && tok.tag == "head" {
			parent = html
		}
		if tok.kind != xhtml.StartTagToken && tok.kind != xhtml.SelfClosingTagToken {
			continue
		}
		list = append(list, Node{Tag: tok.tag, Attrs: tok.attrs, Own: true, Start: tok.span, Parent: parent,
			Index: len(parent.Children), Inner: ends[i].inner, End: ends[i].tag, Closed: ends[i].closed})
		n := &list[len(list)-1]
		parent.Children = append(parent.Children, n)
		t.All = append(t.All, n)
		switch tok.tag {
		case "svg":
			svgTo = max(svgTo, n.End.End)
		case "html":
			html, parent = n, n
		case "head":
			head, parent = n, n
		case "body":
			parent = n
		}
		if tok.span.Start < svgTo {
			n.Space = "svg"
		}
	}
	return t, head != nil
}

// regular tells whether a document's tokens are html, head and body, with nothing that a parser
// would move from one to another.
func regular(src []byte, tokens []token) bool {
	const (
		start = iota
		inHTML
		withinHead
		afterHead
		inBody
		afterBody
		end
	)
	at, raw := start, "" // raw: the element whose text stands in the head
	for _, t := range tokens {
		switch t.kind {
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			raw = ""
			switch {
			case t.tag == "html" && at == start:
				at = inHTML
			case t.tag == "head" && at == inHTML && t.kind == xhtml.StartTagToken:
				at = withinHead
			case t.tag == "body" && at == afterHead:
				at = inBody
			case t.tag == "html", t.tag == "head", t.tag == "body", t.tag == "frameset", t.tag == "math",
				t.tag == "foreignobject", t.tag == "template", t.tag == "plaintext":
				return false
			case at == withinHead && inHead[t.tag]:
				raw = t.tag
			case at != inBody:
				return false
			}
		case xhtml.EndTagToken:
			switch {
			case t.tag == "head" && at == withinHead:
				at = afterHead
			case t.tag == "body" && at == inBody:
				at = afterBody
			case t.tag == "html" && at == afterBody:
				at = end
			case t.tag == "html", t.tag == "head", t.tag == "body", at != withinHead && at != inBody,
				at == withinHead && t.tag != raw:
				return false
			}
			raw = ""
		case xhtml.TextToken:
			if at != inBody && raw == "" && len(bytes.TrimSpace(t.span.Of(src))) > 0 {
				return false
			}
		}
	}
	return at == end || at == afterBody
}

// Frame reads a document as far as it is known from outside: by Outline, or where that does not
// read it, by Parse.
func Frame(src []byte) *Tree {
	if t, ok := Outline(src); ok {
		return t
	}
	return Parse(src, "")
}
