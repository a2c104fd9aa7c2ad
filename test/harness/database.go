package harness

import (
	"context"
	"database/sql"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"sync"
	"testing"

	"compactparcel/internal/blob"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/store"

	"github.com/stretchr/testify/require"
)

// servers are the MariaDBs that this process has started and no test uses now. Starting one
// takes seconds; emptying one does not.
var servers struct {
	mu   sync.Mutex
	free []*mariadb.Server
}

// server gives a MariaDB with an empty database, for one test.
func server(t testing.TB) *mariadb.Server {
	t.Helper()
	servers.mu.Lock()
	defer servers.mu.Unlock()
	var db *mariadb.Server
	if n := len(servers.free); n > 0 {
		db, servers.free = servers.free[n-1], servers.free[:n-1]
	} else {
		dir, err := os.MkdirTemp("", "compactparcel-test-")
		require.NoError(t, err)
		db, err = mariadb.Start(context.Background(), dir, slog.New(slog.DiscardHandler))
		require.NoError(t, err)
		atEnd(func() { db.Stop(); os.RemoveAll(dir) })
	}
	t.Cleanup(func() {
		servers.mu.Lock()
		defer servers.mu.Unlock()
		if err := empty(db.DSN()); err != nil {
			t.Logf("the test's MariaDB is not used again: %s", err)
			return
		}
		servers.free = append(servers.free, db)
	})
	return db
}

// empty takes everything out of a database: where the tables are those that a store makes, what stands in them, and
// otherwise the tables, too.
func empty(dsn string) error {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	// What cannot be read is made anew.
	if shape, err := shapeOf(db); err == nil && shape == madeShape() {
		return truncate(db)
	}
	if _, err := db.Exec("DROP DATABASE " + mariadb.Database); err != nil {
		return err
	}
	_, err = db.Exec("CREATE DATABASE " + mariadb.Database + " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin")
	return err
}

// made is what the tables are like that a store made in an empty database.
var made struct {
	mu    sync.Mutex
	shape string
}

func madeShape() string {
	made.mu.Lock()
	defer made.mu.Unlock()
	return made.shape
}

// opened opens a store, and the first time in an empty database remembers what it made there.
func opened(dsn string, blobs *blob.Store) (*store.Store, error) {
	if madeShape() != "" {
		return store.Open(context.Background(), dsn, blobs)
	}
	made.mu.Lock()
	defer made.mu.Unlock()
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	var before int
	err = db.QueryRow("SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE()").Scan(&before)
	if err != nil {
		return nil, err
	}
	s, err := store.Open(context.Background(), dsn, blobs)
	if err == nil && before == 0 {
		made.shape, err = shapeOf(db)
	}
	return s, err
}

// shapeOf gives what tables are like, and which migrations made them.
func shapeOf(db *sql.DB) (string, error) {
	var columns, keys, versions sql.NullString
	for _, q := range []struct {
		into *sql.NullString
		sql  string
	}{
		{&columns, "SELECT CONCAT(COUNT(*), ' ', SUM(CRC32(CONCAT_WS(' ', table_name, column_name, column_type, " +
			"is_nullable, column_default)))) FROM information_schema.columns WHERE table_schema = DATABASE()"},
		{&keys, "SELECT CONCAT(COUNT(*), ' ', SUM(CRC32(CONCAT_WS(' ', table_name, index_name, seq_in_index, " +
			"column_name)))) FROM information_schema.statistics WHERE table_schema = DATABASE()"},
		{&versions, "SELECT GROUP_CONCAT(version_id ORDER BY version_id) FROM goose_db_version"},
	} {
		if err := db.QueryRow(q.sql).Scan(q.into); err != nil {
			return "", err
		}
	}
	return columns.String + ";" + keys.String + ";" + versions.String, nil
}

// truncate empties the tables in which something stands, or stood.
func truncate(db *sql.DB) error {
	rows, err := db.Query("SELECT table_name, COALESCE(auto_increment, 0) FROM information_schema.tables WHERE " +
		"table_schema = DATABASE() AND table_name NOT IN ('goose_db_version', 'event_clock')")
	if err != nil {
		return err
	}
	defer rows.Close()
	next := map[string]int64{}
	for rows.Next() {
		var name string
		var id int64
		if err := rows.Scan(&name, &id); err != nil {
			return err
		}
		next[name] = id
	}
	if err := rows.Err(); err != nil {
		return err
	}
	// The one row of event_clock is written by a migration.
	for _, q := range []string{"UPDATE event_clock SET n = 0", "SET FOREIGN_KEY_CHECKS = 0"} {
		if _, err := db.Exec(q); err != nil {
			return err
		}
	}
	for name, id := range next {
		var one int
		err := db.QueryRow("SELECT 1 FROM `" + name + "` LIMIT 1").Scan(&one)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		if err == nil || id > 1 {
			if _, err := db.Exec("TRUNCATE TABLE `" + name + "`"); err != nil {
				return err
			}
		}
	}
	return nil
}

// Records opens an empty store over a MariaDB; it ends with the test.
func Records(t testing.TB) *store.Store {
	t.Helper()
	open, _ := Database(t)
	return open()
}

// Database gives what opens a store over an empty MariaDB, each with nothing in its memory,
// and the database's address.
func Database(t testing.TB) (open func() *store.Store, dsn string) {
	t.Helper()
	dir, db := t.TempDir(), server(t)
	return func() *store.Store {
		blobs, err := blob.Open(filepath.Join(dir, "blobs"))
		require.NoError(t, err)
		s, err := opened(db.DSN(), blobs)
		require.NoError(t, err)
		t.Cleanup(func() { s.Close() })
		return s
	}, db.DSN()
}
