package outside

import (
	"bytes"
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// A source that is shown at several places was edited at some of them, or at all. The same edit at
// all of them is one edit of the source.

// group is the same edit of a source, wherever it was made.
type group struct {
	target
	new   []byte
	edits []*edit
}

func (g *group) reject(why string) {
	for _, e := range g.edits {
		e.state, e.why = NotTaken, why
	}
}

// settle decides which edits are taken, and makes them.
func (c *carrier) settle() error {
	if err := c.grouped(); err != nil {
		return err
	}
	for _, g := range c.groups {
		whole, err := c.atAll(g)
		if err != nil {
			return err
		}
		switch {
		case whole || c.Shared == Everywhere:
		case c.Shared == Here:
			if err := c.ownCopies(g); err != nil {
				return err
			}
		default:
			g.reject(fmt.Sprintf("%s is shown at other places, too, where it was not edited: say whether the edit is "+
				"for all of them or for this one alone", g.item))
		}
	}
	differently(c.groups)
	return c.apply()
}

// grouped puts the same edits together, in the order of their targets. Edits that do the same in
// one use, as where one of several equal entries was repeated twice, are several.
func (c *carrier) grouped() error {
	type done struct {
		use
		key string
	}
	by, seen := map[string]*group{}, map[done][]span.Span{}
	for _, p := range c.pages {
		for _, e := range p.edits {
			src, err := c.source(e.item)
			if err != nil {
				return err
			}
			at, text := canonical(src, e.field, e.span, e.new)
			key := fmt.Sprintf("%s %s %d %d %s", e.item, e.field, at.Start, at.End, text)
			u := done{use{p, e.occurrence}, key}
			n := slices.Index(seen[u], e.span)
			if n < 0 {
				n = len(seen[u])
				seen[u] = append(seen[u], e.span)
			}
			key = fmt.Sprintf("%s %d", key, n)
			g := by[key]
			if g == nil {
				g = &group{target: e.target, new: e.new}
				by[key], c.groups = g, append(c.groups, g)
			}
			g.edits = append(g.edits, e)
		}
	}
	sort.SliceStable(c.groups, func(i, j int) bool {
		a, b := c.groups[i], c.groups[j]
		if a.item != b.item {
			return a.item.Less(b.item)
		}
		return a.span.Start < b.span.Start
	})
	return nil
}

// canonical writes an edit of a source so that edits that do the same are the same: without what
// stays, and, where it only puts in or takes away, as early as it can stand.
func canonical(src []byte, field string, at span.Span, text []byte) (span.Span, []byte) {
	if field != "" || at.End > len(src) {
		return at, text
	}
	old := at.Of(src)
	lead := 0
	for lead < len(old) && lead < len(text) && old[lead] == text[lead] {
		lead++
	}
	tail := 0
	for tail < len(old)-lead && tail < len(text)-lead && old[len(old)-1-tail] == text[len(text)-1-tail] {
		tail++
	}
	at, text = span.Span{Start: at.Start + lead, End: at.End - tail}, text[lead:len(text)-tail]
	moved := text
	if len(text) == 0 {
		moved = at.Of(src)
	} else if at.Len() > 0 {
		return at, text
	}
	moved = bytes.Clone(moved)
	for at.Start > 0 && len(moved) > 0 && src[at.Start-1] == moved[len(moved)-1] {
		last := moved[len(moved)-1]
		copy(moved[1:], moved[:len(moved)-1])
		moved[0] = last
		at = at.Shift(-1)
	}
	if len(text) > 0 {
		text = moved
	}
	return at, text
}

// differently rejects edits of one place that are not the same.
func differently(groups []*group) {
	for i, a := range groups {
		for _, b := range groups[i+1:] {
			if a.item != b.item || b.span.Start > a.span.End {
				break
			}
			if a.field != b.field {
				continue
			}
			behind := b.span.Start == a.span.End && a.span.Len() > 0 && b.span.Len() > 0
			if a.edits[0].copied || b.edits[0].copied || a.field == "" && behind {
				continue
			}
			var pages []string
			for _, e := range append(slices.Clone(a.edits), b.edits...) {
				if !slices.Contains(pages, e.page.now) {
					pages = append(pages, e.page.now)
				}
			}
			if overlap := b.span.Start < a.span.End; inOneUse(a, b) && !overlap {
				continue // one file says both, one beside the other
			}
			sort.Strings(pages)
			why := fmt.Sprintf("the same place of %s was edited differently in %s", a.item, strings.Join(pages, ", "))
			a.reject(why)
			b.reject(why)
		}
	}
}

// inOneUse tells that two edits were made at one use of their source alone.
func inOneUse(a, b *group) bool {
	first := a.edits[0]
	other := func(e *edit) bool { return e.page != first.page || e.occurrence != first.occurrence }
	return !slices.ContainsFunc(a.edits, other) && !slices.ContainsFunc(b.edits, other)
}

// showing knows which pages show an item.
type showing struct {
	by   map[item.Address][]string
	maps map[string]*sourcemap.Map
}

// shownOn gives the slugs of the pages on which an item has a part.
func (c *carrier) shownOn(a item.Address) ([]string, error) {
	if c.showing == nil {
		s := &showing{by: map[item.Address][]string{}, maps: map[string]*sourcemap.Map{}}
		for _, p := range c.pages {
			if p.slug != "" {
				s.maps[p.slug] = p.from
			}
		}
		var slugs []string
		for _, slug := range c.slugs {
			slugs = append(slugs, slug)
		}
		sort.Strings(slugs)
		for _, slug := range slugs {
			o, err := c.r.Page(render.PageRequest{Slug: slug})
			if err != nil {
				return nil, err
			}
			for _, x := range o.Reached {
				s.by[x] = append(s.by[x], slug)
			}
		}
		c.showing = s
	}
	return c.showing.by[a], nil
}

// mapOf gives the map of a published page.
func (c *carrier) mapOf(slug string) (*sourcemap.Map, error) {
	if m, ok := c.showing.maps[slug]; ok {
		return m, nil
	}
	o, err := c.r.Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return nil, err
	}
	c.showing.maps[slug] = o.Map
	return o.Map, nil
}

