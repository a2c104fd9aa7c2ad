package edit_test

import (
	"strings"
	"testing"

	"compactparcel/core/closure"
	"compactparcel/core/edit"
	"compactparcel/core/item"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// What is put nowhere else ends a page's content: within its main, and before a footer and scripts of the page's own.
func TestTheEndOfAPage(t *testing.T) {
	for page, want := range map[string][2]string{
		`<!doctype html><body><header>a</header><main id="m">b</main><footer>c</footer>`: {"main", "inside"},
		`<!doctype html><body><nav>a</nav><section>b</section><footer>c</footer><script>1</script></body>`: {
			"section", "after"},
		`<p>a</p><div>b</div><div role="contentinfo">c</div>`:   {"div:nth-of-type(1)", "after"},
		`<!doctype html><body><footer>c</footer></body></html>`: {"footer", "after"},
		`<!doctype html><body></body></html>`:                   {"body", "inside"},
	} {
		t.Run(page, func(t *testing.T) {
			c := item.NewSet()
			c.Put(item.Head{ID: "p", Address: item.MustAddress("page/home"), Meta: item.Meta{Slug: "/"}}, []byte(page))
			got, place, err := edit.EndOf(site{closure.NewSmall(c)}, "/")
			require.NoError(t, err, page)
			assert.True(t, strings.HasSuffix(got, want[0]), "%s in %s", got, page)
			assert.Equal(t, want[1], string(place), page)
		})
	}
}
