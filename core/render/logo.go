package render

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
)

// logo shows the site's mark; a site without one gets what stands in the element.
func (s *stage) logo(instead []byte) (string, error) {
	s.reachSetting("logo")
	s.reachSetting("title")
	var l struct {
		Media string         `json:"media"`
		Alt   string         `json:"alt"`
		Width map[string]int `json:"width"`
	}
	title, err := s.r.Title()
	if err != nil {
		return "", err
	}
	set, err := s.r.setting("logo", &l)
	if err != nil {
		return "", err
	}
	if !set || l.Media == "" {
		out, err := s.expand(instead, "")
		return string(out), err
	}
	if a, ok := item.AddressOfPath(l.Media); ok {
		s.reached[a] = true
	}
	if l.Alt == "" {
		l.Alt = title
	}
	sizes := sizesOf(l.Width)
	width := ""
	if n := len(sizes); n > 0 {
		width = fmt.Sprintf(` width="%d"`, sizes[n-1].logo)
	}
	if len(sizes) > 1 {
		s.styleOnce(logoStyle(sizes))
	}
	return fmt.Sprintf(`<img class="cp-logo" src="%s" alt="%s"%s>`, markup.EscapeAttr(l.Media),
		markup.EscapeAttr(l.Alt), width), nil
}

// size is how wide the logo is from a width of the window on.
type size struct{ window, logo int }

func sizesOf(widths map[string]int) []size {
	var out []size
	for k, w := range widths {
		if n, err := strconv.Atoi(k); err == nil && n > 0 && w > 0 {
			out = append(out, size{n, w})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].window < out[j].window })
	return out
}

// logoStyle gives the logo the size of the narrowest window first, and each other
// from its window's width on.
func logoStyle(sizes []size) string {
	var b strings.Builder
	for i, z := range sizes {
		rule := fmt.Sprintf("img.cp-logo{width:%dpx;height:auto}", z.logo)
		if i > 0 {
			rule = fmt.Sprintf("@media(min-width:%dpx){%s}", z.window, rule)
		}
		b.WriteString(rule)
	}
	return b.String()
}

// styleOnce puts a rule of the engine's own into the head, once.
func (s *stage) styleOnce(css string) {
	for _, had := range s.css {
		if had == css {
			return
		}
	}
	s.css = append(s.css, css)
}
