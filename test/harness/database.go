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
	dir := t.TempDir()
	db, err := mariadb.Start(context.Background(), filepath.Join(dir, "mariadb"), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	t.Cleanup(func() { db.Stop() })
	blobs, err := blob.Open(filepath.Join(dir, "blobs"))
	require.NoError(t, err)
	s, err := store.Open(context.Background(), db.DSN(), blobs)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}
