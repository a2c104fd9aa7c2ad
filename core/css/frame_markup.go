package css

import (
	"regexp"
	"strings"

	"compactparcel/core/markup"
)

// markupFrames gives what a piece takes from the markup around it: style attributes,
// and the old attributes that browsers take for styles (HTML, section 15).
func markupFrames(p Subject, from int) []frameRule {
	if p.Home == nil || p.Root == "" || p.Tree.Document {
		return nil
	}
	var out []frameRule
	add := func(depth int, weight [3]int, text, inner string) {
		sheet := ParseDeclarations([]byte(text))
		var ds []Decl
		for _, d := range sheet.Decls {
			if inherited[d.Name] || strings.HasPrefix(d.Name, "--") {
				ds = append(ds, d)
			}
		}
		if len(ds) > 0 {
			out = append(
				out,
				frameRule{
					root:   p.Root,
					inner:  inner,
					depth:  depth,
					weight: weight,
					from:   from,
					sheet:  sheet,
					decls:  ds,
				},
			)
		}
	}
	for depth, n := range ancestors(p) {
		for _, h := range hints(n) {
			add(depth, [3]int{-1}, h.text, h.inner)
		}
		if a, ok := n.Attr("style"); ok {
			add(depth, [3]int{1 << 20}, a.Value, "")
		}
	}
	return out
}

// hint is what an old attribute says as a style: of the element, or of elements in it.
type hint struct{ text, inner string }

// oldColour is a colour as old attributes hold it, where CSS reads it the same.
var oldColour = regexp.MustCompile(`^(#[0-9A-Fa-f]{6}|#[0-9A-Fa-f]{3}|[A-Za-z]+)$`)

var fontSizes = map[string]string{
	"1": "x-small",
	"2": "small",
	"3": "medium",
	"4": "large",
	"5": "x-large",
	"6": "xx-large",
	"7": "xxx-large",
}

func hints(n *markup.Node) []hint {
	var out []hint
	colour := func(attr, inner string) {
		if v := n.Value(attr); oldColour.MatchString(v) {
			out = append(out, hint{"color: " + v, inner})
		}
	}
	switch n.Tag {
	case "body":
		colour("text", "")
		colour("link", ":any-link")
		colour("alink", ":active")
	case "font":
		colour("color", "")
		if v := n.Value("face"); v != "" && !strings.ContainsAny(v, ";{}<>") {
			out = append(out, hint{"font-family: " + v, ""})
		}
		if v, ok := fontSizes[n.Value("size")]; ok {
			out = append(out, hint{"font-size: " + v, ""})
		}
	case "center":
		out = append(out, hint{"text-align: -webkit-center", ""})
	case "td", "th", "div", "p", "tr":
		switch strings.ToLower(n.Value("align")) {
		case "left", "right":
			out = append(out, hint{"text-align: -webkit-" + strings.ToLower(n.Value("align")), ""})
		case "center", "middle":
			out = append(out, hint{"text-align: -webkit-center", ""})
		}
	}
	if v := strings.ToLower(n.Value("dir")); v == "rtl" || v == "ltr" {
		out = append(out, hint{"direction: " + v, ""})
	}
	return out
}
