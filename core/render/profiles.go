package render

import (
	"fmt"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
)

// profiles lists the site's addresses in social networks; a site without any gets what stands in the
// element.
func (s *stage) profiles(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	s.reachSetting("profiles")
	var list []struct {
		Name string `json:"name"`
		URL  string `json:"url"`
	}
	if _, err := s.r.setting("profiles", &list); err != nil {
		return none, err
	}
	if len(list) == 0 {
		return s.expand(src.Slice(n.Inner), "")
	}
	setting := item.Address{Kind: item.Setting, Key: "profiles"}
	b, err := s.r.read(setting)
	if err != nil {
		return none, err
	}
	from := s.rec.JSON(setting, b, s.use(setting, src, n, 0))
	out := s.rec.Build("profiles", setting)
	out.Made(`<ul class="cp-profiles">`)
	for i, p := range list {
		out.Made(`<li><a rel="me" href="`).Add(from.Attr(fmt.Sprintf("%d.url", i), p.URL)).Made(`">`).
			Add(from.Text(fmt.Sprintf("%d.name", i), p.Name)).Made("</a></li>")
	}
	return out.Made("</ul>").Text(), nil
}
