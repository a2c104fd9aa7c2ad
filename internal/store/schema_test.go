package store_test

import (
	"context"
	"database/sql"
	"io/fs"
	"os"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"testing"

	"compactparcel/internal/blob"
	"compactparcel/internal/store"
	"compactparcel/test/harness"
	"compactparcel/test/seed"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// upStatements gives the statements of a migration's way up, one by one.
func upStatements(t *testing.T, name string) []string {
	t.Helper()
	b, err := os.ReadFile(filepath.Join("migrations", name))
	require.NoError(t, err)
	up, _, _ := strings.Cut(string(b), "-- +goose Down")
	var out []string
	var one strings.Builder
	for _, line := range strings.Split(up, "\n") {
		if code, _, _ := strings.Cut(line, "--"); strings.TrimSpace(code) != "" {
			one.WriteString(code + "\n")
			if strings.HasSuffix(strings.TrimSpace(code), ";") {
				out = append(out, one.String())
				one.Reset()
			}
		}
	}
	return out
}

// versionOf is the version that a migration's file is named by.
func versionOf(t *testing.T, name string) int64 {
	t.Helper()
	v, err := strconv.ParseInt(name[:5], 10, 64)
	require.NoError(t, err)
	return v
}

// shape is what the tables are like: every column and every key.
func shape(t *testing.T, db *sql.DB) string {
	t.Helper()
	var out []string
	for _, q := range []string{
		"SELECT CONCAT_WS(' ', table_name, ordinal_position, column_name, column_type, is_nullable, " +
			"column_default, collation_name) FROM information_schema.columns WHERE table_schema = DATABASE() AND " +
			"table_name <> 'goose_db_version'",
		"SELECT CONCAT_WS(' ', table_name, index_name, seq_in_index, column_name, non_unique) FROM " +
			"information_schema.statistics WHERE table_schema = DATABASE() " +
			"AND table_name <> 'goose_db_version'",
		"SELECT CONCAT_WS(' ', table_name, constraint_name, constraint_type) FROM " +
			"information_schema.table_constraints WHERE table_schema = DATABASE() " +
			"AND table_name <> 'goose_db_version'",
	} {
		rows, err := db.Query(q)
		require.NoError(t, err)
		for rows.Next() {
			var s string
			require.NoError(t, rows.Scan(&s))
			out = append(out, s)
		}
		require.NoError(t, rows.Err())
	}
	sort.Strings(out)
	return strings.Join(out, "\n")
}

// A service that is killed behind any statement of any migration starts again, and its
// tables are those of one that was never killed.
func TestAKillWithinMigrations(t *testing.T) {
	_, dsn := harness.Database(t)
	cfg, err := driver.ParseDSN(dsn)
	require.NoError(t, err)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	db.SetMaxOpenConns(1)
	blobs, err := blob.Open(t.TempDir())
	require.NoError(t, err)
	empty := func() {
		t.Helper()
		for _, q := range []string{"DROP DATABASE " + cfg.DBName,
			"CREATE DATABASE " + cfg.DBName + " CHARACTER SET utf8mb4 COLLATE utf8mb4_nopad_bin",
			"USE " + cfg.DBName} {
			_, err := db.Exec(q)
			require.NoError(t, err)
		}
	}
	open := func() error {
		s, err := store.Open(context.Background(), dsn, blobs)
		if err == nil {
			s.Close()
		}
		return err
	}
	empty()
	require.NoError(t, open())
	want := shape(t, db)
	files, err := fs.Glob(os.DirFS("migrations"), "*.sql")
	require.NoError(t, err)
	sort.Strings(files)
	total := 0
	random := seed.Rand(t)
	for _, f := range files {
		statements := upStatements(t, f)
		require.NotEmpty(t, statements, f)
		total += len(statements)
		// Any of them, in the long tests each: the tables that there were before, and what a kill behind it leaves.
		from, to := 1, len(statements)
		if os.Getenv("CPARCEL_SOAK") == "" {
			from = 1 + random.Intn(len(statements))
			to = from
		}
		for n := from; n <= to; n++ {
			empty()
			require.NoError(t, store.MigrateTo(context.Background(), dsn, blobs, versionOf(t, f)-1))
			for _, q := range statements[:n] {
				_, err := db.Exec(q)
				require.NoError(t, err, f)
			}
			require.NoError(t, open(), "%s, killed behind statement %d", f, n)
			require.Equal(t, want, shape(t, db), "%s, killed behind statement %d", f, n)
		}
		// All of it is done again, which changes nothing.
		_, err := db.Exec("DELETE FROM goose_db_version WHERE version_id >= ?", versionOf(t, f))
		require.NoError(t, err)
		require.NoError(t, open(), "%s, again", f)
		require.Equal(t, want, shape(t, db), "%s, again", f)
	}
	// The table of versions itself, made and not filled.
	empty()
	require.NoError(t, open())
	_, err = db.Exec("DELETE FROM goose_db_version")
	require.NoError(t, err)
	assert.NoError(t, open())

	// A newer schema is refused in clear words, and nothing is changed.
	_, err = db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (99, 1)")
	require.NoError(t, err)
	err = open()
	var newer *store.NewerError
	require.ErrorAs(t, err, &newer)
	assert.ErrorContains(t, err, "written by a newer version of the service (schema 99, this one knows")
	assert.Equal(t, want, shape(t, db))
	require.Greater(t, total, 30)
}

// Sites of before, in which two pages have come to one address, are brought up to date.
func TestTwoPagesOfBeforeAtOneAddress(t *testing.T) {
	open, dsn := harness.Database(t)
	s := open()
	c := collection(t, s, "hut")
	write(t, s, c, store.Change{Head: head(t, s, "page/a", "<p>a</p>", slugged("/x/"))},
		store.Change{Head: head(t, s, "page/b", "<p>b</p>", slugged("/y/"))})
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	for _, q := range []string{`UPDATE items SET slug = NULL, meta = JSON_SET(meta, '$.slug', '/x/')`,
		"ALTER TABLE items DROP KEY item_slug, DROP COLUMN slug",
		"DELETE FROM goose_db_version WHERE version_id >= 5"} {
		t.Run(q, func(t *testing.T) {
			_, err := db.Exec(q)
			require.NoError(t, err, q)
		})
	}
	s = open()
	var slugs []sql.NullString
	require.NoError(t, s.DB(context.Background()).Model(&store.Item{}).Order("id").Pluck("slug", &slugs).Error)
	require.Len(t, slugs, 2)
	assert.Equal(t, "/x/", slugs[0].String)
	assert.False(t, slugs[1].Valid, "the second keeps its page, not its claim")
	var told []string
	_, err = s.Verify(context.Background(), false,
		func(f store.Finding) { told = append(told, f.What+": "+f.Message) })
	require.NoError(t, err)
	assert.Contains(t, strings.Join(told, "\n"), "page/b: it is at /x/, as page/a is")
}
