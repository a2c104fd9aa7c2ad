package desk

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"

	"compactparcel/core/kit"
	"compactparcel/internal/store"
)

func sealText(s *kit.Seal) (string, error) {
	if s == nil {
		return "", nil
	}
	b, err := kit.CanonicalJSON(s)
	return string(b), err
}

// addSignatures puts the signatures of an uploaded kit on the same kit of the shelf.
// Private keys never come here: a kit is signed where its key is, and sent again.
func (d *Desk) addSignatures(ctx context.Context, p Person, k *kit.Kit, v *store.KitVersion) error {
	if k.Seal == nil {
		return nil
	}
	what := "kit " + k.List.Kit + "@" + k.List.Version
	seal := k.Seal
	canon, err := k.List.Canonical()
	if err != nil {
		return err
	}
	if string(canon) != v.List {
		return problem(Refused, what, To(SignShelfFile, "kit", what),
			"its views differ from those of the same kit on the shelf")
	}
	if v.Seal != "" {
		old := &kit.Seal{}
		err := json.Unmarshal([]byte(v.Seal), old)
		if err == nil {
			seal, err = old.Add(k.Seal)
		}
		if err != nil {
			return &Problem{
				Type:    Refused,
				What:    what,
				Message: err.Error(),
				Remedy:  To(SignShelfFile, "kit", what),
				Err:     err,
			}
		}
	}
	text, err := sealText(seal)
	if err != nil || text == v.Seal {
		return err
	}
	return d.inFile(func(f *os.File) error {
		list := k.List
		if _, err := kit.WriteSealed(f, &list, seal, k.OpenPath); err != nil {
			return err
		}
		if _, err := f.Seek(0, io.SeekStart); err != nil {
			return err
		}
		file, n, err := d.Store.PutBlob(ctx, f, d.Now())
		if err != nil {
			return err
		}
		return d.Store.Tx(ctx, func(tx *store.Tx) error {
			err := tx.Kits().Sign(v, text, file, n)
			if errors.Is(err, store.ErrMoved) {
				return problem(Stale, what, To(Retry), "somebody else signed it at the same time")
			}
			if err != nil {
				return err
			}
			return d.audit(tx, p, "sign", k.List.Kit+"@"+k.List.Version, seal.Signatures[len(seal.Signatures)-1].KeyID)
		})
	})
}
