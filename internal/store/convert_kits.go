package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"compactparcel/core/item"
	"compactparcel/core/kit"
	"compactparcel/core/views"
)

// kits converts kits in the making, and packs sealed ones again from their converted items.
// A signature is over the old list and does not hold any more: it goes.
func (c *converter) kits() error {
	type version struct {
		id           int64
		making, list string
		collection   sql.NullInt64
		digest, file string
	}
	all, err := query(c, "SELECT id, making, list, collection_id, digest, file FROM kit_versions",
		func(rows *sql.Rows) (v version, err error) {
			err = rows.Scan(&v.id, &v.making, &v.list, &v.collection, &v.digest, &v.file)
			return v, err
		})
	if err != nil {
		return err
	}
	for _, v := range all {
		making, err := c.text(v.making)
		if err != nil {
			return fmt.Errorf("what kit version %d is made of: %w", v.id, err)
		}
		if err := c.exec("UPDATE kit_versions SET making = ? WHERE id = ?", making, v.id); err != nil {
			return err
		}
		if v.list == "" || !v.collection.Valid {
			continue
		}
		list, err := c.text(v.list)
		if err != nil {
			return fmt.Errorf("the packing list of kit version %d: %w", v.id, err)
		}
		err = c.repack(v.id, v.collection.Int64, list, v.digest)
		if err != nil && !IsDamaged(err) { // a damaged one stays as it is, and verify tells of it
			return fmt.Errorf("packing kit version %d again: %w", v.id, err)
		}
	}
	return nil
}

// repack writes a sealed kit's file anew, unless its list is as it was.
func (c *converter) repack(id, collection int64, text, was string) error {
	var list kit.PackingList
	if err := json.Unmarshal([]byte(text), &list); err != nil {
		return err
	}
	if d, err := list.Digest(); err != nil || string(d) == was {
		return err
	}
	set, heads, err := c.set(collection)
	if err != nil {
		return err
	}
	for i, e := range list.Items {
		h, ok := heads[item.Address{Kind: e.Kind, Key: e.Key}]
		if !ok {
			return nil // its items are damaged: it stays as it is, and verify tells of it
		}
		e.Path, e.SHA256, e.NormalizedDigest, e.Bytes, e.Meta = h.Address.Path(), h.Doc, h.NormalizedDigest, h.Bytes,
			h.Meta
		list.Items[i] = e
	}
	f, err := os.CreateTemp("", "cparcel-kit-")
	if err != nil {
		return err
	}
	defer func() { f.Close(); os.Remove(f.Name()) }()
	open, done, err := views.Add(&list, set, nil)
	if err != nil {
		return err
	}
	defer done()
	digest, err := kit.Write(f, &list, open)
	if err != nil {
		return err
	}
	canonical, err := list.Canonical()
	if err != nil {
		return err
	}
	size, err := f.Seek(0, io.SeekEnd)
	if err != nil {
		return err
	}
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return err
	}
	file, err := c.keepFile(f)
	if err != nil {
		return err
	}
	c.digests[was] = string(digest)
	err = c.exec("UPDATE kit_versions SET list = ?, seal = '', digest = ?, file = ?, file_bytes = ? "+
		"WHERE id = ?", canonical, digest, file, size, id)
	return err
}

// set reads the live items of a collection.
func (c *converter) set(collection int64) (*item.Set, map[item.Address]item.Head, error) {
	set, heads := item.NewSet(), map[item.Address]item.Head{}
	rows, err := query(c, fmt.Sprintf("SELECT kind, item_key, doc, normalized_digest, meta, bytes FROM items "+
		"WHERE collection_id = %d AND to_rev = %d", collection, Forever), func(rows *sql.Rows) (r itemRow, err error) {
		err = rows.Scan(&r.kind, &r.key, &r.doc, &r.normal, &r.meta, &r.bytes)
		return r, err
	})
	if err != nil {
		return nil, nil, err
	}
	for _, r := range rows {
		var meta Metadata
		if err := meta.Scan(r.meta); err != nil {
			return nil, nil, err
		}
		h := headOf("", r.kind, r.key, item.Digest(r.doc), item.Digest(r.normal), r.bytes, meta)
		if r.kind == item.Media { // it stays where it is: no picture need fit into memory
			set.PutFile(h, func() (io.ReadCloser, error) { return c.blobs.Open(h.Doc) })
			heads[h.Address] = h
			continue
		}
		b, err := c.read(r.kind, r.doc, r.bytes)
		if errors.Is(err, ErrMissing) || IsDamaged(err) {
			continue
		}
		if err != nil {
			return nil, nil, err
		}
		set.Put(h, b)
		heads[h.Address] = h
	}
	return set, heads, nil
}
