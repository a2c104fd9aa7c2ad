package capture

import (
	"slices"
	"sort"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// What scripts put on a page is in no source. Some of it can be read in their literals (switchedBy); the rest shows
// when the page is run.

// Ran gives the page at a slug as documents that show it once its own scripts have run, at several widths, opened and
// scrolled; none where it was not run.
type Ran func(slug string) ([][]byte, error)

// maxRan bounds how many pages are run for one capture: pieces are alike nearly everywhere, and the cost must not grow
// with the site.
const maxRan = 12

// ranPages are the documents of pages that were run, each read once.
type ranPages struct {
	ask   Ran
	trees map[string][]*markup.Tree
}

func (r *ranPages) of(slug string) ([]*markup.Tree, error) {
	if r.ask == nil || slug == "" {
		return nil, nil
	}
	if known, ok := r.trees[slug]; ok {
		return known, nil
	}
	if len(r.trees) == maxRan {
		return nil, nil
	}
	docs, err := r.ask(slug)
	if err != nil {
		return nil, err
	}
	trees := make([]*markup.Tree, len(docs))
	for i, d := range docs {
		trees[i] = markup.Parse(d, "")
	}
	r.trees[slug] = trees
	return trees, nil
}

// ran gives a piece as it is once the scripts of its page have run. root says in a selector what its top elements are.
func (s *shower) ran(h item.Head, root string) ([]css.Subject, error) {
	slug := s.homes.stands[h.Address]
	if h.Address.Kind == item.Page {
		slug = h.Meta.Slug
	}
	trees, err := s.pages.of(slug)
	if err != nil {
		return nil, err
	}
	var out []css.Subject
	for _, tree := range trees {
		if h.Address.Kind == item.Page {
			out = append(out, css.Subject{Tree: tree, Root: root})
			continue
		}
		if root == "" {
			continue
		}
		tops, err := css.Query(tree, root)
		if err != nil {
			continue // it takes too long to be looked for: its source has to do
		}
		for _, n := range tops {
			at := n.Outer()
			out = append(
				out,
				css.Subject{Tree: markup.Parse(at.Of(tree.Source), h.Meta.Context), Root: root, Home: tree,
					In: span.Span{Start: at.Start, End: at.End}},
			)
		}
	}
	return out, nil
}

// classesIn notes the classes of the elements of subjects.
func classesIn(into map[string]bool, list []css.Subject) {
	for _, p := range list {
		for _, n := range p.Tree.All {
			for _, c := range n.Classes() {
				into[c] = true
			}
		}
	}
}

// addedNames are the classes for which rules come along though no source has them.
type addedNames struct {
	written, seen map[string]bool // in sources, and on pages that were run
}

// of says, of the classes that a sheet names, which come since a script may put them on and which since they were seen.
func (a addedNames) of(f *facts.Facts, switched map[string]bool) (byScripts, whenRun []string) {
	for _, r := range f.Refs {
		if r.Space != facts.Class || a.written[r.Name] {
			continue
		}
		switch {
		case a.seen[r.Name]:
			whenRun = append(whenRun, r.Name)
		case switched[r.Name]:
			byScripts = append(byScripts, r.Name)
		}
	}
	sort.Strings(byScripts)
	sort.Strings(whenRun)
	return slices.Compact(byScripts), slices.Compact(whenRun)
}

// withoutEmpty gives the source with no piece that names, among its styles or as a link, a sheet of which nothing is
// carried.
func withoutEmpty(
	src item.Collection, w *world, whole map[item.Address]bool, pieces []item.Address,
) (item.Collection, error) {
	empty := map[item.Address]bool{}
	for a, b := range w.carried {
		if !whole[a] && len(b) == 0 {
			empty[a] = true
		}
	}
	if len(empty) == 0 {
		return src, nil
	}
	over := item.NewOver(src)
	for _, a := range pieces {
		h, _ := src.Find(a)
		if slices.ContainsFunc(h.Meta.Styles, func(s item.Address) bool { return empty[s] }) {
			less := h
			less.Meta.Styles = slices.DeleteFunc(
				slices.Clone(h.Meta.Styles),
				func(s item.Address) bool { return empty[s] },
			)
			over.Lay(less, src, h)
			h = less
		}
		if !a.Kind.IsMarkup() {
			continue
		}
		b, err := item.Read(src, h)
		if err != nil {
			return nil, err
		}
		var cuts []span.Edit
		for _, s := range css.LoadedSheets(markup.Parse(b, h.Meta.Context)) {
			if to, ok := item.FileAt(src, s.Path); ok && !s.Own() && empty[to] {
				cuts = append(cuts, span.Edit{Span: s.Node.Outer()})
			}
		}
		if len(cuts) == 0 {
			continue
		}
		if b, err = span.Apply(b, cuts); err != nil {
			return nil, err
		}
		over.Set(h, b)
	}
	return over, nil
}
