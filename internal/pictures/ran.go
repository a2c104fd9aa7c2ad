package pictures

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"

	"compactparcel/internal/store"
)

// RunWidths are those at which pages are run to see what their scripts put on them, in px.
var RunWidths = []int{1280, 768, 390}

// maxRan bounds a page as it is once its scripts have run, in bytes.
const maxRan = 1 << 20

// Ran gives an address of a preview as documents, as it is once its scripts have run at each of the widths. waiting is
// at how many it has not been run yet; it will be.
func (p *Pictures) Ran(ctx context.Context, at string) (docs [][]byte, waiting int, err error) {
	var wanted []Wanted
	for _, w := range RunWidths {
		wanted = append(wanted, Wanted{At: at, Width: w})
	}
	found, err := p.Want(ctx, wanted)
	if err != nil {
		return nil, 0, err
	}
	for _, f := range found {
		switch {
		case f.Picture == nil:
		case f.Picture.State == store.PictureWaiting:
			waiting++
		case f.Picture.State == store.PictureMade:
			var seen Seen
			if err := json.Unmarshal([]byte(f.Picture.Seen), &seen); err != nil {
				return nil, 0, fmt.Errorf("what was seen at %s: %w", at, err)
			}
			doc, err := unpacked(seen.Ran)
			if err != nil {
				return nil, 0, fmt.Errorf("what was seen at %s: %w", at, err)
			}
			if len(doc) > 0 {
				docs = append(docs, doc)
			}
		}
	}
	return docs, waiting, nil
}

// packed makes a document small (RFC 1952): a row is read with every list of pictures.
func packed(doc string) []byte {
	if doc == "" {
		return nil
	}
	var b bytes.Buffer
	w := gzip.NewWriter(&b)
	_, _ = io.WriteString(w, doc) // into memory
	_ = w.Close()
	return b.Bytes()
}

func unpacked(b []byte) ([]byte, error) {
	if len(b) == 0 {
		return nil, nil
	}
	r, err := gzip.NewReader(bytes.NewReader(b))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(io.LimitReader(r, maxRan))
}
