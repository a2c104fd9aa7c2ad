package desk

import (
	"archive/zip"
	"context"
	"io"
	"time"

	"compactparcel/core/folder"
)

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
