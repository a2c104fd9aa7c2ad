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

func (s *stage) menu(name, label string) string {
	a := item.Address{Kind: item.Menu, Key: name}
	b, ok := s.r.read(a)
	var m struct {
		Title   string      `json:"title"`
		Entries []MenuEntry `json:"entries"`
	}
	if !ok || json.Unmarshal(b, &m) != nil {
		return ""
	}
	s.reached[a] = true
	if label == "" {
		label = m.Title
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<nav class="cp-menu" aria-label="%s"><details class="cp-menu-fold"><summary>Menu</summary></details>`, markup.EscapeAttr(label))
	s.entries(&out, m.Entries, "cp-menu-list")
	out.WriteString("</nav>")
	return out.String()
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
