package plan

import (
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
)

// StyleOverride is a property of an element of the kit's page that a rule of the site's decides,
// where the kit's rules alone would have it otherwise.
type StyleOverride struct {
	Page     item.Address `json:"page"`
	Element  string       `json:"element"` // the way to it, as css.PathTo writes it
	Property string       `json:"property"`
	Value    string       `json:"value"`
	Kit      string       `json:"kit,omitempty"` // what the kit's rules say; empty: nothing
	By       string       `json:"by"`            // the stylesheet and its rule
	When     string       `json:"when,omitempty"`
}

// maxHits bounds how many hits are listed of one page.
const maxHits = 200

// cascadePriority is what decides between declarations (CSS Cascade 5, section 6), the first first.
type cascadePriority [8]int

func (a cascadePriority) outranks(b cascadePriority) bool {
	for i := range a {
		if a[i] != b[i] {
			return a[i] > b[i]
		}
	}
	return true
}

// winningDeclaration is a declaration that applies to an element.
type winningDeclaration struct {
	weight cascadePriority
	value  string
	site   bool
	by     string
	when   string
}

// shownSheet is a stylesheet of a page, in its order.
type shownSheet struct {
	of   item.Address
	src  []byte
	site bool
}

// StyleOverrides finds what of the site's rules hits the kit's own elements of a page, as the page
// will be shown. own tells which items are the kit's. Rules for a state and for
// pseudo-elements are passed over.
func StyleOverrides(after item.Collection, page item.Head, own func(item.Address) bool) ([]StyleOverride, error) {
	r := render.New(after)
	shown, err := r.Page(render.PageRequest{Slug: page.Meta.Slug, Marked: true})
	if err != nil {
		return nil, err
	}
	sheets, err := sheetsOf(after, shown.Reached, own)
	if err != nil || len(sheets) == 0 {
		return nil, err
	}
	var theirs []span.Span
	for _, a := range shown.Reached {
		if a.Kind == item.Part || a.Kind == item.Section {
			if at, ok := render.PlaceOf(shown.Body, a); ok && !own(a) {
				theirs = append(theirs, at)
			}
		}
	}
	tree := markup.Parse(shown.Body, "")
	best := map[*markup.Node]map[string][2]winningDeclaration{} // by property: of all rules, of the kit's
	for i, s := range sheets {
		s.apply(i, tree, theirs, best)
	}
	var out []StyleOverride
	for _, n := range tree.All {
		var properties []string
		for p, b := range best[n] {
			if b[0].site && b[0].value != b[1].value {
				properties = append(properties, p)
			}
		}
		sort.Strings(properties)
		for _, p := range properties {
			if len(out) == maxHits {
				return out, nil
			}
			b := best[n][p]
			out = append(
				out,
				StyleOverride{
					Page:     page.Address,
					Element:  css.PathTo(n),
					Property: p,
					Value:    b[0].value,
					Kit:      b[1].value,
					By:       b[0].by,
					When:     b[0].when,
				},
			)
		}
	}
	return out, nil
}

// sheetsOf gives a page's stylesheets in their order; none when all are the kit's.
func sheetsOf(after item.Collection, reached []item.Address, own func(item.Address) bool) ([]shownSheet, error) {
	place := map[item.Address]int{}
	order, err := render.StyleOrder(after)
	if err != nil {
		return nil, err
	}
	for i, a := range order {
		place[a] = i + 1
	}
	var out []shownSheet
	foreign := false
	for _, a := range reached {
		if a.Kind != item.Stylesheet {
			continue
		}
		h, ok := after.Find(a)
		if !ok {
			continue
		}
		b, err := item.Read(after, h)
		if err != nil {
			return nil, err
		}
		out = append(out, shownSheet{a, b, !own(a)})
		foreign = foreign || !own(a)
	}
	if !foreign {
		return nil, nil
	}
	sort.SliceStable(out, func(i, j int) bool {
		x, y := place[out[i].of], place[out[j].of]
		if x == 0 || y == 0 {
			return x != 0
		}
		return x < y
	})
	return out, nil
}

