package desk

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"io/fs"
	"strings"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/internal/store"

	"gorm.io/gorm"
)

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
