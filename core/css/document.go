package css

import (
	"strings"

	"compactparcel/core/markup"
)

// bodyHandle says in a selector what a document's body is: by its id or class, or by
// the first element in it that has either; empty when nothing has.
func bodyHandle(tree *markup.Tree) string {
	handle := func(n *markup.Node) string {
		switch {
		case n.Value("id") != "":
			return "#" + EscapeIdent(n.Value("id"))
		case len(n.Classes()) > 0:
			return "." + EscapeIdent(n.Classes()[0])
		}
		return ""
	}
	for _, n := range tree.ByTag("body") {
		if h := handle(n); h != "" {
			return "body" + h
		}
	}
	in := func(top string) string {
		for _, n := range tree.All {
			if h := handle(
				n,
			); h != "" && n.Own && (top == "" || standsIn(n, top)) && n.Space == "" && !standsIn(n, "head") &&
				n.Tag != "html" {
				return "body:has(" + h + ")"
			}
		}
		return ""
	}
	if h := in("main"); h != "" {
		return h
	}
	return in("")
}

// standsIn tells whether an element is one of a tag, or stands in one.
func standsIn(n *markup.Node, tag string) bool {
	for up := n; up != nil; up = up.Parent {
		if up.Tag == tag {
			return true
		}
	}
	return false
}

// ofDocuments gives a selector of html and body alone as it holds for the documents
// among the pieces: bound to them, so that it reaches no other page.
func (c *subsetter) ofDocuments(s Selector) []string {
	var out []string
	for _, p := range c.pieces {
		if !p.Tree.Document {
			continue
		}
		fits, subject := false, s.Parts[len(s.Parts)-1]
		for _, n := range p.Tree.All {
			if (n.Tag == "html" || n.Tag == "body") && s.Fits(n, nil) {
				fits = true
			}
		}
		if !fits {
			continue
		}
		src := c.sheet.Source
		text := string(s.Of(src))
		if p.Root == "" {
			c.notes = append(
				c.notes,
				"a page without an id or a class anywhere is among the pieces: rules for html and body are "+
					"carried as they are and will reach the pages that list the stylesheet",
			)
			out = append(out, text)
			continue
		}
		bound := ":where(" + p.Root + ")"
		if !namesTag(subject, "body") {
			bound = ":where(:has(" + hasOf(p.Root) + "))"
		}
		at := endOfCompound(src, subject)
		out = append(out, string(src[s.Start:at])+bound+string(src[at:s.End]))
	}
	return unique(out)
}

// namesTag tells whether a compound names a tag.
func namesTag(c Compound, tag string) bool {
	for _, one := range c.Simple {
		if one.Type == ByTag && strings.EqualFold(one.Name, tag) {
			return true
		}
	}
	return false
}

// hasOf says by its body what an html element holds. :has() does not stand in :has().
func hasOf(root string) string {
	if inner, ok := strings.CutPrefix(root, "body:has("); ok {
		return strings.TrimSuffix(inner, ")")
	}
	return root
}
