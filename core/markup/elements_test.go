package markup

import (
	"io/fs"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What Elements finds without a tree is where Parse finds it with one.
func TestElementsStandWhereTheTreeSays(t *testing.T) {
	seen := 0
	err := fs.WalkDir(os.DirFS("../../demo/sites"), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".html") {
			return err
		}
		src, err := os.ReadFile("../../demo/sites/" + path)
		require.NoError(t, err)
		list, ok := Elements(src)
		require.True(t, ok)
		at := map[int]Node{}
		for _, n := range list {
			at[n.Start.Start] = n
		}
		for _, n := range Parse(src, "").All {
			if !n.Own {
				continue
			}
			e, ok := at[n.Start.Start]
			require.True(t, ok, "%s: %s", path, n.Tag)
			assert.Equal(t, [3]any{n.Start, n.Inner, n.End}, [3]any{e.Start, e.Inner, e.End}, "%s: %s", path, n.Tag)
			assert.Equal(t, n.Attrs, e.Attrs)
			seen++
		}
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, seen, 300)
	_, ok := Elements([]byte(strings.Repeat("<b>", MaxDepth+2)))
	assert.False(t, ok)
}
