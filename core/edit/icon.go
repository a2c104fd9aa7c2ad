package edit

import (
	"cmp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// icon shows an SVG of the site's media in the text's colour, in the place of a picture or of another icon.
func (e *editor) icon(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if p.own.Tag != "img" && p.own.Tag != "svg" {
		return "", refuse("<%s> is no picture and no icon", says.TagName(p.own.Tag))
	}
	if err := p.whole(); err != nil {
		return "", err
	}
	label := op.Label
	if label == "" {
		if label = p.own.Value("alt"); p.own.Tag == "svg" {
			label = p.own.Value("aria-label")
		}
	}
	text, err := e.inTextColour(p, op.Value, drawn{label: label, class: p.own.Value("class"),
		width: p.own.Value("width"), height: p.own.Value("height")})
	if err != nil {
		return "", err
	}
	return "put an icon into " + p.head.Address.String(),
		e.change(p, span.Edit{Span: p.own.Outer(), New: []byte(text)})
}

// drawn is how an icon is to stand: its alternative text, and what it takes over from what stood there.
type drawn struct{ label, class, width, height string }

// colourless are values of fill and stroke that are no colour of their own.
var colourless = []string{"none", "currentcolor", "transparent", "inherit", ""}

// notInIcons are elements that an icon in one colour does not hold: what runs, what styles, other pictures
// and runs of colour (SVG 2).
var notInIcons = []string{"script", "style", "foreignobject", "image", "a", "animate", "set", "animatetransform",
	"animatemotion", "lineargradient", "radialgradient", "pattern", "filter"}

// inTextColour gives the markup of an SVG in the text's colour: its one colour becomes currentColor, and
// its ids are told apart from those of the page.
func (e *editor) inTextColour(p *pointed, media string, as drawn) (string, error) {
	a, err := item.ParseAddress(strings.TrimPrefix(media, "/"))
	h, found := e.over.Find(a)
	if err != nil || a.Kind != item.Media || !found {
		return "", refuse("there are no media %s", media)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return "", err
	}
	tree := markup.Parse(src, "body")
	root := tree.Find(func(n *markup.Node) bool { return n.Tag == "svg" && n.Own && n.Closed })
	if root == nil {
		return "", refuse("%s is no SVG", a)
	}
	edits, err := oneColour(src, root, a)
	if err != nil {
		return "", err
	}
	edits = append(edits, span.Edit{Span: root.Start, New: []byte(as.start(root))})
	slices.SortFunc(edits, func(a, b span.Edit) int { return a.Start - b.Start })
	for i := range edits {
		edits[i].Span = edits[i].Shift(-root.Start.Start)
	}
	out, err := span.Apply(root.Outer().Of(src), edits)
	if err != nil {
		return "", err
	}
	if err := canInsert(string(out)); err != nil {
		return "", err
	}
	drawing := *p
	drawing.src = out
	if drawing.own = markup.Parse(out,
		"body").Find(func(n *markup.Node) bool { return n.Tag == "svg" }); drawing.own == nil {
		return "", refuse("%s is no SVG", a)
	}
	return drawing.copied()
}

// oneColour gives the edits that put the text's colour in the place of an SVG's own.
func oneColour(src []byte, root *markup.Node, a item.Address) ([]span.Edit, error) {
	var edits []span.Edit
	colour := ""
	paint := func(value string, at span.Span) error {
		v := strings.ToLower(strings.TrimSpace(value))
		if slices.Contains(colourless, v) {
			return nil
		}
		if strings.HasPrefix(v, "url(") || colour != "" && colour != v &&
			(!slices.Contains(blacks, v) || !slices.Contains(blacks, colour)) {
			return refuse("%s has several colours: show it as a picture", a)
		}
		colour = v
		edits = append(edits, span.Edit{Span: at, New: []byte("currentColor")})
		return nil
	}
	var walk func(n *markup.Node, filled string) error
	walk = func(n *markup.Node, filled string) error {
		if slices.Contains(notInIcons, strings.ToLower(n.Tag)) {
			return refuse("%s holds <%s>: show it as a picture", a, says.TagName(n.Tag))
		}
		if tag := strings.ToLower(n.Tag); tag == "clippath" || tag == "mask" {
			return nil // they say what is seen, and not in which colour
		}
		for _, x := range n.Attrs {
			switch {
			case n == root: // its start tag is written anew
				continue
			case x.Name == "fill" || x.Name == "stroke":
				if err := paint(x.Value, x.At); err != nil {
					return err
				}
			case x.Name == "style":
				for _, d := range css.ParseDeclarations([]byte(x.Value)).Decls {
					if d.Name != "fill" && d.Name != "stroke" {
						continue
					}
					at := x.Offset(src, d.Value.Start, d.Value.End)
					if err := paint(string(d.Value.Of([]byte(x.Value))), at); err != nil {
						return err
					}
				}
			}
		}
		if v := own(n, "fill"); v != "" {
			filled = v
		}
		if filled == "" && slices.Contains(shapesOfSVG, n.Tag) {
			if colour != "" && !slices.Contains(blacks, colour) { // what is filled by nothing is black
				return refuse("%s has several colours: show it as a picture", a)
			}
			colour = blacks[0]
		}
		for _, c := range n.Children {
			if err := walk(c, filled); err != nil {
				return err
			}
		}
		return nil
	}
	for _, name := range []string{"fill", "stroke"} {
		if v := own(root, name); v != "" {
			if err := paint(v, span.Span{}); err != nil {
				return nil, err
			}
		}
	}
	edits = nil
	if err := walk(root, ""); err != nil {
		return nil, err
	}
	for _, r := range facts.Extract(item.Block, "", root.Outer().Of(src)).Refs {
		if r.Space == facts.Address || r.Space == facts.External || r.Space == facts.Loose {
			return nil, refuse("%s needs %s: show it as a picture", a, r.Name)
		}
	}
	return edits, nil
}

// shapesOfSVG are the elements that are filled, black where nothing is said (SVG 2, section 13.3).
var shapesOfSVG = []string{"path", "rect", "circle", "ellipse", "polygon", "polyline", "text"}

var blacks = []string{"#000", "#000000", "black"}

// own is the paint that an element says itself, as an attribute or a declaration.
func own(n *markup.Node, name string) string {
	v := strings.TrimSpace(n.Value(name))
	style := []byte(n.Value("style"))
	for _, d := range css.ParseDeclarations(style).Decls {
		if d.Name == name {
			v = strings.TrimSpace(string(d.Value.Of(style)))
		}
	}
	return v
}

// spelt are the attributes of SVG that have capitals.
var spelt = map[string]string{"viewbox": "viewBox", "preserveaspectratio": "preserveAspectRatio"}

// keptOfRoot are the attributes of an SVG's root that its drawing needs.
var keptOfRoot = []string{"viewbox", "preserveaspectratio", "stroke-width", "stroke-linecap", "stroke-linejoin",
	"stroke-miterlimit", "stroke-dasharray", "fill-rule", "clip-rule", "opacity"}

// start writes the start tag of an icon: as large as what it replaces, else as the text.
func (as drawn) start(root *markup.Node) string {
	var b strings.Builder
	b.WriteString("<svg")
	attr := func(name, value string) { b.WriteString(" " + name + `="` + markup.EscapeAttr(value) + `"`) }
	if as.class != "" {
		attr("class", as.class)
	}
	if as.width == "" || as.height == "" {
		as.width, as.height = "1em", "1em"
	}
	attr("width", as.width)
	attr("height", as.height)
	if _, has := root.Attr("viewbox"); !has && root.Value("width") != "" && root.Value("height") != "" {
		attr("viewBox", "0 0 "+strings.TrimSuffix(root.Value("width"), "px")+" "+
			strings.TrimSuffix(root.Value("height"), "px"))
	}
	for _, a := range root.Attrs {
		name := strings.ToLower(a.Name)
		if slices.Contains(keptOfRoot, name) {
			attr(cmp.Or(spelt[name], name), a.Value)
		}
	}
	for _, name := range []string{"fill", "stroke"} {
		switch v := own(root, name); {
		case v != "" && slices.Contains(colourless, strings.ToLower(v)):
			attr(name, v)
		case v != "" || name == "fill":
			attr(name, "currentColor")
		}
	}
	if as.label == "" {
		attr("aria-hidden", "true")
	} else {
		attr("role", "img")
		attr("aria-label", as.label)
	}
	return b.String() + ">"
}
