package plan

import (
	"fmt"
	"slices"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/render"
)

// ScriptMention is a place of a script that may name something.
type ScriptMention struct {
	Item   item.Address `json:"item"`
	OnSite bool         `json:"onSite"` // of the site's, else of the kit's
	Line   int          `json:"line,omitempty"`
	// Literal is what stands there; empty when the script is not read.
	Literal string `json:"literal,omitempty"`
	// Name is the name that it may mean; empty: any.
	Name string `json:"name,omitempty"`
}

func (s ScriptMention) String() string {
	of := "the kit's "
	if s.OnSite {
		of = "the site's "
	}
	at := of + s.Item.String()
	if s.Line > 0 {
		at += fmt.Sprintf(", line %d", s.Line)
	}
	if s.Literal == "" {
		return at + ", runs a script that is not read here and may name anything"
	}
	return fmt.Sprintf("%s, may name %q by %q", at, s.Name, s.Literal)
}

// factsFrom is a script, or what holds one, with its facts.
type factsFrom struct {
	of     item.Address
	onSite bool
	facts  *facts.Facts
}

// findMentions finds which names of a group a script may name: one that comes along, or one
// that runs on the pages that receive something.
func (m *maker) findMentions(g *nameGroup) error {
	scripts, err := m.scriptsThatMeet()
	if err != nil {
		return err
	}
	g.named = map[facts.Name]ScriptMention{}
	spaces := map[string][]facts.Name{}
	for _, n := range g.names {
		spaces[n.Name] = append(spaces[n.Name], n)
	}
	for _, s := range scripts {
		if by, ok := s.unread(); ok {
			for _, n := range g.names {
				g.named[n] = by
			}
			g.Script = &by
			return nil
		}
		left := map[string]bool{}
		for name, all := range spaces {
			if _, known := g.named[all[0]]; !known {
				left[name] = true
			}
		}
		for _, x := range s.facts.MayName(left) {
			by := ScriptMention{Item: s.of, OnSite: s.onSite, Line: x.Ref.Line, Literal: brief(x.Ref.Name),
				Name: x.Name}
			for _, n := range spaces[x.Name] {
				g.named[n] = by
			}
			if g.Script == nil {
				g.Script = &by
			}
		}
	}
	return nil
}

func brief(s string) string {
	if r := []rune(s); len(r) > 60 {
		return string(r[:60]) + "…"
	}
	return s
}

// unread tells of a script that may name anything: one that is loaded from elsewhere, or has
// more literals than are kept.
func (s factsFrom) unread() (ScriptMention, bool) {
	if s.facts.Unread {
		return ScriptMention{Item: s.of, OnSite: s.onSite}, true
	}
	for _, r := range s.facts.Refs {
		if r.Space == facts.External && r.Where.Tag == "script" {
			return ScriptMention{Item: s.of, OnSite: s.onSite, Line: r.Line}, true
		}
	}
	return ScriptMention{}, false
}

// scriptsThatMeet are the scripts that come along, and those that run on the pages that
// receive something. They are looked for once.
func (m *maker) scriptsThatMeet() ([]factsFrom, error) {
	if m.scripts != nil {
		return m.scripts, nil
	}
	m.scripts = []factsFrom{}
	for _, h := range m.parcel.Heads() {
		if row := m.rows[h.Address]; row == nil || !comesIn(row) && row.Decision != "" {
			continue
		}
		f, err := m.facts(h)
		if err != nil {
			return nil, err
		}
		m.scripts = append(m.scripts, factsFrom{h.Address, false, f})
	}
	pages := m.receivingPages()
	if p, ok := m.site.(interface{ PrimeFacts([]item.Head) error }); ok {
		if err := p.PrimeFacts(pages); err != nil {
			return nil, err
		}
	}
	seen := map[item.Address]bool{}
	add := func(h item.Head) (*facts.Facts, error) {
		seen[h.Address] = true
		f, err := m.site.Facts(h)
		if err == nil {
			m.scripts = append(m.scripts, factsFrom{h.Address, true, f})
		}
		return f, err
	}
	for _, page := range pages {
		f, err := add(page)
		if err != nil {
			return nil, err
		}
		for _, r := range f.Refs {
			a, ok := item.AddressOfPath(r.Name)
			if r.Space != facts.Address || r.Where.Tag != "script" || !ok || seen[a] {
				continue
			}
			if h, ok := m.site.Find(a); ok {
				if _, err := add(h); err != nil {
					return nil, err
				}
			}
		}
	}
	return m.scripts, nil
}

// receivingPages are the site's own pages on which something of the kit will stand: those
// that a part is placed on, and those that the kit's page replaces or is blended into.
func (m *maker) receivingPages() []item.Head {
	var out []item.Head
	for _, page := range m.site.Pages() {
		spot := render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
		if slices.ContainsFunc(m.list, func(row *Row) bool {
			if !comesIn(row) {
				return false
			}
			h, ok := m.parcel.Find(row.Address)
			return ok && (h.Address.Kind == item.Part && !h.Meta.Off && m.appearsAt(h, spot) ||
				row.Site != nil && row.Site.Address == page.Address)
		}) {
			out = append(out, page)
		}
	}
	return out
}
