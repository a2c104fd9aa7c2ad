package render

import (
	"fmt"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

// logo shows the site's mark; a site without one gets what stands in the element.
func (s *stage) logo(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	s.reachSetting("logo")
	s.reachSetting("title")
	var l struct {
		Media string         `json:"media"`
		Alt   string         `json:"alt"`
		Width map[string]int `json:"width"`
	}
	title, err := s.r.Title()
	if err != nil {
		return none, err
	}
	set, err := s.r.setting("logo", &l)
	if err != nil {
		return none, err
	}
	if !set || l.Media == "" {
		return s.expand(src.Slice(n.Inner), "")
	}
	if a, ok := item.FileAt(s.r.c, l.Media); ok {
		s.reached[a] = true
	}
	setting := item.Address{Kind: item.Setting, Key: "logo"}
	b, err := s.r.read(setting)
	if err != nil {
		return none, err
	}
	from := s.rec.JSON(setting, b, s.use(setting, src, n, 0))
	alt := from.Attr("alt", l.Alt)
	if l.Alt == "" {
		alt = s.rec.Made(markup.EscapeAttr(title), "title", item.Address{Kind: item.Setting, Key: "title"})
	}
	sizes := sizesOf(l.Width)
	width := ""
	if n := len(sizes); n > 0 {
		width = fmt.Sprintf(` width="%d"`, sizes[n-1].logo)
	}
	if len(sizes) > 1 {
		s.styleOnce(logoStyle(sizes))
	}
	return s.rec.Build("logo", setting).Made(`<img class="cp-logo" src="`).Add(from.Attr("media", l.Media)).
		Made(`" alt="`).Add(alt).Made(`"` + width + `>`).Text(), nil
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
// from its window's width on. Whoever sets sizes means them: the site's own rules do not stand in their way.
func logoStyle(sizes []size) string {
	var b strings.Builder
	for i, z := range sizes {
		rule := fmt.Sprintf("img.cp-logo{width:%dpx!important;height:auto!important}", z.logo)
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
