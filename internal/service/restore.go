package service

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"

	"compactparcel/internal/backup"
	"compactparcel/internal/blob"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/store"
)

// Restore brings a backup into an empty data folder. What broke off leaves a mark, by which
// no service starts there.
func Restore(ctx context.Context, cfg Config, log *slog.Logger, name string) (*backup.Summary, error) {
	if _, err := os.Stat(name); err != nil {
		return nil, err
	}
	entries, err := os.ReadDir(cfg.Data)
	if err != nil && !os.IsNotExist(err) {
		return nil, err
	}
	if len(entries) > 0 {
		return nil, fmt.Errorf("the data folder %s is not empty: name another with --data", cfg.Data)
	}
	lock, err := lockFolder(cfg.Data)
	if err != nil {
		return nil, err
	}
	defer lock.Close()
	mark := filepath.Join(cfg.Data, restoring)
	if err := os.WriteFile(mark, nil, 0o600); err != nil {
		return nil, err
	}
	dsn := cfg.Database
	if dsn == "" {
		db, err := mariadb.Start(ctx, filepath.Join(cfg.Data, "mariadb"), log)
		if err != nil {
			return nil, err
		}
		defer db.Stop()
		dsn = db.DSN()
	}
	if err := noTables(ctx, dsn); err != nil {
		return nil, err
	}
	blobs, err := blob.Open(filepath.Join(cfg.Data, "blobs"))
	if err != nil {
		return nil, err
	}
	sum, err := backup.Read(ctx, name, backup.Target{DSN: dsn, Dir: cfg.Data, Blobs: blobs})
	if err != nil {
		return nil, err
	}
	if err := blobs.Sync(); err != nil {
		return nil, err
	}
	s, err := store.Open(ctx, dsn, blobs)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	// Every byte was that of the backup. What was wrong in it already is told.
	_, err = s.Verify(
		ctx,
		false,
		func(f store.Finding) { log.Warn("found in the backup", "what", f.What, "says", f.Message) },
	)
	if err != nil {
		return nil, err
	}
	return sum, os.Remove(mark)
}

// noTables refuses a database in which something is.
func noTables(ctx context.Context, dsn string) error {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	var n int
	if err := db.QueryRowContext(ctx,
		"SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()").
		Scan(&n); err != nil {
		return err
	}
	if n > 0 {
		return fmt.Errorf("the database has %d tables already: name an empty one with --database", n)
	}
	return nil
}
