package store

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"slices"
	"sort"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// View is one state of a collection: a revision, and a draft laid over it if one
// is named. It is an item.Collection, a closure.World and a plan.Site.
type View struct {
	Collection *Collection
	Rev        int64
	Draft      *Draft

	changed bool        // changes are laid over it
	over    []item.Head // what they put, where where-used does not know it yet
	ctx     context.Context
	store   *Store
	*index
	primed map[item.Digest][]byte // texts that were read ahead
}

// index is a set of items with what is asked of it again and again; it never changes.
type index struct {
	heads  []item.Head // sorted by address
	byAddr map[item.Address]int
	slugs  map[string]item.Address
	ids    map[string]item.Address
	media  map[item.Digest]item.Address
}

// Live gives a collection's state now.
func (s *Store) Live(ctx context.Context, c *Collection) (*View, error) {
	return s.At(ctx, c, c.Revision)
}

// At gives a collection's state at a revision.
func (s *Store) At(ctx context.Context, c *Collection, rev int64) (*View, error) {
	if known, ok := s.states.get(c.ID, rev); ok {
		return s.viewOf(ctx, c, rev, known), nil
	}
	var rows []Item
	if err := s.conn(ctx).
		Where("collection_id = ? AND from_rev <= ? AND to_rev > ?", c.ID, rev, rev).
		Find(&rows).
		Error; err != nil {
		return nil, err
	}
	heads := make([]item.Head, len(rows))
	for i, r := range rows {
		heads[i] = r.Head()
	}
	of := indexOf(heads)
	var written int64 // a revision that is written never changes
	if err := s.conn(ctx).Model(&Collection{}).Where("id = ?", c.ID).Pluck("revision", &written).Error; err != nil {
		return nil, err
	}
	if rev <= written {
		s.states.keep(c.ID, rev, of)
	}
	return s.viewOf(ctx, c, rev, of), nil
}

// Over gives the live state with a draft laid over it.
func (s *Store) Over(ctx context.Context, c *Collection, d *Draft) (*View, error) {
	rows, err := s.DraftItems(ctx, d)
	if err != nil {
		return nil, err
	}
	changes := make([]Change, len(rows))
	for i, r := range rows {
		changes[i] = Change{Delete: r.Op == "delete", Head: r.Head()}
	}
	v, err := s.OverChanges(ctx, c, changes)
	if err == nil {
		v.Draft = d
	}
	return v, err
}

// OverChanges gives the live state with changes laid over it that are in no draft yet.
func (s *Store) OverChanges(ctx context.Context, c *Collection, changes []Change) (*View, error) {
	live, err := s.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	changed := map[string]bool{}
	taken := map[item.Address]bool{}
	for _, ch := range changes {
		changed[ch.Head.ID] = true
		taken[ch.Head.Address] = true
	}
	var heads []item.Head
	for _, h := range live.heads {
		if !changed[h.ID] && !taken[h.Address] {
			heads = append(heads, h)
		}
	}
	var over []item.Head
	for _, ch := range changes {
		if !ch.Delete {
			over = append(over, ch.Head)
		}
	}
	v := s.view(ctx, c, live.Rev, append(heads, over...))
	v.changed, v.over = true, over
	return v, nil
}

// Changed gives the state with one of its items changed.
func (v *View) Changed(h item.Head) *View {
	heads := slices.Clone(v.heads)
	if i, ok := v.byAddr[h.Address]; ok {
		heads[i] = h
	} else {
		heads = append(heads, h)
	}
	out := v.store.view(v.ctx, v.Collection, v.Rev, heads)
	out.Draft, out.changed = v.Draft, true
	out.over = append(slices.DeleteFunc(slices.Clone(v.over), func(o item.Head) bool { return o.ID == h.ID }), h)
	return out
}

func (s *Store) view(ctx context.Context, c *Collection, rev int64, heads []item.Head) *View {
	return s.viewOf(ctx, c, rev, indexOf(heads))
}

func (s *Store) viewOf(ctx context.Context, c *Collection, rev int64, of *index) *View {
	return &View{Collection: c, Rev: rev, ctx: ctx, store: s, index: of}
}