// atAll tells whether an edit was made at all places that show what it edits.
func (c *carrier) atAll(g *group) (bool, error) {
	first := g.edits[0]
	if first.page.slug == "" { // a file of its own
		return true, nil
	}
	if g.item.Kind == item.Page && first.occurrence == 0 && g.field == "" { // the page itself, wherever it stands
		return true, nil
	}
	slugs, err := c.shownOn(g.item)
	if err != nil {
		return false, err
	}
	edited := map[string]int{}
	for _, e := range g.edits {
		edited[e.page.slug]++
	}
	for _, slug := range slugs {
		m, err := c.mapOf(slug)
		if err != nil {
			return false, err
		}
		if times(m, g.target) > edited[slug] {
			return false, nil
		}
	}
	return true, nil
}

// times counts how often a page shows the place of an edit: of what is put in, the byte before it
// or the one behind it.
func times(m *sourcemap.Map, t target) int {
	var before, at int
	for _, s := range m.Segments {
		if a, ok := m.Item(s); !ok || a != t.item || s.Place.Field != t.field {
			continue
		}
		p := s.Place.Span
		if t.field != "" || p.Start <= t.span.Start && t.span.Start < p.End {
			at++
		}
		if t.field == "" && t.span.Len() == 0 && p.Start < t.span.Start && t.span.Start <= p.End {
			before++
		}
	}
	return max(before, at)
}

// apply makes the edits that are taken.
func (c *carrier) apply() error {
	edits := map[item.Address][]span.Edit{}
	clear(c.out.Texts)
	clear(c.out.Titles)
	for _, g := range c.groups {
		for _, e := range g.edits {
			if e.state == "" {
				e.state = Taken
			}
		}
	}
	copies, err := c.copies()
	if err != nil {
		return err
	}
	for _, g := range c.groups {
		i := slices.IndexFunc(g.edits, func(e *edit) bool { return e.state == Taken && !e.copied })
		switch {
		case i < 0:
		case g.field == "title":
			c.out.Titles[g.item] = string(g.new)
		default:
			edits[g.item] = append(edits[g.item], span.Edit{Span: g.span, New: g.new})
		}
	}
	for a, own := range copies {
		edits[a] = append(edits[a], own...)
	}
	for a, list := range edits {
		src, err := c.source(a)
		if err != nil {
			return err
		}
		text, err := span.Apply(src, list)
		if err != nil {
			return fmt.Errorf("%s: %w", a, err)
		}
		c.out.Texts[a] = text
	}
	return nil
}
