package store

import (
	"context"
	"database/sql"

	"compactparcel/internal/blob"
)

// What the tests hold against the tables.
var (
	ContentColumns = contentColumns
	ContentTexts   = contentTexts
)

// MigrateTo brings an empty database up to a version; 0 leaves it empty.
func MigrateTo(ctx context.Context, dsn string, blobs *blob.Store, version int64) error {
	if version == 0 {
		return nil
	}
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	p, err := provider(db, blobs)
	if err != nil {
		return err
	}
	_, err = p.UpTo(ctx, version)
	return err
}