// indexOf takes the heads over.
func indexOf(heads []item.Head) *index {
	if !sort.SliceIsSorted(heads, func(i, j int) bool { return heads[i].Address.Less(heads[j].Address) }) {
		item.SortHeads(heads)
	}
	of := &index{
		heads:  heads,
		byAddr: make(map[item.Address]int, len(heads)),
		slugs:  map[string]item.Address{},
		ids:    make(map[string]item.Address, len(heads)),
		media:  map[item.Digest]item.Address{},
	}
	for i, h := range heads {
		of.byAddr[h.Address] = i
		of.ids[h.ID] = h.Address
		switch h.Address.Kind {
		case item.Page:
			of.slugs[h.Meta.Slug] = h.Address
		case item.Media:
			of.media[h.Doc] = h.Address
		default:
		}
	}
	return of
}

// With gives the same state for another request.
func (v *View) With(ctx context.Context) *View { c := *v; c.ctx = ctx; return &c }

// Heads lists the items by address.
func (v *View) Heads() []item.Head { return v.heads }

// Find gives the item at an address.
func (v *View) Find(a item.Address) (item.Head, bool) {
	i, ok := v.byAddr[a]
	if !ok {
		return item.Head{}, false
	}
	return v.heads[i], true
}

// ByID gives the item with a permanent id.
func (v *View) ByID(id string) (item.Head, bool) {
	a, ok := v.ids[id]
	if !ok {
		return item.Head{}, false
	}
	return v.Find(a)
}

// Open gives an item's content.
func (v *View) Open(h item.Head) (io.ReadCloser, error) {
	if b, ok := v.primed[h.Doc]; ok && !inBlobs(h.Address.Kind, h.Bytes) {
		return item.Sure{ReadCloser: io.NopCloser(bytes.NewReader(b))}, nil
	}
	return v.store.Content(v.ctx, h)
}

// Prime reads the texts of many items at once, ahead of those who open them; what it read
// before is let go of.
func (v *View) Prime(heads []item.Head) (err error) {
	v.primed, err = v.ReadMany(heads)
	return err
}

// PrimeFacts reads the facts of many items at once, ahead of those who ask for them.
func (v *View) PrimeFacts(heads []item.Head) error { return v.store.primeFacts(v.ctx, heads) }

// ReadMany gives the texts of many items at once; those in the blob store are left out.
func (v *View) ReadMany(heads []item.Head) (map[item.Digest][]byte, error) {
	var digests []item.Digest
	for _, h := range heads {
		if !inBlobs(h.Address.Kind, h.Bytes) {
			digests = append(digests, h.Doc)
		}
	}
	var docs []Doc
	if err := v.store.conn(v.ctx).Where("digest IN ?", digests).Find(&docs).Error; err != nil {
		return nil, err
	}
	out := make(map[item.Digest][]byte, len(docs))
	for _, d := range docs {
		b, err := d.text()
		if err != nil {
			return nil, err
		}
		out[d.Digest] = b
	}
	for _, d := range digests {
		if _, ok := out[d]; !ok {
			return nil, fmt.Errorf("the content %s: %w", d.Short(), ErrMissing)
		}
	}
	return out, nil
}

// Facts gives an item's facts.
func (v *View) Facts(h item.Head) (*facts.Facts, error) { return v.store.Facts(v.ctx, h) }

// PageAt gives the page with a slug.
func (v *View) PageAt(slug string) (item.Address, bool) { a, ok := v.slugs[slug]; return a, ok }

// Digest is the state's digest.
func (v *View) Digest() item.Digest {
	if !v.changed && v.Rev == v.Collection.Revision {
		return v.Collection.Digest // kept up at each write
	}
	return item.CollectionDigest(v.heads)
}

// MediaWith finds a media item by its exact digest.
func (v *View) MediaWith(d item.Digest) (item.Address, bool) { a, ok := v.media[d]; return a, ok }

// OfKind lists the items of some kinds.
func (v *View) OfKind(kinds ...item.Kind) []item.Head {
	var out []item.Head
	for _, h := range v.heads {
		for _, k := range kinds {
			if h.Address.Kind == k {
				out = append(out, h)
			}
		}
	}
	return out
}

