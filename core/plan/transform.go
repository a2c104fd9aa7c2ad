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

// transform is T: what becomes of the kit's names on the site.
type transform struct {
	moved  map[item.Address]item.Address
	slugs  map[string]string
	names  facts.Renames
	worn   map[facts.Name]bool
	fields map[item.Address]map[string]string
	marked bool
}

// begin takes a T over, as the one to compare under first.
func (m *maker) begin(t *transform) {
	if t == nil {
		return
	}
	m.moved, m.slugs, m.names, m.worn = maps.Clone(t.moved), maps.Clone(t.slugs), maps.Clone(t.names),
		maps.Clone(t.worn)
	m.fieldNames, m.marked = maps.Clone(t.fields), t.marked
}

// transform is T as it stands.
func (m *maker) transform() *transform {
	t := &transform{
		moved:  map[item.Address]item.Address{},
		slugs:  map[string]string{},
		names:  maps.Clone(m.names),
		worn:   maps.Clone(m.worn),
		fields: maps.Clone(m.fieldNames),
		marked: m.marked,
	}
	for from, to := range m.moved {
		if from != to {
			t.moved[from] = to
		}
	}
	for from, to := range m.slugs {
		if from != to {
			t.slugs[from] = to
		}
	}
	return t
}

func (t *transform) same(other *transform) bool {
	if other == nil || t.marked != other.marked || !maps.Equal(t.moved, other.moved) ||
		!maps.Equal(t.slugs, other.slugs) ||
		!maps.Equal(t.names, other.names) ||
		!maps.Equal(t.worn, other.worn) ||
		len(t.fields) != len(other.fields) {
		return false
	}
	for k, v := range t.fields {
		if !maps.Equal(v, other.fields[k]) {
			return false
		}
	}
	return true
}

// transformed gives a kit item's content under T; nil when T leaves it as it is.
func (m *maker) transformed(h item.Head) ([]byte, error) {
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
func (m *maker) plainly(h item.Head) ([]byte, error) {
	names, marked, renames := m.names, m.marked, m.renames
	m.names, m.marked, m.renames = nil, false, nil
	out, err := m.transformed(h)
	m.names, m.marked, m.renames = names, marked, renames
	return out, err
}

// changes tells whether T does anything to an item.
func (m *maker) changes(h item.Head, f *facts.Facts, renames facts.Renames) bool {
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

// renamesOf are T's renames for one item. They are put together once for all, until
// somebody says that T has changed.
func (m *maker) renamesOf(h item.Head) (facts.Renames, error) {
	if m.renames == nil {
		m.renames = facts.Renames{}
		t := m.transform()
		for n, to := range facts.RenamesFor(t.moved, t.slugs) {
			if n.Name != to {
				m.renames[n] = to
			}
		}
		maps.Copy(m.renames, m.names)
	}
	if h.Address.Kind != item.Tokens && len(m.fieldNames) == 0 {
		return m.renames, nil
	}
	own := maps.Clone(m.renames)
	if h.Address.Kind == item.Tokens { // design tokens keep their names
		maps.DeleteFunc(own, func(n facts.Name, _ string) bool { return n.Space == facts.Property })
	}
	return own, m.fieldRenames(h, own)
}

// comesIn tells whether the delivery writes the row's item.
func comesIn(row *Row) bool {
	switch row.Decision {
	case Take, Both, Again, Blend:
		return true
	default:
	}
	return false
}

// write makes the items as they will be written.
func (m *maker) write() error {
	m.renames = nil
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok {
			continue
		}
		under := m.transformed
		if row.plain {
			under = m.plainly
		}
		content, err := under(h)
		if err != nil {
			return err
		}
		out := h
		out.Address, out.ID = row.Becomes, ""
		out.Meta = m.metaUnderT(h)
		if content != nil {
			out.Doc, out.Bytes = item.DigestOf(content), int64(len(content))
			out.NormalizedDigest = facts.NormalizedDigestOf(h.Address.Kind, h.Meta.Context, content)
		}
		copy := 1
		if o, ok := m.origin(h); ok {
			copy = o.Copy
		}
		if row.Decision == Again {
			copy++
		}
		put := PlannedWrite{KitAddress: row.Address, Head: out, Content: content, Copy: copy, Baseline: out,
			BaselineContent: content}
		switch {
		case row.Decision == Blend:
			m.blending = append(m.blending, &blended{row: row, came: put})
		case comesIn(row):
			m.writes = append(m.writes, put)
			m.plan.BytesIn += out.Bytes
		case row.Decision == Keep && row.Site != nil && !m.isExcluded(row.Address):
			if row.Standing == Same { // where a part stands was settled here, and is no edit later
				site, _ := m.site.Find(row.Site.Address)
				put.Head.Meta = site.Meta
			}
			m.kept = append(m.kept, put)
		}
	}
	return nil
}

// textOf gives what a delivery writes of an item, read from the kit when T leaves it as it is.
func (m *maker) textOf(p PlannedWrite) ([]byte, error) {
	if p.Content != nil {
		return p.Content, nil
	}
	h, ok := m.parcel.Find(p.KitAddress)
	if !ok {
		return nil, fmt.Errorf("the kit has no %s", p.KitAddress)
	}
	return item.Read(m.parcel.Collection, h)
}

// factsOf are the facts of what a delivery writes.
func (m *maker) factsOf(p PlannedWrite) (*facts.Facts, error) {
	if p.facts != nil {
		return p.facts, nil
	}
	if p.Content == nil {
		if h, ok := m.parcel.Find(p.KitAddress); ok {
			return m.facts(h)
		}
	}
	return facts.Brief(p.Head.Address.Kind, p.Head.Meta.Context, p.Content), nil
}
