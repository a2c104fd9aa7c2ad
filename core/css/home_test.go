package css

import (
	"strings"
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
)

const rowPage = `<!doctype html><html><body><main class=row><section class=one>1</section><section ` +
	`class=two><p>2</p></section><section class=three>3</section></main></body></html>`

// carriedAt gives what is carried of a stylesheet for the element with a class.
func carriedAt(page, class, sheet string) string {
	return strings.TrimSpace(string(Subset(Parse([]byte(sheet)), at(page, class)).CSS))
}

func TestThePlaceAmongSiblingsIsSettledAtHome(t *testing.T) {
	for src, want := range map[string]string{
		"section:nth-of-type(even){top:0}":   "section:where(.two):not(.cp-never) {top:0}",
		"section:nth-of-type(odd){top:0}":    "",
		"section:first-child{top:0}":         "",
		"section:not(:first-child) p{top:0}": "section:where(.two):not(.cp-never) p {top:0}",
		".row > section:nth-child(2){top:0}": "section:not(.cp-never):where(.two):not(.cp-never) {top:0}",
		".one + .two:not(:last-child)::before{top:0}": ".two:not(.cp-never):where(.two):not(.cp-never)::before " +
			"{top:0}",
		".two p:first-child{top:0}":           ".two p:first-child {top:0}",
		".two:has(+ .three){top:0}":           ".two:where(.two):not(.cp-never) {top:0}",
		".two:nth-child(2 of section){top:0}": ".two:where(.two):not(.cp-never):not(cp-never) {top:0}",
		"p:only-child{top:0}":                 "p:only-child:where(.two, .two *) {top:0}",
	} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, want, carriedAt(rowPage, "two", src), src)
		})
	}
}

func TestAPieceThatStandsInTwoPlacesKeepsWhatDependsOnThem(t *testing.T) {
	pieces := append(
		at(rowPage, "two"),
		at(strings.Replace(rowPage, "<section class=one>1</section>", "", 1), "two")...)
	out := string(Subset(Parse([]byte("section:nth-of-type(even){top:0} section.two:last-child{left:0}")), pieces).CSS)
	assert.Contains(t, out, "section:nth-of-type(even)", "here even, there odd: it goes on depending")
	assert.NotContains(t, out, "left", "it is last in neither")
}

func TestStylesheetsAreCutTogether(t *testing.T) {
	piece := at(rowPage, "two")
	used := func(sheets ...string) []SheetUse {
		var out []SheetUse
		for _, s := range sheets {
			out = append(out, SheetUse{Sheet: Parse([]byte(s)), Pieces: piece})
		}
		return out
	}
	cut := SubsetAll(used(
		":root{--ink:var(--dark);--dark:#222;--idle:red} @font-face{font-family:Hut;src:url(h.woff2)} "+
			"@font-face{font-family:Idle;src:url(i.woff2)} @keyframes glow{from{top:0}} "+
			"body{color:red;font-size:20px}",
		".two{color:var(--ink);font-family:Hut;animation:glow 1s} html body{color:green} @property "+
			"--dark{syntax:'*';inherits:true}",
	))
	assert.Contains(t, string(cut[0].CSS), "--ink:var(--dark)")
	assert.Contains(t, string(cut[0].CSS), "--dark:#222", "through another")
	assert.NotContains(t, string(cut[0].CSS), "--idle")
	assert.Contains(t, string(cut[0].CSS), "h.woff2")
	assert.NotContains(t, string(cut[0].CSS), "i.woff2")
	assert.Contains(t, string(cut[0].CSS), "@keyframes glow")
	assert.Contains(t, string(cut[1].CSS), "@property --dark")
	assert.NotContains(t, string(cut[0].CSS), "cp-frame", "what frames the piece is in one sheet, in one order")
	assert.Regexp(t, `(?s)color:red.*color:green`, string(cut[1].CSS), "the stronger rule has the last word")

	whole := used(":root{--ink:#222}", ".far{color:var(--ink)}")
	whole[1].Whole = true
	cut = SubsetAll(whole)
	assert.Contains(t, string(cut[0].CSS), "--ink", "what a whole sheet names comes along")
	assert.Equal(t, ".far{color:var(--ink)}", string(cut[1].CSS))
}

