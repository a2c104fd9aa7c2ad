package plan

import (
	"fmt"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// transformed gives a kit item's content under the transform T; nil for content
// that is taken as it is.
func (m *maker) transformed(h item.Head, moved map[item.Address]item.Address) ([]byte, error) {
	if h.Address.Kind == item.Media && !strings.HasSuffix(h.Address.Key, ".svg") || h.Address.Kind == item.Component {
		return nil, nil
	}
	b, err := item.Read(m.parcel.Collection, h)
	if err != nil {
		return nil, err
	}
	renames := facts.RenamesFor(moved, m.slugs)
	for from, to := range m.classes {
		renames[facts.Name{Space: facts.Class, Name: from}] = to
	}
	m.properties(h.Address.Kind, renames)
	if err := m.fieldRenames(h, renames); err != nil {
		return nil, err
	}
	out, err := facts.Rewrite(h.Address.Kind, h.Meta.Context, b, relevant(renames))
	if err != nil {
		return nil, fmt.Errorf("moving names in %s: %w", h.Address, err)
	}
	if m.marked {
		if out, err = m.marks(h.Address.Kind, h.Meta.Context, out); err != nil {
			return nil, fmt.Errorf("marking %s: %w", h.Address, err)
		}
	}
	if h.Address.Kind.IsMarkup() && len(m.values) > 0 {
		tree := markup.Parse(out, h.Meta.Context)
		edits, err := markup.FillEdits(tree, "data-fill", func(name string) (string, bool) { v, ok := m.values[name]; return v, ok })
		if err != nil {
			return nil, fmt.Errorf("filling in %s: %w", h.Address, err)
		}
		return span.Apply(out, edits)
	}
	return out, nil
}

// relevant leaves out renames that change nothing.
func relevant(r facts.Renames) facts.Renames {
	out := facts.Renames{}
	for n, to := range r {
		if n.Name != to {
			out[n] = to
		}
	}
	return out
}

// comesIn tells whether the delivery writes the row's item.
func comesIn(row *Row) bool {
	switch row.Decision {
	case Take, Both, Again, Blend:
		return true
	}
	return false
}

// write makes the items as they will be written.
func (m *maker) write() error {
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok {
			continue
		}
		content, err := m.transformed(h, m.moved)
		if err != nil {
			return err
		}
		out := h
		out.Address, out.ID = row.Becomes, ""
		out.Meta = m.metaUnderT(h)
		if content != nil {
			out.Doc, out.Bytes = item.DigestOf(content), int64(len(content))
			out.Sense = facts.Of(h.Address.Kind, h.Meta.Context, content).Sense
		}
		copy := 1
		if o, ok := m.origin(h); ok {
			copy = o.Copy
		}
		if row.Decision == Again {
			copy++
		}
		put := Put{KitAddress: row.Address, Head: out, Content: content, Copy: copy, Came: out, CameContent: content}
		switch {
		case row.Decision == Blend:
			m.blending = append(m.blending, &blended{row, put})
		case comesIn(row):
			m.puts = append(m.puts, put)
			m.plan.BytesIn += out.Bytes
		case row.Decision == Keep && row.Site != nil && !m.left(row.Address):
			if row.Standing == Same { // where a part stands was settled here, and is no edit later
				site, _ := m.site.Find(row.Site.Address)
				put.Head.Meta = site.Meta
			}
			m.kept = append(m.kept, put)
		}
	}
	return nil
}
