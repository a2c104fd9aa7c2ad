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

// findMentions finds which names of the groups a script may name: one that comes along, or one
// that runs on the pages that receive something. Each script is read once, for all groups.
func (m *namer) findMentions(groups []*nameGroup) error {
	if len(groups) == 0 {
		return nil
	}
	scripts, err := m.scriptsThatMeet()
	if err != nil {
		return err
	}
	all := map[string]bool{}
	for _, g := range groups {
		for _, n := range g.names {
			all[n.Name] = true
		}
	}
	by, anything := map[string]ScriptMention{}, (*ScriptMention)(nil)
	for _, s := range scripts {
		if x, ok := s.unread(); ok {
			anything = &x
			break
		}
		for _, x := range s.facts.MayName(all) {
			by[x.Name] = ScriptMention{Item: s.of, OnSite: s.onSite, Line: x.Ref.Line, Literal: brief(x.Ref.Name),
				Name: x.Name}
			delete(all, x.Name) // the first that may is told
		}
	}
	for _, g := range groups {
		g.mentioned(by, anything)
	}
	return nil
}

// mentioned notes which of a group's names a script may name; anything is one that may name all.
func (g *nameGroup) mentioned(by map[string]ScriptMention, anything *ScriptMention) {
	g.named = map[facts.Name]ScriptMention{}
	for _, n := range g.names {
		x, ok := by[n.Name]
		if !ok && anything != nil {
			x, ok = *anything, true
		}
		if !ok {
			continue
		}
		if g.named[n] = x; g.Script == nil {
			g.Script = &x
		}
	}
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
	if s.facts.Unread || s.facts.Opaque && s.of.Kind.IsMarkup() {
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
// receive something.
func (m *namer) scriptsThatMeet() ([]factsFrom, error) {
	var out []factsFrom
	add := func(h item.Head, onSite bool, f *facts.Facts) {
		s := factsFrom{h.Address, onSite, f}
		if _, unread := s.unread(); unread || len(f.Mentions) > 0 {
			out = append(out, s)
		}
	}
	for _, h := range m.parcel.Heads() {
		if row := m.rows[h.Address]; row == nil || !comesIn(row) && row.Decision != "" {
			continue
		}
		f, err := m.facts(h)
		if err != nil {
			return nil, err
		}
		add(h, false, f)
	}
	pages := m.receivingPages()
	if p, ok := m.site.(interface{ PrimeFacts([]item.Head) error }); ok {
		if err := p.PrimeFacts(pages); err != nil {
			return nil, err
		}
	}
	seen := map[item.Address]bool{}
	for _, page := range pages {
		f, err := m.site.Facts(page)
		if err != nil {
			return nil, err
		}
		add(page, true, f)
		for _, r := range f.Refs {
			a, ok := item.FileAt(m.site, r.Name)
			if r.Space != facts.Address || r.Where.Tag != "script" || !ok || seen[a] {
				continue
			}
			seen[a] = true
			h, ok := m.site.Find(a)
			if !ok {
				continue
			}
			own, err := m.site.Facts(h)
			if err != nil {
				return nil, err
			}
			add(h, true, own)
		}
	}
	return out, nil
}

// receivingPages are the site's own pages on which something of the kit will stand: those
// that a part is placed on, and those that the kit's page replaces or is blended into.
func (m *namer) receivingPages() []item.Head {
	var parts []item.Head
	updated := map[item.Address]bool{}
	for _, row := range m.list {
		h, ok := m.parcel.Find(row.Address)
		if !ok || !comesIn(row) {
			continue
		}
		if h.Address.Kind == item.Part && !h.Meta.Off {
			parts = append(parts, h)
		}
		if row.Site != nil {
			updated[row.Site.Address] = true
		}
	}
	var out []item.Head
	for _, page := range m.site.Pages() {
		spot := render.PageContext{Slug: page.Meta.Slug, Home: page.Meta.Slug == "/"}
		if updated[page.Address] ||
			slices.ContainsFunc(parts, func(h item.Head) bool { return appearsAt(h, spot) }) {
			out = append(out, page)
		}
	}
	return out
}
