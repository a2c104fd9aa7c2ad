package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/blend"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/says"
	"compactparcel/core/workers"
)

// blended is an item whose two sides are brought together.
type blended struct {
	row  *Row
	came PlannedWrite // the kit's side, under T

	kind            item.Kind
	base, site, kit []byte
	head            item.Head // on the site
	meta            struct {
		base      *item.Meta
		site, kit item.Meta
	}
	key       item.Digest // in the memory of blends
	got       *TextBlend
	becomes   item.Meta
	conflicts []blend.Conflict
	used      []string // decisions that found their conflict
	err       error
}

// ConflictKey is the key of one conflict of an item.
func ConflictKey(a item.Address, key string) string { return Key(AboutConflict, a.String(), key) }

// atOnce is how many items are read before they are blended, on all cores.
const atOnce = 128

// primer reads many contents at once, ahead of those who ask for them; nil lets go of them.
type primer interface{ Prime([]item.Head) error }

// blender is the stage that brings both sides of items together.
type blender struct {
	given
	written
}

// blendAll brings both sides of what is to be blended together; what the two sides changed
// in different ways is a question.
func blendAll(g given, list []*blended) (written, error) {
	m := &blender{given: g}
	err := m.all(list)
	return m.written, err
}

func (m *blender) all(list []*blended) error {
	for len(list) > 0 {
		n := min(atOnce, len(list))
		var anew []*blended
		for _, b := range list[:n] {
			if !m.remember(b) {
				anew = append(anew, b)
			}
		}
		if err := m.prime(anew); err != nil {
			return err
		}
		for _, b := range anew {
			if err := m.readSides(b); err != nil {
				return err
			}
		}
		_ = workers.Each(n, func(_, i int) error {
			list[i].blend(m.ask)
			return nil
		})
		for _, b := range anew {
			if m.parcel.Blends != nil && b.key != "" && b.err == nil {
				m.parcel.Blends.Keep(b.key, b.got)
			}
		}
		for _, b := range list[:n] {
			if err := m.takeBlend(b); err != nil {
				return err
			}
		}
		list = list[n:]
	}
	return nil
}

// prime reads what the next blends need.
func (m *blender) prime(list []*blended) error {
	var site, kit []item.Head
	for _, b := range list {
		h, _ := m.parcel.Find(b.row.Address)
		o, _ := m.origin(h)
		here, _ := m.site.Find(b.row.Becomes)
		site = append(site, here, item.Head{Address: o.KitAddress, Doc: o.Doc, Bytes: o.Bytes})
		if b.came.BaselineContent == nil {
			kit = append(kit, h)
		}
	}
	if p, ok := m.site.(primer); ok {
		if err := p.Prime(site); err != nil {
			return err
		}
	}
	if p, ok := m.parcel.Collection.(primer); ok {
		return p.Prime(kit)
	}
	return nil
}

// remember readies an item for its blend, and tells whether the blend of its texts is known.
func (m *blender) remember(b *blended) bool {
	h, _ := m.parcel.Find(b.row.Address)
	b.kind, b.meta.kit = h.Address.Kind, b.came.Baseline.Meta
	origin, _ := m.origin(h)
	b.meta.base = origin.Meta
	b.head, _ = m.site.Find(b.row.Becomes)
	b.meta.site = b.head.Meta
	if m.parcel.Blends == nil {
		return false
	}
	b.key = b.memoryKey(origin.Doc, m.ask)
	if b.key == "" {
		return false
	}
	var ok bool
	b.got, ok = m.parcel.Blends.Get(b.key)
	return ok
}

func (m *blender) readSides(b *blended) error {
	h, _ := m.parcel.Find(b.row.Address)
	origin, _ := m.origin(h)
	var err error
	if b.base, err = m.site.BaselineContent(origin); err != nil {
		return err
	}
	if b.site, err = item.Read(m.site, b.head); err != nil {
		return err
	}
	if b.kit = b.came.BaselineContent; b.kit == nil {
		b.kit, err = item.Read(m.parcel.Collection, h)
	}
	return err
}

