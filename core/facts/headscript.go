package facts

import (
	"encoding/json"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// HeadScripts is the setting that lists the scripts in the heads of a site's pages,
// as a JSON list of HeadScript.
var HeadScripts = item.Address{Kind: item.Setting, Key: "head-scripts"}

// HeadScript is a script in the heads of pages.
type HeadScript struct {
	// Script is the address it is loaded from, or "inline:" with its digest.
	Script string `json:"script"`
	Pages  int    `json:"pages"`
	// Begins is how the text of an inline script begins.
	Begins string `json:"begins,omitempty"`
	// Portable tells that somebody allowed it to enter kits.
	Portable bool `json:"portable"`
}

// HeadScriptName names a script element of a head: by the address it is loaded
// from, or by the digest of its text.
func HeadScriptName(n *markup.Node, src []byte) string {
	if from := n.Value("src"); from != "" {
		return from
	}
	return "inline:" + item.DigestOf(n.Inner.Of(src)).Short()
}

// PortableHeadScripts gives the names of the head scripts that somebody allowed to
// enter kits. A setting that is no such list allows none.
func PortableHeadScripts(setting []byte) map[string]bool {
	var list []HeadScript
	if json.Unmarshal(setting, &list) != nil {
		return nil
	}
	out := map[string]bool{}
	for _, h := range list {
		if h.Portable {
			out[h.Script] = true
		}
	}
	return out
}

// Runs tells whether a script element holds a script, and not data for one.
func Runs(n *markup.Node) bool {
	typ := strings.ToLower(n.Value("type"))
	return typ == "" || strings.Contains(typ, "javascript") || typ == "module"
}
