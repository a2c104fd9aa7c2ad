package blend

import (
	"hash/fnv"
	"slices"
	"strconv"
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

	lead  span.Span // what stands before it: white space, comments of a stylesheet
	open  span.Span // its own text: the start tag, all of a leaf
	tail  span.Span // what stands before its end
	shut  span.Span // the end tag; empty for a leaf and where it is implied
	num   int       // its place in document order
	words []string  // of all below, for likeness
	hash  uint64    // of the whole, formatting set aside
	size  int
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
	how   how
	at    span.Span // of the whole part in the source; for values of leaves all of it
	in    span.Span // of the value alone, without quotes
}

// how says in which way two changes of a part are brought together.
type how byte

const (
	whole  how = iota // one value or the other
	set               // names in any order, as in class
	decls             // declarations, as in style
	prose             // words
	list              // parts with commas, as of a selector
	sheet             // a stylesheet
	lines             // a script, preformatted text
	quoted            // words in a JSON string
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
	if n.shape != word {
		d.nodes = append(d.nodes, n)
	}
	h := fnv.New64a()
	h.Write([]byte(strconv.Itoa(int(n.shape)) + n.kind + "\x00"))
	if n.shape == word {
		h.Write(n.open.Of(d.src))
		n.words = []string{n.parts[0].value}
	}
	var sum uint64
	for _, p := range n.parts { // the order of attributes has no meaning
		sum += hashOf(p.name + "\x00" + plain(p))
	}
	h.Write([]byte(strconv.FormatUint(sum, 36)))
	for _, k := range n.kids {
		k.parent = n
		d.visit(k)
		n.size += k.size
		if len(n.words) < 400 {
			n.words = append(n.words, k.words...)
		}
		h.Write([]byte(strconv.FormatUint(k.hash, 36) + ";"))
	}
	if n.shape == leaf {
		for _, p := range n.parts {
			n.words = append(n.words, strings.Fields(p.value)...)
		}
	}
	n.hash = h.Sum64()
}

func hashOf(s string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(s))
	return h.Sum64()
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
		end = n.shut.End
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
