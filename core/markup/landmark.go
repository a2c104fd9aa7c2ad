package markup

// withinContent are the elements in which a header or a footer is no landmark of the page
// (HTML Accessibility API Mappings 1.0, header and footer).
var withinContent = map[string]bool{"article": true, "aside": true, "main": true, "nav": true, "section": true}

// Banners gives the elements that are a page's own banner; Contentinfos those that are its
// contentinfo.
func (t *Tree) Banners() []*Node { return t.landmarks("header", "banner") }

// Contentinfos gives the elements that say what the page is, at its foot.
func (t *Tree) Contentinfos() []*Node { return t.landmarks("footer", "contentinfo") }

func (t *Tree) landmarks(tag, role string) []*Node {
	var out []*Node
	for _, n := range t.All {
		if !n.Own || n.Space != "" {
			continue
		}
		switch said := n.Value("role"); {
		case said == role:
			out = append(out, n)
		case said == "" && n.Tag == tag && !inContent(n):
			out = append(out, n)
		}
	}
	return out
}

func inContent(n *Node) bool {
	for p := n.Parent; p != nil; p = p.Parent {
		if withinContent[p.Tag] {
			return true
		}
	}
	return false
}
