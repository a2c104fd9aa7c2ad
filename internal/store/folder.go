package store

import (
	"compactparcel/core/item"
)

// FolderFile is one file of the folder that a site was adopted from last.
type FolderFile struct {
	CollectionID int64  `gorm:"primaryKey;autoIncrement:false"`
	Path         string `gorm:"primaryKey"`
	Digest       item.Digest
	ItemID       string
	Doc          item.Digest
}

// FolderFiles gives the files of a site's folder by path.
func (t *Tx) FolderFiles(collection int64) (map[string]FolderFile, error) {
	var rows []FolderFile
	if err := t.db.Where("collection_id = ?", collection).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make(map[string]FolderFile, len(rows))
	for _, r := range rows {
		out[r.Path] = r
	}
	return out, nil
}

// SetFolderFiles replaces what is known of a site's folder.
func (t *Tx) SetFolderFiles(collection int64, rows []FolderFile) error {
	if err := t.db.Where("collection_id = ?", collection).Delete(&FolderFile{}).Error; err != nil {
		return err
	}
	if len(rows) == 0 {
		return nil
	}
	return t.db.CreateInBatches(rows, 500).Error
}

// SaveFolderFile keeps what is known of one file.
func (t *Tx) SaveFolderFile(f *FolderFile) error { return t.db.Save(f).Error }
