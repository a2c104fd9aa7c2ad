// Package edit changes a site by operations: each gives the items that it changes and nothing else.
package edit

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// Site is a state of a site, with who links where.
type Site interface {
	item.Collection
	// PageAt gives the page with a slug.
	PageAt(slug string) (item.Address, bool)
	// LinkedFrom gives the items that link to a slug.
	LinkedFrom(slug string) ([]item.Address, error)
}

// Change is one item as an operation leaves it. Content is nil where only its metadata changed.
type Change struct {
	Head    item.Head
	Content []byte
	Gone    bool // the item is taken out
}

// Moved is what moving a page changes: the page, those below it, and what names them.
type Moved struct {
	Changes []Change
	// Slugs are the addresses that change, old to new.
	Slugs map[string]string
	// Behind are the items with a script that may go on naming an old address, which answers with
	// a redirect.
	Behind []item.Address
}

// TakenError tells that a page cannot go where another one is.
type TakenError struct {
	Slug string
	By   item.Address
}

func (e *TakenError) Error() string { return fmt.Sprintf("%s is already at %s", e.By, e.Slug) }

// Move gives a page another address. The pages below it keep their places below it, and links,
// menus and placements follow all of them. Its error is a *TakenError where another page stands in
// the way.
func Move(s Site, page item.Address, slug string) (*Moved, error) {
	h, ok := s.Find(page)
	if !ok {
		return nil, fmt.Errorf("there is no %s", page)
	}
	m := &Moved{Slugs: slugsBelow(s, h.Meta.Slug, slug)}
	for from, to := range m.Slugs {
		by, there := s.PageAt(to)
		if _, goes := m.Slugs[to]; there && !goes {
			return nil, &TakenError{to, by}
		}
		if err := item.CheckSlug(to); err != nil {
			return nil, fmt.Errorf("%s would be at %s: %w", from, to, err)
		}
	}
	changed, err := m.rewrite(s)
	if err != nil {
		return nil, err
	}
	for _, h := range s.Heads() {
		c, rewritten := changed[h.Address]
		if !rewritten {
			c = Change{Head: h}
		}
		c.Head.Meta = h.Meta.Moved(m.Slugs)
		if rewritten || c.Head.State() != h.State() {
			m.Changes = append(m.Changes, c)
		}
	}
	return m, nil
}

// slugsBelow gives the new addresses of a page and of those below it. Nothing is below the home
// page: everything would be.
func slugsBelow(s Site, from, to string) map[string]string {
	out := map[string]string{from: to}
	if from == "/" || !strings.HasSuffix(from, "/") || !strings.HasSuffix(to, "/") {
		return out
	}
	for _, h := range s.Heads() {
		if rest, below := strings.CutPrefix(h.Meta.Slug, from); below && h.Address.Kind == item.Page && rest != "" {
			out[h.Meta.Slug] = to + rest
		}
	}
	return out
}

// rewrite changes the texts that link to what moves.
func (m *Moved) rewrite(s Site) (map[item.Address]Change, error) {
	var users []item.Address
	for from := range m.Slugs {
		of, err := s.LinkedFrom(from)
		if err != nil {
			return nil, err
		}
		users = append(users, of...)
	}
	sort.Slice(users, func(i, j int) bool { return users[i].Less(users[j]) })
	out := map[item.Address]Change{}
	for _, a := range slices.Compact(users) {
		h, ok := s.Find(a)
		if !ok {
			continue
		}
		src, err := item.Read(s, h)
		if err != nil {
			return nil, err
		}
		f := facts.Extract(a.Kind, h.Meta.Context, src)
		text, err := f.Replace(src, func(r facts.Ref) (string, bool) {
			to, ok := m.Slugs[r.Name]
			return to, ok && r.Space == facts.Address
		})
		if err != nil {
			return nil, fmt.Errorf("%s: %w", a, err)
		}
		if string(text) != string(src) {
			out[a] = Change{Head: h, Content: text}
		}
		for from := range m.Slugs {
			if f.IsMentioned(from) && !slices.Contains(m.Behind, a) {
				m.Behind = append(m.Behind, a)
			}
		}
	}
	return out, nil
}
