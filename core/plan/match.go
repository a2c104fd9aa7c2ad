package plan

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/Masterminds/semver/v3"
)

// remember reads what this kit delivered before.
func (m *maker) remember() error {
	came, err := m.site.Came(m.parcel.List.Kit)
	if err != nil {
		return err
	}
	m.plan.VersionIs = "first"
	for _, o := range came {
		if old, ok := m.origins[o.KitAddress]; !ok || o.Copy > old.Copy {
			m.origins[o.KitAddress] = o
		}
		switch c := compareVersions(m.parcel.List.Version, o.Version); {
		case c > 0:
			m.plan.VersionIs = "newer"
		case c == 0 && m.plan.VersionIs != "newer":
			m.plan.VersionIs = "same"
		case c < 0 && m.plan.VersionIs == "first":
			m.plan.VersionIs = "older"
		}
	}
	return nil
}

func compareVersions(a, b string) int {
	x, errX := semver.StrictNewVersion(a)
	y, errY := semver.StrictNewVersion(b)
	if errX != nil || errY != nil {
		return strings.Compare(a, b)
	}
	return x.Compare(y)
}

// match finds each item's counterpart, its standing and its decision.
func (m *maker) match() error {
	inKit := map[item.Address]bool{}
	heads := m.parcel.Heads()
	// Names that the last delivery gave are known first: T compares under them.
	for _, h := range heads {
		inKit[h.Address] = true
		for _, was := range h.Meta.Was {
			inKit[was] = true
		}
		if o, ok := m.origin(h); ok && !o.Item.IsZero() {
			m.moved[h.Address] = o.Item
			if there, ok := m.site.Find(o.Item); ok && h.Address.Kind == item.Page && there.Meta.Slug != h.Meta.Slug {
				m.slugs[h.Meta.Slug] = there.Meta.Slug
			}
		} else if h.Address.Kind == item.Media {
			if a, ok := m.site.MediaWith(h.Doc); ok {
				m.moved[h.Address] = a
			}
		}
	}
	for _, h := range heads {
		row, err := m.row(h)
		if err != nil {
			return err
		}
		m.list = append(m.list, row)
		m.rows[h.Address] = row
	}
	var gone []item.Address
	for a, o := range m.origins {
		if !inKit[a] && !o.Item.IsZero() {
			gone = append(gone, a)
		}
	}
	sort.Slice(gone, func(i, j int) bool { return gone[i].Less(gone[j]) })
	for _, a := range gone {
		row := &Row{Address: a, Standing: Withdrawn, Decision: Keep, DecidedBy: "policy", Becomes: m.origins[a].Item, Why: "it came with version " + m.origins[a].Version + " and is no longer in the kit"}
		m.list = append(m.list, row)
	}
	for _, row := range m.list {
		if err := m.decide(row); err != nil {
			return err
		}
	}
	m.settleSlugs()
	return nil
}

func (m *maker) origin(h item.Head) (Origin, bool) {
	if o, ok := m.origins[h.Address]; ok {
		return o, true
	}
	for _, was := range h.Meta.Was {
		if o, ok := m.origins[was]; ok {
			return o, true
		}
	}
	return Origin{}, false
}

// row finds one item's standing.
func (m *maker) row(h item.Head) (*Row, error) {
	row := &Row{Address: h.Address, Becomes: h.Address, Kit: &Side{Address: h.Address, Sense: h.Sense, Title: h.Meta.Title, Bytes: h.Bytes}}
	origin, came := m.origin(h)
	var at item.Address
	switch {
	case came && origin.Item.IsZero():
		row.Standing, row.Why = Removed, "it came with version "+origin.Version+" and was deleted here since"
		row.About = about(h, item.Head{})
		return row, nil
	case came:
		at = origin.Item
	default:
		at = h.Address
		if to, ok := m.moved[h.Address]; ok {
			at = to
		}
		if h.Address.Kind == item.Page {
			if p, ok := m.site.PageAt(h.Meta.Slug); ok {
				at = p
			}
		}
	}
	site, ok := m.site.Find(at)
	if !ok {
		row.Standing, row.Why = New, "there is nothing of this name on the site"
		m.rely(h.Address)
		row.About = about(h, item.Head{})
		return row, nil
	}
	m.rely(at)
	row.Site = &Side{Address: at, Sense: site.Sense, State: site.State(), Title: site.Meta.Title, Bytes: site.Bytes}
	row.Becomes = at
	row.About = about(h, site)
	ours, err := m.transformed(h, m.moved)
	if err != nil {
		return nil, err
	}
	sense := h.Sense
	if ours != nil {
		sense = facts.Of(h.Address.Kind, h.Meta.Context, ours).Sense
	}
	switch {
	case site.Sense == sense:
		row.Standing, row.Why = Same, "both sides mean the same"
		if at != h.Address && h.Address.Kind == item.Media {
			row.Why = "the site has this very file as " + at.String()
		}
	case !came:
		row.Standing, row.Why = Taken, fmt.Sprintf("the site has another %s of this name", h.Address.Kind)
		if at != h.Address {
			row.Why = fmt.Sprintf("the site's %s is at the same address %s", at, site.Meta.Slug)
		}
	case compareVersions(m.parcel.List.Version, origin.Version) < 0:
		row.Standing, row.Why = Older, "the site has it from version "+origin.Version
	case site.Sense == origin.Sense:
		row.Standing, row.Why = Newer, "unchanged here since version "+origin.Version
	case sense == origin.Sense:
		row.Standing, row.Why = Edited, "changed here since version "+origin.Version+"; the kit's is as it was"
	default:
		row.Standing, row.Why = Diverged, "changed here and in the kit since version "+origin.Version
	}
	return row, nil
}

// about is the digest of what a decision decides about.
func about(kitSide, siteSide item.Head) item.Digest {
	text := string(kitSide.State()) + " "
	if !siteSide.Address.IsZero() {
		text += string(siteSide.State())
	}
	return item.DigestOf([]byte(text))
}
