package desk

import (
	"archive/zip"
	"context"
	"io"
	"path"
	"strings"
	"time"

	"compactparcel/core/folder"
	"compactparcel/core/item"
)

// Publication says what is published and how.
type Publication struct {
	Site  string
	Draft int64
	Base  string
	Links string
	// Have lists the contents that the receiver has: they are left out.
	Have map[item.Digest]bool
}

// packed are the endings of files that no compression makes smaller.
var packed = map[string]bool{".jpg": true, ".jpeg": true, ".png": true, ".webp": true, ".avif": true, ".gif": true, ".mp4": true, ".webm": true, ".woff": true, ".woff2": true, ".zip": true, ".pdf": true}

// Publish writes a site's live state, or a draft, as a static site in a zip. Its last
// file is the list of all.
func (d *Desk) Publish(ctx context.Context, p Person, in Publication, w io.Writer) (*folder.Release, []folder.Left, error) {
	v, err := d.Look(ctx, p, in.Site, in.Draft)
	if err != nil {
		return nil, nil, err
	}
	o := folder.Options{Site: in.Site, Revision: v.Rev, Digest: v.Digest(), Base: in.Base, Links: in.Links, Facts: v.Facts}
	if err := o.Check(); err != nil {
		return nil, nil, problem(BadInput, "site "+in.Site, "see the options of publishing", "%s", err)
	}
	z := zip.NewWriter(w)
	rel, notes, err := folder.Publish(v, o, func(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
		if in.Have[f.Digest] && name != folder.ReleaseFile {
			return nil
		}
		method := zip.Deflate
		if packed[strings.ToLower(path.Ext(name))] {
			method = zip.Store
		}
		to, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)})
		if err != nil {
			return err
		}
		r, err := open()
		if err != nil {
			return err
		}
		defer r.Close()
		_, err = io.Copy(to, r)
		return err
	})
	if err != nil {
		return nil, nil, explain("site "+in.Site, err)
	}
	return rel, notes, z.Close()
}
