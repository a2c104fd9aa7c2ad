package render

import (
	"encoding/json"
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

// MenuEntry is one entry of a menu's JSON.
type MenuEntry struct {
	Label   string      `json:"label"`
	To      string      `json:"to"`
	Entries []MenuEntry `json:"entries,omitempty"`
}

// menu writes a menu as a navigation list. show="row" writes just the list,
// show="folded" one that opens by its word at any width; without either the site's
// styles fold it by width. anchors="/path/" makes the menu of the anchors of a page,
// this one where it is empty.
func (s *stage) menu(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	label := s.rec.Made(markup.EscapeAttr(n.Value("label")), "menu")
	if a, ok := n.Attr("label"); ok && a.Quote != 0 {
		label = src.Slice(a.At)
	}
	w := &menuWriter{s: s, out: s.rec.Build("menu")}
	var entries []MenuEntry
	if of, ok := n.Attr("anchors"); ok {
		var err error
		if entries, err = s.anchors(of.Value); err != nil {
			return none, err
		}
		if len(label.Bytes) == 0 {
			label = s.rec.Made("On this page", "menu")
		}
	} else {
		a := item.Address{Kind: item.Menu, Key: n.Value("name")}
		b, ok, err := s.r.lookUp(a)
		var m struct {
			Title   string      `json:"title"`
			Entries []MenuEntry `json:"entries"`
		}
		if err != nil || !ok || json.Unmarshal(b, &m) != nil {
			return none, err
		}
		s.reached[a] = true
		entries, w.from = m.Entries, s.rec.JSON(a, b, s.use(a, src, n, 0))
		if len(label.Bytes) == 0 {
			label = w.from.Attr("title", m.Title)
		}
	}
	w.out.Made(`<nav class="cp-menu" aria-label="`).Add(label).Made(`">`)
	switch n.Value("show") {
	case "row":
		w.entries(entries, "cp-menu-list", "entries")
	case "folded":
		w.out.Made(`<details class="cp-menu-fold"><summary>Menu</summary>`)
		w.entries(entries, "cp-menu-list", "entries")
		w.out.Made("</details>")
	default:
		w.out.Made(`<details class="cp-menu-fold"><summary>Menu</summary></details>`)
		w.entries(entries, "cp-menu-list", "entries")
	}
	return w.out.Made("</nav>").Text(), nil
}

// menuWriter writes the entries of a menu, from a document or, without one, made up.
type menuWriter struct {
	s    *stage
	from sourcemap.JSON
	out  *sourcemap.Builder
}

func (w *menuWriter) entries(entries []MenuEntry, class, way string) {
	w.out.Made(`<ul class="` + class + `">`)
	for i, e := range entries {
		at := fmt.Sprintf("%s/%d/", way, i)
		w.out.Made(`<li><a href="`).Add(w.from.Attr(at+"to", e.To)).Made(`"`)
		if w.s.r.Canonical(e.To) == w.s.r.Canonical(w.s.spot.Slug) {
			w.out.Made(` aria-current="page"`)
		}
		w.out.Made(">").Add(w.from.Text(at+"label", e.Label)).Made("</a>")
		if len(e.Entries) > 0 {
			w.entries(e.Entries, "cp-menu-sub", at+"entries")
		}
		w.out.Made("</li>")
	}
	w.out.Made("</ul>")
}

// anchors lists what a page can be entered at: its elements with an id that hold a
// heading, or are one, named by the heading or by data-menu-label.
func (s *stage) anchors(of string) ([]MenuEntry, error) {
	slug, prefix := of, of
	if of == "" || of == s.spot.Slug {
		slug, prefix = s.spot.Slug, ""
	}
	h, ok := s.r.page(slug)
	if !ok {
		return nil, nil
	}
	s.reached[h.Address] = true
	var out []MenuEntry
	seen := map[item.Address]bool{}
	var read func(a item.Address, context string) error
	read = func(a item.Address, context string) error {
		if seen[a] {
			return nil
		}
		seen[a] = true
		src, err := s.r.read(a)
		if err != nil {
			return err
		}
		for _, n := range markup.Parse(src, context).All {
			if n.Tag == "cp-section" {
				if sec, ok := s.r.c.Find(item.Address{Kind: item.Section, Key: n.Value("name")}); ok {
					s.reached[sec.Address] = true
					if err := read(sec.Address, sec.Meta.Context); err != nil {
						return err
					}
				}
				continue
			}
			id, label := n.Value("id"), n.Value("data-menu-label")
			if id == "" {
				continue
			}
			if label == "" {
				label = headingOf(n)
			}
			if label != "" {
				out = append(out, MenuEntry{Label: label, To: prefix + "#" + id})
			}
		}
		return nil
	}
	err := read(h.Address, "")
	return out, err
}

// headingOf gives the text of a heading, or of the first one that a section holds.
func headingOf(n *markup.Node) string {
	if len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' {
		return n.Text()
	}
	if n.Tag != "section" && n.Tag != "article" && n.Tag != "div" {
		return ""
	}
	for _, c := range n.Children {
		if t := headingOf(c); t != "" {
			return t
		}
	}
	return ""
}
