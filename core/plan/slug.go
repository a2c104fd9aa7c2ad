package plan

import (
	"fmt"
	"path"
	"sort"
	"strings"

	"compactparcel/core/item"
)

// A page is known by its key and by its address on the site, its slug. No two pages of a
// site have one slug; so a page that comes in beside another gets a free one, and all
// links of the kit follow.

// settleSlugs says at which slug each page of the kit stands on the site, once it is
// known what comes in and what stands in its place.
func settleSlugs(in *inputs, rows rowList, under *transform) (*transform, error) {
	t := under.clone()
	taken := map[string]bool{}
	for _, h := range in.parcel.Heads() {
		if h.Address.Kind == item.Page {
			taken[h.Meta.Slug] = true
		}
	}
	for _, row := range rows.list {
		h, ok := in.parcel.Find(row.Address)
		if !ok || h.Address.Kind != item.Page || h.Meta.Slug == "" {
			continue
		}
		delete(t.slugs, h.Meta.Slug)
		if want := in.ask.Pages[h.Address.String()].Slug; want != "" && comesIn(row) {
			if there, ok := in.site.Find(row.Becomes); ok && row.Site != nil && row.Site.Address == row.Becomes {
				return nil, &DecisionError{
					Key: Key(AboutPage, h.Address.String()),
					Message: fmt.Sprintf("the site already has it, at %s; only a new page is given an address",
						there.Meta.Slug),
				}
			}
			if other, there := in.pageAt(want); there && other != row.Becomes {
				return nil, &DecisionError{
					Key:     Key(AboutPage, h.Address.String()),
					Message: fmt.Sprintf("the site's %s is already at %s", other, want),
				}
			}
			t.slugs[h.Meta.Slug] = want
			taken[want] = true
			continue
		}
		if there, ok := in.site.Find(row.Becomes); ok && row.Decision != Both &&
			row.Decision != Again { // its address on the site stays
			if there.Meta.Slug != h.Meta.Slug && there.Meta.Slug != "" {
				t.slugs[h.Meta.Slug] = there.Meta.Slug
			}
			continue
		}
		at, occupied := in.pageAt(h.Meta.Slug)
		if comesIn(row) && occupied && at != row.Becomes {
			free := in.freeSlug(h, taken)
			taken[free] = true
			t.slugs[h.Meta.Slug] = free
		}
	}
	return t, nil
}

// pagesAsked checks under which titles and addresses new pages were asked for.
func pagesAsked(in *inputs, rows rowList) error {
	keys := make([]string, 0, len(in.ask.Pages))
	for k := range in.ask.Pages {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	at := map[string]string{}
	for _, k := range keys {
		a, err := item.ParseAddress(k)
		_, ok := in.parcel.Find(a)
		if err != nil || !ok || a.Kind != item.Page {
			return &DecisionError{Key: Key(AboutPage, k), Message: "the kit has no page of this address"}
		}
		slug := in.ask.Pages[k].Slug
		if slug == "" {
			continue
		}
		if err := item.CheckSlug(slug); err != nil {
			return &DecisionError{Key: Key(AboutPage, k), Message: fmt.Sprintf("%s; write it as /path/", err)}
		}
		if other, twice := at[slug]; twice {
			return &DecisionError{Key: Key(AboutPage, k),
				Message: fmt.Sprintf("%s is also to be at %s", other, slug)}
		}
		at[slug] = k
		if other, there := in.pageAt(slug); there {
			if row := rows.rows[a]; row == nil || row.Site == nil || row.Site.Address != other {
				return &DecisionError{
					Key:     Key(AboutPage, k),
					Message: fmt.Sprintf("the site's %s is already at %s", other, slug),
				}
			}
		}
		for _, x := range in.parcel.Heads() {
			if x.Address.Kind == item.Page && x.Address != a && x.Meta.Slug == slug &&
				in.ask.Pages[x.Address.String()].Slug == "" {
				return &DecisionError{Key: Key(AboutPage, k),
					Message: fmt.Sprintf("the kit's %s is at %s", x.Address, slug)}
			}
		}
	}
	return nil
}

// freeSlug gives a slug like a page's own that no page has.
func (in *inputs) freeSlug(h item.Head, taken map[string]bool) string {
	slug, end := strings.TrimSuffix(h.Meta.Slug, "/"), "/"
	if slug == h.Meta.Slug { // a file's name
		end = path.Ext(slug)
		slug = strings.TrimSuffix(slug, end)
	}
	if slug == "" {
		slug = "/" + path.Base(h.Address.Key)
		if try := slug + end; !in.slugTaken(try, taken) {
			return try
		}
	}
	for n := 2; ; n++ {
		if try := fmt.Sprintf("%s-%d%s", slug, n, end); !in.slugTaken(try, taken) {
			return try
		}
	}
}

func (in *inputs) slugTaken(slug string, taken map[string]bool) bool {
	_, there := in.pageAt(slug)
	return there || taken[slug]
}
