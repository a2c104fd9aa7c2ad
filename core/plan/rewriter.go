package plan

import (
	"fmt"
	"maps"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// rewriter gives the kit's items as T makes them.
type rewriter struct {
	*inputs
	*transform
	surrounding
	values  map[string]string // of fill-ins
	renames facts.Renames     // of all of T
	without *rewriter         // the same T without the names that are kept apart, once it was needed
}

// newRewriter readies a T, which is not to change from here on.
func newRewriter(g given, s surrounding, t *transform) *rewriter {
	r := &rewriter{inputs: g.inputs, transform: t, surrounding: s, values: g.values, renames: facts.Renames{}}
	changed := t.changed()
	for n, to := range facts.RenamesFor(changed.moved, changed.slugs) {
		if n.Name != to {
			r.renames[n] = to
		}
	}
	maps.Copy(r.renames, t.names)
	return r
}

// transformed gives a kit item's content under T; nil when T leaves it as it is.
func (m *rewriter) transformed(h item.Head) ([]byte, error) {
	if h.Address.Kind == item.Media && !strings.HasSuffix(h.Address.Key, ".svg") || h.Address.Kind == item.Component {
		return nil, nil
	}
	renames, err := m.renamesOf(h)
	if err != nil {
		return nil, err
	}
	f, err := m.facts(h)
	if err != nil {
		return nil, err
	}
	title := ""
	if h.Address.Kind == item.Page {
		title = m.ask.Pages[h.Address.String()].Title
	}
	if !m.changes(h, f, renames) && title == "" {
		return nil, nil
	}
	b, err := item.Read(m.parcel.Collection, h)
	if err != nil {
		return nil, err
	}
	if len(m.worn) > 0 && h.Address.Kind == item.Stylesheet {
		if b, err = span.Apply(b, wornRules(b, m.worn)); err != nil {
			return nil, fmt.Errorf("leaving rules out of %s: %w", h.Address, err)
		}
	}
	out, err := facts.Rewrite(h.Address.Kind, h.Meta.Context, b, renames)
	if err != nil {
		return nil, fmt.Errorf("moving names in %s: %w", h.Address, err)
	}
	if m.marked {
		if out, err = m.markText(h.Address.Kind, h.Meta.Context, out); err != nil {
			return nil, fmt.Errorf("marking %s: %w", h.Address, err)
		}
	}
	if m.uncovered[h.Address] {
		if out, err = withoutLandmarks(out, h.Meta.Context, item.Header, item.Footer); err != nil {
			return nil, fmt.Errorf("leaving landmarks out of %s: %w", h.Address, err)
		}
	}
	if title != "" {
		if out, err = retitled(out, h.Meta.Context, title); err != nil {
			return nil, err
		}
	}
	if h.Address.Kind.IsMarkup() && len(m.values) > 0 {
		tree := markup.Parse(out, h.Meta.Context)
		edits, err := markup.FillEdits(
			tree,
			"data-fill",
			func(name string) (string, bool) { v, ok := m.values[name]; return v, ok },
		)
		if err != nil {
			return nil, fmt.Errorf("filling in %s: %w", h.Address, err)
		}
		return span.Apply(out, edits)
	}
	return out, nil
}

// plainly is transformed without the names that are kept apart.
func (m *rewriter) plainly(h item.Head) ([]byte, error) {
	if m.without == nil {
		t := m.clone()
		t.names, t.marked = nil, false
		m.without = newRewriter(given{inputs: m.inputs, history: &history{values: m.values}}, m.surrounding, t)
	}
	return m.without.transformed(h)
}

// changes tells whether T does anything to an item.
func (m *rewriter) changes(h item.Head, f *facts.Facts, renames facts.Renames) bool {
	if m.uncovered[h.Address] {
		return true
	}
	if m.marked && (h.Address.Kind.IsMarkup() || h.Address.Kind == item.Stylesheet) ||
		len(m.worn) > 0 && h.Address.Kind == item.Stylesheet {
		return true
	}
	for _, p := range f.Fills {
		if m.values[p.Name] != "" {
			return true
		}
	}
	if len(renames) == 0 {
		return false
	}
	for _, r := range f.Refs {
		if _, ok := renames[facts.Name{Space: r.Space, Name: r.Name}]; ok {
			return true
		}
	}
	for n := range renames {
		if f.IsMentioned(n.Name) {
			return true
		}
	}
	return false
}

func retitled(src []byte, context, title string) ([]byte, error) {
	for _, n := range markup.Parse(src, context).ByTag("title") {
		if n.Space == "" {
			return span.Apply(src, []span.Edit{{Span: n.Inner, New: []byte(markup.EscapeText(title))}})
		}
	}
	return src, nil
}

// renamesOf are T's renames for one item.
func (m *rewriter) renamesOf(h item.Head) (facts.Renames, error) {
	if h.Address.Kind != item.Tokens && len(m.fields) == 0 {
		return m.renames, nil
	}
	own := maps.Clone(m.renames)
	if h.Address.Kind == item.Tokens { // design tokens keep their names
		maps.DeleteFunc(own, func(n facts.Name, _ string) bool { return n.Space == facts.Property })
	}
	return own, m.fieldRenames(h, own)
}

// plainlyAlike tells whether an item that did not come with this kit is the kit's, but for
// names that the kit's gets because stylesheets of both sides define them: the site's stays,
// in the site's look.
func (m *rewriter) plainlyAlike(h, site item.Head) (bool, error) {
	if len(m.names) == 0 && !m.marked || !h.Address.Kind.IsMarkup() {
		return false, nil
	}
	ours, err := m.plainly(h)
	if err != nil {
		return false, err
	}
	normalized := h.NormalizedDigest
	if ours != nil {
		normalized = facts.NormalizedDigestOf(h.Address.Kind, h.Meta.Context, ours)
	}
	return site.NormalizedDigest == normalized, nil
}

// metaUnderT is the metadata of a kit's item as T gives it.
func (m *rewriter) metaUnderT(h item.Head) item.Meta {
	out := h.Meta.Renamed(m.moved).Moved(m.slugs)
	out.Was, out.AtHome = nil, nil
	if roles := m.leaving[h.Address]; roles != nil {
		out = out.LeavingOut(roles)
	}
	if p, ok := m.ask.Pages[h.Address.String()]; ok {
		if p.Title != "" {
			out.Title = p.Title
		}
		if p.Slug != "" {
			out.Slug = p.Slug
		}
	}
	return out
}

// fieldRenames are the renames of the fields that one item of the kit shows.
func (m *rewriter) fieldRenames(h item.Head, renames facts.Renames) error {
	if len(m.fields) == 0 {
		return nil
	}
	f, err := m.facts(h)
	if err != nil {
		return err
	}
	for _, t := range typesOf(h, f) {
		for from, to := range m.fields[t] {
			n := facts.Name{Space: facts.Field, Name: from}
			if had, ok := renames[n]; ok && had != to {
				return &DecisionError{
					Key: Key(AboutField, t.String(), from),
					Message: fmt.Sprintf("%s shows a field of two record types, which would become %s and %s",
						h.Address, had, to),
				}
			}
			renames[n] = to
		}
	}
	return nil
}
