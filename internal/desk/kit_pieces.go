package desk

import (
	"context"
	"io"
	"os"

	"compactparcel/core/pieces"
)

// KitPieces writes one kit for each piece of a sealed kit into a ZIP and lends it to use.
func (d *Desk) KitPieces(ctx context.Context, p Person, name, version string, use func(*os.File) error) error {
	what := "kit " + name + "@" + version
	v, err := d.sealed(ctx, p, name, version)
	if err != nil {
		return err
	}
	list, view, err := d.parcelView(ctx, v)
	if err != nil {
		return explain(what, err)
	}
	return d.inFile(func(f *os.File) error {
		parts, err := pieces.Split(list, view)
		if err == nil {
			err = pieces.WriteAll(f, parts)
		}
		if err == nil {
			_, err = f.Seek(0, io.SeekStart)
		}
		if err != nil {
			return explain(what, err)
		}
		return use(f)
	})
}
