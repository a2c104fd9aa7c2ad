package outline

import (
	_ "embed"
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// NumberName is the attribute by which a page that is edited names each element: its number in the outline.
const NumberName = "data-cp-n"

//go:embed editing.js
var editing string

//go:embed editing.css
var editingStyle string

// Mark makes a page one that can be edited by pointing, as the very last thing that is done to it: its
// elements get their numbers, the editing script comes first in it, and what would lead elsewhere by itself
// or lay down a policy of its own is put out of action. The nonce is that of the page's policy, by which
// nothing but the editing script runs. What the window around it knows the page by is in the address's fragment.
func Mark(body []byte, nonce string) ([]byte, error) {
	t := markup.Parse(body, "")
	var edits []span.Edit
	numbered := map[*markup.Node]bool{}
	each(t, func(n *markup.Node, number int) {
		numbered[n] = true
		edits = append(edits, markup.SetAttr(n, NumberName, fmt.Sprint(number)))
	})
	scripts := 0
	for _, n := range t.All {
		if a, has := n.Attr(NumberName); has && n.Own && !numbered[n] { // a number of the page's own would be believed
			edits = append(edits, span.Edit{Span: a.All})
		}
		switch {
		case !n.Own:
		case n.Tag == "meta" && n.Value("http-equiv") != "":
			edits = append(edits, markup.SetAttr(n, "http-equiv", "x-not-while-editing"))
		case n.Tag == "script" && !strings.Contains(n.Value("type"), "json"):
			scripts++
		}
	}
	at := 0
	for _, n := range t.All {
		if n.Own && (n.Tag == "html" || n.Tag == "head") {
			at = n.Start.End
		}
	}
	if at == 0 {
		at = behindDoctype(body)
	}
	const tags = `<style nonce="%s">%s</style>` +
		`<script nonce="%s" data-digest="%s" data-scripts="%d">%s</script>`
	first := fmt.Sprintf(tags, nonce, editingStyle, nonce, item.DigestOf(body), scripts, editing)
	edits = append(edits, span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(first)})
	return span.Apply(body, edits)
}

// behindDoctype is where the first element of a page may stand that has no head written out.
func behindDoctype(body []byte) int {
	s := strings.ToLower(string(body[:min(len(body), 400)]))
	if i := strings.Index(s, "<!doctype"); i >= 0 {
		if end := strings.IndexByte(s[i:], '>'); end >= 0 {
			return i + end + 1
		}
	}
	return 0
}
