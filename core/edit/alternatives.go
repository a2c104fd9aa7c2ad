package edit

import (
	"net/url"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// SaidText is an alternative text of a picture, and the items that say it.
type SaidText struct {
	Text    string
	Missing bool // none is written
	Items   []item.Address
}

// Alternatives lists the alternative texts that some items say of a picture, in the order of the items.
func Alternatives(c item.Collection, users []item.Address, picture item.Address) ([]SaidText, error) {
	var out []SaidText
	err := eachShown(c, users, picture, func(h item.Head, _ []byte, list []*markup.Node) error {
		for _, n := range list {
			alt, said := n.Attr("alt")
			one := SaidText{Text: alt.Value, Missing: !said}
			i := slices.IndexFunc(out, func(o SaidText) bool { return o.Text == one.Text && o.Missing == one.Missing })
			if i < 0 {
				i, out = len(out), append(out, one)
			}
			if !slices.Contains(out[i].Items, h.Address) {
				out[i].Items = append(out[i].Items, h.Address)
			}
		}
		return nil
	})
	return out, err
}

// WriteAlternative writes the alternative text of a picture into the items that show it: where a text stands, which
// can be empty, or, without one, where none is written.
func WriteAlternative(c item.Collection, users []item.Address, picture item.Address, was *string, text string) (
	[]Change, error,
) {
	var out []Change
	err := eachShown(c, users, picture, func(h item.Head, src []byte, list []*markup.Node) error {
		var edits []span.Edit
		for _, n := range list {
			if alt, said := n.Attr("alt"); said == (was != nil) && (!said || alt.Value == *was) {
				edits = append(edits, markup.SetAttr(n, "alt", text))
			}
		}
		if len(edits) == 0 {
			return nil
		}
		b, err := span.Apply(src, edits)
		out = append(out, Change{Head: h, Content: b})
		return err
	})
	return out, err
}

// eachShown visits the items of a list that show a picture, with the elements that do.
func eachShown(
	c item.Collection, users []item.Address, picture item.Address, visit func(item.Head, []byte, []*markup.Node) error,
) error {
	for _, a := range users {
		h, ok := c.Find(a)
		if !ok || !a.Kind.IsMarkup() {
			continue
		}
		src, err := item.Read(c, h)
		if err != nil {
			return err
		}
		var list []*markup.Node
		for _, n := range markup.Parse(src, h.Meta.Context).All {
			if n.Own && n.Tag == "img" && leadsTo(n.Value("src"), picture) {
				list = append(list, n)
			}
		}
		if len(list) == 0 {
			continue
		}
		if err := visit(h, src, list); err != nil {
			return err
		}
	}
	return nil
}

// leadsTo tells whether an address is that of a file, whatever query stands behind it.
func leadsTo(address string, file item.Address) bool {
	u, err := url.Parse(strings.TrimSpace(address))
	return err == nil && u.Host == "" && u.Scheme == "" && u.Path == "/"+file.Path()
}
