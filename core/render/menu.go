package render

import (
	"encoding/json"
	"fmt"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
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
func (s *stage) menu(n *markup.Node) (string, error) {
	label := n.Value("label")
	var entries []MenuEntry
	if of, ok := n.Attr("anchors"); ok {
		var err error
		if entries, err = s.anchors(of.Value); err != nil {
			return "", err
		}
		if label == "" {
			label = "On this page"
		}
	} else {
		a := item.Address{Kind: item.Menu, Key: n.Value("name")}
		b, ok, err := s.r.lookUp(a)
		var m struct {
			Title   string      `json:"title"`
			Entries []MenuEntry `json:"entries"`
		}
		if err != nil || !ok || json.Unmarshal(b, &m) != nil {
			return "", err
		}
		s.reached[a] = true
		entries = m.Entries
		if label == "" {
			label = m.Title
		}
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<nav class="cp-menu" aria-label="%s">`, markup.EscapeAttr(label))
	switch n.Value("show") {
	case "row":
		s.entries(&out, entries, "cp-menu-list")
	case "folded":
		out.WriteString(`<details class="cp-menu-fold"><summary>Menu</summary>`)
		s.entries(&out, entries, "cp-menu-list")
		out.WriteString("</details>")
	default:
		out.WriteString(`<details class="cp-menu-fold"><summary>Menu</summary></details>`)
		s.entries(&out, entries, "cp-menu-list")
	}
	out.WriteString("</nav>")
	return out.String(), nil
}

func (s *stage) entries(out *strings.Builder, entries []MenuEntry, class string) {
	fmt.Fprintf(out, `<ul class="%s">`, class)
	for _, e := range entries {
		current := ""
		if e.To == s.spot.Slug {
			current = ` aria-current="page"`
		}
		fmt.Fprintf(out, `<li><a href="%s"%s>%s</a>`, markup.EscapeAttr(e.To), current, markup.EscapeText(e.Label))
		if len(e.Entries) > 0 {
			s.entries(out, e.Entries, "cp-menu-sub")
		}
		out.WriteString("</li>")
	}
	out.WriteString("</ul>")
}

// anchors lists what a page can be entered at: its elements with an id that hold a
// heading, or are one, named by the heading or by data-menu-label.
func (s *stage) anchors(of string) ([]MenuEntry, error) {
	slug, prefix := of, of
	if of == "" || of == s.spot.Slug {
		slug, prefix = s.spot.Slug, ""
	}
	h, ok := s.r.pages[slug]
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
