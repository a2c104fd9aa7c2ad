package workers

import (
	"errors"
	"fmt"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestEachNumberIsWorkedOnOnce(t *testing.T) {
	for _, n := range []int{0, 1, 2, 1000} {
		done := make([]atomic.Int32, n)
		require.NoError(t, Each(n, func(worker, i int) error {
			assert.Less(t, worker, Count())
			done[i].Add(1)
			return nil
		}))
		for i := range done {
			assert.EqualValues(t, 1, done[i].Load())
		}
	}
}

func TestTheFirstErrorIsGivenAndEndsTheWork(t *testing.T) {
	var began atomic.Int32
	err := Each(100_000, func(_, i int) error {
		began.Add(1)
		if i >= 10 {
			return fmt.Errorf("number %d", i)
		}
		return nil
	})
	assert.EqualError(t, err, "number 10")
	assert.Less(t, int(began.Load()), 100_000)
}

func TestAPanicBecomesAnError(t *testing.T) {
	var p *Panic
	require.ErrorAs(t, Guard(func() error { panic("odd markup") }), &p)
	assert.EqualError(t, p, "internal: odd markup")
	require.ErrorAs(t, Guard(func() error { return Each(9, func(int, int) error { panic("odd within") }) }), &p)
	assert.Equal(t, "odd within", p.Value)
	require.NoError(t, Guard(func() error { return nil }))
	assert.ErrorIs(t, Guard(func() error { return errors.ErrUnsupported }), errors.ErrUnsupported)
}

// A panic of a worker can be recovered from by whoever asked for the work.
func TestAPanicGoesOnInTheCaller(t *testing.T) {
	defer func() {
		p, ok := recover().(*Panic)
		require.True(t, ok)
		assert.Equal(t, errors.New("odd markup"), p.Value)
		assert.Contains(t, string(p.Stack), "workers_test.go", "where it began")
	}()
	err := Each(100, func(_, i int) error {
		if i == 50 {
			panic(errors.New("odd markup"))
		}
		return nil
	})
	t.Fatal("it goes on here, with", err)
}
