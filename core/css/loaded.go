package css

import (
	"net/url"
	"strings"

	"compactparcel/core/markup"
)

// LoadedSheet is a stylesheet that a document is shown with: one that it links, or a style element of its own.
type LoadedSheet struct {
	Node *markup.Node
	// Path is where a linked one lies on the document's own host, without query and fragment, which only tell
	// caches apart; "" of a style element, and of one on another host, which is Remote.
	Path   string
	Remote bool
	// Media is for which media it is; "" for all.
	Media string
}

// Own tells that it is a style element.
func (s LoadedSheet) Own() bool { return s.Node.Tag == "style" }

// OnScreen tells that it is not for paper alone.
func (s LoadedSheet) OnScreen() bool { return !strings.EqualFold(s.Media, "print") }

// LoadedSheets lists the stylesheets of a document in its order: the one place that says which those are. An
// alternative, one that is switched off and one for who runs no scripts are none; one that a script of its own link
// makes one for all media when it has come is for all.
func LoadedSheets(tree *markup.Tree) []LoadedSheet {
	var out []LoadedSheet
	for _, n := range tree.All {
		switch {
		case n.Space != "" || !n.Own:
		case n.Tag == "style" && isShown(n):
			out = append(out, LoadedSheet{Node: n, Media: mediaOf(n)})
		case n.Tag == "link" && AppliesSheet(n):
			s := LoadedSheet{Node: n, Media: mediaOf(n)}
			href := strings.TrimSpace(n.Value("href"))
			if s.Remote = isRemote(href); !s.Remote {
				s.Path = pathOf(href)
			}
			out = append(out, s)
		}
	}
	return out
}

func mediaOf(n *markup.Node) string {
	if strings.Contains(n.Value("onload"), "media") { // loaded late, for all
		return ""
	}
	media := strings.TrimSpace(n.Value("media"))
	if strings.EqualFold(media, "all") || strings.EqualFold(media, "screen") {
		return ""
	}
	return media
}

// pathOf is the path of an address on the document's own host.
func pathOf(address string) string {
	path, _, _ := strings.Cut(address, "#")
	path, _, _ = strings.Cut(path, "?")
	if u, err := url.PathUnescape(path); err == nil {
		return u
	}
	return path
}
