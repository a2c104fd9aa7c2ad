package store_test

import (
	"context"
	"errors"
	"testing"

	"compactparcel/core/item"
	"compactparcel/internal/store"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A request whose answer could not be kept is not under way for ever: repeated, it sees what was committed.
func TestAnAnswerThatCouldNotBeKept(t *testing.T) {
	s := harness.Records(t)
	digest := item.DigestOf([]byte("POST /x"))
	k, _, err := s.BeginRequest(ctx, 1, "key", digest, now())
	require.NoError(t, err)
	require.NoError(t, s.Tx(store.WithRequest(ctx, k), func(tx *store.Tx) error { return tx.NoteSubject("draft 7") }))
	_, _, err = s.BeginRequest(ctx, 1, "key", digest, now())
	require.ErrorIs(t, err, store.ErrUnderWay)

	gone, cancel := context.WithCancel(ctx)
	cancel()
	require.Error(t, k.End(gone, store.Answered{Status: 200}, false))
	again, answer, err := s.BeginRequest(ctx, 1, "key", digest, now())
	require.NoError(t, err)
	assert.Nil(t, answer)
	subject, repeated := store.Repeated(store.WithRequest(ctx, again))
	assert.True(t, repeated)
	assert.Equal(t, "draft 7", subject)
	require.NoError(t, again.End(ctx, store.Answered{Status: 200, Body: []byte("done")}, false))
	_, answer, err = s.BeginRequest(ctx, 1, "key", digest, now())
	require.NoError(t, err)
	assert.Equal(t, "done", string(answer.Body))
	_, _, err = s.BeginRequest(ctx, 1, "key", item.DigestOf([]byte("other")), now())
	require.ErrorIs(t, err, store.ErrOtherRequest)
}

// A transaction within a transaction is part of it: it reads what that one wrote, and what it tells is told
// when that one is committed, or never.
func TestATransactionWithinATransaction(t *testing.T) {
	s := harness.Records(t)
	told := func() (n int64) {
		require.NoError(t, s.DB(ctx).Model(&store.Event{}).Where("site = 'within'").Count(&n).Error)
		return n
	}
	failed := errors.New("not today")
	attempt := func(end error) error {
		return s.Tx(ctx, func(tx *store.Tx) error {
			c, err := tx.Collections().Create(store.Site, "within", "Within", now())
			if err != nil {
				return err
			}
			err = s.Tx(tx.Context(), func(inner *store.Tx) error {
				got, err := s.Read(inner.Context()).Collections().ByName(store.Site, "within")
				if err != nil {
					return err
				}
				assert.Equal(t, c.ID, got.ID)
				_, err = inner.NewDraft(got, "spring", "ida", now())
				return err
			})
			assert.NoError(t, err)
			assert.Zero(t, told(), "nothing is told before it is committed")
			return end
		})
	}
	require.ErrorIs(t, attempt(failed), failed)
	assert.Zero(t, told(), "nothing is told of a site that never was")
	require.NoError(t, attempt(nil))
	assert.Positive(t, told())
}
