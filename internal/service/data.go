package service

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"

	"compactparcel/internal/blob"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/store"
)

// Data are a service's records and files, opened beside it or in its place.
type Data struct {
	Store *store.Store
	DSN   string
	Dir   string

	lock *os.File
	db   *mariadb.Server
}

// restoring marks a data folder into which a backup is being brought.
const restoring = "restoring"

// checkWhole refuses a data folder into which a backup was only brought in part.
func checkWhole(dir string) error {
	_, err := os.Stat(filepath.Join(dir, restoring))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	return fmt.Errorf(
		"a restore into %s did not finish: remove the folder and restore again", dir)
}

// checkKnown refuses a folder in which no service has worked: nothing is made there.
func checkKnown(cfg Config) error {
	parts := []string{"blobs"}
	if cfg.Database == "" {
		parts = append(parts, filepath.Join("mariadb", "data"))
	}
	for _, part := range parts {
		_, err := os.Stat(filepath.Join(cfg.Data, part))
		if errors.Is(err, fs.ErrNotExist) {
			return fmt.Errorf("%s is not the data folder of a service (it has no %s): name another with --data",
				cfg.Data, part)
		}
		if err != nil {
			return fmt.Errorf("the data folder: %w", err)
		}
	}
	return nil
}

// OpenData opens the data of a service: those of one that runs, through its database, or of
// one that does not, whose database is started meanwhile.
func OpenData(ctx context.Context, cfg Config, log *slog.Logger) (d *Data, err error) {
	if err := checkKnown(cfg); err != nil {
		return nil, err
	}
	if err := checkWhole(cfg.Data); err != nil {
		return nil, err
	}
	return openData(ctx, cfg, log)
}

func openData(ctx context.Context, cfg Config, log *slog.Logger) (d *Data, err error) {
	d = &Data{DSN: cfg.Database, Dir: cfg.Data}
	defer func() {
		if err != nil {
			d.Close()
		}
	}()
	if d.DSN == "" {
		dir := filepath.Join(cfg.Data, "mariadb")
		if d.lock, err = lockFolder(cfg.Data); err == nil {
			if d.db, err = mariadb.Start(ctx, dir, log); err != nil {
				return d, err
			}
			d.DSN = d.db.DSN()
		} else if d.DSN, err = mariadb.Running(dir); err != nil {
			return d, fmt.Errorf("a service works in %s, and its database cannot be reached: %w", cfg.Data, err)
		}
	}
	blobs, err := blob.Open(filepath.Join(cfg.Data, "blobs"))
	if err != nil {
		return d, err
	}
	d.Store, err = store.Open(ctx, d.DSN, blobs)
	return d, err
}

// Close lets go of the data.
func (d *Data) Close() {
	if d.Store != nil {
		d.Store.Close()
	}
	if d.db != nil {
		d.db.Stop()
	}
	if d.lock != nil {
		d.lock.Close()
	}
}
