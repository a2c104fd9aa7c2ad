package desk

import (
	"context"
	"os"

	"compactparcel/internal/store"
)

// MaxKitFile is the largest kit file that is taken over the network.
const MaxKitFile = 8 << 30

// KitFile opens a sealed kit's file.
func (d *Desk) KitFile(ctx context.Context, p Person, name, version string) (*os.File, *store.KitVersion, error) {
	what := "kit " + name + "@" + version
	v, err := d.sealed(ctx, p, name, version)
	if err != nil {
		return nil, nil, err
	}
	f, err := d.Store.Blobs.File(v.File)
	return f, v, explain(what, err)
}
