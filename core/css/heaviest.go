package css

import (
	"slices"
	"strings"

	"compactparcel/core/markup"
)

// Weight is the heaviest that any rule says of a property of an element.
type Weight struct {
	// Specificity counts ids, classes and types (Selectors Level 4, section 17).
	Specificity [3]int
	// Important tells that a rule or the style attribute says so with !important, Layered that one
	// in a layer does, which no rule outside can outdo; Inline that the style attribute says it.
	Important, Layered, Inline bool
}

// Heaviest gives what a rule must outdo to decide a property of an element at all times: rules for
// states count as the others do. Properties are held together by the first of their words, as
// background and background-color, so it can be more than is needed, and never less.
func (c *Cascade) Heaviest(n *markup.Node, property string) Weight {
	var out Weight
	about := func(name string) bool { return family(name) == family(property) }
	c.eachRule(func(_ int, _ *Sheet, r *Rule, in context) {
		important := false
		if !slices.ContainsFunc(r.Decls, func(d Decl) bool {
			important = important || about(d.Name) && d.Important
			return about(d.Name)
		}) {
			return
		}
		for _, s := range r.Selectors {
			if s.Unknown || s.ofPseudoElement() {
				continue
			}
			if _, stands := in.proximity(n); !stands || !s.Fits(n, in.parents) {
				continue
			}
			if w := in.specificity(s); slices.Compare(w[:], out.Specificity[:]) > 0 && in.layer == c.layers {
				out.Specificity = w
			}
			out.Important = out.Important || important
			out.Layered = out.Layered || important && in.layer != c.layers
		}
	})
	for _, d := range ParseDeclarations([]byte(n.Value("style"))).Decls {
		if about(d.Name) {
			out.Inline, out.Important = true, out.Important || d.Important
		}
	}
	return out
}

// kin are properties that a shorthand of another first word decides, too.
var kin = map[string]string{"line": "font", "top": "inset", "right": "inset", "bottom": "inset", "left": "inset",
	"row": "gap", "align": "place", "justify": "place"}

// family is the first word of a property's name, by which shorthands and longhands belong together; prefixes of
// browsers count for nothing. "column-gap" belongs to gap, and column-count to column.
func family(property string) string {
	if strings.HasPrefix(property, "--") {
		return property
	}
	for _, prefix := range []string{"-webkit-", "-moz-", "-ms-"} {
		property = strings.TrimPrefix(property, prefix)
	}
	if strings.HasSuffix(property, "-gap") {
		return "gap"
	}
	word, _, _ := strings.Cut(property, "-")
	if of, ok := kin[word]; ok {
		return of
	}
	return word
}

// ofPseudoElement tells whether a selector's subject is a pseudo-element.
func (s Selector) ofPseudoElement() bool {
	return len(s.Parts) > 0 && slices.ContainsFunc(s.Parts[len(s.Parts)-1].Simple,
		func(x Simple) bool { return x.Type == ByElement })
}
