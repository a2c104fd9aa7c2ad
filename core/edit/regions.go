package edit

import (
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// region opens regions in parts, closes them, and fills them for one page.
func (e *editor) region(op Operation) (string, error) {
	if !isWord(op.Property) {
		return "", refuse("%q cannot be a region's name: write letters, digits and hyphens", op.Property)
	}
	switch op.Op {
	case RegionOpen:
		return e.openRegion(op)
	case RegionClose:
		return e.closeRegion(op)
	default:
		return e.fillRegion(op)
	}
}

func isWord(s string) bool {
	for _, c := range s {
		if c != '-' && (c < '0' || c > '9') && (c < 'a' || c > 'z') {
			return false
		}
	}
	return s != "" && len(s) <= 60
}

// openRegion lets pages have something of their own in the place of an element of a part.
func (e *editor) openRegion(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if p.head.Address.Kind != item.Part {
		return "", refuse("it is of %s: regions are opened in parts", p.head.Address)
	}
	if err := p.whole(); err != nil {
		return "", err
	}
	tree := markup.Parse(p.src, p.head.Meta.Context)
	if slices.ContainsFunc(tree.ByTag("cp-region"), func(n *markup.Node) bool {
		return n.Value("name") == op.Property
	}) {
		return "", refuse("%s has a region %q already", p.head.Address, op.Property)
	}
	if up := p.own.Parent; up != nil && (up.Tag == "ul" || up.Tag == "ol" || up.Tag == "tr" || up.Tag == "tbody" ||
		up.Tag == "table" || up.Tag == "select" || up.Tag == "dl" || up.Space != "") {
		return "", refuse("a region cannot stand in <%s>: open it around that", says.TagName(up.Tag))
	}
	at := p.own.Outer()
	return "opened the region " + op.Property + " in " + p.head.Address.String(), e.change(p,
		span.Edit{Span: span.Span{Start: at.Start, End: at.Start},
			New: []byte(`<cp-region name="` + op.Property + `">`)},
		span.Edit{Span: span.Span{Start: at.End, End: at.End}, New: []byte("</cp-region>")})
}

// closeRegion lets a part show what it has itself in a region, on every page.
func (e *editor) closeRegion(op Operation) (string, error) {
	h, ok := e.over.Find(op.Item)
	if !ok || op.Item.Kind != item.Part {
		return "", refuse("there is no part %s", op.Item)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	n := markup.Parse(src, h.Meta.Context).Find(func(n *markup.Node) bool {
		return n.Tag == "cp-region" && n.Own && n.Closed && n.Value("name") == op.Property
	})
	if n == nil {
		return "", refuse("%s has no region %q", op.Item, op.Property)
	}
	out, err := span.Apply(src, []span.Edit{{Span: n.Start}, {Span: n.End}})
	if err != nil {
		return "", err
	}
	return "closed the region " + op.Property + " of " + op.Item.String(), e.put(h, out)
}

// regionsOn lists the regions of the parts that stand on a page.
func (e *editor) regionsOn(out *render.Output) (names []string, err error) {
	for _, a := range out.Reached {
		h, ok := e.over.Find(a)
		if !ok || a.Kind != item.Part {
			continue
		}
		src, err := item.Read(e.over, h)
		if err != nil {
			return nil, err
		}
		for _, n := range markup.Parse(src, h.Meta.Context).ByTag("cp-region") {
			names = append(names, n.Value("name"))
		}
	}
	slices.Sort(names)
	return slices.Compact(names), nil
}

// fillRegion gives a page its own content in a region of the parts around it; an empty one goes back to what
// the part has there.
func (e *editor) fillRegion(op Operation) (string, error) {
	out, err := render.New(e.over).Page(render.PageRequest{Slug: op.Page})
	if err != nil {
		return "", err
	}
	h, ok := e.over.Find(out.Page)
	if out.Status != 200 || !ok || out.Page.Kind != item.Page {
		return "", refuse("no page of its own is at %s", says.Slug(op.Page))
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	tree := markup.Parse(src, "")
	has := tree.Find(func(n *markup.Node) bool {
		return n.Tag == "cp-fill" && n.Own && n.Closed && n.Value("region") == op.Property
	})
	edit, says := span.Edit{}, "filled the region "+op.Property+" of "+op.Page
	switch {
	case op.Value == "" && has == nil:
		return "", refuse("%s does not fill the region %q", op.Page, op.Property)
	case op.Value == "":
		edit.Span, says = has.Outer(), "left the region "+op.Property+" of "+op.Page+" to its part"
		if edit.Start > 0 && src[edit.Start-1] == '\n' {
			edit.Start--
		}
	default:
		names, err := e.regionsOn(out)
		if err != nil {
			return "", err
		}
		if !slices.Contains(names, op.Property) {
			return "", refuse("no part on %s has a region %q (regions there: %s)", op.Page, op.Property,
				strings.Join(names, ", "))
		}
		if err := canInsert(op.Value); err != nil {
			return "", err
		}
		if has != nil {
			edit = span.Edit{Span: has.Inner, New: []byte(op.Value)}
			break
		}
		at := len(src)
		if body := tree.Find(func(n *markup.Node) bool { return n.Tag == "body" && n.Own && n.Closed }); body != nil {
			at = body.End.Start
		}
		edit = span.Edit{Span: span.Span{Start: at, End: at},
			New: []byte("\n" + `<cp-fill region="` + op.Property + `">` + op.Value + "</cp-fill>")}
	}
	text, err := span.Apply(src, []span.Edit{edit})
	if err != nil {
		return "", err
	}
	return says, e.put(h, text)
}
