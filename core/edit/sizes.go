package edit

import (
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Sized is a picture of the site in one width.
type Sized struct {
	Width int
	At    item.Address
}

// ShowSizes lets the elements that show a picture, in some items, offer it in sizes, and say how large it
// is (HTML Living Standard 4.8.4). Those that offer sizes already stay as they are.
func ShowSizes(c item.Collection, users []item.Address, picture item.Address, width, height int, list []Sized) (
	[]Change, error,
) {
	var set strings.Builder
	for _, s := range list {
		if set.Len() > 0 {
			set.WriteString(", ")
		}
		fmt.Fprintf(&set, "/%s %dw", s.At.Path(), s.Width)
	}
	var out []Change
	for _, a := range users {
		h, ok := c.Find(a)
		if !ok || !a.Kind.IsMarkup() {
			continue
		}
		src, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		var edits []span.Edit
		for _, n := range markup.Parse(src, h.Meta.Context).All {
			_, offers := n.Attr("srcset")
			if !n.Own || n.Tag != "img" || n.Value("src") != "/"+picture.Path() || offers {
				continue
			}
			add := ` srcset="` + set.String() + `"`
			if _, said := n.Attr("sizes"); !said {
				add += ` sizes="100vw"`
			}
			_, w := n.Attr("width")
			_, h := n.Attr("height")
			if !w && !h {
				add += fmt.Sprintf(` width="%d" height="%d"`, width, height)
			}
			at := n.Start.Start + len("<img")
			edits = append(edits, span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(add)})
		}
		if len(edits) == 0 {
			continue
		}
		if src, err = span.Apply(src, edits); err != nil {
			return nil, err
		}
		out = append(out, Change{Head: h, Content: src})
	}
	return out, nil
}
