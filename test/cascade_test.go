package test

import (
	"net/url"
	"testing"

	"compactparcel/core/css"
	"compactparcel/core/markup"
	"compactparcel/test/harness"

	"github.com/stretchr/testify/assert"
)

// Which declaration wins is what Chromium says: layers in the order of their first appearance,
// the other way round for !important, scopes by nearness, style attributes, specificity,
// order.
func TestTheCascadeIsThatOfABrowser(t *testing.T) {
	b := harness.NewBrowser(t)
	const body = `<main class="a"><section class="b"><p id="x" class="c d">x</p></section></main>`
	for _, c := range []struct{ name, sheet, other, style string }{
		{name: "order", sheet: `p{order:1} p{order:2}`},
		{name: "specificity", sheet: `.c{order:1} p{order:2}`},
		{name: "two sheets", sheet: `p{order:1}`, other: `p{order:2}`},
		{name: "where has no weight", sheet: `p{order:1} :where(#x){order:2}`},
		{name: "is has the most", sheet: `:is(p,#x){order:1} .c.d{order:2}`},
		{name: "a layer is weaker than none", sheet: `p{order:1} @layer l{#x{order:2}}`},
		{name: "layers by first appearance", sheet: `@layer a,b; @layer b{p{order:1}} @layer a{#x{order:2}}`},
		{name: "layers across sheets", sheet: `@layer b{p{order:1}}`, other: `@layer a,b; @layer a{p{order:2}}`},
		{name: "important turns layers round", sheet: `@layer a{p{order:1!important}} @layer b{p{order:2!important}}`},
		{name: "important in a layer wins over none", sheet: `p{order:1!important} @layer b{p{order:2!important}}`},
		{name: "a layer within comes before its own", sheet: `@layer a{p{order:1} @layer in{#x{order:2}}}`},
		{name: "a path of layers", sheet: `@layer a.in{p{order:1}} @layer a{@layer in{p{order:2}}}`},
		{name: "layers without a name", sheet: `@layer{#x{order:1}} @layer{p{order:2}}`},
		{name: "the nearest scope", sheet: `@scope(.b){p{order:1}} @scope(.a){p{order:2}}`},
		{name: "specificity before the scope", sheet: `@scope(.b){p{order:1}} @scope(.a){.c{order:2}}`},
		{name: "outside the scope's end", sheet: `p{order:1} @scope(.a) to (.b){p{order:2}}`},
		{name: "within a condition", sheet: `p{order:1} @media (min-width:1px){p{order:2}}`},
		{name: "a nested rule", sheet: `.b{p{order:1}} p{order:2}`},
		{name: "the style attribute", sheet: `#x{order:1}`, style: `order:2`},
		{name: "important over the style attribute", sheet: `p{order:1!important}`, style: `order:2`},
		{name: "important in the style attribute", sheet: `#x{order:1!important}`, style: `order:2!important`},
	} {
		text := body
		if c.style != "" {
			text = `<main class="a"><section class="b"><p id="x" class="c d" style="` + c.style +
				`">x</p></section></main>`
		}
		page := `<!doctype html><style>` + c.sheet + `</style><style>` + c.other + `</style>` + text
		b.Go("data:text/html," + url.PathEscape(page))
		want := harness.Eval[string](b, `getComputedStyle(document.querySelector("#x")).order`)

		got := css.Applied{}
		css.NewCascade([]byte(c.sheet), []byte(c.other)).Apply(markup.Parse([]byte(text), "body"), nil,
			func(n *markup.Node, a css.Applied) {
				if n.Tag == "p" && (got.Name == "" || a.Priority.Outranks(got.Priority)) {
					got = a
				}
			})
		assert.Equal(t, want, got.Value[:1], c.name)
	}
}
