package css

import (
	"fmt"
	"strings"
	"testing"

	"compactparcel/core/markup"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// manyRules gives a stylesheet of so many rules with some addresses in it.
func manyRules(n int) []byte {
	var b strings.Builder
	b.WriteString(`@import "base.css"; @import url(print.css) print;`)
	for i := range n {
		fmt.Fprintf(&b, ".c%d{top:0}", i)
	}
	b.WriteString(
		`.a{background:url( "pic.png" )} .b{background:image-set("one.png" 1x, /* twice */ "two.png" 2x); ` +
			`content:"no.png"}`,
	)
	return []byte(b.String())
}

func TestASheetOfAMillionRulesIsKeptWholeAndItsAddressesFound(t *testing.T) {
	for _, n := range []int{10, 1_000_000} {
		s := Parse(manyRules(n))
		assert.Equal(t, n > MaxRules, s.Opaque)
		var found []string
		for _, r := range s.Refs() {
			if r.Space == URL || r.Space == Import {
				found = append(found, string(r.Space)+" "+r.Name)
				assert.Equal(t, r.Name, string(r.At.Of(s.Source)))
			}
		}
		assert.Equal(t, []string{"import base.css", "import print.css", "url pic.png", "url one.png", "url two.png"},
			found, "%d rules", n)
		if s.Opaque {
			c := Subset(s, []Subject{SubjectOf(markup.Parse([]byte(`<p class="a">x</p>`), ""))})
			assert.Equal(t, len(s.Source), len(c.CSS))
			require.Len(t, c.Notes, 1)
			assert.Contains(t, c.Notes[0], "carried whole")
			assert.Equal(t, s.Source, Normalize(s.Source))
		}
	}
}

func TestSelectorsThatExplodeEndAndKeepTheirRules(t *testing.T) {
	deep := strings.Repeat("<div>", 200) + `<p class="x">x</p>` + strings.Repeat("</div>", 200)
	wide := `<main class="w">` + strings.Repeat(`<p class="x"><b>x</b></p>`, 3000) + `</main>`
	for name, src := range map[string]string{
		"descendants": strings.Repeat("div ", 80) + ".never ~ .x",
		"has":         strings.Repeat(":has(", 30) + ".never" + strings.Repeat(")", 30),
		"is":          strings.Repeat(":is(", 3000) + "div" + strings.Repeat(")", 3000),
		"siblings":    strings.Repeat("p ~ ", 60) + "i",
		"nth":         "p:nth-child(2n of :nth-child(3n of :nth-last-child(5n of .x)))",
		"list":        strings.Repeat(".n,", 90000) + ".x",
		"nesting":     strings.Repeat("&:is(.a,.b){", 300) + "top:0" + strings.Repeat("}", 300),
	} {
		if !strings.HasSuffix(src, "}") {
			src += "{top:0}"
		}
		for _, doc := range []string{deep, wide} {
			c := Subset(Parse([]byte(src)),
				at(`<!doctype html><html><body><div class="home">`+doc+`</div></body></html>`, "home"))
			assert.LessOrEqual(t, len(c.CSS), 2*len(src)+200, name)
			if c.Kept == 0 {
				assert.Empty(t, strings.TrimSpace(string(c.CSS)), name)
			}
		}
	}
	c := Subset(Parse([]byte(strings.Repeat("p ~ ", 60)+"i.never ~ b{top:0}")),
		at(`<!doctype html><html><body>`+wide+`</body></html>`, "w"))
	assert.Zero(t, c.Kept, "a class that is nowhere is answered without a search")
}

func TestClassesThatScriptsSwitchArePossible(t *testing.T) {
	piece := SubjectOf(markup.Parse([]byte(`<nav class="menu"><ul><li>x</li></ul></nav>`), ""))
	piece.Switched = map[string]bool{"is-open": true}
	for src, kept := range map[string]bool{
		".menu.is-open ul{top:0}":        true,
		".is-open{top:0}":                true,
		".menu:not(.is-open) ul{top:0}":  true,
		".menu:not(.menu) ul{top:0}":     false,
		".menu.is-shut ul{top:0}":        false,
		".menu:has(.is-open) li{top:0}":  true,
		".menu { &.is-open { top: 0 } }": true,
		".other.is-open li{top:0}":       false,
	} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, kept, Subset(Parse([]byte(src)), []Subject{piece}).Kept > 0, src)
		})
	}
}

func TestPiecesOfSeveralElementsAreSiblings(t *testing.T) {
	pieces := func() []Subject {
		return []Subject{SubjectOf(markup.Parse([]byte(`<h2 class="a">x</h2><p class="b">y</p><p class="b">z</p>`),
			""))}
	}
	for src, want := range map[string]int{
		".a + .b{top:0}": 1, ".b + .a{top:0}": 0, ".b ~ .b{top:0}": 1, ".a:first-child{top:0}": 1,
		".b:last-child{top:0}": 1,
		".a:only-child{top:0}": 0, "body > .a{top:0}": 1, "html > .a{top:0}": 0, ".b:nth-of-type(2){top:0}": 1,
		".b:nth-of-type(3){top:0}": 0,
		".a:has(+ .b){top:0}":      1, "body:has(.b) .a{top:0}": 1,
	} {
		t.Run(src, func(t *testing.T) {
			assert.Equal(t, want, Subset(Parse([]byte(src)), pieces()).Kept, src)
		})
	}
}

// FuzzCarry holds the matcher and the cut to what must always be: they end, also on what
// they made, and a rule is carried at most once.
func FuzzCarry(f *testing.F) {
	f.Add(".a > b:hover, #x{color:var(--c)}", `<p class="a"><b id="x">x</b></p>`)
	f.Add("@media print{.a:not(.b){top:0}} :root{--c:1px}", `<div class=a style="top:var(--c)"></div>`)
	f.Add(".a{&:has(> b){left:0} @scope (.a) to (i){b{top:0}}}", `<i class=a><b></b></i><i class=b></i>`)
	f.Add(":is(.a,.b) :nth-child(2n+1 of b){}", `<u class=a><b></b><b></b></u>`)
	f.Fuzz(func(t *testing.T, sheet, doc string) {
		if len(sheet) > 4000 || len(doc) > 4000 {
			return
		}
		pieces := func() []Subject { return []Subject{SubjectOf(markup.Parse([]byte(doc), ""))} }
		once := Subset(Parse([]byte(sheet)), pieces())
		again := Subset(Parse(once.CSS), pieces())
		for _, c := range []SubsetResult{once, again} {
			if c.Kept > c.All {
				t.Fatalf("%d of %d rules are carried", c.Kept, c.All)
			}
		}
	})
}
