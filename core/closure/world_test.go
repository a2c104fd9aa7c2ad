package closure

import (
	"fmt"
	"io"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// counting counts how often each item is read.
type counting struct {
	*item.Set
	reads map[item.Address]int
}

func (c *counting) Open(h item.Head) (io.ReadCloser, error) {
	c.reads[h.Address]++
	return c.Set.Open(h)
}

func TestFactsAreWorkedOutOnceAndSharedByContent(t *testing.T) {
	set := item.NewSet()
	for i := range 40 {
		set.Put(item.Head{Address: item.MustAddress(fmt.Sprintf("section/s%d", i))},
			[]byte(fmt.Sprintf(`<p><a href="/p%d/">x</a></p>`, i)))
	}
	set.Put(item.Head{Address: item.MustAddress("media/a.png"), Meta: item.Meta{MediaType: "image/png"}},
		[]byte("png"))
	set.Put(item.Head{Address: item.MustAddress("media/a.svg"), Meta: item.Meta{MediaType: "image/svg+xml"}},
		[]byte(`<svg><use href="/media/b.svg#x"/></svg>`))
	one := NewSmall(set)
	one.Prime()
	c := &counting{set, map[item.Address]int{}}
	two := one.Over(c)
	for _, h := range set.Heads() {
		f, err := two.Facts(h)
		require.NoError(t, err)
		if h.Address.Kind == item.Section {
			assert.Len(t, f.Refs, 1)
		}
	}
	assert.Empty(t, c.reads, "what is known of a content is known in every collection, and a picture is never read")
	h, _ := set.Find(item.MustAddress("media/a.svg"))
	f, err := two.Facts(h)
	require.NoError(t, err)
	assert.Equal(t, "/media/b.svg", f.Refs[0].Name, "a drawing is read")
	set.Put(item.Head{Address: item.MustAddress("section/s0")}, []byte(`<p>other</p>`))
	h, _ = set.Find(item.MustAddress("section/s0"))
	f, err = two.Facts(h)
	require.NoError(t, err)
	assert.Empty(t, f.Refs, "another content has facts of its own")
	assert.Equal(t, 1, c.reads[h.Address])
}
