package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"compactparcel/core/item"
)

// SweepGrace is how old a blob must be before the sweep looks at it.
const SweepGrace = 24 * time.Hour

// Sweep removes blobs that nothing wants any more; it is a job's handler.
func (d *Desk) Sweep(ctx context.Context, _ json.RawMessage) (string, error) {
	n, err := d.Store.Blobs.Sweep(SweepGrace, func(digest item.Digest) (bool, error) {
		wanted, err := d.Store.BlobWanted(ctx, digest, d.Now())
		if err != nil || wanted {
			return wanted, err
		}
		return false, d.Store.ForgetBlob(ctx, digest, d.Now())
	})
	return fmt.Sprintf("%d files removed", n), err
}
