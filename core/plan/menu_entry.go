package plan

import (
	"fmt"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/menu"
	"compactparcel/core/render"
)

// enterPages gives the menu that was asked for an entry for each new page, behind its own; one that leads
// there already stays the only one.
func enterPages(g given, writes []PlannedWrite) ([]PlannedWrite, error) {
	if g.ask.Menu.IsZero() {
		return writes, nil
	}
	fits := func(format string, args ...any) error {
		return &DecisionError{Key: "menu", Message: fmt.Sprintf(format, args...)}
	}
	h, ok := g.site.Find(g.ask.Menu)
	if !ok || g.ask.Menu.Kind != item.Menu {
		return nil, fits("the site has no %s", g.ask.Menu)
	}
	at := -1
	for i, w := range writes {
		if w.Head.Address == g.ask.Menu {
			at = i
		}
	}
	b, err := item.Read(g.site, h)
	if at >= 0 {
		b, err = g.textOf(writes[at])
	}
	if err != nil {
		return nil, err
	}
	m, err := menu.Parse(b)
	if err != nil {
		return nil, fits("%s holds more than entries", g.ask.Menu)
	}
	fresh := &menu.Menu{}
	var labels []string
	for _, w := range writes {
		if _, there := g.site.Find(w.Head.Address); there || w.Head.Address.Kind != item.Page {
			continue
		}
		label := w.Head.Meta.Title
		if label == "" {
			label = strings.Trim(w.Head.Meta.Slug, "/")
		}
		fresh.Entries = append(fresh.Entries, render.MenuEntry{Label: label, To: w.Head.Meta.Slug})
		labels = append(labels, label)
	}
	if m.Join(fresh) == 0 {
		return writes, nil
	}
	text, err := m.Text()
	if err != nil {
		return nil, err
	}
	g.note("%s gets entries for the new pages: %s.", g.ask.Menu, strings.Join(labels, ", "))
	put := PlannedWrite{Head: h}
	if at >= 0 {
		put = writes[at]
	}
	put.Head.ID, put.Content, put.facts = "", text, nil
	put.Head.Doc, put.Head.Bytes = item.DigestOf(text), int64(len(text))
	put.Head.NormalizedDigest = facts.NormalizedDigestOf(item.Menu, "", text)
	if at >= 0 {
		writes[at] = put
		return writes, nil
	}
	g.addPrecondition(g.ask.Menu)
	return append(writes, put), nil
}
