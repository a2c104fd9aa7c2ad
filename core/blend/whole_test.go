package blend

import (
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What cannot be read is one side's as a whole: the site's, unless somebody decides for the kit's.
func TestWhatCannotBeReadIsOneSidesAsAWhole(t *testing.T) {
	base, site, kit := []byte(`{"a":`), []byte(`{"a":1`), []byte(`{"a":2`)
	for decision, want := range map[Decision]string{"": string(site), ForSite: string(site), ForKit: string(kit)} {
		t.Run("decided "+string(decision), func(t *testing.T) {
			r := Merge(item.Setting, base, site, kit, func(*Conflict) Decision { return decision })
			assert.Equal(t, want, string(r.Text))
			require.Len(t, r.Conflicts, 1)
			assert.Equal(t, Whole, r.Conflicts[0].Kind)
			assert.Equal(t, decision, r.Conflicts[0].Decision)
		})
	}
}
