package store

import (
	"time"

	"compactparcel/core/item"
)

// Collections is the repository of sites, the library, sealed kits and files that were read.
type Collections struct{ t *Tx }

// Collections gives the collections.
func (t *Tx) Collections() Collections { return Collections{t} }

// ByName gives a collection by kind and name; ErrNotFound where there is none.
func (r Collections) ByName(kind CollectionKind, name string) (*Collection, error) {
	return one[Collection](r.t.db.Where("kind = ? AND name = ?", kind, name))
}

// ByID gives a collection by its number.
func (r Collections) ByID(id int64) (*Collection, error) {
	return one[Collection](r.t.db.Where("id = ?", id))
}

// OfKind lists the collections of a kind by name, without their sums.
func (r Collections) OfKind(kind CollectionKind) ([]Collection, error) {
	return all[Collection](r.t.db.Omit("Sum").Where("kind = ?", kind).Order("name"))
}

// Lock takes a collection's row for this transaction and gives it as it is now.
func (r Collections) Lock(id int64) (*Collection, error) { return lockRow[Collection](r.t.db, id) }

// Create makes an empty collection.
func (r Collections) Create(kind CollectionKind, name, title string, now time.Time) (*Collection, error) {
	var empty item.CollectionSum
	c := &Collection{Kind: kind, Name: name, Title: title, Digest: empty.Digest(), Sum: empty.Bytes(), CreatedAt: now}
	return c, r.t.db.Create(c).Error
}

// RevisionWith gives the newest revision of a collection whose state has a digest; ErrNotFound where
// there is none.
func (r Collections) RevisionWith(id int64, digest item.Digest) (*Revision, error) {
	return one[Revision](r.t.db.Where("collection_id = ? AND digest = ?", id, digest).Order("rev DESC"))
}

// Revisions lists the newest revisions of a collection.
func (r Collections) Revisions(id, before int64, most int) ([]Revision, error) {
	q := r.t.db.Where("collection_id = ?", id)
	if before > 0 {
		q = q.Where("rev < ?", before)
	}
	return all[Revision](q.Order("rev DESC").Limit(most))
}

// OpenDrafts lists the open drafts of a site.
func (r Collections) OpenDrafts(id int64) ([]Draft, error) {
	return all[Draft](r.t.db.Where("collection_id = ? AND state = ?", id, DraftOpen).Order("id"))
}

// AddressesOf gives the permanent ids of a collection's live items by address.
func (r Collections) AddressesOf(id int64, list []item.Address) (map[item.Address]string, error) {
	out := make(map[item.Address]string, len(list))
	for len(list) > 0 {
		n := min(len(list), 400)
		pairs := make([][]any, n)
		for i, a := range list[:n] {
			pairs[i] = []any{string(a.Kind), a.Key}
		}
		var rows []Item
		err := r.t.db.Select("item_id, kind, item_key").
			Where("collection_id = ? AND to_rev = ? AND (kind, item_key) IN ?", id, Forever, pairs).
			Find(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, row := range rows {
			out[row.Address()] = row.ItemID
		}
		list = list[n:]
	}
	return out, nil
}

// MadeBy tells whether a delivery made a revision. One that changed nothing names the revision that was there.
func (r Collections) MadeBy(id, rev, delivery int64) (bool, error) {
	var n int64
	err := r.t.db.Model(&Revision{}).Where("collection_id = ? AND rev = ? AND delivery_id = ?", id, rev, delivery).
		Count(&n).Error
	return n > 0, err
}

// Written gives the rows that a revision made, those that it ended, and those that are open.
func (r Collections) Written(id, rev int64) (wrote, ended, open []Item, err error) {
	for _, q := range []struct {
		where string
		rev   int64
		into  *[]Item
	}{
		{"collection_id = ? AND from_rev = ?", rev, &wrote}, {"collection_id = ? AND to_rev = ?", rev, &ended},
		{"collection_id = ? AND to_rev = ?", Forever, &open},
	} {
		if err := r.t.db.Where(q.where, id, q.rev).Find(q.into).Error; err != nil {
			return nil, nil, nil, err
		}
	}
	return wrote, ended, open, nil
}

// ItemBefore gives an item as it was just before a revision.
func (r Collections) ItemBefore(id int64, itemID string, rev int64) (*Item, error) {
	return one[Item](r.t.db.Where("collection_id = ? AND item_id = ? AND from_rev < ? AND to_rev >= ?",
		id, itemID, rev, rev))
}

// UsersOf gives the ids of the live items whose source names something.
func (r Collections) UsersOf(id int64, name string) ([]string, error) {
	var ids []string
	err := r.t.db.Table("item_refs").Where("collection_id = ? AND to_name = ?", id, name).Order("item_id").
		Pluck("item_id", &ids).Error
	return ids, err
}
