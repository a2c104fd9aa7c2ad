package blend

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAHunkFindsItsPlaceInAnotherText(t *testing.T) {
	base := `<header><p>Hut</p></header><h1>Prices</h1><p>A bunk is 20.</p>`
	other := `<cp-part role="header"></cp-part><h1>Prices</h1><p>A bunk is 20.</p><p>Soup.</p>`
	made, ok := Hunks([]byte(base), []byte(strings.Replace(base, "20.", "22.", 1)))
	require.True(t, ok)
	require.Len(t, made, 1)
	out, ok := made[0].Apply([]byte(other))
	require.True(t, ok)
	assert.Contains(t, string(out), "A bunk is 22.")
	assert.True(t, made[0].Done(out))
	_, ok = made[0].Apply([]byte("<p>nothing of it</p>"))
	assert.False(t, ok)
	_, ok = Hunks([]byte(strings.Repeat("a ", 2000)), []byte(strings.Repeat("b ", 2000)))
	assert.False(t, ok, "texts that have nothing in common are not compared")
}

// All hunks applied to the base give the other text.
func TestHunksAreComplete(t *testing.T) {
	word := rapid.SampledFrom([]string{"<p>", "</p>", "a", "b", "c", " ", "\n", "<br>"})
	rapid.Check(t, func(t *rapid.T) {
		b := strings.Join(rapid.SliceOfN(word, 0, 30).Draw(t, "b"), "")
		x := strings.Join(rapid.SliceOfN(word, 0, 30).Draw(t, "x"), "")
		hunks, ok := Hunks([]byte(b), []byte(x))
		require.True(t, ok)
		var made strings.Builder
		at := 0
		for _, h := range hunks {
			made.WriteString(strings.Join(h.base[at:h.from], "") + h.New)
			at = h.to
		}
		all := tokens([]byte(b))
		made.WriteString(strings.Join(all[at:], ""))
		assert.Equal(t, x, made.String())
	})
}
