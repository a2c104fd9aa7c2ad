package capture

import (
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// A piece wears the stylesheets that it names, and those of the page in which it stands: a page
// that was kept by hand links its own, and what stands on it names none.

// WornBy lists what an item is shown with: what it names as metadata, what a document
// links to, and its own style elements as a stylesheet of the piece.
func WornBy(o *item.Over, h item.Head, tree *markup.Tree, key string) ([]item.Address, error) {
	out := append([]item.Address{}, h.Meta.Styles...)
	have := map[item.Address]bool{}
	for _, a := range out {
		have[a] = true
	}
	var own strings.Builder
	for _, n := range tree.All {
		switch {
		case n.Tag == "link" && linksSheet(n):
			if a, ok := item.AddressOfPath(n.Value("href")); ok && !have[a] {
				have[a] = true
				out = append(out, a)
			}
		case n.Tag == "style" && n.Own && n.Space == "":
			text := string(n.Inner.Of(tree.Source))
			if m := n.Value("media"); m != "" {
				text = "@media " + m + " {\n" + text + "\n}"
			}
			own.WriteString(text + "\n")
		}
	}
	if own.Len() > 0 {
		sheet := item.Address{Kind: item.Stylesheet, Key: key}
		if _, taken := o.Find(sheet); taken {
			sheet.Key += "-page"
		}
		o.Set(item.Head{Address: sheet}, []byte(own.String()))
		out = append(out, sheet)
	}
	return out, nil
}

// linksSheet tells that a link brings a stylesheet, at once or when a script switches it on.
func linksSheet(n *markup.Node) bool {
	return slices.ContainsFunc(strings.Fields(n.Value("rel")), func(w string) bool {
		return strings.EqualFold(w, "stylesheet")
	})
}

// dress gives pieces that were chosen themselves and name no stylesheet those of the first page in
// which they stand: parts, which stand on other pages too, and sections that come without that
// page.
func dress(src item.Collection, o Order, s *homes) (item.Collection, error) {
	over := item.NewOver(src)
	for _, a := range o.Chosen {
		h, ok := src.Find(a)
		_, cut := o.At[a]
		if !ok || cut || len(h.Meta.Styles) > 0 || a.Kind != item.Section && a.Kind != item.Part {
			continue
		}
		b, err := item.Read(src, h)
		if err != nil {
			return nil, err
		}
		if _, err := s.of(h, css.SubjectOf(markup.Parse(b, h.Meta.Context)).Root); err != nil {
			return nil, err
		}
		page, ok := s.first(h.Address)
		if !ok || a.Kind == item.Section && slices.Contains(o.Chosen, page) {
			continue
		}
		home, _ := src.Find(page)
		text, err := item.Read(src, home)
		if err != nil {
			return nil, err
		}
		styles, err := WornBy(over, item.Head{Meta: item.Meta{Styles: h.Meta.Styles}}, markup.Parse(text, ""), a.Key)
		if err != nil {
			return nil, err
		}
		if len(styles) > len(h.Meta.Styles) {
			dressed := h
			dressed.Meta.Styles = styles
			over.Lay(dressed, src, h)
		}
	}
	return over, nil
}
