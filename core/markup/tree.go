// Package markup reads HTML as browsers do and changes it at its places.
//
// The tree is the one that golang.org/x/net/html builds, with implied elements
// and repairs. That package keeps no offsets; so each start tag of the source
// gets a numbered mark before it is parsed, by which every node of the tree
// finds its tag in the source again. Nothing is ever printed from the tree: a
// change is an edit of the source text.
package markup

import (
	"bytes"
	"strconv"
	"strings"

	"compactparcel/core/span"

	xhtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Node is an element of the tree.
type Node struct {
	Tag      string
	Space    string // "", "svg" or "math"
	Attrs    []Attr
	Parent   *Node
	Children []*Node // elements only
	// Index is the place among the parent's element children, from 0.
	Index int
	// Start is the start tag in the source; empty for an implied element.
	Start span.Span
	// Inner is what lies between the tags.
	Inner span.Span
	// End is the end tag; empty when it is implied.
	End span.Span
	// Closed tells that the source holds the end tag.
	Closed bool
	// Own tells that the element stands in the source and is not implied.
	Own bool
	// HasText tells that the element has text of its own that is not white space.
	HasText bool

	texts []string
}

// Tree is a parsed document or fragment.
type Tree struct {
	Source   []byte
	Document bool
	// Root holds the top elements as its children and stands in no source.
	Root *Node
	// All lists the elements in document order.
	All []*Node
	// Opaque tells that the source is beyond the limits of what is read as a tree.
	Opaque bool

	tokens []token
	index  lazyIndex
}

// Attr gives an attribute by its lower-case name.
func (n *Node) Attr(name string) (Attr, bool) {
	for _, a := range n.Attrs {
		if a.Name == name {
			return a, true
		}
	}
	return Attr{}, false
}

// Value gives an attribute's value, or "".
func (n *Node) Value(name string) string { a, _ := n.Attr(name); return a.Value }

// Classes gives the class names.
func (n *Node) Classes() []string { return strings.Fields(n.Value("class")) }

// Outer is the element from start tag to end tag.
func (n *Node) Outer() span.Span { return span.Span{Start: n.Start.Start, End: n.End.End} }

// Text is the text within, with white space folded to single blanks.
func (n *Node) Text() string {
	var b strings.Builder
	n.text(&b)
	return strings.Join(strings.Fields(b.String()), " ")
}

func (n *Node) text(b *strings.Builder) {
	// texts[i] stands before child i; the last stands behind all.
	for i, t := range n.texts {
		b.WriteString(t)
		if i < len(n.Children) {
			n.Children[i].text(b)
		}
	}
}

// Texts are the element's own texts: one before each child, and one behind all.
func (n *Node) Texts() []string { return n.texts }

// Empty tells that nothing is within, as browsers understand :empty: white space counts.
func (n *Node) Empty() bool {
	for _, t := range n.texts {
		if t != "" {
			return false
		}
	}
	return len(n.Children) == 0
}

// Find gives the first element that fits, or nil.
func (t *Tree) Find(fits func(*Node) bool) *Node {
	for _, n := range t.All {
		if fits(n) {
			return n
		}
	}
	return nil
}

// ByTag gives the elements with a tag name, in document order.
func (t *Tree) ByTag(tag string) []*Node {
	var out []*Node
	for _, n := range t.All {
		if n.Tag == tag {
			out = append(out, n)
		}
	}
	return out
}

// IsDocument tells whether src is a whole document: it begins, after white space
// and comments, with a doctype or an html, head or body tag.
func IsDocument(src []byte) bool {
	rest := bytes.TrimPrefix(src, []byte("\xef\xbb\xbf"))
	for {
		rest = bytes.TrimLeft(rest, " \t\r\n\f")
		if !bytes.HasPrefix(rest, []byte("<!--")) {
			break
		}
		end := bytes.Index(rest, []byte("-->"))
		if end < 0 {
			return false
		}
		rest = rest[end+3:]
	}
	low := lower(rest[:min(len(rest), 16)])
	for _, p := range []string{"<!doctype", "<html", "<head", "<body"} {
		behind, ok := strings.CutPrefix(low, p)
		if ok && (behind == "" || isSpace(behind[0]) || behind[0] == '>' || behind[0] == '/') {
			return true
		}
	}
	return false
}

const mark = "data-cp-source-number"

// Parse reads src. With context "" it is read as a whole document when it is
// one and as a fragment in body otherwise; with a context element's name always
// as a fragment in that element. Broken markup is repaired as browsers do; only
// what is beyond MaxDepth, MaxElements or MaxAttributes gives an opaque tree.
func Parse(src []byte, context string) *Tree {
	t := &Tree{Source: src, Document: context == "" && IsDocument(src)}
	if context == "" {
		context = "body"
	}
	tokens, ends := readAll(src)
	if ends == nil {
		t.Opaque = true
		t.Root = &Node{}
		return t
	}
	t.tokens = tokens
	var marked bytes.Buffer
	marked.Grow(len(src) + 40*len(tokens))
	for i, tok := range tokens {
		raw := tok.span.Of(src)
		if tok.kind == xhtml.StartTagToken || tok.kind == xhtml.SelfClosingTagToken {
			n := 1 + len(tok.tag)
			marked.Write(raw[:n])
			marked.WriteString(" " + mark + "=")
			marked.WriteString(strconv.Itoa(i))
			marked.WriteByte(' ')
			marked.Write(raw[n:])
			continue
		}
		marked.Write(raw)
	}
	var tops []*xhtml.Node
	var err error
	if t.Document {
		var doc *xhtml.Node
		doc, err = xhtml.ParseWithOptions(&marked, xhtml.ParseOptionEnableScripting(false))
		if err == nil {
			for c := doc.FirstChild; c != nil; c = c.NextSibling {
				tops = append(tops, c)
			}
		}
	} else {
		ctx := &xhtml.Node{Type: xhtml.ElementNode, Data: context, DataAtom: atom.Lookup([]byte(context))}
		tops, err = xhtml.ParseFragmentWithOptions(&marked, ctx, xhtml.ParseOptionEnableScripting(false))
	}
	t.Root = &Node{}
	if err != nil {
		t.Opaque = true
		return t
	}
	t.build(t.Root, tops, tokens, ends)
	return t
}

func (t *Tree) build(parent *Node, nodes []*xhtml.Node, tokens []token, ends []end) {
	var text strings.Builder
	for _, x := range nodes {
		switch x.Type {
		case xhtml.TextNode:
			text.WriteString(x.Data)
			if strings.TrimSpace(x.Data) != "" {
				parent.HasText = true
			}
		case xhtml.ElementNode:
			n := &Node{Tag: x.Data, Space: x.Namespace, Parent: parent, Index: len(parent.Children)}
			for _, a := range x.Attr {
				if a.Key != mark {
					continue
				}
				i, err := strconv.Atoi(a.Val)
				if err != nil || i >= len(tokens) {
					continue // the source itself uses our mark's name
				}
				n.Own, n.Attrs, n.Start = true, tokens[i].attrs, tokens[i].span
				n.Inner, n.End, n.Closed = ends[i].inner, ends[i].tag, ends[i].closed
				break
			}
			parent.texts = append(parent.texts, text.String())
			text.Reset()
			parent.Children = append(parent.Children, n)
			t.All = append(t.All, n)
			var kids []*xhtml.Node
			for c := x.FirstChild; c != nil; c = c.NextSibling {
				kids = append(kids, c)
			}
			t.build(n, kids, tokens, ends)
		}
	}
	parent.texts = append(parent.texts, text.String())
}

type end struct {
	inner  span.Span
	tag    span.Span
	closed bool
}

// IsVoid tells whether elements of a tag hold nothing and have no end tag (HTML standard, 13.1.2).
func IsVoid(tag string) bool { return void[tag] }

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

// closes lists, by start tag, the open elements that it ends without an end tag.
var closes = map[string]map[string]bool{
	"li":       words("li"),
	"dt":       words("dt dd"),
	"dd":       words("dt dd"),
	"tr":       words("tr td th"),
	"td":       words("td th"),
	"th":       words("td th"),
	"option":   words("option"),
	"optgroup": words("option optgroup"),
	"tbody":    words("tbody thead tr td th"),
	"tfoot":    words("tbody thead tr td th"),
}

const endsParagraph = "address article aside blockquote details div dl fieldset figcaption figure footer form h1 " +
	"h2 h3 h4 h5 h6 header hr main nav ol p pre section table ul"

var paragraphEnds = words(endsParagraph)

func words(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// readAll gives the tokens of src with the ends of its elements; no ends when it is beyond
// the limits of what is read as a tree.
func readAll(src []byte) ([]token, []end) {
	if tooManyTags(src) {
		return nil, nil
	}
	tokens := tokenize(src)
	for _, t := range tokens {
		if len(t.attrs) > MaxAttributes {
			return tokens, nil
		}
	}
	return tokens, matchEnds(tokens, len(src))
}

// matchEnds finds for each start tag where its element ends in the source; nil
// when the nesting goes beyond MaxDepth.
func matchEnds(tokens []token, size int) []end {
	ends := make([]end, len(tokens))
	var open []int
	closeTop := func(at span.Span, closed bool) {
		i := open[len(open)-1]
		open = open[:len(open)-1]
		ends[i] = end{inner: span.Span{Start: tokens[i].span.End, End: at.Start}, tag: at, closed: closed}
		if !closed {
			ends[i].tag.End = at.Start
		}
	}
	for i, t := range tokens {
		switch t.kind {
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			at := span.Span{Start: t.span.Start, End: t.span.Start}
			for len(open) > 0 {
				top := tokens[open[len(open)-1]].tag
				if top == "p" && paragraphEnds[t.tag] || closes[t.tag][top] {
					closeTop(at, false)
					continue
				}
				break
			}
			if void[t.tag] || t.kind == xhtml.SelfClosingTagToken && foreign(tokens, open) {
				e := span.Span{Start: t.span.End, End: t.span.End}
				ends[i] = end{inner: e, tag: e}
				continue
			}
			open = append(open, i)
			if len(open) > MaxDepth {
				return nil
			}
		case xhtml.EndTagToken:
			for k := len(open) - 1; k >= 0; k-- {
				if tokens[open[k]].tag != t.tag {
					continue
				}
				for len(open)-1 > k {
					closeTop(span.Span{Start: t.span.Start, End: t.span.Start}, false)
				}
				closeTop(t.span, true)
				break
			}
		}
	}
	for len(open) > 0 {
		closeTop(span.Span{Start: size, End: size}, false)
	}
	return ends
}

// foreign tells whether the open elements are within SVG or MathML, where a
// self-closing tag closes itself.
func foreign(tokens []token, open []int) bool {
	for k := len(open) - 1; k >= 0; k-- {
		switch tokens[open[k]].tag {
		case "svg", "math":
			return true
		case "foreignobject":
			return false
		}
	}
	return false
}
