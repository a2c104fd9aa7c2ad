package repeat

import (
	"regexp"
	"sort"
	"strings"

	"compactparcel/core/markup"
)

// bindings are attributes that parts and sections carry for the engine.
var bindings = map[string]bool{
	"data-fill":           true,
	"data-field":          true,
	"data-current":        true,
	"data-current-within": true,
}

// assetDigest is what changes in an asset's address with its content.
var assetDigest = regexp.MustCompile(`/_cp/[0-9a-f]+/`)

// bringsTokens tells whether an address is that of the tokens' stylesheet, by its item
// or as the engine serves it.
func bringsTokens(href string) bool {
	return href == "/"+siteTokens.Path() || strings.HasSuffix(href, "/"+tokenSheet)
}

// canon writes a document as its tree: elements, attributes in order of name, classes
// as a set, texts with white space folded. Two documents of one canon are the same to
// a visitor, but for the links to the stylesheets that tokens bring.
func canon(src []byte) string {
	t := markup.Parse(src, "")
	var b strings.Builder
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		if n.Tag == "link" && bringsTokens(n.Value("href")) {
			return
		}
		b.WriteString("<" + n.Tag)
		for _, a := range attrNames(n) {
			v := n.Value(a)
			if a == "class" {
				c := n.Classes()
				sort.Strings(c)
				v = strings.Join(c, " ")
			}
			b.WriteString(" " + a + "=" + assetDigest.ReplaceAllString(v, "/_cp/"))
		}
		b.WriteString(">")
		for i, text := range n.Texts() {
			if f := strings.Join(strings.Fields(text), " "); f != "" {
				b.WriteString(f + "\n")
			}
			if i < len(n.Children) {
				walk(n.Children[i])
			}
		}
		b.WriteString("</>\n")
	}
	for _, n := range t.Root.Children {
		walk(n)
	}
	return b.String()
}
