package render

import (
	"bytes"
	"slices"

	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// Open regions: a part holds <cp-region name="lead">…</cp-region>, and a page that holds
// <cp-fill region="lead">…</cp-fill> is shown with what stands in that in its place. Without one, what the
// part has there is shown.

// fillings takes what a page fills regions with out of its text.
func (s *stage) fillings(text sourcemap.Text) (sourcemap.Text, error) {
	if !bytes.Contains(text.Bytes, []byte("<cp-fill")) {
		return text, nil
	}
	tree := markup.Parse(text.Bytes, "")
	if tree.Opaque {
		return text, nil
	}
	var edits []sourcemap.Edit
	end := 0
	for _, n := range inSource(tree) {
		if n.Tag != "cp-fill" || !n.Closed || n.Start.Start < end {
			continue
		}
		end = n.Outer().End
		name := n.Value("region")
		if s.fillsBy == nil {
			s.fillsBy = map[string]sourcemap.Text{}
		}
		s.fillsBy[name] = sourcemap.Concat(s.fillsBy[name], text.Slice(n.Inner))
		edits = append(edits, sourcemap.Edit{Span: n.Outer()})
	}
	return text.Apply(edits)
}

// region writes what stands in an open region.
func (s *stage) region(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	name := n.Value("name")
	fill, own := s.fillsBy[name]
	if !own {
		return s.expand(src.Slice(n.Inner), "")
	}
	if slices.Contains(s.open, name) { // it cannot stand in itself
		return none, nil
	}
	s.taken[name] = true
	s.open = append(s.open, name)
	t, err := s.expand(fill.Slice(span.Span{End: len(fill.Bytes)}), "")
	s.open = s.open[:len(s.open)-1]
	return t, err
}

// unfilled lists the regions that the page fills and no part on it has.
func (s *stage) unfilled() (out []string) {
	for name := range s.fillsBy {
		if !s.taken[name] {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}
