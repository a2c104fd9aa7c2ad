package item

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// However a set came about, its sum is that of its items; what came and went again leaves
// nothing behind.
func TestASumIsThatOfItsItems(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var kept CollectionSum
		states := map[Address]Digest{}
		for range rapid.IntRange(0, 30).Draw(t, "steps") {
			a := Address{Block, fmt.Sprintf("b%d", rapid.IntRange(0, 6).Draw(t, "which"))}
			if was, ok := states[a]; ok {
				kept.Remove(a, was)
				delete(states, a)
			}
			if rapid.Bool().Draw(t, "there") {
				states[a] = DigestOf([]byte{byte(rapid.IntRange(0, 3).Draw(t, "state"))})
				kept.Add(a, states[a])
			}
		}
		var anew CollectionSum
		for a, s := range states {
			anew.Add(a, s)
		}
		assert.Equal(t, anew, kept)
		assert.Equal(t, anew.Digest(), kept.Digest())
		read, ok := CollectionSumOf(kept.Bytes())
		require.True(t, ok)
		assert.Equal(t, kept, read)
	})
}

func TestADigestOfACollectionCarriesItsScheme(t *testing.T) {
	h := func(key, doc string) Head { return Head{Address: Address{Block, key}, Doc: DigestOf([]byte(doc))} }
	a, b := h("a", "1"), h("b", "2")
	d := CollectionDigest([]Head{a, b})
	assert.Regexp(t, "^lt1-[0-9a-f]{64}$", string(d))
	before := DigestOfStates(map[Address]Digest{a.Address: a.State(), b.Address: b.State()})
	assert.True(t, d.IsDigestOf([]Head{a, b}))
	assert.True(t, before.IsDigestOf([]Head{b, a}), "one of before carries no scheme")
	for _, wrong := range []Digest{"", a.Doc, "lt2" + d[3:], d[4:]} {
		assert.False(t, wrong.IsDigestOf([]Head{a, b}), string(wrong))
	}
	assert.Equal(t, d, CollectionDigest([]Head{b, a}), "in any order")
	for _, other := range [][]Head{nil, {a}, {a, a}, {a, h("b", "1")}, {a, h("c", "2")}, {h("a", "2"), h("b", "1")}} {
		assert.NotEqual(t, d, CollectionDigest(other))
	}
	_, ok := CollectionSumOf([]byte("short"))
	assert.False(t, ok)
	empty, ok := CollectionSumOf(nil)
	assert.True(t, ok)
	assert.Equal(t, CollectionDigest(nil), empty.Digest())
}
