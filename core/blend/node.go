package blend

import (
	"slices"
	"strings"

	"compactparcel/core/span"
)

// A document is read into nodes, whatever its language: an element, a rule and an object
// hold others; a word, a declaration and a number hold none. Each keeps its place in the
// source, so that what is blended is put together from pieces of the sources.
type node struct {
	shape  shape
	kind   string // what two nodes must share to be the same one: a tag, a key's type
	id     string // what tells it from all others; "" for most
	parts  []part
	parent *node
	kids   []*node

	lead   span.Span // what stands before it: white space, comments of a stylesheet
	open   span.Span // its own text: the start tag, all of a leaf
	tail   span.Span // what stands before its end
	endTag span.Span // the end tag; empty for a leaf and where it is implied
	num    int       // its place in document order
	words  []string  // see bag
	worded answer    // whether it holds words: see wordy
	hash   uint64    // of the whole, formatting set aside
	size   int
}

type shape byte

const (
	holds shape = iota // has an open and a shut
	leaf               // a comment, a declaration, a script's text
	word
)

// part is one thing of a node that changes by itself: an attribute, a value.
type part struct {
	name  string
	value string
	how   strategy
	at    span.Span // of the whole part in the source; for values of leaves all of it
	in    span.Span // of the value alone, without quotes
}

// strategy says in which way two changes of a part are brought together.
type strategy byte

const (
	whole  strategy = iota // one value or the other
	set                    // names in any order, as in class
	decls                  // declarations, as in style
	prose                  // words
	list                   // parts with commas, as of a selector
	sheet                  // a stylesheet
	lines                  // a script, preformatted text
	quoted                 // words in a JSON string
)

// doc is a document that was read.
type doc struct {
	src   []byte
	lang  language
	root  *node
	nodes []*node // in document order, the root first; without words
}

// language is what differs between HTML, CSS, JSON and plain text.
type language byte

const (
	langMarkup language = iota
	langSheet
	langJSON
	langLines
)

// settle numbers the nodes and tells what each is like.
func (d *doc) settle() *doc {
	d.nodes = d.nodes[:0]
	d.visit(d.root)
	return d
}

func (d *doc) visit(n *node) {
	n.size = 1
	n.num = len(d.nodes)
	if n.shape == word {
		n.hash = mix(uint64(word), hashOf(n.parts[0].value))
		return
	}
	d.nodes = append(d.nodes, n)
	n.hash = mix(uint64(n.shape), hashOf(n.kind))
	var sum uint64
	for _, p := range n.parts { // the order of attributes has no meaning
		sum += mix(hashOf(p.name), hashOf(plain(p)))
	}
	n.hash = mix(n.hash, sum)
	for _, k := range n.kids {
		k.parent = n
		d.visit(k)
		n.size += k.size
		n.hash = mix(n.hash, k.hash)
	}
}

// mix brings two hashes together, in their order (after FNV-1a, 64 bits).
func mix(a, b uint64) uint64 {
	const prime = 1099511628211
	a = (a ^ b) * prime
	return (a ^ a>>29) * prime
}

// mostWords bounds by how many words two nodes are held against each other.
const mostWords = 400

// bag gives the words of a node and of all below, as far as they are needed for likeness.
func (n *node) bag() []string {
	if n.words == nil {
		n.words = n.gather(make([]string, 0, 16))
	}
	return n.words
}

func (n *node) gather(into []string) []string {
	switch {
	case len(into) >= mostWords:
	case n.shape == word:
		into = append(into, n.parts[0].value)
	case n.shape == leaf:
		for _, p := range n.parts {
			into = append(into, strings.Fields(p.value)...)
		}
	default:
		for _, k := range n.kids {
			into = k.gather(into)
		}
	}
	return into
}

// hashOf is FNV-1a of 64 bits (Fowler, Noll and Vo).
func hashOf(s string) uint64 {
	h := uint64(14695981039346656037)
	for i := range len(s) {
		h = (h ^ uint64(s[i])) * 1099511628211
	}
	return h
}

// plain is a part's value, formatting set aside.
func plain(p part) string {
	switch p.how {
	case set:
		names := strings.Fields(p.value)
		slices.Sort(names)
		return strings.Join(names, " ")
	case decls, sheet, list, prose:
		return squeeze(p)
	default:
	}
	return p.value
}

func (n *node) part(name string) (part, bool) {
	for _, p := range n.parts {
		if p.name == name {
			return p, true
		}
	}
	return part{}, false
}

// text is a node's whole source text, without what stands before it.
func (d *doc) text(n *node) string {
	end := n.open.End
	if n.shape == holds {
		end = n.endTag.End
	}
	return string(d.src[n.open.Start:end])
}

// path names a node for people: its ancestors and itself.
func (n *node) path() string {
	var names []string
	for ; n != nil && n.parent != nil; n = n.parent {
		name := strings.TrimRight(n.kind, "{[:")
		if p, ok := n.part("selector"); ok {
			name = strings.Join(strings.Fields(p.value), " ")
		} else if n.id != "" {
			name += n.id
		} else if p, ok := n.part("class"); ok && p.how == set && strings.TrimSpace(p.value) != "" {
			name += "." + strings.Join(strings.Fields(p.value), ".")
		}
		if name != "" {
			names = append([]string{name}, names...)
		}
	}
	return strings.Join(names, " > ")
}
