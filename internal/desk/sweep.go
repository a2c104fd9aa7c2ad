package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/store"
)

// SweepGrace is how old a blob must be before the sweep looks at it.
const SweepGrace = 24 * time.Hour

// Sweep removes what nothing wants any more: leases, sessions and keys that have had their
// time, scratch files of requests that broke off, blobs. It is a job's handler.
func (d *Desk) Sweep(ctx context.Context, _ json.RawMessage) (string, error) {
	if err := d.Store.SweepRecords(ctx, d.Now()); err != nil {
		return "", err
	}
	if err := d.forgetEntries(ctx); err != nil { // the next sweep tries again; the rest need not wait
		d.Log.Warn("sweeping entries of forms", "error", err)
	}
	if d.SweepMore != nil {
		if err := d.SweepMore(ctx); err != nil {
			d.Log.Warn("sweeping pictures", "error", err)
		}
	}
	old, err := d.Scratch.Sweep(SweepGrace)
	if err != nil {
		return "", err
	}
	n, texts := 0, 0
	err = d.Store.Exclusively(ctx, store.SweepLock, 0, func() (err error) {
		held, err := d.Store.Held(ctx)
		if err != nil {
			return err
		}
		if texts, err = d.Store.SweepDocs(ctx, held, d.Now().Add(-SweepGrace)); err != nil {
			return err
		}
		n, err = d.Store.Blobs.Sweep(SweepGrace, func(digest item.Digest) (bool, error) {
			if err := ctx.Err(); err != nil {
				return true, err
			}
			wanted, err := held.Wants(ctx, digest, d.Now())
			if err != nil || wanted {
				return wanted, err
			}
			return false, d.Store.ForgetBlob(ctx, digest)
		})
		return err
	})
	if errors.Is(err, store.ErrBusy) {
		return fmt.Sprintf("%d scratch files removed; a backup is being made, so files stay for now", old), nil
	}
	return fmt.Sprintf("%d files, %d texts and %d scratch files removed", n, texts, old), err
}
