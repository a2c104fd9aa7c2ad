package plan

import (
	"encoding/json"
	"fmt"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"

	"github.com/Masterminds/semver/v3"
)

func compareVersions(a, b string) int {
	x, errX := semver.StrictNewVersion(a)
	y, errY := semver.StrictNewVersion(b)
	if errX != nil || errY != nil {
		return strings.Compare(a, b)
	}
	return x.Compare(y)
}

// matching is which items of both sides belong together, and how they stand to each other.
type matching struct {
	rowList
	// found are pictures of the kit that the site has under other names.
	found       map[item.Address]item.Address
	claimed     map[item.Address]item.Address // by the site's item: of which of the kit's it is the counterpart
	counterpart map[item.Address]item.Address // and the other way round
	under       *transform                    // T, as the standings were found under it
	compared    bool                          // something was compared under it
}

// matcher is the stage that finds each item's counterpart and its standing.
type matcher struct {
	given
	matching
	at *rewriter // under T as it is known
}

// match gives the rows of all items of the kit, and of those that an earlier version had.
// It compares under T as the kit's history and the names here make it.
func match(g given, s surrounding, under *transform) (matching, error) {
	heads := g.parcel.Heads()
	if p, ok := g.parcel.Collection.(interface{ PrimeFacts([]item.Head) error }); ok {
		if err := p.PrimeFacts(heads); err != nil {
			return matching{}, err
		}
	}
	m := &matcher{given: g, matching: matching{
		rowList:     rowList{rows: map[item.Address]*Row{}},
		found:       map[item.Address]item.Address{},
		claimed:     map[item.Address]item.Address{},
		counterpart: map[item.Address]item.Address{},
		under:       under.clone(),
	}}
	inKit := map[item.Address]bool{}
	// Names that the last delivery gave are known first: T compares under them.
	for _, h := range heads {
		inKit[h.Address] = true
		for _, was := range h.Meta.Was {
			inKit[was] = true
		}
		m.known(h)
	}
	m.assignCounterparts(heads)
	m.at = newRewriter(g, s, m.under)
	for _, h := range heads {
		row, err := m.row(h)
		if err != nil {
			return matching{}, err
		}
		if row.Candidates, err = m.candidates(h); err != nil {
			return matching{}, err
		}
		m.add(row)
	}
	gone, err := withdrawn(g, inKit)
	for _, row := range gone {
		m.add(row)
	}
	return m.matching, err
}

// known puts into T what is known of an item's name on the site.
func (m *matcher) known(h item.Head) {
	if o, ok := m.origin(h); ok && !o.Item.IsZero() {
		m.under.moved[h.Address] = o.Item
		if there, ok := m.site.Find(o.Item); ok && h.Address.Kind == item.Page && there.Meta.Slug != h.Meta.Slug {
			m.under.slugs[h.Meta.Slug] = there.Meta.Slug
		}
	} else if h.Address.Kind == item.Media {
		if a, ok := m.site.MediaWith(h.Doc); ok {
			m.under.moved[h.Address], m.found[h.Address] = a, a
		}
	}
}

