// Package repeat finds what repeats in a site that was made page by page: headers
// and footers that stand on many pages, bands of a page that stand on several, runs
// of similar blocks, and the most used colours and type. It proposes parts, sections,
// records and tokens, and turns the accepted ones into items that the pages use.
//
// A proposal changes no page that a visitor sees: what is accepted is shown again
// and compared, and a page that would come out otherwise keeps its own copy.
package repeat

import (
	"sort"
	"strings"

	"compactparcel/core/markup"
)

// shape is a digest of an element's build: tags, attribute names and classes, but
// neither texts nor the values of attributes nor, on links and list entries, what
// marks the current page. Equal shapes are alike; others are not compared.
type shape uint64

// sized is an element's shape, and how many elements it has, itself included.
type sized struct {
	shape shape
	size  int
}

// FNV-1a, 64 bits.
const (
	fnvOffset = 14695981039346656037
	fnvPrime  = 1099511628211
)

func (h shape) add(s string) shape {
	for i := 0; i < len(s); i++ {
		h = (h ^ shape(s[i])) * fnvPrime
	}
	return (h ^ 0xff) * fnvPrime
}

func (h shape) addShape(x shape) shape {
	for range 8 {
		h = (h ^ x&0xff) * fnvPrime
		x >>= 8
	}
	return h
}

// markable tells that an element's class and aria-current may mark the current page.
func markable(n *markup.Node) bool { return n.Tag == "a" || n.Tag == "li" }

// isMark tells that an attribute may mark the current page on its element.
func isMark(n *markup.Node, attr string) bool {
	return markable(n) && (attr == "class" || attr == "aria-current")
}

// shapes works out the shapes of all elements of a tree.
func shapes(t *markup.Tree) map[*markup.Node]sized {
	out := make(map[*markup.Node]sized, len(t.All))
	for i := len(t.All) - 1; i >= 0; i-- { // children come after their parents
		n := t.All[i]
		h, size := shape(fnvOffset).add(n.Tag), 1
		for _, a := range attrNames(n) {
			if !isMark(n, a) {
				h = h.add(a)
			}
		}
		if !markable(n) {
			classes := n.Classes()
			sort.Strings(classes)
			h = h.add(strings.Join(classes, " "))
		}
		for _, c := range n.Children {
			h = h.addShape(out[c].shape)
			size += out[c].size
		}
		if n.HasText {
			h = h.add("text")
		}
		out[n] = sized{h, size}
	}
	return out
}

// attrNames gives the names of an element's attributes, sorted, each once; the
// engine's own are not looked at.
func attrNames(n *markup.Node) []string {
	out := make([]string, 0, len(n.Attrs))
	for _, a := range n.Attrs {
		if !bindings[a.Name] {
			out = append(out, a.Name)
		}
	}
	sort.Strings(out)
	k := 0
	for i, a := range out {
		if i == 0 || a != out[i-1] {
			out[k] = a
			k++
		}
	}
	return out[:k]
}

// slot is one place of a shape at which pages can differ.
type slot struct {
	node *markup.Node
	// attr is the attribute's name; empty for a text.
	attr string
	// mixed tells that the text stands beside child elements.
	mixed bool
	value string
	// has tells that the attribute is there at all.
	has bool
}

// slots lists an element's places in document order. Elements of one shape have the
// same places.
func slots(src []byte, n *markup.Node) []slot {
	var out []slot
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		names := attrNames(n)
		if markable(n) {
			for _, a := range []string{"aria-current", "class"} {
				v, has := n.Attr(a)
				out = append(out, slot{node: n, attr: a, value: strings.Join(strings.Fields(v.Value), " "), has: has})
			}
		}
		for _, a := range names {
			if !isMark(n, a) {
				out = append(out, slot{node: n, attr: a, value: n.Value(a), has: true})
			}
		}
		if len(n.Children) == 0 {
			if n.Own && n.HasText {
				out = append(out, slot{node: n, value: fold(string(n.Inner.Of(src)))})
			}
			return
		}
		at := n.Inner.Start
		for _, c := range n.Children {
			if n.Own && c.Own && n.HasText && c.Start.Start >= at {
				out = append(out, slot{node: n, mixed: true, value: fold(string(src[at:c.Start.Start]))})
				at = c.End.End
			}
			walk(c)
		}
		if n.Own && n.HasText && n.Inner.End >= at {
			out = append(out, slot{node: n, mixed: true, value: fold(string(src[at:n.Inner.End]))})
		}
	}
	walk(n)
	return out
}

// fold sets white space aside, as a page shows it.
func fold(s string) string {
	lead, trail := "", ""
	if s != "" && strings.TrimLeft(s[:1], " \t\r\n\f") == "" {
		lead = " "
	}
	if s != "" && strings.TrimLeft(s[len(s)-1:], " \t\r\n\f") == "" {
		trail = " "
	}
	f := strings.Join(strings.Fields(s), " ")
	if f == "" {
		return lead
	}
	return lead + f + trail
}
