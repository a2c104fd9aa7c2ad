package plan

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/Masterminds/semver/v3"
)

// remember reads what this kit delivered before, and what was said then.
func (m *maker) remember() error {
	name := m.parcel.List.Kit
	came, err := m.site.Came(name)
	if err != nil {
		return err
	}
	if m.before, err = m.site.Before(name); err != nil {
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
			if m.before.KitDigest != "" && m.before.Version == o.Version && m.before.KitDigest != m.parcel.Digest {
				m.plan.VersionIs = "rebuilt"
				m.plan.Notes = append(m.plan.Notes, fmt.Sprintf("%s@%s was delivered here with other contents: it was rebuilt under the same version.", name, o.Version))
			}
		case c < 0 && m.plan.VersionIs == "first":
			m.plan.VersionIs = "older"
		}
	}
	if f := m.before.Format; f > 0 && m.parcel.List.Format > f {
		m.plan.Notes = append(m.plan.Notes, fmt.Sprintf("The kit's format was raised from %d to %d since %s.", f, m.parcel.List.Format, m.before.Version))
	}
	// T is as it was: what was filled in and renamed is no change of the kit's.
	m.values = map[string]string{}
	for _, f := range m.parcel.List.Fillins {
		if v := m.before.Fills[f.Name]; v != "" && checkFill(f, v) == "" {
			m.values[f.Name] = v
		}
	}
	for name, v := range m.ask.Fills {
		if v != "" {
			m.values[name] = v
		}
	}
	for key, d := range m.before.Decisions {
		if n, ok := strings.CutPrefix(key, "class:"); ok && d.Decision == "rename" {
			if now, again := m.ask.Decisions[key]; !again || now.Decision == "rename" {
				m.classes[n] = m.plan.Kit + "-" + n
			}
		}
		if n, ok := strings.CutPrefix(key, "property:"); ok && d.Decision == "rename" {
			if now, again := m.ask.Decisions[key]; !again || now.Decision == "rename" {
				m.props[n] = "--" + m.plan.Kit + "-" + strings.TrimPrefix(n, "--")
			}
		}
		if d.Decision == "mark" && strings.HasPrefix(key, "class:") {
			if now, again := m.ask.Decisions[key]; !again || now.Decision == "mark" {
				m.marked = true
			}
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
	if p, ok := m.parcel.Collection.(interface{ PrimeFacts([]item.Head) error }); ok {
		if err := p.PrimeFacts(heads); err != nil {
			return err
		}
	}
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
				m.moved[h.Address], m.found[h.Address] = a, a
			}
		}
	}
	m.claim(heads)
	m.under, m.renames = m.transform(), nil
	for _, h := range heads {
		row, err := m.row(h)
		if err != nil {
			return err
		}
		row.Candidates = m.candidates(h)
		m.list = append(m.list, row)
		m.rows[h.Address] = row
	}
	if err := m.choose(); err != nil {
		return err
	}
	if err := m.withdrawn(inKit); err != nil {
		return err
	}
	if err := m.needs(); err != nil {
		return err
	}
	for _, row := range m.list {
		if err := m.decide(row); err != nil {
			return err
		}
	}
	return m.settleSlugs()
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
		if other, ok := m.site.Find(h.Address); ok {
			row.Why += "; " + h.Address.String() + " is something else now"
			row.About = about(h, other)
			m.rely(h.Address)
		}
		return row, nil
	case came:
		at = origin.Item
	default:
		at = m.counterpart[h.Address]
	}
	site, ok := m.site.Find(at)
	if !ok {
		row.Standing, row.Why = New, "there is nothing of this name on the site"
		if other := m.claimed[h.Address]; !other.IsZero() {
			row.Why = fmt.Sprintf("the site's %s is the counterpart of the kit's %s", h.Address, other)
		}
		m.rely(h.Address)
		row.About = about(h, item.Head{})
		return row, nil
	}
	m.rely(at)
	row.Site = &Side{Address: at, Sense: site.Sense, State: site.State(), Title: site.Meta.Title, Bytes: site.Bytes}
	row.Becomes = at
	row.About = about(h, site)
	ours, err := m.transformed(h)
	if err != nil {
		return nil, err
	}
	sense := h.Sense
	if ours != nil {
		sense = facts.Of(h.Address.Kind, h.Meta.Context, ours).Sense
	}
	meta := m.metaUnderT(h)
	here, kits := site.Sense != origin.Sense, sense != origin.Sense
	alike := site.Sense == sense
	if came && origin.Meta != nil {
		here = here || metaKey(site.Meta, true) != metaKey(*origin.Meta, true)
		kits = kits || metaKey(meta, false) != metaKey(*origin.Meta, false)
		alike = alike && metaKey(site.Meta, false) == metaKey(meta, false)
	}
	if came && origin.Doc != "" {
		row.Base = origin.Version
	}
	row.unedited = came && !here
	m.compared = m.compared || came || alike
	switch {
	case alike || came && !here && !kits:
		row.Standing, row.Why = Same, "both sides mean the same"
		if at != h.Address && h.Address.Kind == item.Media {
			row.Why = "the site has this very file as " + at.String()
		}
	case !came:
		row.Standing, row.Why = Taken, fmt.Sprintf("the site has another %s of this name", h.Address.Kind)
		if at != h.Address {
			row.Why = fmt.Sprintf("the site's %s is at the same address %s", at, site.Meta.Slug)
		}
	case kits && compareVersions(m.parcel.List.Version, origin.Version) < 0:
		row.Standing, row.Why = Older, "the site has it from version "+origin.Version
	case !here:
		row.Standing, row.Why = Newer, "unchanged here since version "+origin.Version
	case !kits:
		row.Standing, row.Why = Edited, "changed here since version "+origin.Version+"; the kit's is as it was"
	default:
		row.Standing, row.Why = Diverged, "changed here and in the kit since version "+origin.Version
	}
	if row.Standing == Diverged && (h.Address.Kind == item.Media || origin.Meta == nil && row.Base == "") {
		row.Base = "" // nothing to blend
	}
	return row, nil
}

