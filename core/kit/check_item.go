package kit

import (
	"fmt"

	"compactparcel/core/closure"
	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// checker checks items of one kit; several at once.
type checker struct {
	list     *PackingList
	w        *closure.Small
	origins  []Origin
	needed   map[string]bool
	tokens   bool
	declared map[string]bool
}

// inspected is what was found in one item, and which blanks it marks.
type inspected struct {
	findings []Finding
	fills    []string
}

func (c *checker) item(h item.Head) (out inspected, err error) {
	w, list, a := c.w, c.list, h.Address
	add := func(a item.Address, line int, stops bool, remedy, format string, args ...any) {
		out.findings = append(out.findings, Finding{a, line, stops, fmt.Sprintf(format, args...), remedy})
	}
	if a.Kind == item.Setting && !h.Meta.IsPortable(a.Key) {
		add(a, 0, true, "take it out of the kit", "the setting is site-only and may not travel")
	}
	f, err := w.Facts(h)
	if err != nil {
		return out, err
	}
	if f.Broken != "" {
		add(a, 0, true, "correct it in its source", "%s", f.Broken)
	}
	if f.Opaque {
		add(a, 0, false, "make it smaller or flatter",
			"it is too deep or too long to be read rule by rule; of its references only the addresses are known")
	}
	out.findings = append(out.findings, c.unmet(h, f)...)
	var anchors map[string]bool // of the piece and what it shows, once it is asked for
	for _, r := range f.Refs {
		within := r.Space == facts.ID && !r.Defines && r.Where.IsAttribute("href")
		if within && anchors == nil {
			anchors = map[string]bool{}
			if err := c.addAnchors(h, f, anchors, map[item.Address]bool{}); err != nil {
				return out, err
			}
		}
		switch {
		case r.Space == facts.Loose:
			add(a, r.Line, true, "write it from the root, as in /media/"+r.Name,
				"the relative address %q in %s means nothing in a kit", r.Name, r.Where)
		case within && !anchors[r.Name]:
			add(a, r.Line, false, "give the target the id, or change the link",
				"the anchor #%s leads nowhere within the piece", r.Name)
		}
	}
	for _, p := range f.Fills {
		if !c.declared[p.Name] {
			add(a, p.Line, true, "declare it, or take the mark out", "the fill-in %q is not declared", p.Name)
		}
		if RunsWhatIsFilled(p.Target, p.Pattern) {
			add(a, p.Line, true, "mark another place", "browsers would run what is filled in as %q (%s)", p.Name,
				p.Target)
		}
		out.fills = append(out.fills, p.Name)
	}
	for _, s := range f.Scripts {
		add(a, 0, false, "the receiver must allow scripts", "it brings code: %s", s)
	}
	note := func(line int, remedy, format string, args ...any) { add(a, line, false, remedy, format, args...) }
	if a.Kind != item.Media {
		b, err := item.Read(w, h)
		if err != nil {
			return out, err
		}
		var tree *markup.Tree
		switch {
		case a.Kind.IsMarkup():
			tree = markup.Parse(b, h.Meta.Context)
			faults.BelongsToSomebody(tree, samplesOf(list), note)
		case a.Kind == item.Stylesheet && c.tokens:
			checkColours(css.Parse(b), note)
		}
		faults.OfOrigin(h, b, tree, c.origins, note)
	}
	checkAnchors(w, h, f, note)
	if f.NoAlt > 0 {
		add(a, 0, false, "write an alternative text", "%d of its pictures have no alternative text", f.NoAlt)
	}
	if h.Address.Kind == item.Media && h.Bytes > 2<<20 {
		add(a, 0, false, "make it lighter", "the file weighs %.1f MB", float64(h.Bytes)/(1<<20))
	}
	return out, nil
}

// unmet finds what an item uses that is neither in the kit nor a declared need.
func (c *checker) unmet(h item.Head, f *facts.Facts) (out []Finding) {
	for _, u := range closure.Uses(c.w, h, f) {
		name := u.Slug
		if !u.To.IsZero() {
			name = u.To.String()
		}
		_, component := c.list.Needs.Components[u.To.Key]
		if name == "" || u.Found || u.To.Kind == item.Component && component || c.needed[name] || c.needed[u.Slug] {
			continue
		}
		out = append(out, Finding{h.Address, u.Line, true, fmt.Sprintf(
			"it %s, which is neither in the kit nor a declared need", u.Relation.Sentence(name, u.Where)),
			"put it into the kit, or declare it as a need"})
	}
	return out
}

// samplesOf gives the samples of a kit's fill-ins.
func samplesOf(list *PackingList) map[string]string {
	out := make(map[string]string, len(list.Fillins))
	for _, f := range list.Fillins {
		out[f.Name] = f.Sample
	}
	return out
}

// addAnchors gathers the ids of a piece's elements, and of what it shows.
func (c *checker) addAnchors(h item.Head, f *facts.Facts, ids map[string]bool, seen map[item.Address]bool) error {
	seen[h.Address] = true
	for _, id := range f.Defines(facts.ID) {
		ids[id] = true
	}
	for _, u := range closure.Uses(c.w, h, f) {
		shown, ok := c.w.Find(u.To)
		if !ok || seen[u.To] || u.To.Kind != item.Section && u.To.Kind != item.Block {
			continue
		}
		its, err := c.w.Facts(shown)
		if err == nil {
			err = c.addAnchors(shown, its, ids, seen)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
