package plan

import (
	"cmp"
	"slices"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// A group is what meets in a selector, on an element, or through a custom property, a font or
// an animation: its names are kept apart together, or shared together, so that no piece is
// dressed half by one side and half by the other.

// meeting joins names that meet: a forest of disjoint sets (Tarjan 1975, with path halving).
type meeting map[facts.Name]facts.Name

func (g meeting) root(n facts.Name) facts.Name {
	if _, ok := g[n]; !ok {
		g[n] = n
	}
	for g[n] != n {
		g[n] = g[g[n]]
		n = g[n]
	}
	return n
}

func (g meeting) join(names []facts.Name) {
	for i := 1; i < len(names); i++ {
		a, b := g.root(names[0]), g.root(names[i])
		if compareNames(b, a) < 0 {
			a, b = b, a
		}
		g[b] = a
	}
}

func compareNames(a, b facts.Name) int {
	return cmp.Or(cmp.Compare(a.Name, b.Name), cmp.Compare(a.Space, b.Space))
}

// sheet joins what meets in one stylesheet.
func (g meeting) sheet(src []byte, of kitNames) {
	css.Parse(src).Walk(func(r *css.Rule, around []*css.Rule) {
		var outer []facts.Name // of the animation or the rules around
		for _, a := range around {
			name, _ := a.Animation(src)
			if n := (facts.Name{Space: facts.Animation, Name: name}); len(of.definitions[n]) > 0 {
				outer = append(outer, n)
			}
			for _, s := range a.Selectors {
				outer = append(outer, classNames(s, of)...)
			}
		}
		var uses []facts.Name
		for _, x := range r.Decls {
			now := of.usesOf(src, x)
			g.join(now)
			uses = append(uses, now...)
		}
		for _, s := range r.Selectors {
			if names := append(classNames(s, of), outer...); len(names) > 0 {
				g.join(append(names, uses...))
				uses = names[:1] // joined with the rest from here on
			}
		}
	})
}

func classNames(s css.Selector, of kitNames) []facts.Name {
	var out []facts.Name
	for _, c := range classesOf(s) {
		if n := (facts.Name{Space: facts.Class, Name: c}); len(of.definitions[n]) > 0 {
			out = append(out, n)
		}
	}
	return out
}

// elements joins the classes that meet on one element.
func (g meeting) elements(src []byte, context string, of kitNames, hooks definitions) {
	for _, n := range markup.Parse(src, context).All {
		var on []facts.Name
		for _, c := range n.Classes() {
			name := facts.Name{Space: facts.Class, Name: c}
			if _, ok := of.definitions[name]; !ok && len(hooks[name]) > 0 {
				of.definitions[name] = nil
			}
			if _, ok := of.definitions[name]; ok {
				on = append(on, name)
			}
		}
		g.join(on)
	}
}

// meeting gives the kit's names by what meets, each group and all of them in order. Classes
// of its markup that only the site defines are among them: at home nothing showed them.
func (m *namer) meeting(ours, theirs definitions) ([][]facts.Name, error) {
	of, g := namesOf(ours), meeting{}
	hooks := definitions{}
	if !m.needsSheets() {
		hooks = theirs
	}
	for _, h := range m.parcel.Heads() {
		if !m.meets(h) || h.Address.Kind != item.Stylesheet && !h.Address.Kind.IsMarkup() {
			continue
		}
		b, err := item.Read(m.parcel.Collection, h)
		if err != nil {
			return nil, err
		}
		if h.Address.Kind == item.Stylesheet {
			g.sheet(b, of)
		} else {
			g.elements(b, h.Meta.Context, of, hooks)
		}
	}
	by := map[facts.Name][]facts.Name{}
	for n := range of.definitions {
		by[g.root(n)] = append(by[g.root(n)], n)
	}
	out := make([][]facts.Name, 0, len(by))
	for _, names := range by {
		slices.SortFunc(names, compareNames)
		out = append(out, names)
	}
	slices.SortFunc(out, func(a, b []facts.Name) int { return compareNames(a[0], b[0]) })
	return out, nil
}

// looksOnly tells that a kit brings stylesheets and tokens for the site's own pieces.
func (in *inputs) looksOnly() bool {
	for _, h := range in.parcel.Heads() {
		if h.Address.Kind.IsMarkup() {
			return false
		}
	}
	return true
}

// needsSheets tells that the kit leaves a stylesheet to the site: its classes are meant.
func (in *inputs) needsSheets() bool {
	for _, n := range in.parcel.List.Needs.Items {
		if a, err := item.ParseAddress(n.Address); err == nil && a.Kind == item.Stylesheet {
			return true
		}
	}
	return false
}
