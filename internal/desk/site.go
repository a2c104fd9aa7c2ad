package desk

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"io/fs"
	"strings"
	"time"

	"compactparcel/core/closure"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/internal/store"

	"gorm.io/gorm"
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
	var cs []store.Collection
	if err := d.Store.DB(ctx).Where("kind = ?", store.Site).Order("name").Find(&cs).Error; err != nil {
		return nil, explain("sites", err)
	}
	out := make([]SiteInfo, len(cs))
	for i, c := range cs {
		info, err := d.siteInfo(ctx, &c)
		if err != nil {
			return nil, err
		}
		out[i] = *info
	}
	return out, nil
}

func (d *Desk) siteInfo(ctx context.Context, c *store.Collection) (*SiteInfo, error) {
	info := &SiteInfo{Collection: *c}
	var counts struct{ Pages, Items, Drafts int }
	err := d.Store.DB(ctx).Raw(`SELECT (SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ? AND kind = 'page') pages,
		(SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ?) items,
		(SELECT COUNT(*) FROM drafts WHERE collection_id = ? AND state = 'open') drafts`, c.ID, store.Forever, c.ID, store.Forever, c.ID).Scan(&counts).Error
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
		return nil, problem(NotFound, fmt.Sprintf("draft %d", draft), "look at the site's drafts", "it is not a draft of %s", name)
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

// Item gives one item of a site or of the library.
func (d *Desk) Item(ctx context.Context, p Person, name string, a item.Address) (*ItemInfo, error) {
	v, err := d.Look(ctx, p, name, 0)
	if err != nil {
		return nil, err
	}
	return itemOf(v, name, a)
}

// itemOf gives one item of a state, with its surroundings.
func itemOf(v *store.View, name string, a item.Address) (*ItemInfo, error) {
	h, ok := v.Find(a)
	if !ok {
		return nil, problem(NotFound, a.String(), "look at the list of its items", "%s has no such item", name)
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

// Surround says which parts stand around a page and why.
func (d *Desk) Surround(ctx context.Context, p Person, name, slug string) ([]render.Standing, error) {
	v, err := d.Look(ctx, p, name, 0)
	if err != nil {
		return nil, err
	}
	if _, ok := v.PageAt(slug); !ok {
		return nil, problem(NotFound, slug, "look at the site's pages", "%s has no page at this address", name)
	}
	s, err := render.New(v).Surround(slug)
	return s, explain(name+slug, err)
}

// History lists a site's revisions, the newest first.
func (d *Desk) History(ctx context.Context, p Person, name string) ([]store.Revision, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	var out []store.Revision
	err = d.Store.DB(ctx).Where("collection_id = ?", c.ID).Order("rev DESC").Limit(200).Find(&out).Error
	return out, explain("site "+name, err)
}

// MaxSiteName is the longest name of a site: it is part of its previews' host.
const MaxSiteName = 32

// MaxAdoptBytes is the most that an adopted zip may unpack to.
const MaxAdoptBytes = 4 << 30

// ZipFolder opens an uploaded zip as a folder, checked for what an adopted folder
// may hold. A single outer folder is looked into.
func ZipFolder(r io.ReaderAt, size int64) (fs.FS, error) {
	z, err := zip.NewReader(r, size)
	if err != nil {
		return nil, problem(Refused, "the file", "pack the site's folder as a zip", "it cannot be read as a zip (%v)", err)
	}
	var total uint64
	for _, f := range z.File {
		if total += f.UncompressedSize64; total > MaxAdoptBytes {
			return nil, problem(TooLarge, "the file", "adopt the site in parts", "it would unpack to more than %d GB", MaxAdoptBytes>>30)
		}
		if !fs.ValidPath(strings.TrimSuffix(f.Name, "/")) {
			return nil, problem(Refused, "the file", "pack the folder again with plain paths", "it holds the path %q", f.Name)
		}
	}
	entries, err := fs.ReadDir(z, ".")
	if err != nil {
		return nil, problem(Refused, "the file", "pack the site's folder as a zip", "%v", err)
	}
	if len(entries) == 1 && entries[0].IsDir() {
		return fs.Sub(z, entries[0].Name())
	}
	return z, nil
}

// Adopt makes a new site from a folder.
func (d *Desk) Adopt(ctx context.Context, p Person, name string, fsys fs.FS) (*SiteInfo, *folder.Report, error) {
	what := "site " + name
	if err := p.may(Keeper, what); err != nil {
		return nil, nil, err
	}
	if item.CheckKey(name) != nil || strings.ContainsAny(name, "/._") || strings.Contains(name, "--") || len(name) > MaxSiteName || name == LibraryName {
		return nil, nil, problem(BadInput, what, "use up to 32 lower-case letters, digits and single dashes, as in larch-saddle", "this cannot be a site's name")
	}
	if _, err := d.Store.FindCollection(ctx, store.Site, name); err == nil {
		return nil, nil, problem(Exists, what, "choose another name with --name", "there is a site of this name already")
	}
	set, report, err := folder.Read(fsys)
	if err != nil {
		return nil, nil, &Problem{Type: BadInput, What: what, Says: err.Error(), WayOut: "mend the folder and adopt again; nothing was changed", Err: err}
	}
	changes, err := d.keep(ctx, set)
	if err != nil {
		return nil, nil, explain(what, err)
	}
	title := name
	if h, ok := set.Find(item.Address{Kind: item.Setting, Key: "title"}); ok {
		if b, err := item.Read(set, h); err == nil {
			title = strings.Trim(string(b), `"`)
		}
	}
	var c *store.Collection
	err = d.Store.Tx(ctx, func(tx *gorm.DB) error {
		var err error
		if c, err = d.Store.NewCollection(tx, store.Site, name, title, d.Now()); err != nil {
			return err
		}
		note := store.Note{By: p.Name, Act: "adopt", Says: fmt.Sprintf("adopted %d items from a folder (%s)", len(changes), report.Layout), At: d.Now()}
		if _, err := d.Store.Write(tx, c, changes, note); err != nil {
			return err
		}
		return d.audit(tx, p, "adopt", name, note.Says)
	})
	if store.IsDuplicate(err) {
		return nil, nil, problem(Exists, what, "choose another name", "there is a site of this name already")
	}
	if err != nil {
		return nil, nil, explain(what, err)
	}
	info, err := d.siteInfo(ctx, c)
	return info, report, err
}

// keep stores the contents of a set and gives the changes that put its items anew.
func (d *Desk) keep(ctx context.Context, c item.Collection) ([]store.Change, error) {
	var changes []store.Change
	for _, h := range c.Heads() {
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		doc, err := d.Store.PutContent(ctx, h.Address.Kind, b, d.Now())
		if err != nil {
			return nil, err
		}
		h.ID, h.Doc, h.Bytes = store.NewID(), doc, int64(len(b))
		f, err := d.Store.KeepFacts(ctx, h, b)
		if err != nil {
			return nil, err
		}
		h.Sense = f.Sense
		changes = append(changes, store.Change{Head: h})
	}
	return changes, nil
}

// Publish writes a site's live state, or a draft, as a static site in a zip.
func (d *Desk) Publish(ctx context.Context, p Person, name string, draft int64, w io.Writer) (int, error) {
	v, err := d.Look(ctx, p, name, draft)
	if err != nil {
		return 0, err
	}
	z := zip.NewWriter(w)
	n, err := folder.Publish(v, func(path string, content []byte) error {
		f, err := z.CreateHeader(&zip.FileHeader{Name: path, Method: zip.Deflate, Modified: time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			return err
		}
		_, err = f.Write(content)
		return err
	})
	if err != nil {
		return n, explain("site "+name, err)
	}
	return n, z.Close()
}

// Drafts lists a site's open drafts.
func (d *Desk) Drafts(ctx context.Context, p Person, name string) ([]store.Draft, error) {
	if err := p.may(Viewer, "site "+name); err != nil {
		return nil, err
	}
	c, err := d.site(ctx, name)
	if err != nil {
		return nil, err
	}
	var out []store.Draft
	err = d.Store.DB(ctx).Where("collection_id = ? AND state = ?", c.ID, store.DraftOpen).Order("id").Find(&out).Error
	return out, explain("site "+name, err)
}

func (d *Desk) draft(ctx context.Context, id int64) (*store.Draft, error) {
	dr, err := d.Store.FindDraft(ctx, id)
	if err != nil {
		return nil, explain(fmt.Sprintf("draft %d", id), err)
	}
	return dr, nil
}
