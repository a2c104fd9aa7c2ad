package views

import (
	"path"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// classic turns module scripts that use nothing of modules into deferred ones: browsers
// load no modules from a folder on disk (HTML, 8.1.3.2: their origin is opaque).
func (w *writer) classic(b []byte, from string) ([]byte, error) {
	var edits []span.Edit
	for n := range markup.Tags(b) {
		src, has := n.Attr("src")
		kind, isModule := n.Attr("type")
		if n.Tag != "script" || !has || !isModule || !strings.EqualFold(kind.Value, "module") {
			continue
		}
		text, err := w.text(path.Join(path.Dir(from), src.Value))
		if err != nil {
			return nil, err
		}
		if text != nil && !render.IsModule(text) {
			edits = append(edits, span.Edit{Span: kind.All, New: []byte("defer")})
		}
	}
	return span.Apply(b, edits)
}

// text gives a file of the kit; nil when there is none.
func (w *writer) text(p string) ([]byte, error) {
	if b, ok := w.texts[p]; ok {
		return b, nil
	}
	a, ok := item.AddressOfPath(p)
	if !ok {
		return nil, nil
	}
	h, ok := w.c.Find(a)
	if !ok {
		return nil, nil
	}
	return item.Read(w.c, h)
}
