package css

import (
	"strings"
	"testing"
	"time"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const hours = `<section class="hours" id="opening"><h2>Hours</h2><ul><li class="day open">Mon</li><li ` +
	`class="day">Tue</li></ul><x-clock></x-clock></section>`

func fits(t *testing.T, selector, doc string) []string {
	t.Helper()
	sheet := Parse([]byte(selector + "{}"))
	require.Len(t, sheet.Rules, 1)
	tree := markup.Parse([]byte(doc), "")
	var out []string
	for _, n := range tree.All {
		for _, s := range sheet.Rules[0].Selectors {
			assert.False(t, s.Unknown, selector)
			if s.Fits(n, nil) {
				out = append(out, n.Tag)
				break
			}
		}
	}
	return out
}

func TestSelectorsNameTheElements(t *testing.T) {
	for selector, want := range map[string]string{
		".hours li":                        "li li",
		".hours > li":                      "",
		"section > ul > .day:first-child":  "li",
		"li:not(.open)":                    "li",
		"li:not(:hover)":                   "li li",
		"section:has(> h2 + ul)":           "section",
		"section:has(table)":               "",
		":is(h2, ul) ~ x-clock":            "x-clock",
		"li:nth-child(2n+1 of .day)":       "li",
		"li:nth-last-child(1)":             "li",
		"[class~=open i]":                  "li",
		"#opening::before, p::after":       "section",
		`section[id^="open"][class$=ours]`: "section",
		`.\64 ay.open, .none`:              "li",
		`*|li.open`:                        "li",
		`[*|id=opening]`:                   "section",
	} {
		t.Run(selector, func(t *testing.T) {
			assert.Equal(t, want, strings.Join(fits(t, selector, hours), " "), selector)
		})
	}
	assert.True(t, Parse([]byte("a:unheard-of(1) {}")).Rules[0].Selectors[0].Unknown)
}

func TestSpecificity(t *testing.T) {
	for selector, want := range map[string][3]int{"#a .b p::before": {1, 1, 2}, ":where(#a) .b": {0, 1, 0},
		":is(#a, .b) p:hover": {1, 1, 1}, "li:nth-child(2 of .x, #y)": {1, 1, 1}} {
		t.Run(selector, func(t *testing.T) {
			a, b, c := Parse([]byte(selector + "{}")).Rules[0].Selectors[0].Specificity()
			assert.Equal(t, want, [3]int{a, b, c}, selector)
		})
	}
}

func TestRefsHaveTheirPlaces(t *testing.T) {
	src := []byte(`@import "/stylesheets/base.css"; @font-face{font-family:"Hut Sans";src:url( /media/hut.woff2 )}
@layer reset, site; .card:not(.flat){background:url("/media/a b.png"), image-set("/media/c.png" 1x); --tone: ` +
		`var(--ink); animation: rise 1s; color:var(--tone)}
@keyframes rise{from{opacity:0}} @media (min-width:40em){ @container hall (width>1px){ #top{font-family:Hut ` +
		`Sans, serif} } } li{counter-increment:step 2;content:counters( step, ".", upper-roman) counter(page)}`)
	got := map[string]int{}
	for _, r := range Parse(src).Refs() {
		got[string(r.Space)+" "+r.Name]++
		assert.Equal(t, r.Name, string(r.At.Of(src)))
	}
	for _, want := range []string{"import /stylesheets/base.css", "url /media/hut.woff2", "url /media/a b.png",
		"url /media/c.png", "class card", "class flat", "property --tone", "property --ink",
		"animation rise", "layer reset", "layer site", "container hall", "id top", "font Hut Sans", "counter step",
		"counter page"} {
		assert.Contains(t, got, want)
	}
	assert.Equal(t, 2, got["counter step"])
	assert.NotContains(t, got, "counter upper-roman")
}

func TestCarryIsExactAndHitsNothingElse(t *testing.T) {
	src := []byte(`:root{--ink:#123;--unused:red;--deep:var(--ink)}
body{margin:0;font-family:Hut, serif;color:var(--deep)}
*,*::before{box-sizing:border-box}
a,h2{margin:0}
.hours,.other{padding:1rem}
.other p{color:red}
@media (min-width:40em){.hours ul{display:grid}.nothing{top:0}}
@media print{.nothing{top:0}}
.hours{ &:hover{color:blue} .gone{top:0} li{animation:blink 1s} }
@keyframes blink{to{opacity:0}} @keyframes never{to{opacity:0}}
@font-face{font-family:"Hut";src:url(/media/hut.woff2)}`)
	c := Subset(Parse(src), []Subject{SubjectOf(markup.Parse([]byte(hours), ""))})
	out := string(c.CSS)
	for _, want := range []string{"--ink:#123", "--deep:var(--ink)",
		":where(#opening) { font-family:Hut, serif; color:var(--deep); }",
		"*:where(#opening, #opening *), *:where(#opening, #opening *)::before {box-sizing",
		"h2:where(#opening, #opening *) {margin:0}", ".hours {padding:1rem}",
		"(min-width:40em){\n  .hours ul {display:grid}\n}", "&:hover", "animation:blink", "@keyframes blink",
		"/media/hut.woff2"} {
		assert.Contains(t, out, want)
	}
	for _, not := range []string{"--unused", "margin:0;", "other", "nothing", "print", "gone", "never"} {
		assert.NotContains(t, out, not)
	}
	again := Subset(Parse(c.CSS), []Subject{SubjectOf(markup.Parse([]byte(hours), ""))})
	assert.NotEmpty(t, again.CSS)
}

func TestNormalizedCSS(t *testing.T) {
	assert.Equal(t, string(Normalize([]byte("a{color:red;top:0}"))),
		string(Normalize([]byte("/* x */ a {\n  color : red;\n top: 0;\n}\n"))))
	assert.NotEqual(t, string(Normalize([]byte("a :hover{}"))), string(Normalize([]byte("a:hover{}"))))
}

func FuzzCSS(f *testing.F) {
	f.Add([]byte("@media x{.a{b:c;&:d{e:f}}}#g:not(h,i:nth-child(2n of j)){--k:{l}}"), []byte("<p class=a><b id=g>"))
	f.Fuzz(func(t *testing.T, src, doc []byte) {
		start := time.Now()
		defer func() {
			if took := time.Since(start); took > 10*time.Second {
				t.Fatalf("%d bytes took %s", len(src), took)
			}
		}()
		s := Parse(src)
		for _, r := range s.Refs() {
			_ = r.At.Of(src)
		}
		s.Walk(func(r *Rule, _ []*Rule) { _ = r.Of(src); _ = r.Body.Of(src) })
		Subset(s, []Subject{SubjectOf(markup.Parse(doc, ""))})
		Normalize(src)
	})
}

func TestBrokenSheetsEndWhereTheStandardSays(t *testing.T) {
	for src, want := range map[string]int{
		"a{color:red":                      1,
		"a{color:red}}b{top:0}":            2,
		"a{b{c{d{e{f{g{}}}}}}":             1,
		"a{color:red;{}b:c}":               1,
		"@media{a{}}":                      1,
		"@unheard-of x{a{}b{}}":            1,
		"/* open":                          0,
		"a":                                0,
		"a[b=\"c{}":                        0,
		"<!-- a{} -->":                     1,
		"a{background:url(unclosed}b{}":    1,
		"@import \"x\";@charset \"y\";a{}": 3,
	} {
		t.Run(src, func(t *testing.T) {
			assert.Len(t, Parse([]byte(src)).Rules, want, src)
		})
	}
}

func TestDeclarationsAndNestedRulesAreToldApart(t *testing.T) {
	s := Parse(
		[]byte(
			`.a{color:red;&:hover{top:0}a:hover{left:0}--x:{y:z};background:image-set("a" 1x)!important;@media ` +
				`(width>1px){right:0}> b{bottom:0}}`,
		),
	)
	require.Len(t, s.Rules, 1)
	r := s.Rules[0]
	var names []string
	for _, d := range r.Decls {
		names = append(names, d.Name)
	}
	assert.Equal(t, []string{"color", "--x", "background"}, names)
	assert.True(t, r.Decls[2].Important)
	require.Len(t, r.Rules, 4)
	assert.Equal(t, "media", r.Rules[2].At)
	assert.Equal(t, "right", r.Rules[2].Decls[0].Name)
}

func TestNestedRulesAreMatchedWithTheirParents(t *testing.T) {
	tree := markup.Parse([]byte(`<div class="card"><p class="big">x</p></div><p class="big">y</p>`), "")
	s := Parse([]byte(`.card{& > .big{top:0} .none &{top:0}}`))
	inner := s.Rules[0].Rules
	fits := func(r *Rule) (n int) {
		for _, node := range tree.All {
			if r.Selectors[0].Fits(node, s.Rules[0].Selectors) {
				n++
			}
		}
		return n
	}
	assert.Equal(t, 1, fits(inner[0]), "only the one within a card")
	assert.Equal(t, 0, fits(inner[1]))
}

func TestCarryKeepsWhatRulesLeanOn(t *testing.T) {
	piece := []Subject{
		SubjectOf(
			markup.Parse(
				[]byte(`<section class="hall" style="animation:glow 1s;color:var(--late)"><h2>x</h2></section>`), ""),
		),
	}
	out := string(Subset(Parse([]byte(`@charset "utf-8"; @layer reset, site;
@layer site { @container (width > 20em) { .hall h2 { font-family: "Hut Sans" } .none { top: 0 } } }
@supports (display: grid) { .hall { display: grid } }
@keyframes glow { to { opacity: 0 } } @keyframes "idle" { to { top: 0 } }
@property --late { syntax: "<color>"; inherits: true; initial-value: red }
@font-face { font-family: Hut Sans; src: url(/media/hut.woff2) } @font-face { font-family: Other; src: `+
		`url(/media/other.woff2) }
html { --late: var(--later); --later: #123 } :root { --never: 1 }
section:unheard-of(x) { left: 0 }`)), piece).CSS)
	for _, want := range []string{"@layer reset, site;", "@layer site", "@container (width > 20em)", "@supports",
		"@keyframes glow", "@property --late", "hut.woff2", "--later: #123", "section:unheard-of(x)"} {
		assert.Contains(t, out, want)
	}
	for _, not := range []string{".none", "idle", "other.woff2", "--never"} {
		assert.NotContains(t, out, not)
	}
	assert.Len(t, Parse([]byte(out)).Rules[0].Decls, 0)
}

func TestAPieceWithoutAHandleIsTold(t *testing.T) {
	c := Subset(Parse([]byte("p{color:red}")), []Subject{SubjectOf(markup.Parse([]byte("<p>bare</p>"), ""))})
	assert.Equal(t, "p {color:red}\n", string(c.CSS), "kept as it is")
	require.Len(t, c.Notes, 1)
	assert.Contains(t, c.Notes[0], "neither an id nor a class")
}

func TestBareTagsAreBoundToThePiecesTheyMatch(t *testing.T) {
	pieces := []Subject{
		SubjectOf(markup.Parse([]byte(`<section class="a"><p>x</p></section>`), "")),
		SubjectOf(markup.Parse([]byte(`<div class="b"><b>x</b></div>`), "")),
	}
	out := string(
		Subset(Parse([]byte("p{top:0} b{top:0} *{left:0} .cp-form{right:0} p.cp-x{right:0}")),
			append(pieces, SubjectOf(markup.Parse([]byte(`<form class="c"><i class="cp-form"></i></form>`), "")))).CSS,
	)
	assert.Equal(
		t,
		"p:where(.a, .a *) {top:0}\nb:where(.b, .b *) {top:0}\n*:where(.a, .a *, .b, .b *, .c, .c *) "+
			"{left:0}\n.cp-form:where(.c, .c *) {right:0}\n",
		out,
	)
}

func TestASelectorThatExplodesIsBounded(t *testing.T) {
	doc := strings.Repeat("<div>", 300) + strings.Repeat("</div>", 300)
	selector := strings.Repeat("div ", 60) + ".never"
	tree := markup.Parse([]byte(doc), "")
	s := Parse([]byte(selector + "{}")).Rules[0].Selectors[0]
	for _, n := range tree.All {
		assert.False(t, s.Fits(n, nil))
	}
	has := Parse([]byte(strings.Repeat("div:has(", 12) + ".x" + strings.Repeat(")", 12) + "{}")).Rules[0].Selectors[0]
	has.Fits(tree.All[0], nil) // it ends: that is all that is asked
}

func TestIdentifiersComeBackFromTheirEscapes(t *testing.T) {
	for _, name := range []string{"card", "-x", "1st", "sm:w-1/2", "größe", "a.b#c", "--x", "_", "a b"} {
		t.Run(name, func(t *testing.T) {
			src := []byte("." + EscapeIdent(name) + "{}")
			sel := Parse(src).Rules[0].Selectors[0]
			require.False(t, sel.Unknown, name)
			assert.Equal(t, name, sel.Parts[0].Simple[0].Name)
		})
	}
}

// at gives a piece at home in a page, whose place is that of the element with a class.
func at(page, class string) []Subject {
	home := markup.Parse([]byte(page), "")
	n := home.Find(func(n *markup.Node) bool { return len(n.Classes()) > 0 && n.Classes()[0] == class })
	alone := markup.Parse(n.Outer().Of(home.Source), "")
	p := SubjectOf(alone)
	return []Subject{p, {Tree: &markup.Tree{Root: &markup.Node{}}, Root: p.Root, Home: home, In: n.Outer()}}
}

const homePage = `<!doctype html><html class=w><body id=b><div class=wrap><p class=lead>l</p><section ` +
	`class=hours><h2>H</h2><p>x</p></section></div></body></html>`

func TestWhatStandsAroundAPieceIsResolvedAway(t *testing.T) {
	for src, want := range map[string]string{
		".wrap .hours h2{top:0}":     ".hours:where(.hours, .hours *):not(.cp-never) h2 {top:0}",
		".wrap > .hours > h2{top:0}": ".hours:where(.hours):not(.cp-never) > h2 {top:0}",
		"#b div.wrap h2::before{top:0}": "h2:where(.hours, .hours " +
			"*):not(#cp-never):not(.cp-never):not(cp-never)::before {top:0}",
		".lead + .hours p{top:0}":    ".hours:where(.hours):not(.cp-never) p {top:0}",
		".wrap{ .hours{top:0} }":     ".hours:where(.hours, .hours *):not(.cp-never) {top:0}",
		".wrap{ & > .hours{top:0} }": ".hours:where(.hours):not(.cp-never) {top:0}",
		"@media print{.w .hours{top:0}}": "@media print{\n  .hours:where(.hours, .hours *):not(.cp-never) " +
			"{top:0}\n}",
		".hours p{top:0}":                    ".hours p {top:0}",
		".elsewhere .hours{top:0}":           "",
		".wrap:hover .hours{top:0}":          "",
		".wrap > h2{top:0}":                  "",
		".hours ~ p{top:0} .wrap + p{top:0}": "",
	} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, want, strings.TrimSpace(string(Subset(Parse([]byte(src)), at(homePage, "hours")).CSS)), src)
		})
	}
	c := Subset(Parse([]byte(".wrap:hover .hours{top:0}")), at(homePage, "hours"))
	assert.Contains(t, c.Notes[len(c.Notes)-1], "stays behind")
}

