// Package menu reads and writes menus: labels, where they lead, and what stands below them.
package menu

import (
	"bytes"
	"encoding/json"
	"strings"

	"compactparcel/core/render"
)

// Menu is a menu that holds entries and nothing else.
type Menu struct {
	Title   string             `json:"title,omitempty"`
	Entries []render.MenuEntry `json:"entries"`
}

// Parse reads a menu. Its error tells of one that cannot be read, or holds more.
func Parse(src []byte) (*Menu, error) {
	m := &Menu{}
	dec := json.NewDecoder(bytes.NewReader(src))
	dec.DisallowUnknownFields()
	return m, dec.Decode(m)
}

// Join puts the entries of another menu behind those of this one, but for those that lead where one of
// its own leads already. It gives how many came.
func (m *Menu) Join(other *Menu) int {
	leads := map[string]bool{}
	var note func(list []render.MenuEntry)
	note = func(list []render.MenuEntry) {
		for _, x := range list {
			leads[x.To] = true
			note(x.Entries)
		}
	}
	note(m.Entries)
	n := 0
	for _, x := range other.Entries {
		if !leads[x.To] {
			m.Entries, n = append(m.Entries, x), n+1
		}
	}
	return n
}

// Text is the menu's source: an entry to a line, as menus are written by hand.
func (m *Menu) Text() ([]byte, error) {
	var b bytes.Buffer
	var failed error
	text := func(s string) string {
		var out strings.Builder
		enc := json.NewEncoder(&out)
		enc.SetEscapeHTML(false)
		if err := enc.Encode(s); err != nil {
			failed = err
		}
		return strings.TrimSuffix(out.String(), "\n")
	}
	var list func(entries []render.MenuEntry, indent string)
	list = func(entries []render.MenuEntry, indent string) {
		b.WriteString("[")
		for i, x := range entries {
			if i > 0 {
				b.WriteString(",")
			}
			b.WriteString("\n" + indent + "  {\"label\": " + text(x.Label) + ", \"to\": " + text(x.To))
			if len(x.Entries) > 0 {
				b.WriteString(", \"entries\": ")
				list(x.Entries, indent+"  ")
			}
			b.WriteString("}")
		}
		if len(entries) > 0 {
			b.WriteString("\n" + indent)
		}
		b.WriteString("]")
	}
	b.WriteString("{\n")
	if m.Title != "" {
		b.WriteString("  \"title\": " + text(m.Title) + ",\n")
	}
	b.WriteString("  \"entries\": ")
	list(m.Entries, "  ")
	b.WriteString("\n}\n")
	return b.Bytes(), failed
}
