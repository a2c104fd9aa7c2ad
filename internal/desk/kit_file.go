package desk

import (
	"context"
	"errors"
	"io"
	"os"

	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

// MaxKitFile is the largest kit file that is taken over the network.
const MaxKitFile = 4 << 30

// KitUpload takes a kit file in, after checking it whole.
func (d *Desk) KitUpload(ctx context.Context, p Person, r io.Reader) (*KitInfo, error) {
	what := "the uploaded kit"
	if err := p.may(Librarian, what); err != nil {
		return nil, err
	}
	var list kit.PackingList
	err := d.inFile(func(f *os.File) error {
		n, err := io.Copy(f, io.LimitReader(r, MaxKitFile+1))
		if err != nil {
			return problem(BadInput, what, "send it again; nothing was kept", "it broke off after %d bytes", n)
		}
		if n > MaxKitFile {
			return problem(TooLarge, what, "make it lighter", "a kit file has at most %d GB", MaxKitFile>>30)
		}
		k, err := kit.Open(f, n)
		if err != nil {
			if !errors.Is(err, kit.ErrNotKit) && !errors.Is(err, kit.ErrNewer) && !isRefused(err) {
				return &Problem{Type: Refused, What: what, Says: err.Error(), WayOut: "get the file again from who made it; nothing of it was kept", Err: err}
			}
			return err
		}
		list = k.List
		return d.shelve(ctx, p, f, "upload", 0, "")
	})
	if err != nil {
		return nil, explain(what, err)
	}
	return d.Kit(ctx, p, list.Kit, list.Version)
}

func isRefused(err error) bool { var r *kit.RefusedError; return errors.As(err, &r) }

// KitFile opens a sealed kit's file.
func (d *Desk) KitFile(ctx context.Context, p Person, name, version string) (*os.File, *store.KitVersion, error) {
	what := "kit " + name + "@" + version
	if err := p.may(Viewer, what); err != nil {
		return nil, nil, err
	}
	v, err := d.kitVersion(ctx, name, version)
	if err != nil {
		return nil, nil, err
	}
	if v.State != Sealed {
		return nil, nil, problem(Refused, what, "seal it first: cparcel kit seal "+name+"@"+version, "it is not sealed yet")
	}
	f, err := d.Store.Blobs.File(v.File)
	return f, v, explain(what, err)
}
