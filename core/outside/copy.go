package outside

import (
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// use is the use of a section on a page.
type use struct {
	page       *page
	occurrence int
}

// ownCopies makes a section's use at the edited places a copy of its own, with the edit in it.
func (c *carrier) ownCopies(g *group) error {
	for _, e := range g.edits {
		why, err := c.ownCopy(use{e.page, e.occurrence})
		if err != nil {
			return err
		}
		if why != "" {
			e.state, e.why = NotTaken, why
		} else {
			e.copied = true
		}
	}
	return nil
}

// ownCopy tells what is in the way of a copy of its own; nothing when it can be made.
func (c *carrier) ownCopy(u use) (why string, err error) {
	m := u.page.from
	o := m.Occurrences[u.occurrence]
	if o.Item.Kind != item.Section || o.Parent < 0 {
		return fmt.Sprintf("a %s has no copy for one place: edit it for all places, or leave it as it is here",
			o.Item.Kind), nil
	}
	if parent := m.Occurrences[o.Parent]; parent.Item.Kind != item.Page || parent.Parent >= 0 {
		return fmt.Sprintf("%s stands in %s, which other places show, too", o.Item, parent.Item), nil
	}
	at, ok := u.region()
	for i := at.Start; ok && i < at.End; {
		s, _ := m.At(i)
		ok = s.Kind == sourcemap.Copied || s.Kind == sourcemap.Address || s.Kind == sourcemap.Encoded
		ok = ok && (s.Place.Occurrence == u.occurrence || s.Place.Occurrence == o.Parent)
		i = s.End
	}
	if !ok {
		return fmt.Sprintf("%s holds what the engine writes or what other pieces show, which a copy would lose",
			o.Item), nil
	}
	n, err := c.element(u)
	if err == nil && n == nil {
		why = "the element that uses it is not found in its page"
	}
	return why, err
}

// region is where the section stands on its page.
func (u use) region() (at span.Span, ok bool) {
	for _, s := range u.page.from.Segments {
		if s.Kind == sourcemap.Made || s.Place.Occurrence != u.occurrence {
			continue
		}
		if !ok {
			at, ok = s.Span, true
		}
		at.End = s.End
	}
	return at, ok
}

// element gives the element that uses a section in its page's source.
func (c *carrier) element(u use) (*markup.Node, error) {
	o := u.page.from.Occurrences[u.occurrence]
	src, err := c.source(u.page.from.Occurrences[o.Parent].Item)
	if err != nil {
		return nil, err
	}
	return markup.Parse(src, "").Find(func(n *markup.Node) bool {
		return n.Own && n.Start.Start == o.At.Start && n.Tag == "cp-section"
	}), nil
}

// copies are the edits that put copies in the places of uses, by the page that has the use: what
// the edited file has there. All that was edited within goes with it.
func (c *carrier) copies() (map[item.Address][]span.Edit, error) {
	out := map[item.Address][]span.Edit{}
	done := map[use]bool{}
	for _, p := range c.pages {
		for _, e := range p.edits {
			u := use{p, e.occurrence}
			if !e.copied || e.state != Taken || done[u] || p.from.Occurrences[e.occurrence].Item.Kind != item.Section {
				continue
			}
			done[u] = true
			n, err := c.element(u)
			if err != nil {
				return nil, err
			}
			old, _ := u.region()
			now := old
			for _, x := range p.edits {
				if x.hunk.Old.Start >= old.Start && x.hunk.Old.Start < old.End && x.hunk.Old.End <= old.End {
					x.copied = true
				}
			}
			for _, h := range p.hunks {
				grown := h.New.Len() - h.Old.Len()
				if h.Old.End <= old.Start && h.Old.Start < old.Start {
					now.Start += grown
				}
				if h.Old.End <= old.End && h.Old.Start < old.End {
					now.End += grown
				}
			}
			text, err := c.inSources(p, now)
			if err != nil {
				return nil, err
			}
			parent := p.from.Occurrences[p.from.Occurrences[e.occurrence].Parent].Item
			out[parent] = append(out[parent], span.Edit{Span: n.Outer(), New: text})
		}
	}
	return out, nil
}
