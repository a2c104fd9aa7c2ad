package edit

import (
	"slices"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/menu"
	"compactparcel/core/render"
)

// menuText is a menu while its entries are changed.
type menuText struct{ *menu.Menu }

// menu changes the entries of a menu.
func (e *editor) menu(op Operation) (string, error) {
	h, m, err := e.readMenu(op.Item)
	if err != nil {
		return "", err
	}
	if op.Value != "" && op.Op != EntryMove {
		if err := e.canLead(op.Value); err != nil {
			return "", err
		}
	}
	if err := m.change(op); err != nil {
		return "", err
	}
	out, err := m.Text()
	if err != nil {
		return "", err
	}
	return "changed the entries of " + op.Item.String(), e.put(h, out)
}

// readMenu reads a menu that holds entries and nothing else.
func (e *editor) readMenu(a item.Address) (item.Head, *menuText, error) {
	h, ok := e.over.Find(a)
	if !ok || a.Kind != item.Menu {
		return h, nil, refuse("there is no menu %s", a)
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return h, nil, err
	}
	m, err := menu.Parse(src)
	if err != nil {
		return h, nil, refuse("%s holds more than entries: edit its source", a)
	}
	return h, &menuText{m}, nil
}

func (m *menuText) change(op Operation) error {
	switch op.Op {
	case EntryAdd:
		entry := render.MenuEntry{Label: op.Label, To: op.Value}
		if op.Entry == "" {
			m.Entries = append(m.Entries, entry)
			return nil
		}
		return m.insert(op.Entry, entry)
	case EntryChange:
		list, i, err := m.at(op.Entry, 0)
		if err != nil {
			return err
		}
		if op.Label != "" {
			(*list)[i].Label = op.Label
		}
		if op.Value != "" {
			(*list)[i].To = op.Value
		}
		return nil
	case EntryMove:
		if op.Value == op.Entry || strings.HasPrefix(op.Value+".", op.Entry+".") {
			return refuse("it would stand below itself")
		}
		list, i, err := m.at(op.Entry, 0)
		if err != nil {
			return err
		}
		entry := (*list)[i]
		*list = slices.Delete(*list, i, i+1)
		return m.insert(op.Value, entry) // places count as they are then
	default:
		list, i, err := m.at(op.Entry, 0)
		if err != nil {
			return err
		}
		*list = slices.Delete(*list, i, i+1)
		return nil
	}
}

// insert puts an entry at a place, before what stands there, or at the end of its list.
func (m *menuText) insert(place string, entry render.MenuEntry) error {
	list, i, err := m.at(place, 1)
	if err == nil {
		*list = slices.Insert(*list, i, entry)
	}
	return err
}

// at gives the list and index of a place as 2, or 2.1 below it. more allows places behind the last.
func (m *menuText) at(place string, more int) (*[]render.MenuEntry, int, error) {
	list := &m.Entries
	parts := strings.Split(place, ".")
	for k, part := range parts {
		n, err := strconv.Atoi(part)
		last := k == len(parts)-1
		allowed := len(*list)
		if last {
			allowed += more
		}
		if err != nil || n < 1 || n > allowed {
			return nil, 0, refuse("the menu has no entry %s", place)
		}
		if last {
			return list, n - 1, nil
		}
		list = &(*list)[n-1].Entries
	}
	return nil, 0, refuse("the menu has no entry %s", place)
}
