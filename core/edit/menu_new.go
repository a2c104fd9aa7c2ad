package edit

import (
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/menu"
	"compactparcel/core/render"
	"compactparcel/core/says"
)

// newMenu makes a menu: of a page's sections, where a page is named.
func (e *editor) newMenu(op Operation) (string, error) {
	if op.Item.Kind != item.Menu {
		return "", refuse("%s is no menu", op.Item)
	}
	if _, taken := e.over.Find(op.Item); taken {
		return "", refuse("there is a menu %s already", op.Item.Key)
	}
	m := &menu.Menu{Title: op.Value, Entries: []render.MenuEntry{}}
	if op.Page != "" {
		list, err := e.sectionsOf(op.Page)
		if err != nil {
			return "", err
		}
		m.Entries = list
	}
	out, err := m.Text()
	if err != nil {
		return "", err
	}
	return "made " + op.Item.String(), e.put(item.Head{Address: op.Item}, out)
}

// sectionsOf are entries that lead to the places of a page's content that have an anchor and a heading.
func (e *editor) sectionsOf(slug string) ([]render.MenuEntry, error) {
	out, err := render.New(e.over).Page(render.PageRequest{Slug: slug})
	if err != nil {
		return nil, err
	}
	if out.Status != 200 {
		return nil, refuse("no page is at %s", says.Slug(slug))
	}
	main := mainOf(markup.Parse(out.Body, ""))
	if main == nil {
		return nil, refuse("the page has no content of its own")
	}
	var list []render.MenuEntry
	var walk func(n *markup.Node)
	walk = func(n *markup.Node) {
		for _, c := range n.Children {
			id, label := c.Value("id"), headingOf(c)
			if id == "" || label == "" {
				walk(c)
				continue
			}
			list = append(list, render.MenuEntry{Label: label, To: slug + "#" + id})
		}
	}
	if walk(main); len(list) == 0 {
		return nil, refuse("no section of the page has an anchor and a heading: give them anchors first")
	}
	return list, nil
}
