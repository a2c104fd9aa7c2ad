package markup

import (
	"strings"

	"compactparcel/core/span"

	xhtml "golang.org/x/net/html"
)

// WithoutReferrer takes out of a document what sets a policy for the Referer of its own:
// the meta element, and the attribute of links and files (HTML, 4.2.5.1 and 2.5.8).
func WithoutReferrer(src []byte) []byte {
	var edits []span.Edit
	eachToken(src, func(t token) bool {
		if t.kind != xhtml.StartTagToken && t.kind != xhtml.SelfClosingTagToken {
			return true
		}
		meta := false
		for _, a := range t.attrs {
			meta = meta ||
				t.tag == "meta" && a.Name == "name" && strings.EqualFold(strings.TrimSpace(a.Value), "referrer")
		}
		for _, a := range t.attrs {
			if a.Name == "referrerpolicy" || meta && a.Name == "content" {
				edits = append(edits, span.Edit{Span: a.All})
			}
		}
		return true
	})
	out, err := span.Apply(src, edits)
	if err != nil {
		panic(err) // attributes never overlap
	}
	return out
}
