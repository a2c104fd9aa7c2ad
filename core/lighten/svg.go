package lighten

import (
	"fmt"
	"strconv"
	"strings"

	"compactparcel/core/markup"
)

// svgSize reads the size of an SVG from its width and height, or its viewBox
// (SVG 2, section 8.2).
func svgSize(b []byte) (Size, bool) {
	if len(b) > 8<<20 || !strings.Contains(string(b[:min(len(b), 4096)]), "<svg") {
		return Size{}, false
	}
	for n := range markup.Tags(b) {
		if n.Tag != "svg" {
			continue
		}
		w, okW := pixels(n.Value("width"))
		h, okH := pixels(n.Value("height"))
		if okW && okH {
			return Size{w, h}, true
		}
		box := strings.Fields(strings.ReplaceAll(n.Value("viewbox")+n.Value("viewBox"), ",", " "))
		if len(box) == 4 {
			w, okW = pixels(box[2])
			h, okH = pixels(box[3])
			return Size{w, h}, okW && okH
		}
		return Size{300, 150}, true // what browsers take
	}
	return Size{}, false
}

func pixels(s string) (int, bool) {
	f, err := strconv.ParseFloat(strings.TrimSuffix(strings.TrimSpace(s), "px"), 64)
	return int(f + .5), err == nil && f >= 1 && f < 1e6
}

func svgPlaceholder(s Size, label string) []byte {
	type_ := max(7, min(28, s.Width/16))
	return fmt.Appendf(
		nil,
		`<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %[1]d %[2]d"><rect `+
			`width="100%%" height="100%%" fill="#eeebe4" stroke="#b9b4a8" stroke-width="4"/><text x="50%%" `+
			`y="50%%" text-anchor="middle" font-family="sans-serif" font-size="%[3]d" fill="#4a4844">%[4]s</text></svg>
`,
		s.Width,
		s.Height,
		type_,
		markup.EscapeText(label),
	)
}
