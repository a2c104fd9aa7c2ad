package pictures

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"sync"
	"time"

	"compactparcel/internal/preview"
	"compactparcel/internal/store"
)

// atOnce is how many pictures are made at once.
const atOnce = 2

// lease is how long a picture may take before another worker takes it over.
const lease = time.Minute

// maxTries is how often a picture is tried where the browser is to blame.
const maxTries = 3

// Run makes the pictures that are wanted until the context ends.
func (p *Pictures) Run(ctx context.Context) {
	b := p.browser.Load()
	if b == nil {
		return
	}
	if err := b.Check(ctx); err != nil {
		if ctx.Err() == nil {
			p.Log.Warn("no pictures are made: pages are shown live in their place", "error", err)
		}
		p.Use(nil)
		b.Close()
		return
	}
	p.Log.Info("pictures are made", "browser", b.Version())
	var workers sync.WaitGroup
	for range atOnce {
		workers.Go(func() {
			for ctx.Err() == nil {
				did, err := p.Once(ctx)
				if err != nil && ctx.Err() == nil {
					p.Log.Warn("pictures", "error", err)
				}
				if did && err == nil {
					continue
				}
				select {
				case <-ctx.Done():
				case <-p.wake:
				case <-time.After(2 * time.Second):
				}
			}
		})
	}
	workers.Wait()
	b.Close()
}

// Once makes the picture that was wanted last; did is false where none is wanted.
func (p *Pictures) Once(ctx context.Context) (did bool, err error) {
	var row *store.Picture
	err = p.Store.Tx(ctx, func(tx *store.Tx) error {
		row, err = tx.Pictures().Take(p.Now(), lease)
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	err = p.make(ctx, row)
	rows := p.Store.Read(context.WithoutCancel(ctx)).Pictures()
	switch {
	case err == nil:
		return true, rows.Finish(row)
	case errors.Is(err, errGone):
		return true, rows.Drop(row.Picture)
	case ctx.Err() != nil:
		return true, rows.Release(row, p.Now())
	case errors.Is(err, ErrMisbehaved) || row.Attempts >= maxTries:
		row.State, row.Message = store.PictureFailed, clipped(err.Error())
		p.Log.Info("a picture cannot be made", "width", row.Width, "error", err)
		return true, rows.Finish(row)
	default:
		p.Log.Warn("a picture is tried again", "width", row.Width, "attempt", row.Attempts, "error", err)
		return true, rows.Release(row, p.Now().Add(time.Duration(row.Attempts)*5*time.Second))
	}
}

// errGone tells that what a picture was to show is there no more.
var errGone = errors.New("it is shown no more")

// make makes a picture of what its key names: neither of what came before, nor of what came since.
func (p *Pictures) make(ctx context.Context, row *store.Picture) error {
	if err := p.still(ctx, row); err != nil {
		return err
	}
	u, err := url.Parse(row.ShownAt)
	if err != nil {
		return errGone
	}
	shot, err := p.browser.Load().Shoot(ctx,
		View{Host: u.Host, Path: u.RequestURI(), Width: row.Width, Serve: p.Previews})
	if err != nil {
		return err
	}
	if err := p.still(ctx, row); err != nil {
		return err
	}
	thumb, err := small(shot.PNG)
	if err != nil {
		return err
	}
	seen, err := json.Marshal(shot.Seen)
	if err != nil {
		return err
	}
	if row.Doc, _, err = p.Files.Put(bytes.NewReader(shot.PNG)); err != nil {
		return err
	}
	if row.Small, _, err = p.Files.Put(bytes.NewReader(thumb)); err != nil {
		return err
	}
	row.State, row.Height, row.Cut, row.Seen, row.Message = store.PictureMade, shot.Height, shot.Cut, string(seen), ""
	return nil
}

// still tells whether the address shows what the picture is of.
func (p *Pictures) still(ctx context.Context, row *store.Picture) error {
	shown, err := p.Previews.Digest(ctx, row.ShownAt)
	if errors.Is(err, preview.ErrNotShown) {
		return errGone
	}
	if err != nil {
		return err
	}
	if p.key(shown, row.Width) != row.Picture {
		return errGone
	}
	return nil
}

func clipped(s string) string {
	const most = 400
	if len(s) > most {
		return string(bytes.ToValidUTF8([]byte(s[:most]), nil))
	}
	return s
}
