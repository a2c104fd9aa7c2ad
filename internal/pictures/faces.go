package pictures

import (
	"context"
	"io"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/preview"
	"compactparcel/internal/store"
)

// maxFaces bounds how many pictures a kit brings.
const maxFaces = 60

// Faces gives the small pictures of items of a kit in the making, at its own preview: those that are made before
// the context ends. What cannot be shown has none.
func (p *Pictures) Faces(ctx context.Context, origin string, list []item.Address) map[item.Address][]byte {
	if !p.HasBrowser() || len(list) == 0 {
		return nil
	}
	list = list[:min(len(list), maxFaces)]
	wanted := make([]Wanted, len(list))
	for i, a := range list {
		wanted[i] = Wanted{At: origin + preview.Alone(a), Width: Widths[0]}
	}
	out := map[item.Address][]byte{}
	for {
		found, err := p.Want(ctx, wanted)
		if err != nil {
			if ctx.Err() == nil {
				p.Log.Warn("the pictures of a kit", "error", err)
			}
			return out
		}
		waits := false
		for i, f := range found {
			if out[list[i]] != nil || f.Picture == nil {
				continue
			}
			waits = waits || f.Picture.State == store.PictureWaiting
			if f.Picture.State == store.PictureMade {
				if b := p.small(ctx, f.Key); b != nil {
					out[list[i]] = b
				}
			}
		}
		if !waits {
			return out
		}
		select {
		case <-ctx.Done():
			return out
		case <-time.After(300 * time.Millisecond):
		}
	}
}

func (p *Pictures) small(ctx context.Context, key item.Digest) []byte {
	f, err := p.Open(ctx, key, true)
	if err != nil {
		return nil // it is made again another time
	}
	defer f.Close()
	b, err := io.ReadAll(f)
	if err != nil {
		return nil
	}
	return b
}
