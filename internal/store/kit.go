package store

import (
	"context"

	"gorm.io/gorm"
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

// FindKit gives a kit version by name and version. db is a transaction, or DB.
func (s *Store) FindKit(db *gorm.DB, name, version string) (*NamedKit, error) {
	var k NamedKit
	err := namedKits(db).Where("kits.name = ? AND kit_versions.version = ?", name, version).Take(&k).Error
	return &k, err
}

// KitByID gives a kit version by its number.
func (s *Store) KitByID(ctx context.Context, id int64) (*NamedKit, error) {
	var k NamedKit
	err := namedKits(s.DB(ctx)).Where("kit_versions.id = ?", id).Take(&k).Error
	return &k, err
}

// Kits lists all versions of all kits, by name.
func (s *Store) Kits(ctx context.Context) ([]NamedKit, error) {
	var out []NamedKit
	err := namedKits(s.DB(ctx)).Order("kits.name").Find(&out).Error
	return out, err
}

// NamedDelivery is a delivery with the names of what it speaks of.
type NamedDelivery struct {
	Delivery
	Site, Kit, Version string
}

// Deliveries lists the deliveries, the newest first.
func (s *Store) Deliveries(ctx context.Context) ([]NamedDelivery, error) {
	var out []NamedDelivery
	err := s.DB(ctx).
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

// Count counts a collection's live pages and items and its open drafts.
func (s *Store) Count(ctx context.Context, collection int64) (Counts, error) {
	var c Counts
	err := s.DB(ctx).
		Raw(`SELECT (SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ? AND kind = 'page') pages,
		(SELECT COUNT(*) FROM items WHERE collection_id = ? AND to_rev = ?) items,
		(SELECT COUNT(*) FROM drafts WHERE collection_id = ? AND state = 'open') drafts`, collection, Forever,
			collection, Forever, collection).
		Scan(&c).
		Error
	return c, err
}

// UsersOf gives the ids of the live items whose source names something.
func UsersOf(tx *gorm.DB, collection int64, name string) ([]string, error) {
	var ids []string
	err := tx.Table("item_refs").
		Where("collection_id = ? AND to_name = ?", collection, name).
		Order("item_id").
		Pluck("item_id", &ids).
		Error
	return ids, err
}
