package mariadb

import (
	"context"
	"database/sql"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var quiet = slog.New(slog.DiscardHandler)

func query(t *testing.T, s *Server, text string) string {
	t.Helper()
	db, err := sql.Open("mysql", s.DSN())
	require.NoError(t, err)
	defer db.Close()
	var out string
	require.NoError(t, db.QueryRow(text).Scan(&out))
	return out
}

// A server that starts removes temporary tables from its folder for them: those of another
// server, which may be at work, are not in it.
func TestTemporaryTablesOfOthersStay(t *testing.T) {
	shared := t.TempDir()
	t.Setenv("TMPDIR", shared)
	others := filepath.Join(shared, "#sql-temptable-1-1-1.MAI")
	require.NoError(t, os.WriteFile(others, nil, 0o600))
	dir := t.TempDir()
	s, err := Start(context.Background(), dir, quiet)
	require.NoError(t, err)
	defer s.Stop()
	assert.FileExists(t, others)
	assert.Equal(t, filepath.Join(dir, "tmp"), query(t, s, "SELECT @@tmpdir"))
}

func TestTheServerIsMinded(t *testing.T) {
	// A long path, as temporary folders of some machines have: sockets do not.
	dir := filepath.Join(t.TempDir(), strings.Repeat("a-long-folder-name/", 6))
	s, err := Start(context.Background(), dir, quiet)
	require.NoError(t, err)
	assert.Equal(t, "READ-COMMITTED", query(t, s, "SELECT @@tx_isolation"))
	assert.Equal(t, "utf8mb4_nopad_bin", query(t, s, "SELECT @@collation_database"))
	assert.Equal(t, "127.0.0.1", query(t, s, "SELECT @@bind_address"), "nobody outside can reach it")
	info, err := os.Stat(filepath.Join(dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	db, err := sql.Open("mysql", s.DSN())
	require.NoError(t, err)
	_, err = db.Exec("CREATE TABLE kept (n INT)")
	require.NoError(t, err)
	_, err = db.Exec("INSERT INTO kept VALUES (41), (1)")
	require.NoError(t, err)
	db.Close()

	// It dies: it is started again, on the same port, with what was committed.
	old := s.PID()
	require.NoError(t, syscall.Kill(old, syscall.SIGKILL))
	require.Eventually(t, func() bool {
		db, err := sql.Open("mysql", s.DSN())
		if err != nil {
			return false
		}
		defer db.Close()
		var n int
		return s.PID() != old && db.QueryRow("SELECT SUM(n) FROM kept").Scan(&n) == nil && n == 42
	}, 30*time.Second, 50*time.Millisecond)

	require.NoError(t, s.Stop())
	assert.NoFileExists(t, filepath.Join(dir, "mariadb.pid"))

	// A server that a killed service left behind is stopped before a new one starts.
	s, err = Start(context.Background(), dir, quiet)
	require.NoError(t, err)
	orphan := s.PID()
	s.mu.Lock()
	s.stopping = true // as if the minding process were gone
	s.mu.Unlock()
	next, err := Start(context.Background(), dir, quiet)
	require.NoError(t, err)
	assert.NotEqual(t, orphan, next.PID())
	assert.Equal(t, "42", query(t, next, "SELECT SUM(n) FROM kept"))
	require.NoError(t, next.Stop())
}

func TestAPidFileOfSomebodyElseIsNoOrphan(t *testing.T) {
	dir := t.TempDir()
	s := &Server{dir: dir, log: quiet}
	for _, pid := range []string{strconv.Itoa(os.Getpid()), "nonsense", "999999", "1"} {
		t.Run(pid, func(t *testing.T) {
			require.NoError(t, os.WriteFile(s.pidFile(), []byte(pid), 0o600))
			require.NoError(t, s.stopOrphan(), pid)
			assert.NoFileExists(t, s.pidFile())
		})
	}
}
