package test

import (
	"encoding/json"
	"fmt"
	"math/rand"
	"net/url"
	"strings"
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/markup"
	"compactparcel/test/harness"
	"compactparcel/test/seed"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var selectorDocuments = []string{
	`<!doctype html><html lang=en><head><title>t</title></head><body class="page a"><main id=main><section ` +
		`class="hours a b" data-x="one two"><h2>H</h2><p>one<p class=b>two <b>bold</b> <i ` +
		`lang="en-GB">it</i><ul><li class=day>1<li class="day open">2<li>3<li ` +
		`class=day>4</ul></section><section><h2 id=second>S</h2><table><tr><td>a<td>b<tr><td ` +
		`colspan=2>c</table><x-clock class=b></x-clock></section></main><footer><a ` +
		`href="https://example.org/a.pdf">x</a><a href="/b" rel="nofollow noopener">y</a><span></span><span> ` +
		`</span></footer></body></html>`,
	`<!doctype html><html><body><div><div class="card featured"><img src=a.png ` +
		`alt=""><h3>A</h3><p>x</p></div><div class="card"><h3>B</h3><p>y</p><p>z</p></div><form><input type=TEXT ` +
		`name=n><input type=checkbox disabled><select><option>1<option>2</select><button ` +
		`type=submit>ok</button></form></div><svg viewBox="0 0 1 1"><g><path d=M0/><circle class=card r=1 ` +
		`/></g></svg><dl><dt>a<dd>b<dt>c<dd>d</dl></body></html>`,
}

var selectorsToTry = `* | section | .a | #main | [data-x] | [data-x~=two] | [data-x="one two"] | [lang|=en] | ` +
	`a[href^="https:"] | a[href$=".pdf"] | a[href*=example i] | a[rel~=noopener] | section > h2 | section h2 + p ` +
	`| h2 ~ ul | li:first-child | li:last-child | li:nth-child(2n) | li:nth-child(odd) | li:nth-child(-n+2) | ` +
	`li:nth-last-child(2) | li:nth-child(2 of .day) | li:nth-last-child(1 of .day) | p:first-of-type | ` +
	`p:last-of-type | :only-child | td:only-child | h2:only-of-type | :nth-of-type(2) | :nth-last-of-type(2n+1) ` +
	`| span:empty | :root | body > * | :not(section) > h2 | li:not(.day) | li:not(.day, .open) | :is(h2, h3) | ` +
	`:where(.card, .hours) > * | section:has(h2) | section:has(> table) | section:has(+ section) | section:has(~ ` +
	`section) | :has(li.open) | ul:has(li:nth-child(4)) | li:has(+ .open) | :not(:has(*)) | tr > td:first-child ` +
	`| tbody tr | table > tr | .card:not(.featured) p ~ p | .card:has(img) h3 | dt + dd | dl > :nth-child(even) ` +
	`| input[type=text] | input[type="checkbox"] | [type=submit] | [disabled] | svg path | circle.card | div div ` +
	`| div > div > p | html body main | .hours .day.open | main *:not(li):not(p) | :is(section, footer) :is(a, ` +
	`b) | x-clock | [class] | [class=""] | [class~=b][class~=a] | section:nth-child(1):has(> h2 + p) .b | ` +
	`option:nth-of-type(2) | :nth-child(n+3):nth-child(-n+4) | b, i , #second | h2:not(#second) | ` +
	`div:not(:first-child) | *|p | *|* > *|li | [*|class] | a[href*="EXAMPLE" I] | :nth-child(even of li, p) | ` +
	`:not(:is(h2, p), li) > * | :where(section:has(.b)) > h2 | p:not(:has(b)):not(.b) | li:nth-child(-2n+5) | ` +
	`:nth-last-of-type(-n+1) | section:not(:first-of-type) td:not(:last-child) | [id]:not([class]) | ` +
	`[data-x^="one"][data-x$="two"] | html:has(table) p + ul | :is()  | body:has(#nothing)`

// Our matcher names the same elements as Chromium's querySelectorAll.
func TestSelectorsNameWhatChromiumNames(t *testing.T) {
	b := harness.NewBrowser(t)
	var selectors []string
	for _, s := range strings.Split(selectorsToTry, " | ") {
		selectors = append(selectors, strings.TrimSpace(s))
	}
	unknown := 0
	for _, doc := range selectorDocuments {
		unknown += compareSelectors(t, b, doc, selectors)
	}
	assert.LessOrEqual(t, unknown, 4, "selectors that our matcher does not read")
	made := &selectorMaker{seed.Rand(t)}
	for range 6 {
		selectors = selectors[:0]
		for range 150 {
			selectors = append(selectors, made.complex(2))
		}
		assert.Zero(t,
			compareSelectors(t, b, "<!doctype html><html><body>"+made.elements(4)+"</body></html>", selectors))
	}
}

// compareSelectors gives the number of selectors that ours does not read: their
// rules would be kept, which is never wrong, only larger.
func compareSelectors(t *testing.T, b *harness.Browser, doc string, selectors []string) (unknown int) {
	t.Helper()
	list, err := json.Marshal(selectors)
	require.NoError(t, err)
	b.Go("data:text/html;charset=utf-8," + url.PathEscape(doc))
	theirs := harness.Eval[[][]int](
		b,
		fmt.Sprintf(
			`(() => { const all = [...document.querySelectorAll("*")]; return %s.map((s) => { try { return `+
				`[...document.querySelectorAll(s)].map((e) => all.indexOf(e)) } catch { return [-1] } }) })()`,
			list,
		),
	)
	tree := markup.Parse([]byte(doc), "")
	for i, s := range selectors {
		rules := css.Parse([]byte(s + "{}")).Rules
		require.Len(t, rules, 1, s)
		ours := []int{}
		known := true
		for k, node := range tree.All {
			for _, sel := range rules[0].Selectors {
				known = known && !sel.Unknown
				if sel.Fits(node, nil) {
					ours = append(ours, k)
					break
				}
			}
		}
		if !known {
			unknown++
			continue
		}
		if theirs[i] == nil {
			theirs[i] = []int{}
		}
		assert.Equal(t, theirs[i], ours, "%s in %s", s, doc)
	}
	return unknown
}

// selectorMaker makes documents and selectors that have something to do with them.
type selectorMaker struct{ *rand.Rand }

func (m *selectorMaker) one(of string) string { w := strings.Fields(of); return w[m.Intn(len(w))] }

func (m *selectorMaker) elements(depth int) string {
	var out strings.Builder
	for range 1 + m.Intn(4) {
		tag := m.one("div section span b i article")
		fmt.Fprintf(&out, `<%s class="%s %s" data-x="%s"`, tag, m.one("a b c d"), m.one("a b c d"),
			m.one("one two one-two"))
		if m.Intn(5) == 0 {
			fmt.Fprintf(&out, ` id="%s"`, m.one("p q r"))
		}
		out.WriteString(">")
		if depth > 0 && m.Intn(4) > 0 {
			out.WriteString(m.elements(depth - 1))
		}
		out.WriteString("</" + tag + ">")
	}
	return out.String()
}

func (m *selectorMaker) compound(depth int) string {
	s := m.one("div section span b i article * * *")
	for range m.Intn(3) {
		switch m.Intn(7) {
		case 0, 1:
			s += "." + m.one("a b c d")
		case 2:
			s += m.one("[data-x=one] [data-x^=one] [data-x|=one] [data-x$=two] [id] [class~=a]")
		case 3:
			s += m.one(
				":first-child :last-child :only-child :first-of-type :nth-child(2n+1) :nth-last-child(2) " +
					":nth-of-type(-n+2) :empty #p #q",
			)
		default:
			if depth > 0 {
				s += fmt.Sprintf(m.one(":not(%s) :is(%s) :where(%s) :has(%s) :nth-child(2n+1@of@%s)"), m.list(depth-1))
				s = strings.ReplaceAll(s, "@", " ")
			}
		}
	}
	return s
}

func (m *selectorMaker) list(depth int) string {
	out := m.complex(depth)
	if m.Intn(3) == 0 {
		out += ", " + m.complex(depth)
	}
	// :has() may not stand within :has().
	return strings.ReplaceAll(out, ":has(", ":is(")
}

func (m *selectorMaker) complex(depth int) string {
	s := m.compound(depth)
	for range m.Intn(3) {
		s += strings.ReplaceAll(m.one("@ @>@ @+@ @~@"), "@", " ") + m.compound(depth)
	}
	return s
}
