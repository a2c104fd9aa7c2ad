package markup

import (
	"html"
	"iter"
	"slices"
	"sort"
	"strings"

	xhtml "golang.org/x/net/html"
)

// Normalize gives a text in which what has no meaning is set aside: attribute order
// and quoting, the case of names, runs of white space outside pre, textarea,
// script and style, comments. Equal texts mean equal items; the reverse does not
// hold for every pair.
func Normalize(src []byte) []byte {
	return normalize(src, func(use func(token) bool) { eachToken(src, use) })
}

// Normalize is the function of that name for a text that was read already.
func (t *Tree) Normalize() []byte {
	if t.tokens == nil {
		return Normalize(t.Source)
	}
	return normalize(t.Source, slices.Values(t.tokens))
}

func normalize(src []byte, tokens iter.Seq[token]) []byte {
	var b strings.Builder
	b.Grow(len(src))
	keep := 0
	space := false
	for t := range tokens {
		raw := string(t.span.Of(src))
		switch t.kind {
		case xhtml.TextToken:
			if keep > 0 {
				b.WriteString(raw)
				continue
			}
			text := html.UnescapeString(raw)
			fields := strings.Fields(text)
			if len(fields) == 0 {
				space = true
				continue
			}
			if space || strings.ContainsAny(text[:1], " \t\r\n\f") {
				b.WriteByte(' ')
			}
			b.WriteString(EscapeText(strings.Join(fields, " ")))
			space = strings.ContainsAny(text[len(text)-1:], " \t\r\n\f")
		case xhtml.StartTagToken, xhtml.SelfClosingTagToken:
			if space && !isBlock(t.tag) {
				b.WriteByte(' ')
			}
			space = false
			attrs := append([]Attr(nil), t.attrs...)
			sort.Slice(attrs, func(i, j int) bool { return attrs[i].Name < attrs[j].Name })
			b.WriteString("<" + t.tag)
			for _, a := range attrs {
				v := a.Value
				if a.Name == "class" {
					v = strings.Join(strings.Fields(v), " ")
				}
				b.WriteString(" " + a.Name + `="` + EscapeAttr(v) + `"`)
			}
			b.WriteString(">")
			if keepsSpace(t.tag) && t.kind == xhtml.StartTagToken {
				keep++
			}
		case xhtml.EndTagToken:
			if space && !isBlock(t.tag) {
				b.WriteByte(' ')
			}
			space = false
			b.WriteString("</" + t.tag + ">")
			if keepsSpace(t.tag) && keep > 0 {
				keep--
			}
		case xhtml.DoctypeToken:
			b.WriteString(strings.ToLower(raw))
		}
	}
	return []byte(b.String())
}

func keepsSpace(tag string) bool {
	return tag == "pre" || tag == "textarea" || tag == "script" || tag == "style"
}

var blocks = words(
	endsParagraph + " html head body title meta link li dt dd tr td th tbody thead tfoot option source script " +
		"style template",
)

func isBlock(tag string) bool { return blocks[tag] }
