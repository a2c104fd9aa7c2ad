package outline_test

import (
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/folder"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/outline"
	"compactparcel/core/render"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func shown(t *testing.T, c item.Collection, slug string) *render.Output {
	t.Helper()
	out, err := render.New(c).Page(render.PageRequest{Slug: slug, Mapped: true})
	require.NoError(t, err)
	return out
}

// On every page of every demo site: each path names the element that has the number, what is whole has both its
// tags, and nothing but numbers, the script and its style comes to a page that is marked.
func TestOutlinesOfTheDemoSites(t *testing.T) {
	sites, err := os.ReadDir("../../demo/sites")
	require.NoError(t, err)
	kinds := map[outline.Kind]int{}
	for _, site := range sites {
		set, _, err := folder.Read(os.DirFS("../../demo/sites/" + site.Name()))
		require.NoError(t, err)
		for slug := range render.New(set).Pages() {
			out := shown(t, set, slug)
			page := outline.Of(out, nil)
			require.NotEmpty(t, page.Elements, slug)
			assert.Equal(t, item.DigestOf(out.Body), page.Digest)
			tree := markup.Parse(out.Body, "")
			marked, err := outline.Mark(out.Body, "nonce")
			require.NoError(t, err)
			for _, e := range page.Elements {
				n, err := css.QueryOne(tree, e.Path)
				require.NoError(t, err, "%s%s %s", site.Name(), slug, e.Path)
				assert.Equal(t, e.Tag, n.Tag)
				assert.Same(t, tree.All[e.Number], n)
				assert.Contains(t, outline.Kinds, e.Kind)
				assert.Less(t, e.Parent, e.Number)
				if e.Whole {
					assert.True(t, n.Closed || markup.IsVoid(n.Tag), e.Path)
				}
				kinds[e.Kind]++
			}
			assert.Equal(t, len(page.Elements), strings.Count(string(marked), " "+outline.NumberName+`="`), slug)
		}
	}
	for _, k := range []outline.Kind{outline.Heading, outline.Text, outline.Link, outline.Button, outline.Picture,
		outline.Menu, outline.Part, outline.Section, outline.Landmark} {
		assert.NotZero(t, kinds[k], k)
	}
}

func TestElementsAreCalledByWhatTheySay(t *testing.T) {
	set := item.NewSet()
	put := func(address, content string, meta item.Meta) {
		a, err := item.ParseAddress(address)
		require.NoError(t, err)
		set.Put(item.Head{Address: a, Meta: meta}, []byte(content))
	}
	put("page/home", `<!doctype html><html><head><meta http-equiv="refresh" content="1"><script>x()</script></head>
<body><main><section aria-label="Prices"><h2>Bunks</h2><p>Lorem ipsum dolor</p></section>
<section><h2>The <em>quiet</em> room</h2><p>Sample Hut is open</p><img src="/media/a.jpg" alt="A door"></section>
<ul><li>One<li>Two</ul></main></body></html>`, item.Meta{Slug: "/", Title: "Home"})
	page := outline.Of(shown(t, set, "/"), []string{"Sample Hut"})
	named := map[string]outline.Element{}
	for _, e := range page.Elements {
		named[string(e.Kind)+" "+e.Name] = e
	}
	assert.Equal(t, "Lorem ipsum", named["text Lorem ipsum dolor"].Sample)
	assert.Equal(t, "Sample Hut", named["text Sample Hut is open"].Sample)
	assert.Contains(t, named, "group Prices")
	assert.Contains(t, named, "group The quiet room")
	assert.Equal(t, "A door", named["picture A door"].Alternative)
	one := named["entry One"]
	assert.True(t, one.Words)
	assert.False(t, one.Whole, "it has no end tag")

	marked, err := outline.Mark(shown(t, set, "/").Body, "n0")
	require.NoError(t, err)
	assert.NotContains(t, string(marked), `http-equiv="refresh"`)
	assert.Contains(t, string(marked), `data-scripts="1"`)
	assert.Less(t, strings.Index(string(marked), `nonce="n0"`), strings.Index(string(marked), "x()"),
		"ours comes first")
}

// What a page writes itself as the number of an element is believed nowhere: not on what has one, nor on what has
// none, as what stands in an SVG.
func TestNumbersOfThePagesOwnAreTakenOut(t *testing.T) {
	body := `<!doctype html><html data-cp-n=7><head><meta data-cp-n="8"></head><body><p data-cp-n="999">a</p>` +
		`<svg data-cp-n='2'><path data-cp-n=3 d="M0 0"/></svg><template><p data-cp-n="4">t</p></template></body></html>`
	marked, err := outline.Mark([]byte(body), "n0")
	require.NoError(t, err)
	markup := string(
		marked[:strings.Index(string(marked), "<style")],
	) + string(
		marked[strings.LastIndex(string(marked), "</script>"):],
	)
	var numbers []string
	for _, m := range regexp.MustCompile(`data-cp-n="?'?([0-9]+)`).FindAllStringSubmatch(markup, -1) {
		numbers = append(numbers, m[1])
	}
	for _, forged := range []string{"999", "8", "7"} {
		assert.NotContains(t, numbers, forged)
	}
	slices.Sort(numbers)
	assert.Len(t, slices.Compact(slices.Clone(numbers)), len(numbers), "each once: %s", marked)
}