// claim finds each item's counterpart. One of the site's is that of one of the kit's: what
// came from it goes first, then what is at a page's address, then what has the name.
func (m *maker) claim(heads []item.Head) {
	for _, h := range heads {
		if o, ok := m.origin(h); ok && !o.Item.IsZero() {
			m.claimed[o.Item] = h.Address
		}
	}
	take := func(h item.Head, a item.Address) bool {
		if other, ok := m.claimed[a]; ok && other != h.Address && h.Address.Kind != item.Media {
			return false
		}
		m.claimed[a], m.counterpart[h.Address] = h.Address, a
		return true
	}
	for _, h := range heads {
		if _, came := m.origin(h); came {
			continue
		}
		if a, ok := m.found[h.Address]; ok && take(h, a) {
			continue
		}
		if h.Address.Kind == item.Page {
			if a, ok := m.site.PageAt(h.Meta.Slug); ok && take(h, a) {
				continue
			}
		}
	}
	for _, h := range heads {
		_, came := m.origin(h)
		if _, has := m.counterpart[h.Address]; came || has {
			continue
		}
		if _, ok := m.site.Find(h.Address); ok {
			take(h, h.Address)
		}
	}
}

// Candidate is an item of the site that may be the counterpart of one of the kit's. The
// first of a row is the one that is taken for it.
type Candidate struct {
	Address item.Address `json:"address"`
	By      string       `json:"by"` // origin, address, slug, digest, name, role
}

// lister is a site that lists its items by kind.
type lister interface {
	OfKind(...item.Kind) []item.Head
}

// candidates lists what on the site is like an item of the kit, in the order of matching.
func (m *maker) candidates(h item.Head) []Candidate {
	var out []Candidate
	add := func(a item.Address, by string) {
		if !slices.ContainsFunc(out, func(c Candidate) bool { return c.Address == a }) {
			out = append(out, Candidate{a, by})
		}
	}
	if o, ok := m.origin(h); ok && !o.Item.IsZero() {
		add(o.Item, "origin")
	}
	if a, ok := m.found[h.Address]; ok {
		add(a, "digest")
	}
	if h.Address.Kind == item.Page {
		if a, ok := m.site.PageAt(h.Meta.Slug); ok {
			add(a, "slug")
		}
	}
	if _, ok := m.site.Find(h.Address); ok {
		add(h.Address, "address")
	}
	switch h.Address.Kind {
	case item.Part:
		for _, s := range m.site.Parts() {
			if s.Meta.Role == h.Meta.Role && overlap(s.Meta.Place().On, h.Meta.Place().On) {
				add(s.Address, "role")
			}
		}
	case item.Menu, item.Form:
		all, ok := m.site.(lister)
		f, err := m.facts(h)
		if !ok || err != nil || f.Title == "" {
			break
		}
		for _, s := range all.OfKind(h.Address.Kind) {
			if g, err := m.site.Facts(s); err == nil && strings.EqualFold(g.Title, f.Title) {
				add(s.Address, "name")
			}
		}
	}
	return out
}

func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(t string) bool { return slices.Contains(b, t) })
}

// metaUnderT is the metadata of a kit's item as T gives it.
func (m *maker) metaUnderT(h item.Head) item.Meta {
	out := h.Meta.Renamed(m.moved).Moved(m.slugs)
	out.Was = nil
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

// metaKey is equal for metadata that say the same. A delivery itself settles where a part
// stands, so of the kit's side that does not count.
func metaKey(meta item.Meta, placement bool) string {
	meta.Was, meta.Tags = nil, nil
	if !placement {
		meta.Placement = nil
	}
	b, err := json.Marshal(meta)
	if err != nil {
		panic(err) // plain values
	}
	return string(b)
}

// about is the digest of what a decision decides about.
func about(kitSide, siteSide item.Head) item.Digest {
	text := string(kitSide.State()) + " "
	if !siteSide.Address.IsZero() {
		text += string(siteSide.State())
	}
	return item.DigestOf([]byte(text))
}
