package render

import (
	"bytes"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// bodyMarks tells the site's styles in the body's tag how wide the page is.
func bodyMarks(t *markup.Tree, page item.Head) []span.Edit {
	body := t.Find(func(n *markup.Node) bool { return n.Tag == "body" && n.Own })
	if body == nil || page.Meta.Width == "" {
		return nil
	}
	if _, has := body.Attr("data-width"); has {
		return nil
	}
	return []span.Edit{markup.SetAttr(body, "data-width", string(page.Meta.Width))}
}

// content are the elements that hold a page's own content: its main part, or without one what
// stands in the body beside its landmarks.
const content = `:is(body[data-width] :is(main,[role=main]),` +
	`body[data-width]:not(:has(main,[role=main]))>:not(header,footer,nav,aside,script,style,dialog))`

// widths are the engine's rules for styles that know nothing of a page's width. They come last and
// win over the frames that such styles give to the content.
var widths = map[item.Width]string{
	item.WidthText: content + `{box-sizing:border-box!important;width:auto!important;max-width:70ch!important;` +
		`margin-inline:auto!important}`,
	item.WidthEdge: content + `,body[data-width]>main>:only-child{box-sizing:border-box!important;` +
		`width:auto!important;` +
		`max-width:none!important;margin-inline:0!important;padding-inline:0!important}`,
}

// widthStyle gives the rule that makes a page as wide as it says, unless its stylesheets know how.
func (s *stage) widthStyle(page item.Head, styles []item.Address, linked map[string]bool) (string, error) {
	rule := widths[page.Meta.Width]
	if rule == "" {
		return "", nil
	}
	for path := range linked {
		if a, ok := item.FileAt(s.r.c, path); ok {
			styles = append(styles, a)
		}
	}
	for _, a := range styles {
		b, err := s.r.read(a)
		if err != nil {
			return "", err
		}
		if bytes.Contains(b, []byte("data-width")) {
			return "", nil
		}
	}
	return rule, nil
}
