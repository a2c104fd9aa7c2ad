package capture

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// A piece wears the stylesheets that it names, and those of the page in which it stands: a page
// that was kept by hand links its own, and what stands on it names none.

// WornBy lists what a piece of a document is shown with, in the order of the cascade: what its
// metadata name, then in the document's order the sheets that it links and its own style elements,
// each run of these as a sheet of the piece. A sheet for some media is worn through one that
// imports it for them; one for paper alone, an alternative or one that is switched off is not worn.
func WornBy(o *item.Over, h item.Head, tree *markup.Tree, key string) ([]item.Address, error) {
	w := &wearing{o: o, key: key, list: append([]item.Address{}, h.Meta.Styles...)}
	for _, s := range css.LoadedSheets(tree) {
		if !s.Own() {
			if a, ok := item.FileAt(o, s.Path); ok && s.OnScreen() {
				w.link(a, s.Media)
			}
			continue
		}
		text := string(s.Node.Inner.Of(tree.Source))
		if s.Media != "" {
			text = "@media " + s.Media + " {\n" + text + "\n}"
		}
		w.own.WriteString(text + "\n")
	}
	w.close("")
	return w.list, nil
}

// wearing is a list of what is worn as it grows.
type wearing struct {
	o    *item.Over
	key  string
	list []item.Address
	own  strings.Builder // style elements since the last link
}

func (w *wearing) link(a item.Address, media string) {
	if slices.Contains(w.list, a) {
		return
	}
	w.close("")
	if media == "" {
		w.list = append(w.list, a)
		return
	}
	w.own.WriteString("@import \"/" + a.Path() + "\" " + media + ";\n")
	w.close("-media")
}

// close makes a sheet of the piece of what was gathered.
func (w *wearing) close(ending string) {
	if w.own.Len() == 0 {
		return
	}
	sheet := item.Address{Kind: item.Stylesheet, Key: w.key + ending}
	for n := 2; ; n++ {
		_, taken := w.o.Find(sheet)
		switch {
		case !taken:
			w.o.Set(item.Head{Address: sheet}, []byte(w.own.String()))
			w.list = append(w.list, sheet)
			w.own.Reset()
			return
		case n == 2 && ending == "":
			sheet.Key = w.key + "-page"
		default:
			sheet.Key = fmt.Sprintf("%s%s-%d", w.key, ending, n)
		}
	}
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