func TestWhatMarkupAroundAPieceSaysOfItsStyle(t *testing.T) {
	page := `<body text="#123456" link="#654321" alink=red bgcolor=white dir=rtl><center ` +
		`style="font-style:italic; --gap:3px; width:9px"><font color=navy face="DejaVu Sans" size=5><div ` +
		`class=two><a href=x>x</a></div></font></center>`
	out := carriedAt(page, "two", ".two{margin:var(--gap)}")
	for _, want := range []string{"color: #123456", ".two:any-link, .two :any-link", "color: #654321", ":active",
		"direction: rtl", "text-align: -webkit-center", "font-style: italic", "--gap:3px", "color: navy",
		"font-family: DejaVu Sans", "font-size: x-large"} {
		assert.Contains(t, out, want)
	}
	assert.NotContains(t, out, "width", "only what is inherited")
	assert.NotContains(t, out, "background")
	assert.Less(t, strings.Index(out, "#123456"), strings.Index(out, "navy"), "the inner has the last word")
}

func TestMarginsStayInWhereTheBoxAroundIsAGrid(t *testing.T) {
	out := carriedAt(rowPage, "two",
		".row{display:grid} @media (max-width:600px){.row{display:block}} body{display:flex}")
	assert.Contains(t, out, ":where(.two) { display: flow-root; }")
	assert.Contains(t, out, "@media (max-width:600px){ :where(.two) { display: revert-layer; } }")
	assert.Equal(t, 1, strings.Count(out, "flow-root"), "only the box right around it counts")
}

func TestInheritOnTheRootMeansTheHostFrame(t *testing.T) {
	page := `<!doctype html><html><body><div class=two><button>x</button></div></body></html>`
	out := carriedAt(
		page,
		"two",
		"body{font-size:20px;color:red} div, button{font:inherit;margin:inherit} .two::before{color:inherit} "+
			".two{letter-spacing:inherit}",
	)
	assert.Contains(t, out, "div:where(.two) { font-size: revert-layer; }", "and the button in it goes on inheriting")
	assert.NotContains(t, out, "letter-spacing: revert-layer", "nothing around it says so")
	assert.NotContains(t, out, "color: revert-layer")
	assert.NotContains(t, carriedAt(page, "two", ".two{font:inherit}"), "revert-layer",
		"without a frame there is nothing to go back to")
}

func TestAPageKeepsItsBodysRulesAndTheyReachNoOther(t *testing.T) {
	sheet := "html{font-size:62.5%} body{margin:0;--gap:1px;--idle:2px} html body{color:red} :root{--a:1px} " +
		"p{top:var(--a);left:var(--gap)} body.x main{top:0} .never{top:0}"
	carried := func(page string) string {
		return string(Subset(Parse([]byte(sheet)), []Subject{SubjectOf(markup.Parse([]byte(page), ""))}).CSS)
	}
	byClass := carried(`<!doctype html><html><body class="x y"><main><p>x</p></main></body></html>`)
	for _, want := range []string{"html:where(:has(body.x)) {font-size:62.5%}", "body:where(body.x) { margin:0; }",
		"html body:where(body.x) {color:red}", "p:where(body.x, body.x *)", "--gap:1px", "body.x main {top:0}"} {
		assert.Contains(t, byClass, want)
	}
	assert.NotContains(t, byClass, "--idle")
	assert.NotContains(t, byClass, ".never")
	assert.NotContains(t, byClass, "--cp-rem", "its html has the size itself")
	byContent := carried(
		`<!doctype html><html><body><header class="top">t</header><main><div ` +
			`class="rooms"><p>x</p></div></main></body></html>`,
	)
	assert.Contains(t, byContent, "html:where(:has(.rooms)) {font-size:62.5%}")
	assert.Contains(t, byContent, "body:where(body:has(.rooms)) { margin:0; }")
	bare := Subset(Parse([]byte(sheet)),
		[]Subject{SubjectOf(markup.Parse([]byte(`<!doctype html><html><body><p>x</p></body></html>`), ""))})
	assert.Contains(t, string(bare.CSS), "html {font-size:62.5%}")
	assert.Contains(t, strings.Join(bare.Notes, "\n"), "without an id or a class anywhere")
}