// row finds one item's standing.
func (m *matcher) row(h item.Head) (*Row, error) {
	row := &Row{
		Address: h.Address,
		Becomes: h.Address,
		Kit: &ItemVersion{Address: h.Address, NormalizedDigest: h.NormalizedDigest, Title: h.Meta.Title,
			Bytes: h.Bytes},
	}
	origin, came := m.origin(h)
	var at item.Address
	switch {
	case came && origin.Item.IsZero():
		row.Standing, row.Why = Removed, "it came with version "+origin.Version+" and was deleted here since"
		row.SubjectDigest = subjectDigest(h, item.Head{})
		if other, ok := m.site.Find(h.Address); ok {
			row.Why += "; " + h.Address.String() + " is something else now"
			row.SubjectDigest = subjectDigest(h, other)
			m.addPrecondition(h.Address)
		}
		return row, nil
	case came:
		at = origin.Item
	default:
		at = m.counterpart[h.Address]
	}
	site, ok := m.site.Find(at)
	if !ok {
		row.Standing, row.Why = New, "the site has nothing of this name"
		if other := m.claimed[h.Address]; !other.IsZero() {
			row.Why = fmt.Sprintf("the site's %s is the counterpart of the kit's %s", h.Address, other)
		}
		if _, there := m.site.Find(h.Address); there && h.Meta.Cut {
			row.Why = "it is cut to what the kit's pieces use, so the site's own of this name is another"
		}
		m.addPrecondition(h.Address)
		row.SubjectDigest = subjectDigest(h, item.Head{})
		return row, nil
	}
	m.addPrecondition(at)
	row.Site = &ItemVersion{Address: at, NormalizedDigest: site.NormalizedDigest, State: site.State(),
		Title: site.Meta.Title, Bytes: site.Bytes}
	row.Becomes = at
	row.SubjectDigest = subjectDigest(h, site)
	ours, err := m.at.transformed(h)
	if err != nil {
		return nil, err
	}
	normalized := h.NormalizedDigest
	if ours != nil {
		normalized = facts.NormalizedDigestOf(h.Address.Kind, h.Meta.Context, ours)
	}
	here, kits := site.NormalizedDigest != origin.NormalizedDigest, normalized != origin.NormalizedDigest
	alike := site.NormalizedDigest == normalized
	if !came && !alike {
		if row.plain, err = m.at.plainlyAlike(h, site); err != nil {
			return nil, err
		}
		alike = row.plain
	}
	if came && origin.Meta != nil {
		meta := m.at.metaUnderT(h)
		here = here || metaKey(site.Meta, true) != metaKey(*origin.Meta, true)
		kits = kits || metaKey(meta, false) != metaKey(*origin.Meta, false)
		alike = alike && metaKey(site.Meta, false) == metaKey(meta, false)
	}
	if came && origin.Doc != "" {
		row.Base = origin.Version
	}
	row.unedited = came && !here
	m.compared = m.compared || came || alike
	row.stand(site, origin, m.parcel.List.Version, came, alike, here, kits)
	if row.Standing == Diverged && (h.Address.Kind == item.Media || origin.Meta == nil && row.Base == "") {
		row.Base = "" // nothing to blend
	}
	return row, nil
}

// stand finds the standing of an item that the site has: whether it came with an earlier
// version, whether both sides are alike, and which of them was changed since.
func (row *Row) stand(site item.Head, origin Origin, version string, came, alike, here, kits bool) {
	at, a := site.Address, row.Address
	switch {
	case alike || came && !here && !kits:
		row.Standing, row.Why = Same, "both sides mean the same"
		if at != a && a.Kind == item.Media {
			row.Why = "the site has this very file as " + at.String()
		}
	case !came:
		row.Standing, row.Why = Taken, fmt.Sprintf("the site has another %s of this name", one(a.Kind))
		if at != a {
			row.Why = fmt.Sprintf("the site's %s is at the same address %s", at, site.Meta.Slug)
		}
	case kits && compareVersions(version, origin.Version) < 0:
		row.Standing, row.Why = Older, "the site has it from version "+origin.Version
	case !here:
		row.Standing, row.Why = Newer, "unchanged here since version "+origin.Version
	case !kits:
		row.Standing, row.Why = Edited, "changed here since version "+origin.Version+"; the kit's is as it was"
	default:
		row.Standing, row.Why = Diverged, "changed here and in the kit since version "+origin.Version
	}
}

// metaKey is equal for metadata that say the same. A delivery itself settles where a part
// stands, so of the kit's side that does not count; the addresses that a file kept are its site's own.
func metaKey(meta item.Meta, placement bool) string {
	meta.Was, meta.Tags, meta.Kept = nil, nil, nil
	if !placement {
		meta.Placement = nil
	}
	b, err := json.Marshal(meta)
	if err != nil {
		panic(err) // plain values
	}
	return string(b)
}

// subjectDigest is the digest of what a decision decides about.
func subjectDigest(kitSide, siteSide item.Head) item.Digest {
	text := string(kitSide.State()) + " "
	if !siteSide.Address.IsZero() {
		text += string(siteSide.State())
	}
	return item.DigestOf([]byte(text))
}

// one gives the words for one item of a kind.
func one(k item.Kind) string {
	if k == item.Tokens {
		return "set of tokens"
	}
	if k == item.Media {
		return "media file"
	}
	return strings.ReplaceAll(string(k), "-", " ")
}
