package edit

import (
	"bytes"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// pointed is an element of a page, and where its start tag comes from.
type pointed struct {
	page  *render.Output
	shown *markup.Node // on the page
	head  item.Head    // of the item that its start tag is of
	at    int          // the occurrence of that item on the page
	src   []byte
	own   *markup.Node // in that item's source

	parsed  *markup.Tree // the page
	cascade *css.Cascade
}

// tree is the page as it is parsed.
func (p *pointed) tree() *markup.Tree {
	if p.parsed == nil {
		p.parsed = markup.Parse(p.page.Body, "")
	}
	return p.parsed
}

// point finds the element that an operation names, and its start tag in a source.
func (e *editor) point(slug, selector string) (*pointed, error) {
	p, err := e.shown(slug, selector)
	if err != nil {
		return nil, err
	}
	if err := e.source(p); err != nil {
		return nil, err
	}
	return p, nil
}

// shown finds an element on a page as it is shown.
func (e *editor) shown(slug, selector string) (*pointed, error) {
	out, err := render.New(e.over).Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return nil, err
	}
	if out.Status != 200 && slug != render.NotFoundSlug {
		return nil, refuse("no page is at %s", says.Slug(slug))
	}
	p := &pointed{page: out}
	if p.shown, err = css.QueryOne(p.tree(), selector); err != nil {
		return nil, refuse("%v", err)
	}
	return p, nil
}

// source finds the start tag of an element in the source that the map names.
func (e *editor) source(p *pointed) (err error) {
	n := p.shown
	if !n.Own {
		return refuse("<%s> is not written out", says.TagName(n.Tag))
	}
	seg, ok := p.page.Map.At(n.Start.Start)
	a, known := p.page.Map.Item(seg)
	if !ok || !known || seg.Kind != sourcemap.Copied {
		why := seg.Reason
		if why == "" {
			why = "a value"
		}
		return refuse("<%s> is written by the page engine (%s)", says.TagName(n.Tag), why)
	}
	p.at = seg.Place.Occurrence
	if p.head, ok = e.over.Find(a); !ok {
		return refuse("%s is not there", a)
	}
	if p.src, err = item.Read(e.over, p.head); err != nil {
		return err
	}
	at := seg.Place.Span.Start + n.Start.Start - seg.Start
	tree := markup.Parse(p.src, p.head.Meta.Context)
	p.own = tree.Find(func(x *markup.Node) bool { return x.Own && x.Start.Start == at })
	if p.own == nil {
		return refuse("<%s> does not stand in %s by itself", says.TagName(n.Tag), a)
	}
	return nil
}

// whole tells why an element cannot be moved or taken out; nil when it can.
func (p *pointed) whole() error {
	n := p.own
	switch {
	case n.Tag == "html" || n.Tag == "head" || n.Tag == "body":
		return refuse("<%s> is the page itself", says.TagName(n.Tag))
	case !n.Closed && !markup.IsVoid(n.Tag):
		return refuse("<%s> has no end tag in its source: edit the source of %s", says.TagName(n.Tag), p.head.Address)
	}
	return nil
}

// change edits the source of the element's item.
func (e *editor) change(p *pointed, edits ...span.Edit) error {
	out, err := span.Apply(p.src, edits)
	if err != nil {
		return err
	}
	return e.put(p.head, out)
}

// indent gives what stands before an element on its line, if nothing but space does.
func (p *pointed) indent() string {
	at := p.own.Start.Start
	from := bytes.LastIndexByte(p.src[:at], '\n') + 1
	if lead := p.src[from:at]; from > 0 && len(bytes.TrimSpace(lead)) == 0 {
		return "\n" + string(lead)
	}
	return ""
}
