package store

import (
	"context"
	"time"

	"compactparcel/core/item"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// NamedKit is a kit version with its kit's name.
type NamedKit struct {
	KitVersion
	Name string
}

func namedKits(db *gorm.DB) *gorm.DB {
	return db.Table("kit_versions").
		Select("kit_versions.*, kits.name AS name").
		Joins("JOIN kits ON kits.id = kit_versions.kit_id")
}

// Kits is the repository of kits and their versions.
type Kits struct{ t *Tx }

// Kits gives the kits.
func (t *Tx) Kits() Kits { return Kits{t} }

// ByName gives a version of a kit; ErrNotFound where there is none.
func (r Kits) ByName(name, version string) (*NamedKit, error) {
	return one[NamedKit](namedKits(r.t.db).Where("kits.name = ? AND kit_versions.version = ?", name, version))
}

// Lock is ByName, and takes the row for this transaction.
func (r Kits) Lock(name, version string) (*NamedKit, error) {
	return one[NamedKit](namedKits(r.t.db.Clauses(clause.Locking{Strength: "UPDATE"})).
		Where("kits.name = ? AND kit_versions.version = ?", name, version))
}

// ByID gives a kit version by its number.
func (r Kits) ByID(id int64) (*NamedKit, error) {
	return one[NamedKit](namedKits(r.t.db).Where("kit_versions.id = ?", id))
}

// List gives all versions of all kits, by name.
func (r Kits) List() ([]NamedKit, error) {
	return all[NamedKit](namedKits(r.t.db).Order("kits.name"))
}

// SealedOf lists the sealed versions of a kit.
func (r Kits) SealedOf(kit int64) ([]KitVersion, error) {
	return all[KitVersion](r.t.db.Where("kit_id = ? AND state = ?", kit, Sealed))
}

// Begin begins a version of a kit. Its error is a duplicate where the version is there.
func (r Kits) Begin(name, version, making, by string, now time.Time) (*KitVersion, error) {
	k := KitName{Name: name, CreatedAt: now}
	if err := r.t.db.Clauses(clause.OnConflict{DoNothing: true}).Create(&k).Error; err != nil {
		return nil, err
	}
	if err := r.t.db.Where("name = ?", name).Take(&k).Error; err != nil {
		return nil, err
	}
	v := &KitVersion{KitID: k.ID, Version: version, State: Making, Making: making, Etag: 1, ByUser: by, CreatedAt: now}
	if err := r.t.db.Create(v).Error; err != nil {
		return v, err
	}
	return v, r.t.Tell(KitEvent, "", name+"@"+version)
}

// told tells of a version that was changed, unless it failed.
func (r Kits) told(id int64, err error) error {
	if err != nil {
		return err
	}
	v, err := r.ByID(id)
	if err != nil {
		return err
	}
	return r.t.Tell(KitEvent, "", v.Name+"@"+v.Version)
}

// SetMaking keeps what a locked kit in the making is made of.
func (r Kits) SetMaking(v *KitVersion, making string) error {
	return r.told(v.ID, r.t.db.Model(&KitVersion{}).Where("id = ?", v.ID).
		Updates(map[string]any{"making": making, "etag": v.Etag + 1}).Error)
}

// SealedKit is what sealing writes into a version.
type SealedKit struct {
	Collection int64
	List, Seal string
	Digest     item.Digest
	File       item.Digest
	Bytes      int64
}

// Seal makes a version final if it still is in the making under an ETag.
func (r Kits) Seal(id int64, etag int, k SealedKit, now time.Time) error {
	return r.told(id, swap(r.t.db.Model(&KitVersion{}).Where("id = ? AND state = ? AND etag = ?", id, Making, etag),
		map[string]any{"state": Sealed, "collection_id": k.Collection, "list": k.List, "seal": k.Seal,
			"digest": k.Digest, "file": k.File, "file_bytes": k.Bytes, "sealed_at": now,
			"etag": gorm.Expr("etag + 1")}))
}

// Sign replaces the seal of a sealed version if it still is the one that v has.
func (r Kits) Sign(v *KitVersion, seal string, file item.Digest, bytes int64) error {
	return r.told(v.ID, swap(r.t.db.Model(&KitVersion{}).Where("id = ? AND seal = ?", v.ID, v.Seal),
		map[string]any{"seal": seal, "file": file, "file_bytes": bytes, "etag": gorm.Expr("etag + 1")}))
}

// NamedDelivery is a delivery with the names of what it speaks of.
type NamedDelivery struct {
	Delivery
	Site, Kit, Version string
}

// Deliveries lists the deliveries, the newest first.
func (s *Store) Deliveries(ctx context.Context) ([]NamedDelivery, error) {
	var out []NamedDelivery
	err := s.conn(ctx).
		Table("deliveries").
		Select("deliveries.*, collections.name AS site, kits.name AS kit, kit_versions.version AS version").
		Joins("JOIN collections ON collections.id = deliveries.collection_id").
		Joins("JOIN kit_versions ON kit_versions.id = deliveries.kit_version_id").
		Joins("JOIN kits ON kits.id = kit_versions.kit_id").
		Order("deliveries.id DESC").
		Limit(500).
		Find(&out).
		Error
	return out, err
}

// Counts are what lists of sites show.
type Counts struct{ Pages, Items, Drafts int }

// CountSites counts what all sites hold at once, by the numbers of their collections.
func (s *Store) CountSites(ctx context.Context) (map[int64]Counts, error) {
	out := map[int64]Counts{}
	var items []struct {
		ID           int64
		Pages, Items int
	}
	err := s.conn(ctx).
		Raw(`SELECT i.collection_id id, SUM(i.kind = 'page') pages, COUNT(*) items
		FROM items i JOIN collections c ON c.id = i.collection_id
		WHERE c.kind = ? AND i.to_rev = ? GROUP BY i.collection_id`, Site, Forever).
		Scan(&items).
		Error
	if err != nil {
		return nil, err
	}
	for _, r := range items {
		out[r.ID] = Counts{Pages: r.Pages, Items: r.Items}
	}
	var drafts []struct {
		ID, Drafts int64
	}
	err = s.conn(ctx).
		Raw(`SELECT collection_id id, COUNT(*) drafts FROM drafts WHERE state = 'open' GROUP BY collection_id`).
		Scan(&drafts).
		Error
	for _, r := range drafts {
		c := out[r.ID]
		c.Drafts = int(r.Drafts)
		out[r.ID] = c
	}
	return out, err
}

// Count counts a collection's live pages and items and its open drafts.
func (s *Store) Count(ctx context.Context, collection int64) (Counts, error) {
	var c Counts
	err := s.conn(ctx).
		Raw(`SELECT (SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ? AND kind = 'page') pages,
		(SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ?) items,
		(SELECT COUNT(*) FROM drafts WHERE collection_id = ? AND state = 'open') drafts`, collection, Forever,
			collection, Forever, collection).
		Scan(&c).
		Error
	return c, err
}
