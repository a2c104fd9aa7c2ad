package desk_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"compactparcel/core/item"
	"compactparcel/internal/blob"
	"compactparcel/internal/desk"
	"compactparcel/internal/store"

	driver "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Errors of the floors below become what a person can act on.
func TestErrorsAreExplained(t *testing.T) {
	sql := func(n uint16) error { return fmt.Errorf("x: %w", &driver.MySQLError{Number: n}) }
	for _, c := range []struct {
		err  error
		want desk.ProblemType
	}{
		{store.ErrNotFound, desk.NotFound},
		{driver.ErrInvalidConn, desk.Unavailable},
		{context.DeadlineExceeded, desk.Unavailable},
		{store.ErrStalled, desk.Unavailable},
		{sql(1205), desk.Unavailable},
		{sql(1053), desk.Unavailable},
		{sql(1406), desk.BadInput},
		{sql(1021), desk.DiskFull},
		{&os.PathError{Op: "write", Path: "x", Err: syscall.ENOSPC}, desk.DiskFull},
		{&store.UncertainError{Err: driver.ErrInvalidConn}, desk.Uncertain},
		{store.ErrMoved, desk.Stale},
		{&store.ClosedError{Draft: 1, State: "live"}, desk.Refused},
		{&item.ReadError{Address: item.MustAddress("page/x"), Err: blob.ErrDamaged}, desk.Damaged},
		{blob.ErrMissing, desk.Damaged},
		{store.ErrMissing, desk.Damaged},
	} {
		err := desk.Explain("it", fmt.Errorf("doing it: %w", c.err))
		problem(t, err, c.want, "")
		assert.ErrorIs(t, err, c.err, "the chain is kept")
	}
	assert.NoError(t, desk.Explain("it", nil))
	var p *desk.Problem
	assert.False(t, errors.As(desk.Explain("it", errors.New("unknown")), &p), "what nobody knows is a fault of ours")
}

// Files of requests that broke off are taken away: at a start all, later the old ones.
func TestScratchFilesAreSwept(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "scratch")
	s, err := blob.OpenScratch(dir)
	require.NoError(t, err)
	require.NoError(t, s.With(func(f *os.File) error {
		_, err := os.Stat(f.Name())
		return err
	}))
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
	for name, age := range map[string]time.Duration{"old": 30 * time.Hour, "young": time.Minute} {
		t.Run(name, func(t *testing.T) {
			p := filepath.Join(dir, name)
			require.NoError(t, os.WriteFile(p, nil, 0o600))
			then := time.Now().Add(-age)
			require.NoError(t, os.Chtimes(p, then, then))
		})
	}
	n, err := s.Sweep(desk.SweepGrace)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.NoFileExists(t, filepath.Join(dir, "old"))
	_, err = blob.OpenScratch(dir)
	require.NoError(t, err)
	assert.NoFileExists(t, filepath.Join(dir, "young"))
}
