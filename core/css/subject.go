package css

import (
	"strings"

	"compactparcel/core/markup"
)

// around are elements that a fragment stands in without naming them.
var around = words("html body")

// subjects gives the elements of a tree that a selector may fit, by the ids, classes
// and tags that it names; most selectors name one that is nowhere in the tree. Classes
// in may can come to stand on any element.
func subjects(t *markup.Tree, s Selector, may map[string]bool) []*markup.Node {
	if s.Unknown || len(s.Parts) == 0 {
		return t.All
	}
	x := t.Index()
	out := t.All
	for i, c := range s.Parts {
		for _, one := range c.Simple {
			var list []*markup.Node
			switch one.Type {
			case ByTag:
				if around[strings.ToLower(one.Name)] {
					continue
				}
				if list = x.Tags[one.Name]; list == nil { // SVG's names have capitals
					list = withTag(x, one.Name)
				}
			case ByID:
				list = x.IDs[one.Name]
			case ByClass:
				if may[one.Name] {
					continue
				}
				list = x.Classes[one.Name]
			default:
				continue
			}
			if len(list) == 0 {
				return nil
			}
			if i == len(s.Parts)-1 && len(list) < len(out) {
				out = list
			}
		}
	}
	return out
}

func withTag(x *markup.Index, name string) []*markup.Node {
	var out []*markup.Node
	for tag, list := range x.Tags {
		if strings.EqualFold(tag, name) {
			out = append(out, list...)
		}
	}
	return out
}
