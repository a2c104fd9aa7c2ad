package plan

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/closure"
	"compactparcel/core/item"
)

// choose settles which items come when only some were asked for: those, and what they
// need, with the reason. New pages may be asked for under another title and address.
func (m *maker) selectItems() error {
	if err := m.pagesAsked(); err != nil {
		return err
	}
	if len(m.ask.Only) == 0 {
		return nil
	}
	for _, a := range m.ask.Only {
		if _, ok := m.parcel.Find(a); !ok {
			var have []string
			for _, h := range m.parcel.Heads() {
				have = append(have, h.Address.String())
			}
			return &DecisionError{
				Key:     "only",
				Message: fmt.Sprintf("the kit has no %s (it holds: %s)", a, strings.Join(have, ", ")),
			}
		}
	}
	all, err := closure.Compute(m.kit, m.ask.Only, func(item.Address) bool { return false })
	if err != nil {
		return err
	}
	m.chosen = map[item.Address]string{}
	for _, a := range m.ask.Only {
		m.chosen[a] = ""
	}
	for _, e := range all.Items {
		if _, named := m.chosen[e.Address]; named || e.Address.Kind == item.Page { // a link brings no page along
			continue
		}
		if len(e.Reasons) > 0 {
			m.chosen[e.Address] = e.Reasons[0].String()
		}
	}
	for _, row := range m.list {
		why, in := m.chosen[row.Address]
		if in {
			row.Needed = why
		}
	}
	return nil
}

// isExcluded tells whether an item was not chosen.
func (m *maker) isExcluded(a item.Address) bool {
	if m.chosen == nil {
		return false
	}
	_, in := m.chosen[a]
	return !in
}

// pagesAsked checks what was asked for pages.
func (m *maker) pagesAsked() error {
	keys := make([]string, 0, len(m.ask.Pages))
	for k := range m.ask.Pages {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	at := map[string]string{}
	for _, k := range keys {
		a, err := item.ParseAddress(k)
		h, ok := m.parcel.Find(a)
		if err != nil || !ok || a.Kind != item.Page {
			return &DecisionError{Key: Key(AboutPage, k), Message: "the kit has no page of this address"}
		}
		slug := m.ask.Pages[k].Slug
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
		if other, there := m.site.PageAt(slug); there {
			if row := m.rows[a]; row == nil || row.Site == nil || row.Site.Address != other {
				return &DecisionError{
					Key:     Key(AboutPage, k),
					Message: fmt.Sprintf("the site's %s is already at %s", other, slug),
				}
			}
		}
		for _, x := range m.parcel.Heads() {
			if x.Address.Kind == item.Page && x.Address != a && x.Meta.Slug == slug &&
				m.ask.Pages[x.Address.String()].Slug == "" {
				return &DecisionError{Key: Key(AboutPage, k),
					Message: fmt.Sprintf("the kit's %s is at %s", x.Address, slug)}
			}
		}
		m.slugs[h.Meta.Slug] = slug
	}
	return nil
}
