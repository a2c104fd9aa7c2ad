package test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
	"compactparcel/demo"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// demoSites are the sites of the demo world.
var demoSites = []string{"kestrel-refuge", "larch-saddle", "cairn-edge"}

// Every block of every page of the fixture and the demo sites, alone with the rules
// that are carried for it, looks as it does in its page: wide or narrow, under the
// mouse, with the focus, and with the classes that the page's scripts switch.
func TestEveryBlockAloneLooksAsInItsPage(t *testing.T) {
	t.Parallel()
	s := harness.Start(t, "--demo=sites")
	b := harness.NewBrowser(t)
	var whole, carried, blocks int
	for _, name := range append(append([]string{}, fixtureSites...), demoSites...) {
		dir := filepath.Join(t.TempDir(), name)
		switch from := filepath.Join(harness.Root(t), "test", "fixtures", "sites", name); {
		case name == "cairn-edge":
			from = filepath.Join(s.Data, demo.Loose)
			fallthrough
		case has(fixtureSites, name):
			s.Must("site", "adopt", from, "--name", name, "--parts", "none")
		}
		s.Must("site", "publish", name, dir)
		dir, err := filepath.EvalSymlinks(dir)
		require.NoError(t, err)
		e := &exactSite{t: t, b: b, name: name, dir: dir, root: serve(t, dir)}
		for _, p := range pagesOf(t, dir) {
			if !strings.HasPrefix(p, "_cp/") && (p == "index.html" || soaking()) {
				e.page(p)
			}
		}
		assert.Positive(t, e.blocks, name)
		t.Logf("%s: %d blocks; %d bytes carried, their stylesheets have %d", name, e.blocks, e.carried, e.whole)
		whole, carried, blocks = whole+e.whole, carried+e.carried, blocks+e.blocks
	}
	t.Logf("in all: %d blocks carry %d bytes of rules; their whole stylesheets have %d", blocks, carried, whole)
}

