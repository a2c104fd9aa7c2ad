package plan

import (
	"fmt"
	"path"
	"strings"

	"compactparcel/core/item"
)

// A page is known by its key and by its address on the site, its slug. No two pages of a
// site have one slug; so a page that comes in beside another gets a free one, and all
// links of the kit follow.

// settleSlugs says at which slug each page of the kit stands on the site, once it is
// known what comes in and what stands in its place.
func (m *maker) settleSlugs() error {
	taken := map[string]bool{}
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind == item.Page {
			taken[h.Meta.Slug] = true
		}
	}
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok || h.Address.Kind != item.Page || h.Meta.Slug == "" {
			continue
		}
		delete(m.slugs, h.Meta.Slug)
		if want := m.ask.Pages[h.Address.String()].Slug; want != "" && comesIn(row) {
			if there, ok := m.site.Find(row.Becomes); ok && row.Site != nil && row.Site.Address == row.Becomes {
				return &DecisionError{
					Key: Key(AboutPage, h.Address.String()),
					Message: fmt.Sprintf("the site already has it, at %s; only a new page is given an address",
						there.Meta.Slug),
				}
			}
			if other, there := m.site.PageAt(want); there && other != row.Becomes {
				return &DecisionError{
					Key:     Key(AboutPage, h.Address.String()),
					Message: fmt.Sprintf("the site's %s is already at %s", other, want),
				}
			}
			m.slugs[h.Meta.Slug] = want
			taken[want] = true
			continue
		}
		if there, ok := m.site.Find(row.Becomes); ok && row.Decision != Both &&
			row.Decision != Again { // its address on the site stays
			if there.Meta.Slug != h.Meta.Slug && there.Meta.Slug != "" {
				m.slugs[h.Meta.Slug] = there.Meta.Slug
			}
			continue
		}
		at, occupied := m.site.PageAt(h.Meta.Slug)
		if comesIn(row) && occupied && at != row.Becomes {
			free := m.freeSlug(h, taken)
			taken[free] = true
			m.slugs[h.Meta.Slug] = free
		}
	}
	return nil
}

// freeSlug gives a slug like a page's own that no page has.
func (m *maker) freeSlug(h item.Head, taken map[string]bool) string {
	slug, end := strings.TrimSuffix(h.Meta.Slug, "/"), "/"
	if slug == h.Meta.Slug { // a file's name
		end = path.Ext(slug)
		slug = strings.TrimSuffix(slug, end)
	}
	if slug == "" {
		slug = "/" + path.Base(h.Address.Key)
		if try := slug + end; !m.slugTaken(try, taken) {
			return try
		}
	}
	for n := 2; ; n++ {
		if try := fmt.Sprintf("%s-%d%s", slug, n, end); !m.slugTaken(try, taken) {
			return try
		}
	}
}

func (m *maker) slugTaken(slug string, taken map[string]bool) bool {
	_, there := m.site.PageAt(slug)
	return there || taken[slug]
}
