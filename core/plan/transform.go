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
	moved   map[item.Address]item.Address
	slugs   map[string]string
	classes map[string]string
	props   map[string]string
	fields  map[item.Address]map[string]string
	marked  bool
}

// begin takes a T over, as the one to compare under first.
func (m *maker) begin(t *transform) {
	if t == nil {
		return
	}
	m.moved, m.slugs, m.classes, m.props, m.fieldNames, m.marked = maps.Clone(t.moved), maps.Clone(t.slugs), maps.Clone(t.classes), maps.Clone(t.props), maps.Clone(t.fields), t.marked
}

// transform is T as it stands.
func (m *maker) transform() *transform {
	t := &transform{moved: map[item.Address]item.Address{}, slugs: map[string]string{}, classes: maps.Clone(m.classes), props: maps.Clone(m.props), fields: maps.Clone(m.fieldNames), marked: m.marked}
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
	if other == nil || t.marked != other.marked || !maps.Equal(t.moved, other.moved) || !maps.Equal(t.slugs, other.slugs) || !maps.Equal(t.classes, other.classes) || !maps.Equal(t.props, other.props) || len(t.fields) != len(other.fields) {
		return false
	}
	for k, v := range t.fields {
		if !maps.Equal(v, other.fields[k]) {
			return false
		}
	}
	return true
}

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
	if title := m.ask.Pages[h.Address.String()].Title; title != "" && h.Address.Kind == item.Page {
		var edits []span.Edit
		for _, n := range markup.Parse(out, h.Meta.Context).ByTag("title") {
			if n.Space == "" && len(edits) == 0 {
				edits = append(edits, span.Edit{Span: n.Inner, New: []byte(markup.EscapeText(title))})
			}
		}
		if out, err = span.Apply(out, edits); err != nil {
			return nil, err
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
