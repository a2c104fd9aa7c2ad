package desk_test

import (
	"fmt"
	"testing"

	"compactparcel/internal/desk"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A long history is read in parts, the newest first; any two moments are compared, and the first comes back. Two parts
// and a rest show what ten would.
func TestALongHistory(t *testing.T) {
	r := newRace(t)
	const many = 430
	first := fmt.Sprintf("<p>%d</p>", 1)
	for n := 1; n <= many; n++ {
		r.live("block/note", fmt.Sprintf("<p>%d</p>", n))
	}
	seen, before := 0, int64(0)
	for {
		list, err := r.History(ctx, keeper, "hut", before)
		require.NoError(t, err)
		if len(list) == 0 {
			break
		}
		assert.LessOrEqual(t, len(list), 200)
		for _, x := range list {
			assert.True(t, before == 0 || x.Rev < before, "each once, the newest first")
			before = x.Rev
		}
		seen += len(list)
	}
	assert.GreaterOrEqual(t, seen, many)
	newest := int64(seen)
	differences, _, err := r.Compare(ctx, keeper, "hut", newest-many+1, newest)
	require.NoError(t, err)
	assert.Len(t, differences, 1)
	got, err := r.BringBack(ctx, keeper, desk.BringBack{Site: "hut", Revision: newest - many + 1})
	require.NoError(t, err)
	assert.Equal(t, first, r.text(got.Draft.ID, "block/note"))
}
