package edit

import (
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/span"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// inlineTags are what formatted words can hold: bold, italic, links, line breaks. Others of the same
// meaning become these.
var inlineTags = map[atom.Atom]string{atom.B: "b", atom.Strong: "strong", atom.I: "i", atom.Em: "em", atom.A: "a",
	atom.Br: "br"}

// inline writes formatted words into an element that holds nothing but such.
func (e *editor) inline(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if markup.IsVoid(p.own.Tag) || p.own.Tag == "script" || p.own.Tag == "style" || !p.own.Closed {
		return "", refuse("<%s> holds no words of its own", says.TagName(p.own.Tag))
	}
	for _, n := range markup.Parse(p.own.Inner.Of(p.src), p.own.Tag).All {
		if _, fits := inlineTags[atom.Lookup([]byte(n.Tag))]; n.Own && !fits && n.Tag != "span" {
			return "", refuse(
				"<%s> holds <%s>: name the element with the words",
				says.TagName(p.own.Tag),
				says.TagName(n.Tag),
			)
		}
	}
	words, err := e.cleaned(op.Value)
	if err != nil {
		return "", err
	}
	return "wrote formatted words into " + p.head.Address.String(),
		e.change(p, span.Edit{Span: p.own.Inner, New: []byte(words)})
}

// cleaned gives pasted text with nothing but what formatted words can hold: other elements are left out
// and their words kept, paragraphs become line breaks, what would run or be styled goes.
func (e *editor) cleaned(text string) (string, error) {
	var out strings.Builder
	var open []string
	hidden, breaks := 0, false
	z := html.NewTokenizer(strings.NewReader(text))
	write := func(s string) {
		if breaks && out.Len() > 0 {
			out.WriteString("<br>")
		}
		breaks = false
		out.WriteString(s)
	}
	for {
		switch z.Next() {
		case html.ErrorToken: // the end: a tokenizer of a text has no other
			for i := len(open) - 1; i >= 0; i-- {
				out.WriteString("</" + open[i] + ">")
			}
			return strings.TrimSpace(out.String()), nil
		case html.TextToken:
			if s := z.Token().Data; hidden == 0 && (strings.TrimSpace(s) != "" || !breaks && out.Len() > 0) {
				write(markup.EscapeText(s))
			}
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			switch tag := inlineTags[t.DataAtom]; {
			case t.DataAtom == atom.Script || t.DataAtom == atom.Style || t.DataAtom == atom.Title:
				hidden++
			case hidden > 0:
			case tag == "br":
				write("<br>")
			case tag == "a":
				href := ""
				for _, a := range t.Attr {
					if a.Key == "href" {
						href = a.Val
					}
				}
				if err := e.canLead(href); err != nil {
					return "", err
				}
				write(`<a href="` + markup.EscapeAttr(href) + `">`)
				open = append(open, tag)
			case tag != "":
				write("<" + tag + ">")
				open = append(open, tag)
			}
		case html.EndTagToken:
			t := z.Token()
			tag := inlineTags[t.DataAtom]
			switch {
			case t.DataAtom == atom.Script || t.DataAtom == atom.Style || t.DataAtom == atom.Title:
				hidden = max(0, hidden-1)
			case tag != "" && len(open) > 0 && open[len(open)-1] == tag: // what overlaps is closed in order
				out.WriteString("</" + tag + ">")
				open = open[:len(open)-1]
			case t.DataAtom == atom.P || t.DataAtom == atom.Div || t.DataAtom == atom.Li || t.DataAtom == atom.Tr:
				breaks = true
			}
		}
	}
}
