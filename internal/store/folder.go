package store

import (
	"context"
	"time"

	"compactparcel/core/item"

	"gorm.io/gorm"
)

// FolderFile is one file of the folder that a site was adopted from last.
type FolderFile struct {
	CollectionID int64  `gorm:"primaryKey;autoIncrement:false"`
	Path         string `gorm:"primaryKey"`
	Digest       item.Digest
	ItemID       string
	Doc          item.Digest
}

// Outlet is a folder in which a site's live state is published.
type Outlet struct {
	ID            int64
	CollectionID  int64
	Name          string
	Folder        string
	Base          string
	Links         string
	ReleaseNumber int
	SiteDigest    item.Digest
	Says          string
	// Attempts counts those that failed in a row, TryAt is when it is tried again.
	Attempts    int
	TryAt       *time.Time
	ByUser      string
	PublishedAt *time.Time
	CreatedAt   time.Time
}

// FolderFiles gives the files of a site's folder by path.
func (s *Store) FolderFiles(ctx context.Context, collection int64) (map[string]FolderFile, error) {
	var rows []FolderFile
	if err := s.DB(ctx).Where("collection_id = ?", collection).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]FolderFile, len(rows))
	for _, r := range rows {
		out[r.Path] = r
	}
	return out, nil
}

// SetFolderFiles replaces what is known of a site's folder.
func SetFolderFiles(tx *gorm.DB, collection int64, rows []FolderFile) error {
	if err := tx.Where("collection_id = ?", collection).Delete(&FolderFile{}).Error; err != nil {
		return err
	}
	if len(rows) == 0 {
		return nil
	}
	return tx.CreateInBatches(rows, 500).Error
}
