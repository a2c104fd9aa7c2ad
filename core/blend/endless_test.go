package blend

import (
	"strings"
	"testing"

	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What has no end is read to its end: nothing is lost of it, and reading stops.
func TestWhatHasNoEnd(t *testing.T) {
	for _, src := range []string{
		"<!-- x", "<!-- x<!-- x", "a <!", "a <?x", "</", "<p>a<!-- b", "<", "<<", "< <a", "<style>a{", "<script>var a",
		"<p title='x", "<!doctype", strings.Repeat("<!-- x", 50),
	} {
		t.Run(src, func(t *testing.T) {
			site, kit := "s"+src, src+"\nk"
			r := Merge(item.Page, []byte(src), []byte(site), []byte(kit), nil)
			require.NotNil(t, r, src)
			if len(r.Conflicts) == 0 {
				assert.Contains(t, string(r.Text), "s", src)
				assert.Contains(t, string(r.Text), "k", src)
			}
			same := Merge(item.Page, []byte(src), []byte(src), []byte(src), nil)
			assert.Equal(t, src, string(same.Text), "nobody changed it")
		})
	}
}
