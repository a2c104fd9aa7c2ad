package edit

import (
	"fmt"
	"slices"
	"sort"
	"strconv"
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
	err := eachShown(c, users, picture, func(h item.Head, src []byte, shown []*markup.Node) error {
		var edits []span.Edit
		for _, n := range shown {
			if _, offers := n.Attr("srcset"); offers {
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
			return nil
		}
		b, err := span.Apply(src, edits)
		out = append(out, Change{Head: h, Content: b})
		return err
	})
	if err != nil {
		return nil, err
	}
	return out, nil
}

// WithoutSizes takes out of the elements that show a picture, in some items, the sizes in which they offer it, and
// says how wide and high it is where that was said: after it was cropped. It tells the sizes that were offered, the
// narrowest first.
func WithoutSizes(c item.Collection, users []item.Address, picture item.Address, width, height int) (
	out []Change, sizes []Sized, err error,
) {
	err = eachShown(c, users, picture, func(h item.Head, src []byte, list []*markup.Node) error {
		var edits []span.Edit
		for _, n := range list {
			for _, x := range n.Attrs {
				switch x.Name {
				case "width":
					edits = append(edits, markup.SetAttr(n, x.Name, strconv.Itoa(width)))
				case "height":
					edits = append(edits, markup.SetAttr(n, x.Name, strconv.Itoa(height)))
				case "srcset":
					sizes = append(sizes, sizesOffered(n.Value("srcset"))...)
					fallthrough
				case "sizes":
					edits = append(edits, span.Edit{Span: span.Span{Start: x.All.Start - 1, End: x.All.End}})
				}
			}
		}
		if len(edits) == 0 {
			return nil
		}
		sort.SliceStable(edits, func(i, j int) bool { return edits[i].Start < edits[j].Start })
		b, err := span.Apply(src, edits)
		out = append(out, Change{Head: h, Content: b})
		return err
	})
	if err != nil {
		return nil, nil, err
	}
	slices.SortStableFunc(sizes, func(a, b Sized) int { return a.Width - b.Width })
	return out, slices.Compact(sizes), nil
}

// sizesOffered reads the media of a srcset with their widths (HTML Living Standard 4.8.4.2).
func sizesOffered(srcset string) (out []Sized) {
	for _, candidate := range strings.Split(srcset, ",") {
		fields := strings.Fields(candidate)
		if len(fields) != 2 || !strings.HasSuffix(fields[1], "w") {
			continue
		}
		n, err := strconv.Atoi(strings.TrimSuffix(fields[1], "w"))
		if at, ok := item.AddressOfPath(fields[0]); ok && err == nil {
			out = append(out, Sized{n, at})
		}
	}
	return out
}