// apply holds all rules of a sheet against the kit's elements.
func (s shownSheet) apply(order int, tree *markup.Tree, theirs []span.Span,
	best map[*markup.Node]map[string][2]winningDeclaration) {
	position := 0
	css.Parse(s.src).Walk(func(r *css.Rule, around []*css.Rule) {
		if r.At != "" {
			return
		}
		var parents []css.Selector
		when, unlayered := "", 1
		for _, a := range around {
			switch {
			case a.At == "":
				parents = a.Selectors
			case strings.HasSuffix(a.At, "keyframes"):
				return
			case a.At == "layer":
				unlayered = 0
			default:
				when = strings.TrimSpace(when + " @" + a.At + " " + string(a.Prelude.Of(s.src)))
			}
		}
		if strings.Contains(when, "print") {
			return
		}
		for _, sel := range r.Selectors {
			if sel.Unknown || !steady(sel) {
				continue
			}
			ids, classes, types := sel.Specificity()
			for _, n := range tree.All {
				if !n.Own || standsIn(n.Start, theirs) || !sel.Fits(n, parents) {
					continue
				}
				for _, d := range r.Decls {
					position++
					important := 0
					if d.Important {
						important = 1
					}
					x := winningDeclaration{
						cascadePriority{important, unlayered, 0, ids, classes, types, order, position},
						string(css.Normalize([]byte(strings.TrimSpace(string(d.Value.Of(s.src)))))),
						s.site,
						fmt.Sprintf("%s %s", s.of, strings.Join(strings.Fields(string(sel.Of(s.src))), " ")),
						when,
					}
					if best[n] == nil {
						best[n] = map[string][2]winningDeclaration{}
					}
					for _, name := range longhands(d.Name, x.value) {
						b := best[n][name]
						if x.weight.outranks(b[0].weight) {
							b[0] = x
						}
						if !s.site && x.weight.outranks(b[1].weight) {
							b[1] = x
						}
						best[n][name] = b
					}
				}
			}
		}
	})
}

// steady tells whether a selector holds at all moments, for the element itself.
func steady(s css.Selector) bool {
	for _, c := range s.Parts {
		for _, x := range c.Simple {
			if x.Type == css.ByElement || x.Type == css.ByPseudo && !alwaysSo[x.Name] {
				return false
			}
		}
	}
	return true
}

var alwaysSo = map[string]bool{
	"root":             true,
	"is":               true,
	"where":            true,
	"not":              true,
	"has":              true,
	"empty":            true,
	"first-child":      true,
	"last-child":       true,
	"only-child":       true,
	"first-of-type":    true,
	"last-of-type":     true,
	"only-of-type":     true,
	"nth-child":        true,
	"nth-last-child":   true,
	"nth-of-type":      true,
	"nth-last-of-type": true,
}

func standsIn(at span.Span, list []span.Span) bool {
	for _, s := range list {
		if at.Start >= s.Start && at.Start < s.End {
			return true
		}
	}
	return false
}

// longhands gives the properties that a shorthand decides, those that its value names.
func longhands(name, value string) []string {
	sides := func(of string) []string { return []string{of + "-top", of + "-right", of + "-bottom", of + "-left"} }
	switch name {
	case "margin", "padding":
		return sides(name)
	case "background":
		if strings.Contains(value, "url(") || strings.Contains(value, "gradient(") {
			return []string{"background-color", "background-image"}
		}
		return []string{"background-color"}
	case "font":
		out := []string{"font-size", "font-family"}
		if strings.Contains(value, "/") {
			out = append(out, "line-height")
		}
		if strings.Contains(value, "italic") || strings.Contains(value, "oblique") {
			out = append(out, "font-style")
		}
		if strings.Contains(value, "bold") {
			out = append(out, "font-weight")
		}
		return out
	}
	return []string{name}
}
