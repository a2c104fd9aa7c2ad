// Package failing makes reads fail, for tests that a failure is never taken for an
// absence.
package failing

import (
	"errors"
	"io"
	"os"
	"sync/atomic"
	"testing"

	"compactparcel/core/item"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Err is the failure.
var Err = errors.New("the disk does not answer")

// Collection is a collection of which one read fails: the At-th, counted from 1, once.
type Collection struct {
	item.Collection
	At int64

	reads atomic.Int64
}

// Open opens an item's content, or fails.
func (c *Collection) Open(h item.Head) (io.ReadCloser, error) {
	if c.reads.Add(1) == c.At {
		return nil, Err
	}
	return c.Collection.Open(h)
}

// EachRead does something with a collection of which each read fails in turn: it must end
// with the failure, or with what comes out when nothing fails. Done again with the same
// collection, what comes out must be right: nothing may keep the failure.
func EachRead(t *testing.T, c item.Collection, do func(item.Collection) (any, error)) {
	t.Helper()
	require.Positive(t, AnyRead(t, c, do), "nothing was read at all")
}

// AnyRead is EachRead for what may read nothing; it gives how many failures were told.
func AnyRead(t *testing.T, c item.Collection, do func(item.Collection) (any, error)) (failed int) {
	t.Helper()
	good := &Collection{Collection: c}
	want, err := do(good)
	require.NoError(t, err)
	for _, n := range some(t, good.reads.Load()) {
		bad := &Collection{Collection: c, At: n}
		got, err := do(bad)
		if err != nil {
			failed++
			assert.ErrorIs(t, err, Err, "read %d", n)
		} else {
			assert.Equal(t, want, got, "read %d fails: nothing may be missing", n)
		}
		bad.At = 0 // from now on all is well
		got, err = do(bad)
		require.NoError(t, err, "read %d works again", n)
		assert.Equal(t, want, got, "read %d works again", n)
	}
	return failed
}

// most bounds how many reads fail of a computation that reads much, unless CPARCEL_SOAK asks for all.
const most = 40

// some draws which of n reads fail.
func some(t *testing.T, n int64) (list []int64) {
	t.Helper()
	for i := range n {
		list = append(list, i+1)
	}
	if n <= most || os.Getenv("CPARCEL_SOAK") != "" {
		return list
	}
	seed.Rand(t).Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	return list[:most]
}