func TestTheHostFrameKeepsSizesOfWhereTheyWereSet(t *testing.T) {
	out := string(
		Subset(
			Parse(
				[]byte(
					`html{font-size:20px} #b{letter-spacing:.1em;margin:9px} `+
						`.wrap{font-size:150%;line-height:1.5} @media print{.wrap{color:red}} .none{color:blue}`,
				),
			),
			at(homePage, "hours"),
		).CSS,
	)
	assert.Equal(t, `@layer cp-frame {
  :where(.hours) { --cp-size-0: 16px; --cp-size-2: var(--cp-size-0); }
  :where(.hours) { --cp-size-0: 20px; font-size: var(--cp-size-0); }
  :where(.hours) { letter-spacing: calc(.1 * var(--cp-size-0)); }
  :where(.hours) { --cp-size-2: calc(1.5 * var(--cp-size-0)); font-size: var(--cp-size-2); line-height:1.5; }
  @media print{ :where(.hours) { color:red; } }
}
`, out)
}

// A scope within the piece stays one; one that starts outside it is resolved away.
func TestScopes(t *testing.T) {
	home := `<html><body><main class="wide">` + hours + `</main></body></html>`
	sheet := Parse([]byte(`@scope (.hours) to (.day) { h2 { color: red } :scope { margin: 0 } b { color: blue } }
@scope (.wide) { .day { color: green } .other { color: red } }
@scope (.nowhere) { .day { color: gray } }`))
	var names []string
	for _, r := range sheet.Refs() {
		names = append(names, r.Name)
	}
	assert.Subset(t, names, []string{"hours", "wide", "nowhere"})
	p := SubjectOf(markup.Parse([]byte(hours), ""))
	p.Home = markup.Parse([]byte(home), "")
	for _, n := range p.Home.ByTag("section") {
		p.In = n.Outer()
	}
	got := string(Subset(sheet, []Subject{p}).CSS)
	for _, want := range []string{"@scope (.hours) to (.day)", "h2 { color: red }", ":scope { margin: 0 }",
		"\n.day { color: green }"} {
		assert.Contains(t, got, want)
	}
	for _, no := range []string{"blue", ".wide", ".other", "gray"} {
		assert.NotContains(t, got, no)
	}
	assert.True(t, Parse([]byte("svg|a {}")).Rules[0].Selectors[0].Unknown, "a named namespace keeps its rule")
}

// Families are found wherever a rename has to follow: in font, in font-family, and in the
// value of a custom property.
func TestFamilies(t *testing.T) {
	for text, want := range map[string][]string{
		`p{font-family:"Hut Icons",serif}`:                   {"Hut Icons"},
		`p{font:italic 700 1rem/1.4 "Hut Icons",Tarn}`:       {"Hut Icons", "Tarn"},
		`p{font:small Tarn Sans}`:                            {"Tarn Sans"},
		`p{font:inherit}`:                                    nil,
		`p{font:calc(1rem + 1px) Tarn}`:                      {"Tarn"},
		`@font-face{font-family:Tarn}:root{--f:Tarn, serif}`: {"Tarn", "Tarn"},
		`:root{--icons:"Hut Icons", x}`:                      {"Hut Icons"},
		`@font-face{font-family:Tarn;src:url(/t.woff2)}`:     {"Tarn"},
	} {
		t.Run(text, func(t *testing.T) {
			var got []string
			for _, r := range Parse([]byte(text)).Refs() {
				if r.Space == Font {
					got = append(got, r.Name)
					assert.Equal(t, r.Name, string(r.At.Of([]byte(text))), "the place is the name's")
				}
			}
			assert.Equal(t, want, got, text)
		})
	}
}
