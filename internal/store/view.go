package store

import (
	"bytes"
	"context"
	"io"
	"slices"
	"sort"
	"strings"

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

	ctx   context.Context
	store *Store
	*state
	primed map[item.Digest][]byte // texts that were read ahead
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
	live, err := s.Live(ctx, c)
	if err != nil {
		return nil, err
	}
	v := live.Laid(changes)
	v.Draft = d
	return v, nil
}

// Laid gives the state with changes laid over it that are in no draft yet.
func (v *View) Laid(changes []Change) *View {
	out := *v
	out.state = v.laid(changes)
	return &out
}

func (s *Store) viewOf(ctx context.Context, c *Collection, rev int64, of *index) *View {
	return &View{Collection: c, Rev: rev, ctx: ctx, store: s, state: &state{below: of}}
}

// With gives the same state for another request.
func (v *View) With(ctx context.Context) *View { c := *v; c.ctx = ctx; return &c }

// Open gives an item's content.
func (v *View) Open(h item.Head) (io.ReadCloser, error) {
	if b, ok := v.primed[h.Doc]; ok {
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
	for _, h := range heads {
		if _, ok := out[h.Doc]; ok || inBlobs(h.Address.Kind, h.Bytes) {
			continue
		}
		b, err := item.Read(v, h) // it lies where its size does not say, or nowhere
		if err != nil {
			return nil, err
		}
		out[h.Doc] = b
	}
	return out, nil
}

// Facts gives an item's facts.
func (v *View) Facts(h item.Head) (*facts.Facts, error) { return v.store.Facts(v.ctx, h) }

// Digest is the state's digest.
func (v *View) Digest() item.Digest {
	if v.above == nil && v.Rev == v.Collection.Revision {
		return v.Collection.Digest // kept up at each write
	}
	return item.CollectionDigest(v.Heads())
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

// linkTo is the name by which a link to an address is known.
func linkTo(slug string) string {
	if last := slug[strings.LastIndexByte(slug, '/')+1:]; last != "" && !strings.Contains(last, ".") {
		slug += "/"
	}
	return linkPrefix + slug
}

// UsedBy gives the items whose source names an address: of the live state, and of the draft where
// one is laid over it.
func (v *View) UsedBy(a item.Address) ([]item.Address, error) {
	return v.users(v.namesOf(a)...)
}

// namesOf are the names by which sources mean an item: its address, and the addresses that it kept.
func (v *View) namesOf(a item.Address) []string {
	out := []string{a.String()}
	h, _ := v.Find(a)
	for _, at := range h.Meta.Kept {
		if other, ok := item.AssetOfPath(at); ok {
			if _, there := v.Find(other); !there {
				out = append(out, other.String())
			}
			continue
		}
		out = append(out, linkTo(at))
	}
	return out
}

// LinkedFrom gives the items that link to a slug, as UsedBy does.
func (v *View) LinkedFrom(slug string) ([]item.Address, error) {
	if a, ok := item.AssetOfPath(slug); ok { // somebody's folder is called as ours are
		if _, there := v.Find(a); !there {
			return v.users(linkTo(slug), a.String())
		}
	}
	return v.users(linkTo(slug))
}

// UsersOf gives for each of many addresses the items whose source names it, as UsedBy does.
func (v *View) UsersOf(list []item.Address) (map[item.Address][]item.Address, error) {
	out := make(map[item.Address][]item.Address, len(list))
	byName := make(map[string]item.Address, len(list))
	names := make([]string, 0, len(list))
	for _, a := range list {
		for _, name := range v.namesOf(a) {
			byName[name] = a
			names = append(names, name)
		}
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
			if h, ok := v.ByID(r.ItemID); ok && !v.isChanged(r.ItemID) {
				a := byName[r.ToName]
				out[a] = append(out[a], h.Address)
			}
		}
		names = names[n:]
	}
	for _, h := range v.puts() {
		named, err := v.store.leansOn(v.ctx, h)
		if err != nil {
			return nil, err
		}
		for _, name := range named {
			if a, asked := byName[name]; asked {
				out[a] = append(out[a], h.Address)
			}
		}
	}
	for _, users := range out {
		sort.Slice(users, func(i, j int) bool { return users[i].Less(users[j]) })
	}
	for a, users := range out {
		out[a] = slices.Compact(users)
	}
	return out, nil
}

func (v *View) users(names ...string) ([]item.Address, error) {
	var out []item.Address
	for _, name := range names {
		ids, err := v.store.Read(v.ctx).Collections().UsersOf(v.Collection.ID, name)
		if err != nil {
			return nil, err
		}
		for _, id := range ids {
			if h, ok := v.ByID(id); ok && !v.isChanged(id) {
				out = append(out, h.Address)
			}
		}
	}
	for _, h := range v.puts() {
		named, err := v.store.leansOn(v.ctx, h)
		if err != nil {
			return nil, err
		}
		if slices.ContainsFunc(named, func(n string) bool { return slices.Contains(names, n) }) {
			out = append(out, h.Address)
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Less(out[j]) })
	return slices.Compact(out), nil
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
		if _, taken := v.PageAt(r.Slug); ok && !taken {
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
	drafted, err := v.draftOrigins()
	if err != nil {
		return nil, err
	}
	out := map[string]Origin{}
	for _, r := range append(rows, drafted...) {
		out[r.ItemID] = r
	}
	return out, nil
}
