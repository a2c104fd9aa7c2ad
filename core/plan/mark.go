package plan

import (
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// A kit whose class names clash with the site's may be marked instead of renamed: all its
// elements get a class, and its rules say :where() of that class, which leaves their
// specificity as it is. So they hit nothing of the site's.

// prefix is what names of the kit begin with where they are kept apart from the site's.
func (in *inputs) prefix() string {
	_, name, site := strings.Cut(in.parcel.List.Kit, ":") // a piece of a site has no kit
	if !site {
		name = in.parcel.List.Kit
	}
	return item.MakeKey(name)
}

func (in *inputs) markClass() string { return "from-" + in.prefix() }

// markText puts the mark into a text of the kit.
func (in *inputs) markText(kind item.Kind, context string, src []byte) ([]byte, error) {
	switch {
	case kind == item.Stylesheet:
		return span.Apply(src, markRules(src, in.markClass()))
	case kind.IsMarkup():
		return span.Apply(src, markElements(markup.Parse(src, context), in.markClass()))
	}
	return src, nil
}

// unmarked are elements that no rule shows.
var unmarked = map[string]bool{
	"head":     true,
	"title":    true,
	"meta":     true,
	"link":     true,
	"script":   true,
	"style":    true,
	"base":     true,
	"template": true,
	"source":   true,
	"track":    true,
	"param":    true,
	"br":       true,
}

func markElements(t *markup.Tree, class string) []span.Edit {
	var edits []span.Edit
	for _, n := range t.All {
		if !n.Own || unmarked[n.Tag] || strings.HasPrefix(n.Tag, "cp-") {
			continue
		}
		has := false
		for _, c := range n.Classes() {
			has = has || c == class
		}
		if !has {
			edits = append(edits, markup.SetAttr(n, "class", strings.TrimSpace(n.Value("class")+" "+class)))
		}
	}
	sort.SliceStable(edits, func(i, j int) bool { return edits[i].Start < edits[j].Start })
	return edits
}

// markRules binds every rule's subjects to the mark. Rules for the root that only define
// custom properties stay: other elements inherit these.
func markRules(src []byte, class string) []span.Edit {
	var edits []span.Edit
	css.Parse(src).Walk(func(r *css.Rule, around []*css.Rule) {
		if r.At != "" {
			return
		}
		for _, a := range around {
			if strings.HasSuffix(a.At, "keyframes") {
				return
			}
		}
		onlyProperties := len(r.Decls) > 0
		for _, d := range r.Decls {
			onlyProperties = onlyProperties && strings.HasPrefix(d.Name, "--")
		}
		for _, s := range r.Selectors {
			if len(s.Parts) == 0 || s.Unknown {
				continue
			}
			subject := s.Parts[len(s.Parts)-1]
			at, root := subject.End, false
			for _, x := range subject.Simple {
				root = root || x.Type == css.ByPseudo && x.Name == "root" || x.Type == css.ByTag && x.Name == "html"
				if x.Type == css.ByElement {
					if at = x.At.Start; at > 0 && src[at-1] == ':' {
						for at > 0 && src[at-1] == ':' {
							at--
						}
					}
					break
				}
			}
			if root && onlyProperties {
				continue
			}
			edits = append(edits,
				span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(":where(." + class + ")")})
		}
	})
	sort.SliceStable(edits, func(i, j int) bool { return edits[i].Start < edits[j].Start })
	return edits
}
