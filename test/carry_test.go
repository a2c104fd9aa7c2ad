package test

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/internal/api"
	"compactparcel/test/harness"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// carriedSite names a site, the pages in which its pieces stand, and for each piece
// the selector of its outermost element.
type carriedSite struct {
	name, folder string
	pieces       []carriedPiece
}

type carriedPiece struct{ address, page, root, hover string }

// A piece alone, with the rules that its kit carries, looks as it does in its page:
// at two widths, and under the mouse and the keyboard.
func TestCarriedPiecesLookAsAtHome(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	s.Must("site", "adopt", "fixtures/context", "--name", "context")
	b := harness.NewBrowser(t)
	var whole, carried int
	for _, site := range []carriedSite{
		{"context", "fixtures/context",
			[]carriedPiece{{"section/hours", "/", ".hours", ".ask"}, {"section/notes", "/", ".notes", ""},
				{"part/top", "/", ".top", "a"}}},
		{"kestrel-refuge", "", []carriedPiece{{"section/opening-hours", "/getting-here/", ".hours", ""},
			{"section/latest-notices", "/", ".notices", ""},
			{"part/site-header", "/contact/", ".site-header", ".mark"},
			{"part/site-footer", "/contact/", ".site-footer", "a"}}},
	} {
		for n, p := range site.pieces {
			kit := fmt.Sprintf("%s-%d@1.0.0", site.name, n)
			s.Must("kit", "new", kit)
			s.Must("kit", "add", kit, p.address, "--from", site.name)
			var k api.Kit
			s.JSON(&k, "kit", "show", kit)
			for _, w := range k.Weights {
				whole, carried = whole+w.WholeBytes, carried+w.Bytes
			}
			s.JSON(&k, "kit", "seal", kit)
			for _, width := range []int64{390, 1280} {
				name := strings.ReplaceAll(fmt.Sprintf("carried-%s-%s-%d", site.name, p.address, width), "/", "-")
				there := pieceShots(b, s.Live(site.name)+p.page, p, width)
				here := pieceShots(b, k.Preview+"/_cp/alone/"+p.address, p, width)
				require.Equal(t, len(there), len(here))
				for i := range there {
					assert.Zero(t, harness.Compare(t, fmt.Sprintf("%s-%d", name, i), there[i], here[i]),
						"%s at %d px, state %d", p.address, width, i)
				}
			}
		}
	}
	t.Logf("the pieces carry %d bytes of rules; their whole stylesheets have %d", carried, whole)
}

// pieceShots shows a page and gives pictures of a piece: as it is, under the mouse,
// and with the focus, where it has something for either.
func pieceShots(b *harness.Browser, url string, p carriedPiece, width int64) [][]byte {
	b.Size(width, 3600)
	b.Go(url)
	// Of the same words and the same current page, and without pictures of chance.
	harness.Eval[bool](
		b,
		`(document.querySelectorAll("[data-fill]").forEach((e) => { e.textContent = "A hut" }), `+
			`document.querySelectorAll("[aria-current]").forEach((e) => e.removeAttribute("aria-current")), `+
			`document.querySelectorAll("cp-records, .cards").forEach((e) => { e.innerHTML = '<li `+
			`class="card">x</li>' }), document.querySelectorAll(".mark").forEach((e) => { e.textContent = "A `+
			`hut" }), document.querySelectorAll(".site-footer p").forEach((e, i) => { if (!e.querySelector("a")) `+
			`e.textContent = "Line " + i }), scrollTo(0, 0), true)`,
	)
	// A scaled picture is drawn otherwise where the browser's tiles meet: one of one colour is not.
	harness.Eval[bool](
		b,
		`Promise.all([...document.images].map((e) => { e.src = "data:image/svg+xml,<svg `+
			`xmlns='http://www.w3.org/2000/svg' width='8' height='6'><rect width='8' height='6' `+
			`fill='teal'/></svg>"; return e.decode().catch(() => {}) })).then(() => true)`,
	)
	// On a plain ground: what lies behind a piece is not the piece.
	harness.Eval[bool](b,
		`(document.documentElement.style.background = "white", document.body.style.background = "white", true)`)
	// On whole pixels: glyphs are drawn otherwise between them.
	harness.Eval[bool](
		b,
		`(() => { const top = document.querySelector("`+p.root+`").getBoundingClientRect().top; `+
			`document.documentElement.style.marginTop = (Math.ceil(top) - top) + "px"; return true })()`,
	)
	shots := [][]byte{elementShot(b, p.root)}
	if p.hover != "" {
		b.Do(chromedp.Focus(p.root + " " + p.hover))
		shots = append(shots, elementShot(b, p.root))
		x := harness.Eval[[]float64](
			b,
			`(() => { document.activeElement.blur(); const r = document.querySelector("`+p.root+" "+p.hover+
				`").getBoundingClientRect(); return [r.left + r.width / 2, r.top + r.height / 2] })()`,
		)
		b.Hover(x[0], x[1])
		shots = append(shots, elementShot(b, p.root))
		b.Hover(1, 3590)
	}
	return shots
}

// elementShot gives a picture of an element's own box.
func elementShot(b *harness.Browser, selector string) []byte {
	b.Painted()
	r := harness.Eval[[]float64](
		b,
		`(() => { const r = document.querySelector("`+selector+`").getBoundingClientRect(); return [r.left, `+
			`r.top, r.right, r.bottom].map(Math.round) })()`,
	)
	return b.Clip(r[0], r[1], r[2], r[3])
}
