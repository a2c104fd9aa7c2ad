package backup

import (
	"archive/tar"
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/klauspost/compress/zstd"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

type entry struct{ name, text string }

// listOf is the list of some entries, as an honest backup has it.
func listOf(entries ...entry) Summary {
	sum := Summary{Format: Format}
	for _, e := range entries {
		sum.Files = append(sum.Files, File{e.name, int64(len(e.text)), item.DigestOf([]byte(e.text))})
	}
	return sum
}

// file writes a backup with a list and some entries, whether they agree or not.
func file(t *testing.T, sum Summary, entries ...entry) string {
	t.Helper()
	list, err := json.Marshal(sum)
	require.NoError(t, err)
	var out bytes.Buffer
	z, err := zstd.NewWriter(&out)
	require.NoError(t, err)
	w := tar.NewWriter(z)
	for _, e := range append([]entry{{listName, string(list)}}, entries...) {
		require.NoError(t, w.WriteHeader(&tar.Header{Name: e.name, Size: int64(len(e.text)), Mode: 0o600}))
		_, err = w.Write([]byte(e.text))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	require.NoError(t, z.Close())
	name := filepath.Join(t.TempDir(), "huts.backup")
	require.NoError(t, os.WriteFile(name, out.Bytes(), 0o600))
	return name
}

// A backup may come from anywhere: what does not agree with its list is refused, nothing
// lands outside the folder, and its records are SQL and nothing else.
func TestHostileBackups(t *testing.T) {
	t.Parallel()
	_, dsn := harness.Database(t)
	dir := t.TempDir()
	blobs, err := blob.Open(filepath.Join(dir, "data", "blobs"))
	require.NoError(t, err)
	to := Target{DSN: dsn, Dir: filepath.Join(dir, "data"), Blobs: blobs}
	knows, err := store.SchemaVersion()
	require.NoError(t, err)

	picture := entry{filesDir + string(item.DigestOf([]byte("ridge"))), "ridge"}
	other := entry{picture.name, "crags"}
	outside := entry{"../outside", "x"}
	secret := entry{secretName, "s"}
	newer, schema := listOf(), listOf()
	newer.Format++
	schema.Schema = knows + 1
	for name, c := range map[string]struct{ file, says string }{
		"newer format":       {file(t, newer), "a newer version"},
		"newer tables":       {file(t, schema), "a newer version"},
		"other bytes":        {file(t, listOf(picture), other), "not those that the list says"},
		"another entry":      {file(t, listOf(picture), secret), "where its list says"},
		"breaks off":         {file(t, listOf(picture)), "breaks off before"},
		"more than its list": {file(t, listOf(picture), picture, secret), "more than its list"},
		"outside the folder": {file(t, listOf(outside), outside), "does not know what it is"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := Read(context.Background(), c.file, to)
			assert.ErrorContains(t, err, c.says, name)
		})
	}
	assert.NoFileExists(t, filepath.Join(dir, "outside"))

	ran := filepath.Join(dir, "ran")
	records := entry{
		recordsName,
		"CREATE TABLE huts (name TEXT);\n\\! touch " + ran + "\nsystem touch " + ran + ";\nINSERT INTO huts " +
			"VALUES ('larch');\n",
	}
	_, err = Read(context.Background(), file(t, listOf(records), records), to)
	assert.ErrorContains(t, err, "mariadb", "the rest is no SQL")
	assert.NoFileExists(t, ran)

	// SQL that reaches beyond its own tables does not come through: no file is written, and no right is given.
	for name, text := range map[string]string{
		"a file of the machine":  "SELECT 'x' INTO OUTFILE '" + ran + "';\n",
		"a file that is loaded":  "CREATE TABLE l (x TEXT);\nLOAD DATA LOCAL INFILE '/etc/hostname' INTO TABLE l;\n",
		"rights":                 "GRANT ALL ON *.* TO CURRENT_USER();\n",
		"another database":       "DROP DATABASE mysql;\n",
		"a setting of all":       "SET GLOBAL max_connections = 1;\n",
		"a library of functions": "CREATE FUNCTION f RETURNS STRING SONAME 'lib.so';\n",
	} {
		t.Run(name, func(t *testing.T) {
			_, err = Read(context.Background(), file(t, listOf(entry{recordsName, text}), entry{recordsName, text}), to)
			assert.ErrorContains(t, err, "mariadb", name)
		})
	}
	elsewhere := t.TempDir()
	away := entry{recordsName, "CREATE TABLE away (x TEXT) DATA DIRECTORY='" + elsewhere + "';\n"}
	_, _ = Read(context.Background(), file(t, listOf(away), away), to) // refused, or laid where the others are
	lies, err := os.ReadDir(elsewhere)
	require.NoError(t, err)
	assert.Empty(t, lies)
	assert.NoFileExists(t, ran)

	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("DROP TABLE IF EXISTS huts")
	require.NoError(t, err)
	good := []entry{
		{recordsName, "CREATE TABLE huts (name TEXT); INSERT INTO huts VALUES ('\\\\! larch');\n"},
		secret,
		picture,
	}
	_, err = Read(context.Background(), file(t, listOf(good...), good...), to)
	require.NoError(t, err)
	var hut string
	require.NoError(t, db.QueryRow("SELECT name FROM huts").Scan(&hut))
	assert.Equal(t, `\! larch`, hut)
	assert.FileExists(t, filepath.Join(to.Dir, secretName))
}
