package render

import (
	"bytes"
	"fmt"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// AtName is the attribute by which a page for picking names each element of an item: the
// path to it in the item's own source, as css.PathTo writes it.
const AtName = "data-cp-at"

// Pick renders one item so that somebody can point at its elements: each carries its path
// in the source, and the engine's script tells the window around which one was chosen.
func (r *Renderer) Pick(a item.Address) (*Output, error) {
	h, ok := r.c.Find(a)
	if !ok || !a.Kind.IsMarkup() {
		return nil, fmt.Errorf("there is no piece %s whose elements could be picked", a)
	}
	src, err := r.read(a)
	if err != nil {
		return nil, err
	}
	tree := markup.Parse(src, h.Meta.Context)
	var edits []span.Edit
	for _, n := range tree.All {
		if n.Own && n.Tag != "html" && n.Tag != "body" && n.Tag != "head" &&
			(n.Parent == nil || n.Parent.Tag != "head") &&
			n.Space == "" {
			edits = append(edits, markup.SetAttr(n, AtName, css.PathTo(n)))
		}
	}
	marked, err := span.Apply(src, edits)
	if err != nil {
		return nil, err
	}
	over := item.NewOver(r.c)
	over.Set(h, marked)
	out, err := New(over).Alone(a)
	if err != nil {
		return nil, err
	}
	tag := []byte(`<script type="module" src="` + r.script("pick.js", pickScript).Path + `"></script></body>`)
	if i := bytes.LastIndex(out.Body, []byte("</body>")); i >= 0 {
		out.Body = append(append(bytes.Clone(out.Body[:i]), tag...), out.Body[i+len("</body>"):]...)
	} else {
		out.Body = append(bytes.Clone(out.Body), tag...)
	}
	return out, nil
}
