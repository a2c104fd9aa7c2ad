package css

import (
	"net/url"
	"strings"

	"compactparcel/core/markup"
)

// RemoteSheet gives the address of the first stylesheet of a document that lies on another host, as
// a link or an import of its own styles names it; "" when all are here.
func RemoteSheet(tree *markup.Tree) string {
	for _, s := range LoadedSheets(tree) {
		if s.Remote {
			return s.Node.Value("href")
		}
		if !s.Own() {
			continue
		}
		for _, r := range Parse(s.Node.Inner.Of(tree.Source)).Refs() {
			if r.Space == Import && isRemote(r.Name) {
				return r.Name
			}
		}
	}
	return ""
}

func isRemote(address string) bool {
	u, err := url.Parse(strings.TrimSpace(address))
	return err == nil && u.Host != ""
}

// AppliesSheet tells that a link's stylesheet styles the page as it is loaded with scripts: not an
// alternative (HTML standard, section 4.6.7.21), not one that is switched off, nor one for who runs
// no scripts.
func AppliesSheet(n *markup.Node) bool {
	rel := " " + strings.ToLower(strings.Join(strings.Fields(n.Value("rel")), " ")) + " "
	if _, off := n.Attr("disabled"); off || !strings.Contains(rel, " stylesheet ") ||
		strings.Contains(rel, " alternate ") {
		return false
	}
	return isShown(n)
}

// isShown tells that an element is no part of a template, or of what is for who runs no scripts.
func isShown(n *markup.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "noscript" || up.Tag == "template" {
			return false
		}
	}
	return true
}
