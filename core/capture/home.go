package capture

import (
	"errors"
	"sort"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// At is the place of a piece in the item that it was cut out of, and that one's slug if it is
// a page.
type At struct {
	Item item.Address
	Slug string
	Span span.Span
}

// home is one page as it is shown, with its origins.
type home struct {
	from *sourcemap.Map
	tree *markup.Tree
}

// places gives where a piece stands in the page.
func (p home) places(a item.Address, cut At, isCut bool) []span.Span {
	switch {
	case p.from == nil:
		return nil
	case isCut:
		return p.from.Covered(cut.Item, cut.Span)
	}
	return p.from.Stands(a)
}

// homes finds the pages in which pieces stand, so that their rules are matched
// where they were meant to match. Each page is shown once.
type homes struct {
	r     *render.Renderer
	at    map[item.Address]At
	slugs []string
	shown map[string]home
	// quirks names a page that a piece stands in and that browsers show in quirks mode.
	quirks map[item.Address]string
	stands map[item.Address]string // the slug of the first page in which a piece was found
}

// first gives the first page in which a piece was found, if it is an item.
func (s *homes) first(a item.Address) (item.Address, bool) {
	slug, ok := s.stands[a]
	if !ok {
		return item.Address{}, false
	}
	return s.r.PageAt(slug)
}

func newHomes(c item.Collection, at map[item.Address]At) *homes {
	return &homes{r: render.New(c), at: at, shown: map[string]home{}, quirks: map[item.Address]string{},
		stands: map[item.Address]string{}}
}

// maxHomes bounds in how many pages a piece is looked at: pieces stand alike nearly
// everywhere, and the cost must not grow with the site.
const maxHomes = 4

// of gives a section, a part or a cut element in the pages in which it stands.
func (s *homes) of(h item.Head, root string) ([]css.Subject, error) {
	known, isKnown := s.at[h.Address]
	if h.Address.Kind != item.Section && h.Address.Kind != item.Part && !isKnown {
		return nil, nil
	}
	if s.slugs == nil {
		for slug := range s.r.Pages() {
			s.slugs = append(s.slugs, slug)
		}
		made, err := s.r.GeneratedPages()
		if err != nil {
			return nil, err
		}
		for _, m := range made {
			s.slugs = append(s.slugs, m.Slug)
		}
		sort.Strings(s.slugs)
	}
	var out []css.Subject
	slugs := s.slugs
	if known.Slug != "" {
		slugs = []string{known.Slug}
	}
	stands := 0
	for _, slug := range slugs {
		if stands == maxHomes {
			break
		}
		at, ok := s.shown[slug]
		if !ok {
			o, err := s.r.Page(render.PageRequest{Slug: slug, Mapped: true})
			var failed *item.ReadError
			switch {
			case errors.As(err, &failed):
				return nil, err
			case err == nil: // a page that cannot be shown is nobody's home
				at = home{o.Map, markup.Parse(o.Body, "")}
			}
			s.shown[slug] = at
		}
		if places := at.places(h.Address, known, isKnown); len(places) > 0 {
			if _, found := s.stands[h.Address]; !found {
				s.stands[h.Address] = slug
			}
			if !at.tree.Standards() {
				s.quirks[h.Address] = slug
			}
			if stands++; root == "" { // nothing could be said of it in a selector
				continue
			}
			out = append(out,
				css.Subject{Tree: &markup.Tree{Root: &markup.Node{}}, Root: root, Home: at.tree, In: places[0],
					Remote: css.RemoteSheet(at.tree)})
		}
	}
	return out, nil
}
