package plan

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// Ids are kept apart only where two meet on one page: those of a part of the kit, and those of a
// page of the site on which it will stand, or of another part there. Links from outside to an id
// that is renamed break, so that it is told.

// apartIDs gives T new names for the ids of parts that meet others, unless a script may name them.
func (m *namer) apartIDs() error {
	parts := map[item.Address]item.Head{}
	kits := map[string]item.Address{} // by id: the part that has it
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Part || h.Meta.Off || !m.comesNew(h) {
			continue
		}
		ids, err := idsIn(m.kit, h)
		if err != nil {
			return err
		}
		for _, id := range ids {
			kits[id], parts[h.Address] = h.Address, h
		}
	}
	meet, err := m.idsThatMeet(kits, parts)
	if err != nil || len(meet) == 0 {
		return err
	}
	scripts, err := m.scriptsThatMeet()
	if err != nil {
		return err
	}
	names := map[string]bool{}
	for id := range meet {
		names[id] = true
	}
	for _, s := range scripts {
		if x, unread := s.unread(); unread {
			m.note("%s: kept, although pages of the site have them too, since %s.", idWords(meet), x)
			return nil
		}
		for _, x := range s.facts.MayName(names) {
			delete(meet, x.Name)
		}
	}
	if len(meet) == 0 {
		return nil
	}
	for id := range meet {
		own := m.freeID(id, kits)
		m.names[facts.Name{Space: facts.ID, Name: id}] = own
		m.settled[Key(AboutID, id)] = Decided{Decision: Rename, Name: own}
	}
	m.note("%s: renamed in the kit, since pages of the site have them too. Links from outside to them lead nowhere "+
		"any more.", idWords(meet))
	return nil
}

// idsThatMeet gives those of the kit's ids that a page of the site has on which their part will
// stand, or a part of the site's there.
func (m *namer) idsThatMeet(kits map[string]item.Address, parts map[item.Address]item.Head) (map[string]bool, error) {
	meet := map[string]bool{}
	if len(kits) == 0 {
		return meet, nil
	}
	replaced := map[item.Address]bool{}
	for _, row := range m.list {
		if row.Site != nil && (row.Decision == Take || row.Decision == Remove) {
			replaced[row.Site.Address] = true
		}
	}
	pages := slices.DeleteFunc(slices.Clone(m.receivingPages()), func(h item.Head) bool { return replaced[h.Address] })
	around := slices.DeleteFunc(slices.Clone(m.site.Parts()), func(h item.Head) bool {
		return replaced[h.Address] || h.Meta.Off
	})
	for _, page := range pages {
		spot := render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
		stands := func(h item.Head) bool { return !page.Meta.LeavesOut(h.Meta.Role) && appearsAt(h, spot) }
		there := []item.Head{page}
		for _, h := range around {
			if stands(h) {
				there = append(there, h)
			}
		}
		for _, h := range there {
			ids, err := idsIn(m.site, h)
			if err != nil {
				return nil, err
			}
			for _, id := range ids {
				if part, has := kits[id]; has && stands(parts[part]) && parts[part].Meta.Role != h.Meta.Role {
					meet[id] = true
				}
			}
		}
	}
	return meet, nil
}

// factReader is a collection that knows the facts of its items.
type factReader interface {
	Facts(item.Head) (*facts.Facts, error)
}

func idsIn(w factReader, h item.Head) ([]string, error) {
	f, err := w.Facts(h)
	if err != nil {
		return nil, err
	}
	var out []string
	for _, r := range f.Refs {
		if r.Space == facts.ID && r.Defines {
			out = append(out, r.Name)
		}
	}
	return out, nil
}

func (m *namer) freeID(id string, kits map[string]item.Address) string {
	own := m.prefix() + "-" + id
	for n := 2; ; n++ {
		if _, taken := kits[own]; !taken {
			return own
		}
		own = fmt.Sprintf("%s-%s-%d", m.prefix(), id, n)
	}
}

func idWords(ids map[string]bool) string {
	var out []string
	for id := range ids {
		out = append(out, "#"+id)
	}
	sort.Strings(out)
	if len(out) > 5 {
		out = append(out[:5], fmt.Sprintf("%d more", len(out)-5))
	}
	return "Ids " + strings.Join(out, ", ")
}
