package desk

import (
	"archive/tar"
	"archive/zip"
	"context"
	"encoding/json"
	"io"
	"path"
	"strings"
	"time"

	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/internal/memory"

	"github.com/klauspost/compress/flate"
)

// Publication says what is published and how.
type Publication struct {
	Site  string
	Draft int64
	Base  string
	Links string
	Forms string // where forms are sent, as an outlet's
	// Have lists the contents that the receiver has: they are left out.
	Have map[item.Digest]bool
}

// publish writes a site's live state, or a draft, as a static site.
func (d *Desk) publish(
	ctx context.Context,
	p Person,
	in Publication,
	out folder.Out,
) (*folder.Release, []folder.Left, error) {
	v, err := d.Look(ctx, p, in.Site, in.Draft)
	if err != nil {
		return nil, nil, err
	}
	o := folder.Options{
		Site:     in.Site,
		Revision: v.Rev,
		Digest:   v.Digest(),
		Base:     in.Base,
		Links:    in.Links,
		Facts:    v.Facts,
	}
	if o.Forms, err = d.formsOf(in.Site, in.Forms); err != nil {
		return nil, nil, err
	}
	if err := o.Check(); err != nil {
		return nil, nil, problem(BadInput, "site "+in.Site, To(CheckOptions), "%s", err)
	}
	defer memory.Work()()
	rel, notes, err := folder.Publish(
		v,
		o,
		func(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
			if in.Have[f.Digest] && name != folder.ReleaseFile {
				return nil
			}
			return out(name, f, open)
		},
	)
	return rel, notes, explain("site "+in.Site, err)
}

// packed are the endings of files that no compression makes smaller.
var packed = map[string]bool{
	".jpg":   true,
	".jpeg":  true,
	".png":   true,
	".webp":  true,
	".avif":  true,
	".gif":   true,
	".mp4":   true,
	".webm":  true,
	".woff":  true,
	".woff2": true,
	".zip":   true,
	".pdf":   true,
}

// then is the time of all that is packed, so that equal sites give equal bytes.
var then = time.Date(1980, 1, 1, 0, 0, 0, 0, time.UTC)

// PublishZip writes a site as a zip. Its last file is the list of all.
func (d *Desk) PublishZip(
	ctx context.Context,
	p Person,
	in Publication,
	w io.Writer,
) (*folder.Release, []folder.Left, error) {
	z := zip.NewWriter(w)
	z.RegisterCompressor(
		zip.Deflate,
		func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestSpeed) },
	)
	rel, notes, err := d.publish(
		ctx,
		p,
		in,
		func(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
			method := zip.Deflate
			if packed[strings.ToLower(path.Ext(name))] {
				method = zip.Store
			}
			to, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method, Modified: then})
			if err != nil {
				return err
			}
			return copyFrom(to, open)
		},
	)
	if err != nil {
		return nil, nil, err
	}
	return rel, notes, z.Close()
}

// PublishStream writes a site as a tar that can be put down as it comes: its last file
// is the list of all, also of those that were left out, and behind it stand the notes.
// A stream without the list is not whole.
func (d *Desk) PublishStream(ctx context.Context, p Person, in Publication, w io.Writer) error {
	t := tar.NewWriter(w)
	entry := func(name string, size int64) error {
		return t.WriteHeader(&tar.Header{Name: name, Size: size, Mode: 0o644, ModTime: then, Format: tar.FormatPAX})
	}
	_, notes, err := d.publish(
		ctx,
		p,
		in,
		func(name string, f folder.Published, open func() (io.ReadCloser, error)) error {
			if err := entry(name, f.Bytes); err != nil {
				return err
			}
			return copyFrom(t, open)
		},
	)
	if err != nil {
		return err
	}
	text, err := json.Marshal(notes)
	if err != nil {
		return err
	}
	if err := entry(folder.NotesEntry, int64(len(text))); err != nil {
		return err
	}
	if _, err := t.Write(text); err != nil {
		return err
	}
	return t.Close()
}

func copyFrom(w io.Writer, open func() (io.ReadCloser, error)) error {
	r, err := open()
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = io.Copy(w, r)
	return err
}
