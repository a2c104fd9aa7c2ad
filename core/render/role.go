package render

import (
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// RoleOf gives the role that a part's source and name speak of, where nobody says one: by its
// element (<header>, <footer>, <aside>, <dialog>, <cp-content>, <cp-results>), else by its name.
// It is empty when neither does.
func RoleOf(key string, src []byte) item.Role {
	tree := markup.Parse(src, "")
	switch {
	case len(tree.ByTag("cp-results")) > 0:
		return item.Search
	case len(tree.ByTag("cp-content")) > 0 && strings.Contains(key, string(item.RecordRole)):
		return item.RecordRole
	case len(tree.ByTag("cp-content")) > 0:
		return item.Wrapper
	}
	for _, n := range tree.Root.Children {
		switch n.Tag {
		case "header":
			return item.Header
		case "footer":
			return item.Footer
		case "aside":
			return item.Aside
		case "dialog":
			return item.Overlay
		}
	}
	for _, r := range item.Roles {
		if strings.Contains(key, string(r.Role)) {
			return r.Role
		}
	}
	return ""
}
