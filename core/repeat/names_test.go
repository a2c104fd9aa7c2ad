package repeat

import (
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
)

func TestBlocksAreNamedByWhatTheySay(t *testing.T) {
	for src, want := range map[string]string{
		`<section class="py-5 bg-light" id="s3"><h2>Latest posts</h2><p>x</p></section>`:             "latest-posts",
		`<section class="row" aria-label="House rules"><h2>Rules</h2></section>`:                     "house-rules",
		`<div class="col-lg-4"><img src="a.jpg"><h3>All the walks that we like best here</h3></div>`: "card",
		`<div class="col-lg-4 team-member"><img src="a.jpg"></div>`:                                  "team-member",
		`<div class="d-flex mb-2"><time>1 May</time><p>x</p></div>`:                                  "post",
		`<div class="row g-4"><div><i></i><h3>One</h3></div><div><i></i><h3>Two</h3></div></div>`:    "one",
		`<div class="mt-3"><blockquote>x</blockquote></div>`:                                         "quote",
		`<nav class="navbar navbar-expand-lg"><a href="/">x</a></nav>`:                               "navbar",
		`<nav class="d-flex"><a href="/">x</a></nav>`:                                                "navigation",
		`<div class="col-6"></div>`:                                                                  "",
	} {
		t.Run(src, func(t *testing.T) {
			tree := markup.Parse([]byte(src), "body")
			assert.Equal(t, want, calledBy(tree.Root.Children[0]).name(), src)
		})
	}
}

func TestBlocksInARowAreNamedByTheHeadingOverThem(t *testing.T) {
	for src, want := range map[string]string{
		`<section><div class="text-center"><h2>From the log</h2><p>x</p></div><div class="row"><div id="x" ` +
			`class="col">1</div>` +
			`</div></section>`: "log",
		`<section><h2>Our huts</h2><div class="row"><div id="x" class="col">1</div></div></section>`: "hut",
		`<section><h2>Team</h2><p>x</p></section>` +
			`<div class="row"><div id="x" class="col-3"><img></div></div>`: "picture",
		`<section><h1>Hut</h1><div id="x" class="post-preview"><h3>x</h3></div></section>`: "post-preview",
	} {
		t.Run(src, func(t *testing.T) {
			tree := markup.Parse([]byte(src), "body")
			n := tree.Find(func(n *markup.Node) bool { return n.Value("id") == "x" })
			c := calledBy(n)
			c.above = headingAbove(n)
			assert.Equal(t, want, c.one(), src)
		})
	}
}
