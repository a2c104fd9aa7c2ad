package demo

import (
	"bytes"
	"testing"

	"compactparcel/core/kit"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every kit of the demo is in order, says what a receiver should know, is the same
// whenever it is packed, and asks for no greater number than it has.
func TestTheKitsOfTheDemo(t *testing.T) {
	last := map[string]*kit.Kit{}
	for _, of := range Kits {
		var one, two bytes.Buffer
		require.NoError(t, PackKit(of, &one))
		require.NoError(t, PackKit(of, &two))
		assert.True(t, bytes.Equal(one.Bytes(), two.Bytes()), "%s is the same each time", of)
		k, err := kit.Open(bytes.NewReader(one.Bytes()), int64(one.Len()))
		require.NoError(t, err)
		require.NoError(t, k.Verify())
		found, err := kit.Check(&k.List, k)
		require.NoError(t, err)
		for _, f := range found {
			assert.False(t, f.Stops, "%s: %s %s", of, f.Address, f.Message)
			assert.NotContains(t, f.Message, "licence")
			assert.NotContains(t, f.Message, "alternative text", of)
			assert.NotContains(t, f.Message, "anchor", of)
		}
		if before := last[k.List.Kit]; before != nil {
			advice, _, err := kit.AdviseOn(before.Contents(), k.Contents())
			require.NoError(t, err)
			assert.True(t, advice.Enough(k.List.Version), "%s: its changes ask for %s: %v", of, advice.Next,
				advice.Reasons)
		}
		last[k.List.Kit] = k
	}
}