func TestRemsStayThoseOfHome(t *testing.T) {
	sheet := "html{font-size:62.5%} @media (min-width:40rem){html{font-size:1.2em} .two{padding:1.5rem -2REM " +
		"3em}} @property --w{syntax:'<length>';inherits:true;initial-value:1rem} .two{margin:clamp(1rem, 2vw, " +
		"3rem);width:var(--w)}"
	out := carriedAt(rowPage, "two", sheet)
	for _, want := range []string{"--cp-rem: calc(0.625 * 16px)", "--cp-rem: calc(1.2 * 16px)",
		"padding:calc(1.5 * var(--cp-rem, 1rem)) calc(-2 * var(--cp-rem, 1rem)) 3em",
		"clamp(calc(1 * var(--cp-rem, 1rem)), 2vw, calc(3 * var(--cp-rem, 1rem)))", "@media (min-width:40rem)",
		"initial-value:1rem"} {
		assert.Contains(t, out, want)
	}
	root := carriedAt(
		rowPage,
		"two",
		":root{--gap:1.5rem;--pad:calc(2 * var(--gap))} @media print{:root{--gap:1rem}} html{font-size:20px} "+
			".two{margin:var(--pad)}",
	)
	assert.Contains(t, root, ":root { --gap:1.5rem; --pad:calc(2 * var(--gap)); }")
	assert.Contains(
		t,
		root,
		":where(.two) { --gap:calc(1.5 * var(--cp-rem, 1rem)); --pad:calc(2 * var(--gap)); }",
		"said again where --cp-rem is known",
	)
	assert.Contains(t, root, "@media print{ :where(.two) { --gap:calc(1 * var(--cp-rem, 1rem)); } }")
	assert.NotContains(t, carriedAt(rowPage, "two", "html{font-size:100%} .two{margin:1rem}"), "--cp-rem",
		"that is the initial size")
}

func TestARootKeepsWhatItIsByItself(t *testing.T) {
	sheet := "body{font:20px/1.5 Georgia;color:red} .around{font-size:.9em;letter-spacing:.1em}"
	page := func(tag string) string {
		return "<!doctype html><html><body><div class=around><" + tag + ` class=two href=x>x</` + tag +
			"></div></body></html>"
	}
	button := carriedAt(page("button"), "two", sheet)
	for _, want := range []string{"color: revert-layer", "font-size: revert-layer", "letter-spacing: revert-layer"} {
		assert.Contains(t, button, want, "a button takes nothing of this from around it")
	}
	heading := carriedAt(page("h2"), "two", sheet)
	assert.Contains(t, heading, "--cp-size-1: 20px; font-size: calc(1.5 * var(--cp-size-1))",
		"the shorthand sets a size, too")
	assert.Contains(t, heading, "--cp-size-2: calc(.9 * var(--cp-size-1)); font-size: calc(1.5 * var(--cp-size-2))")
	assert.Contains(t, heading, "letter-spacing: calc(.1 * var(--cp-size-2))")
	assert.Contains(t, heading, "font-weight: revert-layer")
	assert.NotContains(t, heading, "color: revert-layer")
	assert.Contains(t, carriedAt(page("a"), "two", sheet), "color: revert-layer")
	assert.NotContains(t, carriedAt(page("div"), "two", sheet), "revert-layer")
	small := carriedAt(page("small"), "two", "body{font-size:clamp(1px,2vw,calc(3px + 1em))}")
	assert.Contains(t, small, "--cp-size-1: clamp(1px,2vw,calc(3px + calc(1 * 16px)))")
	assert.Contains(t,
		carriedAt(page("div"), "two", "body{font:italic clamp(1px,(2px),3px)/2 serif} .around{font-size:2em}"),
		"--cp-size-1: clamp(1px,(2px),3px)")
}
