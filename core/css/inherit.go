package css

import (
	"sort"
	"strings"
)

// fontParts are the properties that the shorthand font sets.
var fontParts = words(
	"font font-family font-size font-style font-weight font-stretch font-variant line-height " +
		"font-feature-settings font-kerning",
)

// inheriting gives the properties that a rule takes from around its element by the
// word inherit: on a piece's root they must come from the host frame.
func (c *subsetter) inheriting(r *Rule) []string {
	var out []string
	for _, d := range r.Decls {
		if inherited[d.Name] &&
			strings.EqualFold(strings.TrimSpace(strings.TrimSuffix(string(d.Value.Of(c.sheet.Source)), "!important")),
				"inherit") {
			out = append(out, d.Name)
		}
	}
	return out
}

// framedFor gives the properties that the host frame of a root sets.
func framedFor(all []*subsetter) map[string]map[string]bool {
	out := map[string]map[string]bool{}
	for _, c := range all {
		for _, f := range c.framing {
			if f.inner != "" {
				continue
			}
			if out[f.root] == nil {
				out[f.root] = map[string]bool{}
			}
			for _, d := range f.decls {
				out[f.root][d.Name] = true
			}
		}
	}
	return out
}

// writeInherited writes, behind a rule that says inherit, that the root goes back to
// what the host frame says.
func (c *subsetter) writeInherited(b *strings.Builder, r *Rule, pad string) {
	names := c.inheriting(r)
	if len(names) == 0 {
		return
	}
	seen := map[string]bool{}
	for _, p := range c.pieces {
		framed := c.framed[p.Root]
		if len(framed) == 0 || seen[p.Root] {
			continue
		}
		back := map[string]bool{}
		for _, n := range names {
			for f := range framed {
				if f == n || n == "font" && fontParts[f] || f == "font" && fontParts[n] {
					back[f] = true
				}
			}
		}
		var list []string
		for _, s := range r.Selectors {
			for _, n := range p.Tree.Root.Children {
				if !s.Unknown && s.mayFit(n, nil, p.Switched) {
					subject := s.Parts[len(s.Parts)-1]
					at := endOfCompound(c.sheet.Source, subject)
					if at < subject.End { // a pseudo-element inherits from the root itself
						break
					}
					list = append(list,
						string(c.sheet.Source[s.Start:at])+":where("+p.Root+")"+string(c.sheet.Source[at:s.End]))
					break
				}
			}
		}
		if len(back) == 0 || len(list) == 0 {
			continue
		}
		seen[p.Root] = true
		var text []string
		for n := range back {
			text = append(text, n+": revert-layer")
		}
		sort.Strings(text)
		b.WriteString(pad + strings.Join(list, ", ") + " { " + strings.Join(text, "; ") + "; }\n")
	}
}