// Pages lists the pages.
func (v *View) Pages() []item.Head { return v.OfKind(item.Page) }

// GeneratedPages lists what no page item stands for.
func (v *View) GeneratedPages() ([]render.GeneratedPage, error) {
	return render.New(v).GeneratedPages()
}

// Parts lists the parts.
func (v *View) Parts() []item.Head { return v.OfKind(item.Part) }

// Sheets lists the stylesheets and tokens.
func (v *View) Sheets() []item.Head { return v.OfKind(item.Stylesheet, item.Tokens) }

// StyleOrder gives the stylesheet order.
func (v *View) StyleOrder() ([]item.Address, error) { return render.StyleOrder(v) }

// linkPrefix marks links to pages among the names an item uses: they lean on
// nothing of the page's content.
const linkPrefix = "~"

// UsedBy gives the items whose source names an address: of the live state, and of the draft where
// one is laid over it.
func (v *View) UsedBy(a item.Address) ([]item.Address, error) {
	return v.users(a.String())
}

// LinkedFrom gives the items that link to a slug, as UsedBy does.
func (v *View) LinkedFrom(slug string) ([]item.Address, error) {
	return v.users(linkPrefix + slug)
}

// UsersOf gives for each of many addresses the items of the live state whose source names it.
func (v *View) UsersOf(list []item.Address) (map[item.Address][]item.Address, error) {
	out := make(map[item.Address][]item.Address, len(list))
	byName := make(map[string]item.Address, len(list))
	names := make([]string, 0, len(list))
	for _, a := range list {
		byName[a.String()] = a
		names = append(names, a.String())
	}
	for len(names) > 0 {
		n := min(len(names), 500)
		var rows []struct{ ToName, ItemID string }
		if err := v.store.conn(v.ctx).
			Table("item_refs").
			Select("to_name, item_id").
			Where("collection_id = ? AND to_name IN ?", v.Collection.ID, names[:n]).
			Find(&rows).
			Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			if h, ok := v.ByID(r.ItemID); ok {
				a := byName[r.ToName]
				out[a] = append(out[a], h.Address)
			}
		}
		names = names[n:]
	}
	for _, users := range out {
		sort.Slice(users, func(i, j int) bool { return users[i].Less(users[j]) })
	}
	return out, nil
}

func (v *View) users(name string) ([]item.Address, error) {
	ids, err := v.store.Read(v.ctx).Collections().UsersOf(v.Collection.ID, name)
	if err != nil {
		return nil, err
	}
	changed := map[string]bool{}
	for _, h := range v.over {
		changed[h.ID] = true
	}
	var out []item.Address
	for _, id := range ids {
		if h, ok := v.ByID(id); ok && !changed[id] {
			out = append(out, h.Address)
		}
	}
	for _, h := range v.over {
		names, err := v.store.namedIn(v.ctx, h)
		if err != nil {
			return nil, err
		}
		if slices.Contains(names, name) {
			out = append(out, h.Address)
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Less(out[j]) })
	return out, nil
}

// Former gives the addresses at which pages of this state stood before and no page stands now, each
// with the page that left it last.
func (v *View) Former() (map[string]item.Address, error) {
	var rows []struct {
		ItemID, Slug string
	}
	err := v.store.conn(v.ctx).
		Model(&Item{}).
		Select("item_id, slug").
		Where("collection_id = ? AND kind = ? AND from_rev <= ? AND slug IS NOT NULL", v.Collection.ID, item.Page,
			v.Rev).
		Order("from_rev, id").
		Find(&rows).
		Error
	if err != nil {
		return nil, err
	}
	out := map[string]item.Address{}
	for _, r := range rows {
		h, ok := v.ByID(r.ItemID)
		if _, taken := v.slugs[r.Slug]; ok && !taken {
			out[r.Slug] = h.Address
		}
	}
	return out, nil
}

// OriginsOf gives where the items of this state came from, by item id.
func (v *View) OriginsOf() (map[string]Origin, error) {
	var rows []Origin
	if err := v.store.conn(v.ctx).Where("collection_id = ?", v.Collection.ID).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string]Origin{}
	for _, r := range rows {
		out[r.ItemID] = r
	}
	return out, nil
}