// blend is the work that does not touch the plan.
func (b *blended) blend(ask Request) {
	all := ask.Decisions[b.row.Address.String()].Side
	choose := func(c *blend.Conflict) blend.Decision {
		key := ConflictKey(b.row.Address, c.Key)
		if d, ok := ask.Decisions[key]; ok {
			b.used = append(b.used, key)
			if side := sideOf(d.Decision); side != "" {
				return side
			}
		}
		return all
	}
	known := b.got != nil
	if !known {
		r := blend.Merge(b.kind, b.base, b.site, b.kit, choose)
		b.got = &TextBlend{Text: r.Text, Digest: item.DigestOf(r.Text), Conflicts: r.Conflicts, Used: b.used}
		b.base, b.site, b.kit = nil, nil, nil
	}
	b.used = slices.Clone(b.got.Used)
	var more []blend.Conflict
	b.becomes, more, b.err = BlendMeta(b.meta.base, b.meta.site, b.meta.kit, choose)
	b.conflicts = append(slices.Clone(b.got.Conflicts), more...)
	if !known {
		b.got.Facts = facts.Brief(b.kind, b.becomes.Context, b.got.Text)
	}
}

// takeBlend puts a blend into the plan.
func (m *blender) takeBlend(b *blended) error {
	if b.err != nil {
		return b.err
	}
	row := b.row
	row.Conflicts = b.conflicts
	for _, key := range b.used {
		m.used[key] = true
	}
	open := 0
	for _, c := range row.Conflicts {
		if c.Decision == "" {
			open++
		}
	}
	switch {
	case open == 0:
	case m.ask.Policy == Unattended && row.DecidedBy == ByPolicy:
		row.Decision, row.Why = Keep, fmt.Sprintf("%s; %s", row.Why, says.Count(open, "conflict"))
		m.kept = append(m.kept, b.came)
		return nil
	case row.DecidedBy == ByPolicy && len(b.used) == 0:
		row.Decision, row.DecidedBy = "", ""
		m.question(Key(AboutItem, row.Address.String()), AboutItem,
			fmt.Sprintf("%s: %s, and blending leaves %s.", row.Address, row.Why, says.Count(open, "conflict")),
			row.Choices)
	default:
		for _, c := range row.Conflicts {
			if c.Decision == "" {
				m.question(
					ConflictKey(row.Address, c.Key),
					AboutConflict,
					fmt.Sprintf("%s, line %d, %s: both sides changed it (%s).", row.Address, c.Line, c.Where, c.Kind),
					[]Choice{
						{Decision: ForSite, Effect: "the site's: " + blend.Brief(c.Site)},
						{Decision: ForKit, Effect: "the kit's: " + blend.Brief(c.Kit)},
					},
				)
			}
		}
	}
	if b.got.Digest == b.head.Doc && metaKey(b.becomes, true) == metaKey(b.meta.site, true) {
		m.kept = append(m.kept, b.came) // nothing of the kit's is new here
		return nil
	}
	put := b.came
	put.Content, put.facts = b.got.Text, b.got.Facts
	put.Head = b.head
	put.Head.ID = ""
	put.Head.Meta = b.becomes
	put.Head.Doc, put.Head.Bytes, put.Head.NormalizedDigest = b.got.Digest, int64(len(b.got.Text)),
		b.got.Facts.NormalizedDigest
	m.writes = append(m.writes, put)
	return nil
}

// BlendMeta blends what is known of an item beside its content; without a base the site's
// stays.
func BlendMeta(base *item.Meta, site, kit item.Meta, choose blend.Resolve) (item.Meta, []blend.Conflict, error) {
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
	got := blend.Merge(item.Setting, texts[0], texts[1], texts[2], choose)
	var out item.Meta
	if err := json.Unmarshal(got.Text, &out); err != nil {
		return site, nil, fmt.Errorf("blending metadata: %w", err)
	}
	for i := range got.Conflicts {
		got.Conflicts[i].Where = strings.TrimSpace("metadata " + got.Conflicts[i].Where)
	}
	return out, got.Conflicts, nil
}
