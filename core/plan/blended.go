package plan

import (
	"encoding/json"
	"fmt"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// blended is an item whose two sides are brought together.
type blended struct {
	row  *Row
	came Put // the kit's side, under T
}

// ConflictKey is what a decision about a conflict of an item is called.
func ConflictKey(a item.Address, key string) string { return "conflict:" + a.String() + ":" + key }

// blends brings both sides of what is to be blended together; what the two sides changed
// in different ways is a question.
func (m *maker) blends() error {
	for _, b := range m.blending {
		if err := m.blendOne(b); err != nil {
			return err
		}
	}
	return nil
}

func (m *maker) blendOne(b *blended) error {
	row := b.row
	h, _ := m.parcel.Find(row.Address)
	origin, _ := m.origin(h)
	base, err := m.site.Base(origin)
	if err != nil {
		return err
	}
	site, _ := m.site.Find(row.Becomes)
	ours, err := readSite(m.site, site)
	if err != nil {
		return err
	}
	theirs := b.came.CameContent
	if theirs == nil {
		if theirs, err = item.Read(m.parcel.Collection, h); err != nil {
			return err
		}
	}
	asked := 0
	all := m.ask.Decisions[row.Address.String()].Side
	choose := func(c *blend.Conflict) string {
		key := ConflictKey(row.Address, c.Key)
		if d, ok := m.ask.Decisions[key]; ok {
			m.used[key] = true
			if d.Decision == "site" || d.Decision == "kit" {
				asked++
				return string(d.Decision)
			}
		}
		return all
	}
	got := blend.Of(h.Address.Kind, h.Meta.Context, base, ours, theirs, choose)
	meta, more, err := blendMeta(origin.Meta, site.Meta, b.came.Came.Meta, choose)
	if err != nil {
		return err
	}
	row.Conflicts = append(got.Conflicts, more...)
	open := 0
	for _, c := range row.Conflicts {
		if c.Decision == "" {
			open++
		}
	}
	switch {
	case open == 0:
	case m.ask.Policy == "unattended" && row.DecidedBy == "policy":
		row.Decision, row.Why = Keep, fmt.Sprintf("%s; %s", row.Why, count(open, "conflict"))
		m.kept = append(m.kept, b.came)
		return nil
	case row.DecidedBy == "policy" && asked == 0:
		row.Decision, row.DecidedBy = "", ""
		m.question(row.Address.String(), "item", fmt.Sprintf("%s: %s, and blending leaves %s.", row.Address, row.Why, count(open, "conflict")), row.Choices)
	default:
		for _, c := range row.Conflicts {
			if c.Decision == "" {
				m.question(ConflictKey(row.Address, c.Key), "conflict", fmt.Sprintf("%s, line %d, %s: both sides changed it (%s).", row.Address, c.Line, c.Where, c.Kind),
					[]Choice{{"site", "the site's: " + blend.Brief(c.Site)}, {"kit", "the kit's: " + blend.Brief(c.Kit)}})
			}
		}
	}
	if string(got.Text) == string(ours) && metaKey(meta, true) == metaKey(site.Meta, true) {
		m.kept = append(m.kept, b.came) // nothing of the kit's is new here
		return nil
	}
	put := b.came
	put.Content = got.Text
	put.Head = site
	put.Head.ID = ""
	put.Head.Meta = meta
	put.Head.Doc, put.Head.Bytes = item.DigestOf(got.Text), int64(len(got.Text))
	put.Head.Sense = facts.Of(h.Address.Kind, meta.Context, got.Text).Sense
	m.puts = append(m.puts, put)
	m.plan.BytesIn += put.Head.Bytes
	return nil
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// blendMeta blends what is known of an item beside its content.
func blendMeta(base *item.Meta, site, kit item.Meta, choose blend.Choose) (item.Meta, []blend.Conflict, error) {
	if base == nil {
		return site, nil, nil
	}
	var texts [3][]byte
	for i, meta := range []item.Meta{*base, site, kit} {
		b, err := json.Marshal(meta)
		if err != nil {
			return site, nil, err
		}
		texts[i] = b
	}
	got := blend.Of(item.Setting, "", texts[0], texts[1], texts[2], choose)
	var out item.Meta
	if err := json.Unmarshal(got.Text, &out); err != nil {
		return site, nil, fmt.Errorf("blending metadata: %w", err)
	}
	for i := range got.Conflicts {
		got.Conflicts[i].Where = strings.TrimSpace("metadata " + got.Conflicts[i].Where)
	}
	return out, got.Conflicts, nil
}
