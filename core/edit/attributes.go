package edit

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/lighten"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// attribute gives an element another link, alternative text, picture or classes.
func (e *editor) attribute(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	var name string
	var shows item.Head
	value := op.Value
	switch op.Op {
	case Link:
		if name = "href"; p.own.Tag != "a" && p.own.Tag != "area" {
			return "", refuse("<%s> is no link", says.TagName(p.own.Tag))
		}
		if err := e.canLead(value); err != nil {
			return "", err
		}
	case Alternative:
		if name = "alt"; p.own.Tag != "img" && p.own.Tag != "area" {
			return "", refuse("<%s> is no picture", says.TagName(p.own.Tag))
		}
	case Picture:
		if name = "src"; p.own.Tag != "img" {
			return "", refuse("<%s> is no picture", says.TagName(p.own.Tag))
		}
		a, err := item.ParseAddress(strings.TrimPrefix(value, "/"))
		h, found := e.over.Find(a)
		if err != nil || a.Kind != item.Media || !found {
			return "", refuse("there are no media %s", value)
		}
		shows, value = h, "/"+a.Path()
	default:
		name = "class"
		if err := e.known(p, value); err != nil {
			return "", err
		}
	}
	if was, ok := p.shown.Attr(name); ok {
		seg, in := p.page.Map.At(was.At.Start)
		if a, known := p.page.Map.Item(seg); in && known && a != p.head.Address && was.At.Len() > 0 {
			return e.write(p, seg, was.At, value, markup.EscapeAttr) // of a section's own values
		}
	}
	edits := []span.Edit{markup.SetAttr(p.own, name, value)}
	if name == "src" {
		more, err := e.sizesOf(p.own, shows)
		if err != nil {
			return "", err
		}
		edits = append(edits, more...)
	}
	return "changed " + name + " in " + p.head.Address.String(), e.change(p, edits...)
}

// sizesOf takes out what was true of another picture, and says how wide and high this one is where that
// was said of the other.
func (e *editor) sizesOf(n *markup.Node, h item.Head) (out []span.Edit, err error) {
	b, err := item.Read(e.over, h)
	if err != nil {
		return nil, err
	}
	size, _, unknown := lighten.SizeOf(b)
	for _, a := range n.Attrs {
		if side := map[string]int{"width": size.Width, "height": size.Height}[a.Name]; side > 0 && unknown == nil {
			out = append(out, markup.SetAttr(n, a.Name, strconv.Itoa(side)))
			continue
		}
		if a.Name == "srcset" || a.Name == "sizes" || a.Name == "width" || a.Name == "height" {
			out = append(out, span.Edit{Span: span.Span{Start: a.All.Start - 1, End: a.All.End}})
		}
	}
	return out, nil
}

// canLead tells why a link cannot lead to an address; nil when it can.
func (e *editor) canLead(to string) error {
	u, err := url.Parse(strings.TrimSpace(to))
	switch {
	case err != nil || to == "":
		return refuse("%q is no address", to)
	case u.Scheme == "" && u.Host == "" && u.Path == "":
		return nil // a place of the same page
	case u.Scheme == "" && u.Host == "":
		if !strings.HasPrefix(u.Path, "/") {
			return refuse("write the address from the root, as in /contact/")
		}
		there, err := e.leads(u.Path)
		if err == nil && !there {
			return refuse("nothing is at %s", says.Slug(u.Path))
		}
		return err
	case slices.Contains([]string{"http", "https", "mailto", "tel", ""}, strings.ToLower(u.Scheme)):
		return nil
	}
	return refuse("browsers would run or refuse an address with %s:", u.Scheme)
}

// known tells whether the stylesheets of the page know all classes of a list, or the element has
// them already.
func (e *editor) known(p *pointed, list string) error {
	names := map[string]bool{}
	for _, c := range p.shown.Classes() {
		names[c] = true
	}
	for _, a := range p.page.Reached {
		if a.Kind != item.Stylesheet {
			continue
		}
		h, ok := e.over.Find(a)
		if !ok {
			continue
		}
		b, err := item.Read(e.over, h)
		if err != nil {
			return err
		}
		for _, r := range css.Parse(b).Refs() {
			if r.Space == css.Class {
				names[r.Name] = true
			}
		}
	}
	for _, c := range strings.Fields(list) {
		if !names[c] {
			return refuse("no stylesheet of the page knows the class %s", c)
		}
	}
	return nil
}
