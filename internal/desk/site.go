package desk

import (
	"context"
	"fmt"

	"compactparcel/core/closure"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"
)

// SiteInfo is a site as lists show it.
type SiteInfo struct {
	store.Collection
	Pages      int
	Items      int
	OpenDrafts int
}

// Sites lists all sites.
func (d *Desk) Sites(ctx context.Context, p Person) ([]SiteInfo, error) {
	if err := p.may(Viewer, "sites"); err != nil {
		return nil, err
	}
	cs, err := d.Store.Read(ctx).Collections().OfKind(store.Site)
	if err != nil {
		return nil, explain("sites", err)
	}
	counts, err := d.Store.CountSites(ctx)
	if err != nil {
		return nil, explain("sites", err)
	}
	out := make([]SiteInfo, len(cs))
	for i, c := range cs {
		n := counts[c.ID]
		out[i] = SiteInfo{Collection: c, Pages: n.Pages, Items: n.Items, OpenDrafts: n.Drafts}
	}
	return out, nil
}

func (d *Desk) siteInfo(ctx context.Context, c *store.Collection) (*SiteInfo, error) {
	info := &SiteInfo{Collection: *c}
	counts, err := d.Store.Count(ctx, c.ID)
	info.Pages, info.Items, info.OpenDrafts = counts.Pages, counts.Items, counts.Drafts
	return info, explain("site "+c.Name, err)
}

// Site gives one site.
func (d *Desk) Site(ctx context.Context, p Person, name string) (*SiteInfo, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	return d.siteInfo(ctx, c)
}

// Look gives a site's live state, or a draft laid over it when draft is not 0.
func (d *Desk) Look(ctx context.Context, p Person, name string, draft int64) (*store.View, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.collection(ctx, name)
	if err != nil {
		return nil, err
	}
	if draft == 0 {
		v, err := d.Store.Live(ctx, c)
		return v, explain("site "+name, err)
	}
	dr, err := d.draft(ctx, draft)
	if err != nil {
		return nil, err
	}
	if dr.CollectionID != c.ID {
		return nil, problem(NotFound, fmt.Sprintf("draft %d", draft), To(ShowDrafts), "it is not a draft of %s", name)
	}
	v, err := d.Store.Over(ctx, c, dr)
	return v, explain("site "+name, err)
}

// ItemInfo is one item with what leans on what.
type ItemInfo struct {
	Head    item.Head
	Content []byte // of texts; nil for media
	Uses    []closure.Use
	UsedBy  []item.Address
	Origin  *store.Origin
}

// Item gives one item of a site, live or in a draft when that is not 0, or of the library.
func (d *Desk) Item(ctx context.Context, p Person, name string, a item.Address, draft int64) (*ItemInfo, error) {
	v, err := d.Look(ctx, p, name, draft)
	if err != nil {
		return nil, err
	}
	return itemOf(v, name, a)
}

// itemOf gives one item of a state, with its surroundings.
func itemOf(v *store.View, name string, a item.Address) (*ItemInfo, error) {
	h, ok := v.Find(a)
	if !ok {
		return nil, problem(NotFound, a.String(), To(ShowItems, "site", name), "%s has no such item", name)
	}
	out := &ItemInfo{Head: h}
	f, err := v.Facts(h)
	if err != nil {
		return nil, explain(a.String(), err)
	}
	out.Uses = closure.Uses(v, h, f)
	if out.UsedBy, err = v.UsedBy(a); err != nil {
		return nil, explain(a.String(), err)
	}
	if a.Kind == item.Page {
		linked, err := v.LinkedFrom(h.Meta.Slug)
		if err != nil {
			return nil, explain(a.String(), err)
		}
		out.UsedBy = append(out.UsedBy, linked...)
	}
	origins, err := v.OriginsOf()
	if err != nil {
		return nil, explain(a.String(), err)
	}
	if o, ok := origins[h.ID]; ok {
		out.Origin = &o
	}
	if a.Kind != item.Media {
		if out.Content, err = item.Read(v, h); err != nil {
			return nil, explain(a.String(), err)
		}
	}
	return out, nil
}

// Surround says which parts stand around a page of the live site, or of a draft when it is not 0,
// and why: around a page that no item stands for, too, as a record's, a listing or the page for
// unknown addresses.
func (d *Desk) Surround(
	ctx context.Context, p Person, name, slug string, draft int64,
) ([]render.PartAssignment, error) {
	v, err := d.Look(ctx, p, name, draft)
	if err != nil {
		return nil, err
	}
	o, err := render.New(v).Page(render.PageRequest{Slug: slug})
	if err != nil {
		return nil, explain(name+slug, err)
	}
	if o.Status != 200 && slug != render.NotFoundSlug {
		return nil, problem(NotFound, slug, To(ShowItems, "site", name), "%s has no page at this address", name)
	}
	return o.Around, nil
}

// History lists a site's revisions before one, the newest first; 0 is all.
func (d *Desk) History(ctx context.Context, p Person, name string, before int64) ([]store.Revision, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	out, err := d.Store.Read(ctx).Collections().Revisions(c.ID, before, 200)
	return out, explain("site "+name, err)
}

// OpenDrafts are a site's open drafts, with the deliveries that are staged in them, by their numbers.
type OpenDrafts struct {
	List       []store.Draft
	Deliveries map[int64]int64
}

// Drafts lists a site's open drafts.
func (d *Desk) Drafts(ctx context.Context, p Person, name string) (*OpenDrafts, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	list, err := d.Store.Read(ctx).Collections().OpenDrafts(c.ID)
	if err != nil {
		return nil, explain("site "+name, err)
	}
	ids := make([]int64, len(list))
	for i, dr := range list {
		ids[i] = dr.ID
	}
	of, err := d.Store.Read(ctx).Deliveries().OfDrafts(ids)
	return &OpenDrafts{list, of}, explain("site "+name, err)
}

func (d *Desk) draft(ctx context.Context, id int64) (*store.Draft, error) {
	dr, err := d.Store.FindDraft(ctx, id)
	if err != nil {
		return nil, explain(fmt.Sprintf("draft %d", id), err)
	}
	return dr, nil
}
