package plan

import (
	"sort"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/span"
)

// wornRules leaves out of a stylesheet what the kit's pieces shall wear as the site has it:
// the rules whose classes are all worn, animations and fonts that are, and declarations of
// worn custom properties.
func wornRules(src []byte, worn map[facts.Name]bool) []span.Edit {
	var edits []span.Edit
	out := func(at span.Span) { edits = append(edits, span.Edit{Span: at}) }
	gone := map[*css.Rule]bool{}
	css.Parse(src).Walk(func(r *css.Rule, around []*css.Rule) {
		for _, a := range around {
			if gone[a] {
				gone[r] = true // with what stands around it
				return
			}
		}
		if wornRule(src, r, worn) {
			gone[r] = true
			out(r.Span)
			return
		}
		for _, d := range r.Decls {
			if worn[facts.Name{Space: facts.Property, Name: d.Name}] {
				at := d.Span
				if at.End < len(src) && src[at.End] == ';' {
					at.End++
				}
				out(at)
			}
		}
	})
	sort.SliceStable(edits, func(i, j int) bool { return edits[i].Start < edits[j].Start })
	return edits
}

func wornRule(src []byte, r *css.Rule, worn map[facts.Name]bool) bool {
	if name, ok := r.Animation(src); ok {
		return worn[facts.Name{Space: facts.Animation, Name: name}]
	}
	if name, ok := r.FontFamily(src); ok {
		return worn[facts.Name{Space: facts.Font, Name: name}]
	}
	if r.At != "" {
		return false
	}
	classes := 0
	for _, s := range r.Selectors {
		for _, c := range classesOf(s) {
			classes++
			if !worn[facts.Name{Space: facts.Class, Name: c}] {
				return false
			}
		}
	}
	return classes > 0
}
