package blend

import (
	"strings"

	"compactparcel/core/item"
)

// meaning is what a text says, formatting and the order of attributes and classes set aside.
func meaning(kind item.Kind, text []byte) string {
	d := readerOf(kind)(text)
	if d == nil {
		return string(text)
	}
	s := &side{doc: d, name: "x", pairs: &pairing{from: make([]*node, len(d.nodes)+1)}}
	return strings.Join(s.contents(stream(d.root, s.label, func(*node) bool { return false })), "\n")
}