func has(list []string, s string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

// exactSite is a published site whose blocks are looked at.
type exactSite struct {
	t                      *testing.T
	b                      *harness.Browser
	name, dir, root        string
	n                      int
	sheets                 []css.SheetUse
	seen                   map[string]int // stylesheet file → its place among the sheets
	whole, carried, blocks int
}

// edge is how large a patch of pixels may differ, and corners how many pixels in all:
// the browser draws a page in tiles, and the few pixels of a rounded corner otherwise
// where two meet.
const edge, corners = 10, 40

// still makes a page that stands still, on a white ground.
const still = `<style>*, ::before, ::after { transition: none !important; animation: none !important; ` +
	`caret-color: transparent !important }</style>`

// page looks at the blocks of one page. Its scripts are left out at both places: the
// classes that they switch are put on by hand.
func (e *exactSite) page(p string) {
	src, err := os.ReadFile(filepath.Join(e.dir, p))
	require.NoError(e.t, err)
	tree := markup.Parse(src, "")
	switched := map[string]bool{}
	var edits []span.Edit
	scripts := [][]byte{src}
	for _, n := range tree.ByTag("script") {
		edits = append(edits, span.Edit{Span: n.Outer()})
		if from := n.Value("src"); from != "" {
			if js, err := os.ReadFile(e.file(p, from)); err == nil {
				scripts = append(scripts, js)
			}
		}
	}
	for i, text := range scripts {
		f := facts.Extract(item.Page, "", text)
		if i > 0 {
			f = facts.Extract(item.Media, "text/javascript", text)
		}
		for _, m := range f.Mentions {
			for _, w := range strings.Fields(m) {
				if regexp.MustCompile(`^-?[A-Za-z_][\w-]*$`).MatchString(w) {
					switched[w] = true
				}
			}
		}
	}
	src, err = span.Apply(src, edits)
	require.NoError(e.t, err)
	e.wholePage(p, src, switched)
	count := len(blocksOf(markup.Parse(src, "")))
	for i := range count {
		e.block(p, src, i, switched)
	}
}

// blocksOf gives the elements that a librarian would take for pieces: what stands in
// the body, and in what only holds others.
func blocksOf(t *markup.Tree) []*markup.Node {
	var out []*markup.Node
	var walk func(n *markup.Node, depth int)
	walk = func(n *markup.Node, depth int) {
		for _, c := range n.Children {
			switch c.Tag {
			case "script", "style", "link", "template", "noscript", "br", "a", "p", "h1", "h2", "hr":
				continue
			}
			if !c.Own || c.Value("hidden") != "" || len(out) >= 14 {
				continue
			}
			if depth < 2 && len(c.Children) > 1 && (c.Tag == "main" || c.Tag == "div") && c.Text() != "" &&
				allBlocks(c) {
				walk(c, depth+1)
				continue
			}
			out = append(out, c)
		}
	}
	for _, n := range t.ByTag("body") {
		walk(n, 0)
	}
	return out
}

func allBlocks(n *markup.Node) bool {
	for _, c := range n.Children {
		if strings.Contains(" section article aside nav header footer main div form table figure ", " "+c.Tag+" ") {
			return true
		}
	}
	return false
}

// block compares one block. It is marked with an attribute of its own; one that has
// neither an id nor a class gets a class, as a piece made of it would.
func (e *exactSite) block(p string, src []byte, i int, switched map[string]bool) {
	n := blocksOf(markup.Parse(src, ""))[i]
	edits := []span.Edit{markup.SetAttr(n, "data-block", "1")}
	if n.Value("id") == "" && len(n.Classes()) == 0 {
		edits = []span.Edit{
			{
				Span: span.Span{Start: n.Start.Start + 1 + len(n.Tag), End: n.Start.Start + 1 + len(n.Tag)},
				New:  []byte(` class="own-piece" data-block="1"`),
			},
		}
	}
	src, err := span.Apply(src, edits)
	require.NoError(e.t, err)
	home := markup.Parse(src, "")
	n = home.Find(func(n *markup.Node) bool { return n.Value("data-block") != "" })
	piece := css.SubjectOf(markup.Parse(n.Outer().Of(src), n.Parent.Tag))
	piece.Home, piece.In, piece.Switched = home, n.Outer(), switched
	e.n++
	e.blocks++
	var alone bytes.Buffer
	doctype, old := "<!doctype html>", ""
	if !home.Standards() { // compared with one in quirks mode, too: there tables take their colour from the body alone
		doctype = ""
		if body := home.ByTag("body"); len(body) > 0 && body[0].Value("text") != "" {
			old = ` text="` + markup.EscapeAttr(body[0].Value("text")) + `"`
		}
	}
	fmt.Fprintf(&alone, "%s<html lang=\"en\"><head><meta charset=\"utf-8\">%s", doctype, still)
	for _, l := range e.carryFor(p, home, piece) {
		alone.WriteString(l.markup)
	}
	fmt.Fprintf(&alone, "</head><body%s><div id=\"place\">%s</div></body></html>", old, n.Outer().Of(src))
	dir := filepath.Dir(filepath.Join(e.dir, p))
	homeName, aloneName := fmt.Sprintf("home-%d.html", e.n), fmt.Sprintf("alone-%d.html", e.n)
	require.NoError(
		e.t,
		os.WriteFile(filepath.Join(dir, homeName), bytes.Replace(src, []byte("</head>"), []byte(still+"</head>"), 1),
			0o644),
	)
	require.NoError(e.t, os.WriteFile(filepath.Join(dir, aloneName), alone.Bytes(), 0o644))
	at := e.at(p)
	widths := []int64{390, 1280}
	if !soaking() { // by turns; the whole page is looked at in both
		widths = widths[i%2:][:1]
	}
	for _, width := range widths {
		var rect, other []float64
		there := e.shots(at+homeName, width, nil, &rect, switched)
		here := e.shots(at+aloneName, width, rect, &other, switched)
		label := fmt.Sprintf("%s %s, block %d <%s %s> at %d px", e.name, p, i, n.Tag, n.Value("class")+n.Value("id"),
			width)
		if !assert.InDeltaSlice(e.t, rect[:4], other[:4], 0.05, label) { // layout counts in 64ths of a pixel
			continue
		}
		for k := range there {
			differ := harness.Compare(e.t, fmt.Sprintf("exact-%s-%d-%d-%d", e.name, e.n, width, k), there[k], here[k])
			assert.LessOrEqual(e.t, differ, corners, "%s, state %d", label, k)
			if differ > edge {
				assert.LessOrEqual(e.t, harness.Patch(e.t, there[k], here[k]), edge, "%s, state %d", label, k)
			}
		}
	}
}

// link is an element of a page that brings styles, and one that brings what is carried.
type link struct {
	at     span.Span
	markup string
}

// carryFor writes what a piece carries of the stylesheets of a page.
func (e *exactSite) carryFor(p string, home *markup.Tree, piece css.Subject) []link {
	e.sheets, e.seen = nil, map[string]int{}
	type linked struct {
		n    *markup.Node
		at   int
		file string // "" for a style element
	}
	var list []linked
	for _, x := range home.All {
		switch {
		case x.Tag == "link" && strings.Contains(" "+strings.ToLower(x.Value("rel"))+" ", " stylesheet ") &&
			!strings.Contains(x.Value("rel"), "alternate"):
			file := e.file(p, x.Value("href"))
			list = append(list, linked{x, e.gather(file, piece, 0), file})
		case x.Tag == "style" && x.Space == "":
			e.sheets = append(e.sheets,
				css.SheetUse{Sheet: css.Parse(x.Inner.Of(home.Source)), Pieces: []css.Subject{piece}})
			list = append(list, linked{x, len(e.sheets) - 1, ""})
		}
	}
	cut := css.SubsetAll(e.sheets)
	for i, c := range cut {
		e.whole, e.carried = e.whole+len(e.sheets[i].Sheet.Source), e.carried+len(c.CSS)
	}
	for file, i := range e.seen {
		e.write(file, cut[i].CSS)
	}
	var out []link
	for _, l := range list {
		media := markup.EscapeAttr(l.n.Value("media"))
		text := fmt.Sprintf(`<style media="%s">%s</style>`, media, cut[l.at].CSS)
		if l.file != "" {
			text = fmt.Sprintf(`<link rel="stylesheet" href="%s" media="%s">`, e.address(e.carriedName(l.file)), media)
		}
		out = append(out, link{l.n.Outer(), text})
	}
	return out
}

// wholePage compares a page with itself, its stylesheets cut down to what it uses.
func (e *exactSite) wholePage(p string, src []byte, switched map[string]bool) {
	tree := markup.Parse(src, "")
	piece := css.SubjectOf(tree)
	piece.Switched = switched
	e.n++
	var edits []span.Edit
	for _, l := range e.carryFor(p, tree, piece) {
		edits = append(edits, span.Edit{Span: l.at, New: []byte(l.markup)})
	}
	cut, err := span.Apply(src, edits)
	require.NoError(e.t, err)
	dir := filepath.Dir(filepath.Join(e.dir, p))
	for name, text := range map[string][]byte{"home": src, "cut": cut} {
		require.NoError(
			e.t,
			os.WriteFile(filepath.Join(dir, fmt.Sprintf("%s-%d.html", name, e.n)),
				bytes.Replace(text, []byte("</head>"), []byte(still+"</head>"), 1), 0o644),
		)
	}
	at := e.at(p)
	for width, n := range e.b.Differ(fmt.Sprintf("exact-%s-%d", e.name, e.n), fmt.Sprintf("%shome-%d.html", at, e.n),
		fmt.Sprintf("%scut-%d.html", at, e.n), 390, 1280) {
		assert.LessOrEqual(e.t, n, edge, "%s %s, the whole page at %d px", e.name, p, width)
	}
}

// at gives the address of a page's folder.
func (e *exactSite) at(p string) string {
	if path.Dir(p) == "." {
		return e.root + "/"
	}
	return e.root + "/" + path.Dir(p) + "/"
}

// file gives the published file behind an address in a page or a stylesheet.
func (e *exactSite) file(from, address string) string {
	address, _, _ = strings.Cut(address, "?")
	if a, err := url.PathUnescape(address); err == nil {
		address = a
	}
	if !strings.HasPrefix(address, "/") {
		address = path.Join("/", path.Dir(from), address)
	}
	return filepath.Join(e.dir, filepath.FromSlash(address))
}

// gather puts a stylesheet behind those that it imports, and gives its place.
func (e *exactSite) gather(file string, piece css.Subject, depth int) int {
	if at, ok := e.seen[file]; ok {
		return at
	}
	src, err := os.ReadFile(file)
	require.NoError(e.t, err)
	sheet := css.Parse(src)
	for _, r := range sheet.Refs() {
		if r.Space == css.Import && depth < 8 {
			e.gather(e.file(e.rel(file), r.Name), piece, depth+1)
		}
	}
	e.sheets = append(e.sheets, css.SheetUse{Sheet: sheet, Pieces: []css.Subject{piece}})
	e.seen[file] = len(e.sheets) - 1
	return e.seen[file]
}

// write puts what is carried of a stylesheet beside it; it imports what is carried of others.
func (e *exactSite) write(file string, text []byte) {
	var edits []span.Edit
	for _, r := range css.Parse(text).Refs() {
		if r.Space == css.Import {
			edits = append(edits,
				span.Edit{Span: r.At, New: []byte(e.address(e.carriedName(e.file(e.rel(file), r.Name))))})
		}
	}
	text, err := span.Apply(text, edits)
	require.NoError(e.t, err)
	require.NoError(e.t, os.WriteFile(e.carriedName(file), text, 0o644))
}

func (e *exactSite) carriedName(file string) string {
	return fmt.Sprintf("%s.carried-%d.css", strings.TrimSuffix(file, ".css"), e.n)
}

func (e *exactSite) rel(file string) string {
	rel, err := filepath.Rel(e.dir, file)
	require.NoError(e.t, err)
	return filepath.ToSlash(rel)
}

func (e *exactSite) address(file string) string {
	return (&url.URL{Path: "/" + e.rel(file)}).EscapedPath()
}

// shots shows a page and gives pictures of its marked block: as it is, with the focus
// on and the mouse over the first thing that takes either, and with each switched
// class. At home it tells in rect where the block and its place are; alone the block is
// put into a box of that place.
func (e *exactSite) shots(
	address string,
	width int64,
	place []float64,
	rect *[]float64,
	switched map[string]bool,
) [][]byte {
	e.b.Size(width, 3000)
	e.b.Go(address)
	if place != nil {
		harness.Eval[bool](
			e.b,
			fmt.Sprintf(
				`(() => { const p = document.getElementById("place"), [l, t, r, b, x, y, w, fixed, bw, bh] = %s;
		  document.body.style.cssText += `+
					`";margin:0;padding:0;border:0;display:block;min-height:0;width:auto;max-width:none";
		  Object.assign(p.style, { position: "absolute", left: x + "px", top: y + "px", width: w + "px" });
		  const e = document.querySelector("[data-block]");
		  if (fixed) { e.style.setProperty("width", bw + "px", "important"); e.style.setProperty("height", bh + `+
					`"px", "important"); e.style.setProperty("box-sizing", "border-box", "important"); `+
					`e.style.setProperty("margin", "0", "important") }
		  for (let i = 0; i < 3; i++) { const r = e.getBoundingClientRect(); p.style.left = `+
					`(parseFloat(p.style.left) + l - r.left) + "px"; p.style.top = (parseFloat(p.style.top) + t `+
					`- r.top) + "px" }
		  return true })()`,
				jsonOf(place),
			),
		)
	}
	// What stands around or behind the block is not the block.
	harness.Eval[bool](e.b, `(() => { let e = document.querySelector("[data-block]");
	  for (let n = e; n.parentElement; n = n.parentElement) {
	    for (const s of n.parentElement.children) if (s !== n) s.style.setProperty("visibility", "hidden", `+
		`"important");
	    for (const [k, v] of [["background", "none"], ["border-color", "transparent"], ["box-shadow", "none"], `+
		`["outline", "none"]]) n.parentElement.style.setProperty(k, v, "important");
	  }
	  document.documentElement.style.setProperty("background", "white", "important");
	  scrollTo(0, 0); return true })()`)
	harness.Eval[bool](
		e.b,
		`Promise.all([document.fonts.ready, ...[...document.images].map((e) => { e.loading = "eager"; return `+
			`e.decode().catch(() => {}) })]).then(() => true)`,
	)
	if place == nil { // on whole pixels: glyphs are drawn otherwise between them
		harness.Eval[bool](
			e.b,
			`(() => { const h = document.documentElement, r = `+
				`document.querySelector("[data-block]").getBoundingClientRect(); h.style.position = "relative"; `+
				`h.style.top = (Math.ceil(r.top) - r.top) + "px"; h.style.left = (Math.ceil(r.left) - r.left) + `+
				`"px"; return true })()`,
		)
	}
	*rect = harness.Eval[[]float64](
		e.b,
		`(() => { const e = document.querySelector("[data-block]"), r = e.getBoundingClientRect(), p = `+
			`e.parentElement, q = p.getBoundingClientRect(), c = getComputedStyle(p), d = getComputedStyle(e), f `+
			`= (x) => parseFloat(x) || 0;
	  const fixed = /flex|grid|table/.test(c.display) || /fixed|absolute|sticky/.test(d.position) || d.float !== `+
			`"none" ? 1 : 0;
	  return [r.left, r.top, r.right, r.bottom, q.left + f(c.borderLeftWidth) + f(c.paddingLeft), r.top, `+
			`p.clientWidth - f(c.paddingLeft) - f(c.paddingRight), fixed, r.width, r.height] })()`,
	)
	r := *rect
	if r[2]-r[0] < 1 || r[3]-r[1] < 1 { // it is shown in another state only, or not at this width
		return nil
	}
	shots := [][]byte{e.b.Clip(r[0], r[1], r[2], r[3])}
	if at := harness.Eval[[]float64](
		e.b,
		`(() => { const e = document.querySelector("[data-block]").querySelector(":is(a[href], button, input, `+
			`select, summary):not([type=hidden])"); if (!e || !e.checkVisibility({ visibilityProperty: true })) `+
			`return []; const r = e.getClientRects()[0]; return r && r.width > 2 ? [r.left + r.width / 2, r.top `+
			`+ r.height / 2] : [] })()`,
	); len(at) == 2 {
		harness.Eval[bool](
			e.b,
			`(document.querySelector("[data-block]").querySelector(":is(a[href], button, input, select, `+
				`summary):not([type=hidden])").focus({ preventScroll: true, focusVisible: true }), true)`,
		)
		shots = append(shots, e.b.Clip(r[0], r[1], r[2], r[3]))
		harness.Eval[bool](e.b, `(document.activeElement.blur(), true)`)
		e.b.Hover(at[0], at[1])
		shots = append(shots, e.b.Clip(r[0], r[1], r[2], r[3]))
		e.b.Hover(float64(width)-1, 2999)
	}
	if len(switched) > 0 {
		harness.Eval[bool](
			e.b,
			fmt.Sprintf(
				`(document.querySelectorAll("[data-block], [data-block] *").forEach((e) => { if (e.className `+
					`instanceof SVGAnimatedString) return; for (const c of %s) if `+
					`(![...e.parentElement.children].some((x) => x !== e && x.classList.contains(c))) `+
					`e.classList.toggle(c) }), true)`,
				jsonOf(keysOf(switched)),
			),
		)
		shots = append(shots, e.b.Clip(r[0], r[1], r[2], r[3]))
	}
	return shots
}

func jsonOf(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // plain numbers and strings
	}
	return string(b)
}

func keysOf(m map[string]bool) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
