package edit

import (
	"errors"
	"fmt"
	"html"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/repeat"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// useOf gives the element by which the source of an item shows the section that an element stands in;
// nil where no section shows it.
func (e *editor) useOf(p *pointed) (*pointed, error) {
	o := p.page.Map.Occurrences[p.at]
	if o.Item.Kind != item.Section || o.Parent < 0 {
		return nil, nil
	}
	by := p.page.Map.Occurrences[o.Parent].Item
	h, ok := e.over.Find(by)
	if !ok {
		return nil, refuse("%s is not there", by)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return nil, err
	}
	own := markup.Parse(src, h.Meta.Context).Find(func(n *markup.Node) bool {
		return n.Own && n.Tag == "cp-section" && n.Start.Start == o.At.Start
	})
	if own == nil {
		return nil, nil
	}
	return &pointed{page: p.page, shown: p.shown, head: h, src: src, own: own, at: o.Parent}, nil
}

// asUsed gives, for the one outermost element of a section that is shown linked, the element that shows
// it: who moves or removes it means that, and not the section everywhere.
func (e *editor) asUsed(p *pointed) (*pointed, error) {
	rest := string(p.src[:p.own.Outer().Start]) + string(p.src[p.own.Outer().End:])
	if strings.TrimSpace(rest) != "" {
		return p, nil
	}
	use, err := e.useOf(p)
	if use == nil {
		return p, err
	}
	return use, nil
}

// section makes a section linked, linked with own values, or a copy.
func (e *editor) section(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if op.Op == Share {
		return e.share(p, op)
	}
	use, err := e.useOf(p)
	if err != nil {
		return "", err
	}
	if use == nil {
		return "", refuse("no section that is shown linked stands there")
	}
	if op.Op == OwnValue {
		return e.ownValue(p, use, op)
	}
	return e.ownCopy(p, use)
}

// ownCopy puts a section's source, with the values that the page has for it, in the place of the
// element that shows it. What holds it wears the section's styles from then on.
func (e *editor) ownCopy(p, use *pointed) (string, error) {
	values := map[string]string{}
	for _, c := range use.own.Children {
		if c.Tag == "cp-value" && c.Own {
			values[c.Value("for")] = strings.TrimSpace(string(c.Inner.Of(use.src)))
		}
	}
	list, err := markup.Fillings(markup.Parse(p.src, p.head.Meta.Context), "data-fill",
		func(name string) (string, bool) {
			v, ok := values[name]
			return html.UnescapeString(v), ok
		})
	if err != nil {
		return "", err
	}
	var edits []span.Edit
	for _, f := range list {
		if f.Target == "text" && f.Pattern == "" {
			f.Edit.New = []byte(values[f.Name]) // it is markup of the page's own
		}
		edits = append(edits, f.Edit)
	}
	text, err := span.Apply(p.src, edits)
	if err != nil {
		return "", err
	}
	use.head.Meta.Styles = withStyles(use.head.Meta.Styles, p.head.Meta.Styles...)
	return fmt.Sprintf("made %s a copy of its own in %s", p.head.Address, use.head.Address),
		e.change(use, span.Edit{Span: use.own.Outer(), New: []byte(strings.TrimSpace(string(text)))})
}

// withStyles adds sheets to those that an item wears.
func withStyles(has []item.Address, more ...item.Address) []item.Address {
	out := slices.Clone(has)
	for _, a := range more {
		if !slices.Contains(out, a) {
			out = append(out, a)
		}
	}
	return out
}

// ownValue gives a page its own value for a blank of a section that it shows linked; an empty one goes
// back to the section's.
func (e *editor) ownValue(p, use *pointed, op Operation) (string, error) {
	known := slices.ContainsFunc(markup.Parse(p.src, p.head.Meta.Context).All, func(n *markup.Node) bool {
		return slices.ContainsFunc(markup.Bindings(p.src, n, "data-fill"),
			func(b markup.Binding) bool { return b.Name == op.Property })
	})
	if !known {
		return "", refuse("%s has no blank %q", p.head.Address, op.Property)
	}
	says := fmt.Sprintf("gave %s its own %s in %s", p.head.Address, op.Property, use.head.Address)
	value := "<cp-value for=\"" + markup.EscapeAttr(op.Property) + "\">" + markup.EscapeText(op.Value) + "</cp-value>"
	for _, c := range use.own.Children {
		if c.Tag == "cp-value" && c.Own && c.Value("for") == op.Property {
			if op.Value == "" {
				value = ""
			}
			return says, e.change(use, span.Edit{Span: c.Outer(), New: []byte(value)})
		}
	}
	if op.Value == "" {
		return says, nil
	}
	if !use.own.Closed {
		return "", refuse("<cp-section> has no end tag in %s", use.head.Address)
	}
	at := span.Span{Start: use.own.Inner.End, End: use.own.Inner.End}
	return says, e.change(use, span.Edit{Span: at, New: []byte(value)})
}

// share makes an element a section, shown linked in its place, so that other pages can show it too.
func (e *editor) share(p *pointed, op Operation) (string, error) {
	if op.Item.Kind != item.Section {
		return "", refuse("name the section that it becomes, as section/hours")
	}
	if _, taken := e.over.Find(op.Item); taken {
		return "", refuse("there is a %s already", op.Item)
	}
	if err := p.whole(); err != nil {
		return "", err
	}
	if n := p.own; n.Parent != nil && n.Parent.Own && !slices.Contains(holders, n.Parent.Tag) &&
		n.Parent.Tag != "main" && n.Parent.Tag != "body" {
		return "", refuse("a section cannot stand in <%s>", says.TagName(n.Parent.Tag))
	}
	h := item.Head{Address: op.Item, Meta: item.Meta{Title: op.Label, Styles: slices.Clone(p.head.Meta.Styles)}}
	if err := e.put(h, append(slices.Clone(p.own.Outer().Of(p.src)), '\n')); err != nil {
		return "", err
	}
	use := `<cp-section name="` + markup.EscapeAttr(op.Item.Key) + `"></cp-section>`
	return fmt.Sprintf("made an element of %s %s", p.head.Address, op.Item),
		e.change(p, span.Edit{Span: p.own.Outer(), New: []byte(use)})
}

// linked shows a section in the place of its copies in a page: what differs becomes the page's own values.
func (e *editor) linked(op Operation) (string, error) {
	sh, ok := e.over.Find(op.Item)
	if !ok || op.Item.Kind != item.Section {
		return "", refuse("there is no section %s", op.Item)
	}
	section, err := item.Read(e.over, sh)
	if err != nil {
		return "", err
	}
	at := -1
	var p *pointed
	if op.Element != "" {
		if p, err = e.point(op.Page, op.Element); err != nil {
			return "", err
		}
		at = p.own.Start.Start
	} else if p, err = e.pageItself(op.Page); err != nil {
		return "", err
	}
	if p.head.Address == op.Item {
		return "", refuse("it is %s itself", op.Item)
	}
	got, err := repeat.Link(repeat.Shape{Address: op.Item, Content: section}, p.src, at)
	var unlike *repeat.UnlikeError
	if errors.As(err, &unlike) {
		return "", refuse("%s", unlike.Why)
	}
	if err != nil {
		return "", err
	}
	if err := e.put(sh, got.Section); err != nil {
		return "", err
	}
	says := fmt.Sprintf("linked %s in %s", op.Item, p.head.Address)
	if got.Copies > 1 {
		says = fmt.Sprintf("linked %s in %d places of %s", op.Item, got.Copies, p.head.Address)
	}
	return says, e.put(p.head, got.Page)
}

// pageItself gives the source of the page that is at an address.
func (e *editor) pageItself(slug string) (*pointed, error) {
	a, ok := render.New(e.over).PageAt(slug)
	if !ok {
		return nil, refuse("no page of its own is at %s", says.Slug(slug))
	}
	h, _ := e.over.Find(a)
	src, err := item.Read(e.over, h)
	return &pointed{head: h, src: src}, err
}
