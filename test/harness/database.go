package harness

import (
	"context"
	"log/slog"
	"path/filepath"
	"testing"

	"compactparcel/internal/blob"
	"compactparcel/internal/mariadb"
	"compactparcel/internal/store"

	"github.com/stretchr/testify/require"
)

// Records starts a MariaDB and opens an empty store over it; both end with the test.
func Records(t testing.TB) *store.Store {
	t.Helper()
	open, _ := Database(t)
	return open()
}

// Database starts a MariaDB, and gives what opens a store over it, each with nothing in its
// memory, and the database's address.
func Database(t testing.TB) (open func() *store.Store, dsn string) {
	t.Helper()
	dir := t.TempDir()
	db, err := mariadb.Start(context.Background(), filepath.Join(dir, "mariadb"), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	t.Cleanup(func() { db.Stop() })
	return func() *store.Store {
		blobs, err := blob.Open(filepath.Join(dir, "blobs"))
		require.NoError(t, err)
		s, err := store.Open(context.Background(), db.DSN(), blobs)
		require.NoError(t, err)
		t.Cleanup(func() { s.Close() })
		return s
	}, db.DSN()
}
