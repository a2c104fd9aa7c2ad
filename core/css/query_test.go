package css

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestASelectorNamesElements(t *testing.T) {
	page := markup.Parse(
		[]byte(
			`<!doctype html><html><body><main><section class="hero"><h2>A</h2></section><section><h2>B</h2><a `+
				`href="#">x</a></section></main></body></html>`,
		),
		"",
	)
	n, err := QueryOne(page, "section.hero h2")
	require.NoError(t, err)
	assert.Equal(t, ":scope > html > body > main > section:nth-of-type(1) > h2", PathTo(n))
	n, err = QueryOne(page, "a[href]")
	require.NoError(t, err)
	assert.Equal(t, "x", n.Text())
	for selector, says := range map[string]string{"h2": "names 2 elements", ".none": "names no element",
		"h2 >": "no selector", "": "no selector", ":scope main": "no path", ":scope > main h2": "no path"} {
		t.Run(selector, func(t *testing.T) {
			_, err := QueryOne(page, selector)
			assert.ErrorContains(t, err, says, selector)
		})
	}
}

func TestEveryPathLeadsBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var write func(depth int) string
		write = func(depth int) string {
			out := ""
			for range rapid.IntRange(0, 3).Draw(t, "children") {
				tag := rapid.SampledFrom([]string{"div", "section", "span", "x-strip"}).Draw(t, "tag")
				inner := ""
				if depth > 0 {
					inner = write(depth - 1)
				}
				out += "<" + tag + ">" + inner + "</" + tag + ">"
			}
			return out
		}
		tree := markup.Parse([]byte(write(3)), "")
		for _, n := range tree.All {
			got, err := QueryOne(tree, PathTo(n))
			require.NoError(t, err, PathTo(n))
			assert.Same(t, n, got)
		}
	})
}
