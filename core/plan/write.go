package plan

import (
	"fmt"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/menu"
)

// comesIn tells whether the delivery writes the row's item.
func comesIn(row *Row) bool {
	switch row.Decision {
	case Take, Both, Again, Blend, Join:
		return true
	default:
	}
	return false
}

// written is what a delivery writes.
type written struct {
	writes []PlannedWrite
	kept   []PlannedWrite // same or kept: only their origin is recorded
}

// write makes the items as they will be written, under T; those apart that are to be blended.
func write(g given, rows rowList, chosen selection, m *rewriter) (out written, blending []*blended, err error) {
	for _, row := range rows.list {
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
			return out, nil, err
		}
		head := h
		head.Address, head.ID = row.Becomes, ""
		head.Meta = m.metaUnderT(h)
		if content != nil {
			head.Doc, head.Bytes = item.DigestOf(content), int64(len(content))
			head.NormalizedDigest = facts.NormalizedDigestOf(h.Address.Kind, h.Meta.Context, content)
		}
		copy := 1
		if o, ok := g.origin(h); ok {
			copy = o.Copy
		}
		if row.Decision == Again {
			copy++
		}
		put := PlannedWrite{KitAddress: row.Address, Head: head, Content: content, Copy: copy, Baseline: head,
			BaselineContent: content}
		switch {
		case row.Decision == Blend:
			blending = append(blending, &blended{row: row, came: put})
		case row.Decision == Join:
			if put, err = g.joined(row, put, content); err != nil {
				return out, nil, err
			}
			out.writes = append(out.writes, put)
		case comesIn(row):
			if here, taken := g.site.Find(row.Becomes); taken { // what leads to the file leads to what comes
				put.Head.Meta.Kept = here.Meta.Kept
			}
			out.writes = append(out.writes, put)
		case row.Decision == Keep && row.Site != nil && !chosen.isExcluded(row.Address):
			if row.Standing == Same { // where a part stands was settled here, and is no edit later
				site, _ := g.site.Find(row.Site.Address)
				put.Head.Meta = site.Meta
			}
			out.kept = append(out.kept, put)
		}
	}
	return out, blending, nil
}

// joined puts the entries of a kit's menu, under T, into the site's.
func (g given) joined(row *Row, put PlannedWrite, content []byte) (PlannedWrite, error) {
	here, _ := g.site.Find(row.Becomes)
	own, err := item.Read(g.site, here)
	if err != nil {
		return put, err
	}
	if content == nil {
		if content, err = g.textOf(put); err != nil {
			return put, err
		}
	}
	ours, errOurs := menu.Parse(own)
	theirs, errTheirs := menu.Parse(content)
	if errOurs != nil || errTheirs != nil {
		return put, &DecisionError{Key: Key(AboutItem, row.Address.String()),
			Message: "one of the two menus holds more than entries", Choices: row.Choices}
	}
	ours.Join(theirs)
	if put.Content, err = ours.Text(); err != nil {
		return put, err
	}
	put.Head = here
	put.Head.ID = ""
	put.Head.Doc, put.Head.Bytes = item.DigestOf(put.Content), int64(len(put.Content))
	put.Head.NormalizedDigest = facts.NormalizedDigestOf(item.Menu, "", put.Content)
	return put, nil
}

// textOf gives what a delivery writes of an item, read from the kit when T leaves it as it is.
func (in *inputs) textOf(p PlannedWrite) ([]byte, error) {
	if p.Content != nil {
		return p.Content, nil
	}
	h, ok := in.parcel.Find(p.KitAddress)
	if !ok {
		return nil, fmt.Errorf("the kit has no %s", p.KitAddress)
	}
	return item.Read(in.parcel.Collection, h)
}

// factsOf are the facts of what a delivery writes.
func (in *inputs) factsOf(p PlannedWrite) (*facts.Facts, error) {
	if p.facts != nil {
		return p.facts, nil
	}
	if p.Content == nil {
		if h, ok := in.parcel.Find(p.KitAddress); ok {
			return in.facts(h)
		}
	}
	return facts.Brief(p.Head.Address.Kind, p.Head.Meta.Context, p.Content), nil
}
