package css

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
)

// Which stylesheets a document is shown with, as people write it.
func TestLoadedSheets(t *testing.T) {
	tree := markup.Parse([]byte(`<!doctype html><html><head>
<LINK REL="StyleSheet" HREF=" /css/app.css?v=2#x ">
<link rel="stylesheet preload" href="/css/a%20b.css">
<link rel="alternate stylesheet" title="dark" href="/css/dark.css">
<link rel="stylesheet" disabled href="/css/off.css">
<noscript><link rel="stylesheet" href="/css/noscript.css"></noscript>
<link rel="stylesheet" media="print" href="/css/paper.css">
<link rel="stylesheet" media="print" onload="this.media='all'" href="/css/late.css">
<link rel="stylesheet" media="(min-width: 40em)" href="/css/wide.css?1">
<link rel="stylesheet" href="//fonts.example/f.css">
<style media="screen">p{}</style>
</head><body><svg><style>path{}</style></svg><template><style>t{}</style></template></body></html>`), "")
	type sheet struct {
		path, media            string
		own, remote, offScreen bool
	}
	var got []sheet
	for _, s := range LoadedSheets(tree) {
		got = append(got, sheet{s.Path, s.Media, s.Own(), s.Remote, !s.OnScreen()})
	}
	assert.Equal(t, []sheet{
		{path: "/css/app.css"}, {path: "/css/a b.css"}, {path: "/css/paper.css", media: "print", offScreen: true},
		{path: "/css/late.css"}, {path: "/css/wide.css", media: "(min-width: 40em)"}, {remote: true}, {own: true},
	}, got)
}
