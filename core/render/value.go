package render

import (
	"bytes"
	"fmt"
	"html"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// ownValues reads the cp-value elements of a place: what a page has of its own in a
// section or part that it uses linked.
func ownValues(src sourcemap.Text, n *markup.Node) map[string]sourcemap.Text {
	var values map[string]sourcemap.Text
	for _, c := range n.Children {
		if c.Tag == "cp-value" && c.Own {
			if values == nil {
				values = map[string]sourcemap.Text{}
			}
			values[c.Value("for")] = src.Slice(c.Inner).TrimSpace()
		}
	}
	return values
}

// valued gives a piece's source with a place's own values in it and the current
// page marked.
func (s *stage) valued(h item.Head, src sourcemap.Text, values map[string]sourcemap.Text) (sourcemap.Text, error) {
	current := bytes.Contains(src.Bytes, []byte("data-current"))
	if len(values) == 0 && !current {
		return src, nil
	}
	tree := markup.Parse(src.Bytes, h.Meta.Context)
	edits, err := s.valueEdits(tree, values)
	if err != nil {
		return none, fmt.Errorf("own values of %s: %w", h.Address, err)
	}
	if current {
		for _, e := range s.currentEdits(tree) {
			if !covered(edits, e.Span) {
				edits = append(edits, e)
			}
		}
	}
	return src.Apply(sourcemap.Outermost(edits))
}

// covered tells whether a place lies within an edit that is made already.
func covered(edits []sourcemap.Edit, at span.Span) bool {
	for _, o := range edits {
		if o.Start <= at.Start && at.End <= o.End && o.Len() > 0 {
			return true
		}
	}
	return false
}

// valueEdits fills own values in: markup in text places, plain text in attributes.
func (s *stage) valueEdits(tree *markup.Tree, values map[string]sourcemap.Text) ([]sourcemap.Edit, error) {
	list, err := markup.Fillings(tree, "data-fill", func(name string) (string, bool) {
		v, ok := values[name]
		return html.UnescapeString(string(v.Bytes)), ok
	})
	if err != nil {
		return nil, err
	}
	var edits []sourcemap.Edit
	for _, f := range list {
		v := values[f.Name]
		switch {
		case f.Pattern == "" && f.Target == "text":
			edits = append(edits, sourcemap.Edit{Span: f.Edit.Span, New: v})
		case f.Pattern == "" && f.Target != "html":
			edits = append(edits, sourcemap.Edit{Span: f.Edit.Span, New: s.filled(f, v, sourcemap.HTMLToAttr)})
		default:
			edits = append(edits, s.made([]span.Edit{f.Edit}, "own value")...)
		}
	}
	return edits, nil
}

// filled is a value that stands in a source, written as an attribute.
func (s *stage) filled(f markup.Filling, v sourcemap.Text, c sourcemap.Codec) sourcemap.Text {
	text := string(f.Edit.New)
	place, ok := v.From(span.Span{End: len(v.Bytes)})
	if s.rec == nil || !ok || bytes.ContainsAny(v.Bytes, "<>") {
		return s.rec.Made(text, "own value")
	}
	value := markup.EscapeAttr(f.Value) // with the attribute's name before it, where it had none
	if text == value {
		return s.rec.Encoded(value, place, c)
	}
	lead := text[:len(text)-len(value)-1]
	return s.rec.Build("own value").Made(lead).Add(s.rec.Encoded(value, place, c)).Made(`"`).Text()
}

// currentEdits marks what leads to the page at hand. data-current="class:active;
// aria-current:page" on an element sets these where the element's own link, or the
// first within it, leads to this page; data-current-within also where it leads to a
// page above this one.
func (s *stage) currentEdits(tree *markup.Tree) []sourcemap.Edit {
	var edits []span.Edit
	for _, n := range tree.All {
		for _, attr := range []string{"data-current", "data-current-within"} {
			if _, ok := n.Attr(attr); !ok || !n.Own ||
				!s.leadsHere(linkWithin(n), attr == "data-current-within") {
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
	return s.made(edits, "current page")
}

// leadsHere tells whether a link leads to the page at hand, by its own address or as the home page.
func (s *stage) leadsHere(href string, within bool) bool {
	return LeadsTo(href, s.spot.Slug, within) || LeadsTo(s.r.Canonical(href), s.r.Canonical(s.spot.Slug), within)
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
