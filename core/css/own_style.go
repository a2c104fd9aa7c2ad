package css

import (
	"sort"

	"compactparcel/core/markup"
)

// ownStyle is what browsers say of an element by themselves and it therefore does not
// take from around it (HTML, section 15.3).
type ownStyle struct {
	props []string
	scale float64 // of the type size; 0 when it is inherited as it is
}

var (
	control = []string{
		"font",
		"font-family",
		"font-size",
		"font-style",
		"font-weight",
		"font-stretch",
		"font-variant",
		"line-height",
		"color",
		"letter-spacing",
		"word-spacing",
		"text-transform",
		"text-indent",
		"text-align",
		"cursor",
		"text-rendering",
	}
	bold     = []string{"font-weight"}
	slanted  = []string{"font-style"}
	machine  = []string{"font-family"}
	ownTable = map[string]ownStyle{
		"button": {
			props: control,
		},
		"input":    {props: control},
		"select":   {props: control},
		"textarea": {props: control},
		"h1": {
			bold,
			2,
		},
		"h2":     {bold, 1.5},
		"h3":     {bold, 1.17},
		"h4":     {props: bold},
		"h5":     {bold, 0.83},
		"h6":     {bold, 0.67},
		"b":      {props: bold},
		"strong": {props: bold},
		"th":     {props: []string{"font-weight", "text-align"}},
		"i": {
			props: slanted,
		},
		"em":      {props: slanted},
		"cite":    {props: slanted},
		"var":     {props: slanted},
		"dfn":     {props: slanted},
		"address": {props: slanted},
		"code": {
			props: machine,
		},
		"kbd":  {props: machine},
		"samp": {props: machine},
		"pre":  {props: []string{"font-family", "white-space"}},
		"a": {
			props: []string{"color", "cursor"},
		},
		"center":  {props: []string{"text-align"}},
		"caption": {props: []string{"text-align"}},
		"ul": {
			props: []string{"list-style", "list-style-type"},
		},
		"ol":    {props: []string{"list-style", "list-style-type"}},
		"menu":  {props: []string{"list-style", "list-style-type"}},
		"small": {scale: 5.0 / 6},
		"mark":  {props: []string{"color"}},
		"label": {props: []string{"cursor"}},
	}
)

// ownStyles gives for each root what its elements are by themselves. Roots of several
// tags are taken for the first that has any.
func ownStyles(sheets []SheetUse) map[string]ownStyle {
	out := map[string]ownStyle{}
	note := func(p Subject, n *markup.Node) {
		own, ok := ownTable[n.Tag]
		if _, has := out[p.Root]; !ok || has || n.Space != "" {
			return
		}
		if _, link := n.Attr("href"); n.Tag == "a" && !link {
			return
		}
		out[p.Root] = own
	}
	for _, u := range sheets {
		for _, p := range u.Pieces {
			if p.Root == "" || p.Tree.Document {
				continue
			}
			for _, n := range p.Tree.Root.Children {
				note(p, n)
			}
		}
	}
	return out
}

// back gives the declarations by which a root goes back to what it is by itself, of
// those that the host frame sets.
func (o ownStyle) back(framed map[string]bool) []string {
	var out []string
	for _, p := range o.props {
		if framed[p] || framed["font"] && fontParts[p] || p == "font" && framed["font-size"] {
			out = append(out, p+": revert-layer")
		}
	}
	return out
}

// frames tells whether the frame of a root stands in this sheet.
func (c *subsetter) frames(root string) bool {
	for _, f := range c.framing {
		if f.root == root {
			return true
		}
	}
	return false
}

func sortedKeys[V any](m map[string]V) []string {
	var out []string
	for k := range m {
		out = append(out, k)
	}
	sort.Strings(out)
	return out
}
