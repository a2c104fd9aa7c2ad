package css

import (
	"errors"
	"strings"
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Who leaves is not worked for: cutting ends at the next rule.
func TestCuttingEndsWhenNobodyWaits(t *testing.T) {
	gone := errors.New("nobody waits")
	asked := 0
	stop := func() error {
		if asked++; asked > 10 {
			return gone
		}
		return nil
	}
	used := []SheetUse{
		{
			Sheet:  Parse([]byte(strings.Repeat(".a{top:0}", 5000))),
			Pieces: []Subject{SubjectOf(markup.Parse([]byte(`<p class="a">x</p>`), ""))},
		},
	}
	_, err := SubsetUntil(used, stop)
	assert.ErrorIs(t, err, gone)
	assert.Equal(t, 11, asked)
	got, err := SubsetUntil(used, nil)
	require.NoError(t, err)
	assert.Equal(t, SubsetAll(used)[0].Kept, got[0].Kept)
}

// A selector that is dear to look for ends, and says how to name the element instead.
func TestADearSelectorEnds(t *testing.T) {
	page := markup.Parse([]byte(strings.Repeat("<div>", 400)+strings.Repeat("<p>x</p>", 20_000)), "")
	_, err := Query(page, ".never "+strings.Repeat("div ", 60)+"p")
	assert.ErrorContains(t, err, "takes too long")
	_, err = Query(page, strings.Repeat(":not(", 4000)+"a"+strings.Repeat(")", 4000))
	assert.ErrorContains(t, err, "no selector that is understood")
	assert.Less(t, len(err.Error()), 300)
}
