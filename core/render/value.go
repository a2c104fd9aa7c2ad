package render

import (
	"bytes"
	"fmt"
	"html"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// ownValues reads the cp-value elements of a place: what a page has of its own in a
// section or part that it uses linked.
func ownValues(src []byte, n *markup.Node) map[string]string {
	var values map[string]string
	for _, c := range n.Children {
		if c.Tag == "cp-value" && c.Own {
			if values == nil {
				values = map[string]string{}
			}
			values[c.Value("for")] = strings.TrimSpace(string(c.Inner.Of(src)))
		}
	}
	return values
}

// valued gives a piece's source with a place's own values in it and the current
// page marked.
func (s *stage) valued(h item.Head, src []byte, values map[string]string) ([]byte, error) {
	current := bytes.Contains(src, []byte("data-current"))
	if len(values) == 0 && !current {
		return src, nil
	}
	tree := markup.Parse(src, h.Meta.Context)
	edits, err := valueEdits(tree, values)
	if err != nil {
		return nil, fmt.Errorf("own values of %s: %w", h.Address, err)
	}
	if current {
		for _, e := range s.currentEdits(tree) {
			if !covered(edits, e) {
				edits = append(edits, e)
			}
		}
	}
	return span.Apply(src, edits)
}

// covered tells whether an edit lies within another that is made already.
func covered(edits []span.Edit, e span.Edit) bool {
	for _, o := range edits {
		if o.Start <= e.Start && e.End <= o.End && o.Len() > 0 {
			return true
		}
	}
	return false
}

// valueEdits fills own values in: markup in text places, plain text in attributes.
func valueEdits(tree *markup.Tree, values map[string]string) ([]span.Edit, error) {
	edits, err := markup.FillEdits(tree, "data-fill", func(name string) (string, bool) {
		v, ok := values[name]
		return html.UnescapeString(v), ok
	})
	if err != nil {
		return nil, err
	}
	for i, e := range edits {
		for _, n := range tree.All {
			if n.Own && n.Inner == e.Span {
				for _, b := range markup.Bindings(tree.Source, n, "data-fill") {
					if v, ok := values[b.Name]; ok && b.Target == "text" && b.Pattern == "" {
						edits[i].New = []byte(v)
					}
				}
			}
		}
	}
	return edits, nil
}

// currentEdits marks what leads to the page at hand. data-current="class:active;
// aria-current:page" on an element sets these where the element's own link, or the
// first within it, leads to this page; data-current-within also where it leads to a
// page above this one.
func (s *stage) currentEdits(tree *markup.Tree) []span.Edit {
	var edits []span.Edit
	for _, n := range tree.All {
		for _, attr := range []string{"data-current", "data-current-within"} {
			if _, ok := n.Attr(attr); !ok || !n.Own ||
				!LeadsTo(linkWithin(n), s.spot.Slug, attr == "data-current-within") {
				continue
			}
			for _, b := range markup.Bindings(tree.Source, n, attr) {
				v := b.Name
				if b.Target == "class" {
					v = strings.TrimSpace(n.Value("class") + " " + v)
				}
				edits = append(edits, markup.SetAttr(n, b.Target, v))
			}
		}
	}
	return edits
}

// linkWithin gives where an element's own link leads, or the first within it.
func linkWithin(n *markup.Node) string {
	if n.Tag == "a" {
		return n.Value("href")
	}
	for _, c := range n.Children {
		if to := linkWithin(c); to != "" {
			return to
		}
	}
	return ""
}

// LeadsTo tells whether a link leads to a page or, within, to one above it.
func LeadsTo(href, slug string, within bool) bool {
	href, _, _ = strings.Cut(href, "#")
	href, _, _ = strings.Cut(href, "?")
	if href == "" {
		return false
	}
	return href == slug || within && strings.HasSuffix(href, "/") && href != "/" && strings.HasPrefix(slug, href)
}
