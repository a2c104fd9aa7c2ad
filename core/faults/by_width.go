package faults

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
)

// AtWidth is what a browser saw of a page at a width, in px; elements by their way from the document's root, as
// html > body > main > p:nth-of-type(2).
type AtWidth struct {
	Slug    string
	Width   int
	Over    []Beyond // reach beyond the page's edge
	Cut     []Beyond // texts that are cut off
	Covered []Beyond // places that a link leads to and that a fixed bar covers then
	// Unshown tells why a browser could not show the page; "" where it could.
	Unshown string
}

// Beyond is an element that is too large for its place, or covered, by how many px.
type Beyond struct {
	Path string
	By   int
}

// ByWidth tells of what browsers saw, where it can be mended: one fault for each element and the widest width at
// which it is there.
func ByWidth(c item.Collection, seen []AtWidth) ([]Fault, error) {
	found := newGather()
	bySlug := map[string][]AtWidth{}
	var slugs []string
	for _, s := range seen {
		if bySlug[s.Slug] == nil {
			slugs = append(slugs, s.Slug)
		}
		bySlug[s.Slug] = append(bySlug[s.Slug], s)
	}
	slices.Sort(slugs)
	r := render.New(c)
	for _, slug := range slugs {
		if err := atWidths(r, slug, bySlug[slug], found); err != nil {
			return nil, err
		}
	}
	return found.list(), nil
}

func atWidths(r *render.Renderer, slug string, seen []AtWidth, found *gather) error {
	if !slices.ContainsFunc(seen, func(s AtWidth) bool {
		return len(s.Over)+len(s.Cut)+len(s.Covered) > 0 || s.Unshown != ""
	}) {
		return nil
	}
	shown, err := r.Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return err
	}
	l := &pageLook{r: r, shown: shown, tree: markup.Parse(shown.Body, ""), lines: map[item.Address][]int{}}
	type told struct {
		kind Kind
		path string
	}
	done := map[told]bool{}
	slices.SortFunc(seen, func(a, b AtWidth) int { return b.Width - a.Width })
	for _, s := range seen {
		for _, x := range []struct {
			kind         Kind
			list         []Beyond
			says, remedy string
		}{
			{Overflow, s.Over, "%s reaches %d px beyond the page at %d px",
				"let it shrink or wrap, or give it a max-width"},
			{CutOff, s.Cut, "the text of %s is cut off by %d px at %d px", "let its box grow with its text"},
			{Covered, s.Covered, "a fixed bar covers %s by %d px when a link leads to it, at %d px",
				"give it scroll-margin-top, or the page scroll-padding-top"},
		} {
			for _, e := range x.list {
				if done[told{x.kind, e.Path}] {
					continue
				}
				done[told{x.kind, e.Path}] = true
				n, _ := css.QueryOne(l.tree, e.Path) // what a script made is told of its page
				l.tell(x.kind, n, x.remedy, x.says, named(e.Path), e.By, s.Width)
			}
		}
		if s.Unshown != "" && !done[told{kind: Overflow}] {
			done[told{kind: Overflow}] = true
			l.tell(Overflow, nil, "look at its scripts and its size", "a browser cannot show the page: %s", s.Unshown)
		}
	}
	for _, f := range l.faults {
		found.add(f, slug)
	}
	return l.err
}

// named is the element at the end of a way.
func named(path string) string {
	last := path[strings.LastIndex(path, "> ")+1:]
	tag, _, _ := strings.Cut(strings.TrimSpace(last), ":")
	return fmt.Sprintf("<%s>", strings.TrimPrefix(tag, "> "))
}

// Merge puts further faults to a list, in the order of lists of faults.
func Merge(list, more []Fault) []Fault {
	out := append(slices.Clone(list), more...)
	slices.SortStableFunc(out, func(a, b Fault) int { return a.Kind.rank() - b.Kind.rank() })
	return out
}
