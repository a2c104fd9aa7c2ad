package harness

import (
	"context"
	"database/sql"
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

// empty makes a database anew.
func empty(dsn string) error {
	db, err := sql.Open("mysql", dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.Exec("DROP DATABASE " + mariadb.Database); err != nil {
		return err
	}
	_, err = db.Exec("CREATE DATABASE " + mariadb.Database + " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin")
	return err
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
		s, err := store.Open(context.Background(), db.DSN(), blobs)
		require.NoError(t, err)
		t.Cleanup(func() { s.Close() })
		return s
	}, db.DSN()
}
