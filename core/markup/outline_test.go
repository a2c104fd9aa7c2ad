package markup

import (
	"fmt"
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// frameOf is what a tree says of a document's frame, in words.
func frameOf(t *Tree) string {
	var out []string
	for _, n := range t.All {
		if !n.Own || n.Space != "" {
			continue
		}
		switch n.Tag {
		case "html", "head", "body":
			out = append(out, fmt.Sprint(n.Start.Start, " ", n.Tag, n.Inner, n.End, n.Closed, n.Attrs))
		case "title", "meta", "link", "h1", "script", "style":
			inHead := n.Parent != nil && n.Parent.Tag == "head"
			out = append(out, fmt.Sprint(n.Start.Start, " ", n.Tag, inHead, n.Attrs))
		}
	}
	sort.Strings(out)
	return strings.Join(out, "\n")
}

func TestAnOutlineIsWhatTheTreeSays(t *testing.T) {
	const page = "<!doctype html>\n<html lang=en><head><meta charset=utf-8><title>a</title></head>\n<body " +
		"class=x><p>x<p>y</body></html>"
	got, ok := Outline([]byte(page))
	require.True(t, ok)
	assert.Equal(t, frameOf(Parse([]byte(page), "")), frameOf(got))
	for _, other := range []string{
		"<p>x</p>", "<!doctype html><title>x</title><p>y",
		"<!doctype html><html><head><title>x</title><p>y</p></head><body></body></html>",
		"<!doctype html><html><head>x</head><body></body></html>",
		"<!doctype html><html><head></head><body><body></body></html>",
		"<!doctype html><html><head></head><body></body>x</html>",
		"<!doctype html><html><head></head><body></body></html><p>x</p>",
		"<!doctype html><html><head></head><frameset></frameset></html>",
		"<!doctype html><html><head></head><body>",
	} {
		t.Run(other, func(t *testing.T) {
			_, ok := Outline([]byte(other))
			assert.False(t, ok, other)
		})
	}
	pieces := []string{"<!doctype html>", "<html>", "<head>", "<title>a</title>", "<meta charset=utf-8>", "</head>",
		"<body>",
		"<h1>b</h1>", "<p>c", "</div>", "<svg><title>d</title></svg>", "<table><h1>e</h1></table>",
		"<select><link></select>",
		"<script>'</head><body>'</script>", "<!-- <body> -->", "<link rel=stylesheet href=a>", "</body>", "</html>",
		" ", "x",
		"<noscript><link></noscript>", "<template><h1></template>", "<head/>", "<b><p>f</b></p>",
		"<textarea><h1></textarea>"}
	rapid.Check(t, func(r *rapid.T) {
		n := rapid.IntRange(0, 8).Draw(r, "inner")
		list := []string{"<!doctype html><html>", "<head>", "<title>a</title>", "</head>", "<body>"}
		for range n {
			list = append(list, rapid.SampledFrom(pieces).Draw(r, "piece"))
		}
		list = append(list, "</body>", "</html>")
		if rapid.Bool().Draw(r, "moved") {
			i := rapid.IntRange(0, len(list)-1).Draw(r, "from")
			list[i], list[len(list)/2] = list[len(list)/2], list[i]
		}
		src := []byte(strings.Join(list, ""))
		if got, ok := Outline(src); ok {
			want := frameOf(Parse(src, ""))
			if got := frameOf(got); got != want {
				r.Fatalf("%s\n%s\n\n%s", src, got, want)
			}
		}
	})
}
