package render

import (
	"cmp"
	"maps"
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// headFacts is what a page's own head has already.
type headFacts struct {
	at                           int // where more is added
	title, charset, icon, robots bool
	linked                       map[string]bool // stylesheets
}

func headOf(tree *markup.Tree) headFacts {
	f := headFacts{at: len(tree.Source), linked: map[string]bool{}}
	for _, n := range tree.All {
		switch n.Tag {
		case "head":
			if n.Own {
				f.at = n.Inner.End
			}
		case "title":
			f.title = f.title || n.Space == "" && n.Own
		case "meta":
			_, ok := n.Attr("charset")
			f.robots = f.robots || strings.EqualFold(n.Value("name"), "robots")
			f.charset = f.charset || ok || strings.EqualFold(n.Value("http-equiv"), "content-type")
		case "link":
			f.icon = f.icon || strings.Contains(strings.ToLower(n.Value("rel")), "icon")
		}
	}
	for _, s := range css.LoadedSheets(tree) {
		if s.Path != "" {
			f.linked[s.Path] = true
		}
	}
	if f.at == len(tree.Source) { // an implied head stands before the body
		f.at = bodyInner(tree).Start
		if body := tree.Find(func(n *markup.Node) bool { return n.Tag == "body" && n.Own }); body != nil {
			f.at = body.Start.Start
		}
	}
	return f
}

// head adds to the head what the page's pieces ask for.
func (s *stage) head(tree *markup.Tree, h item.Head) ([]sourcemap.Edit, error) {
	has := headOf(tree)
	for path := range maps.Clone(has.linked) {
		if a, ok := item.FileAt(s.r.c, path); ok {
			has.linked["/"+a.Path()] = true
		}
	}
	b := s.rec.Build("head", h.Address)
	if !has.charset {
		b.Made("<meta charset=\"utf-8\">\n")
	}
	for _, write := range []func(*sourcemap.Builder, headFacts, item.Head) error{
		s.headTitle, s.headStyles, s.headScripts, s.headRobots,
	} {
		if err := write(b, has, h); err != nil {
			return nil, err
		}
	}
	edits := []sourcemap.Edit{{Span: span.Span{Start: has.at, End: has.at}, New: b.Text()}}
	var lang string
	if _, err := s.r.setting("language", &lang); err != nil {
		return nil, err
	}
	if html := tree.Find(func(n *markup.Node) bool { return n.Tag == "html" }); html != nil && html.Own && lang != "" {
		if _, has := html.Attr("lang"); !has {
			edits = append(edits, s.made([]span.Edit{markup.SetAttr(html, "lang", lang)}, "language",
				item.Address{Kind: item.Setting, Key: "language"})...)
			s.reachSetting("language")
		}
	}
	return edits, nil
}

// headTitle writes the title and the icon where the page has none.
func (s *stage) headTitle(b *sourcemap.Builder, has headFacts, h item.Head) error {
	title, err := s.r.Title()
	if err != nil {
		return err
	}
	if !has.title {
		own := h.Meta.Title
		b.Made("<title>")
		if own != "" {
			b.Add(s.titleOf(h))
		}
		if own == "" || title != "" && own != title {
			if own != "" {
				b.Made(" · ")
			}
			if err := s.siteTitle(b, title); err != nil {
				return err
			}
		}
		b.Made("</title>\n")
		s.reachSetting("title")
	}
	if has.icon {
		return nil
	}
	return s.headIcon(b)
}

// headIcon links the site's icon: one file, or one for each size.
func (s *stage) headIcon(b *sourcemap.Builder) error {
	var icon struct {
		Media string            `json:"media"`
		Sizes map[string]string `json:"sizes"`
	}
	if _, err := s.r.setting("icon", &icon.Media); err != nil {
		return err
	}
	if icon.Media == "" {
		if _, err := s.r.setting("icon", &icon); err != nil {
			return err
		}
	}
	if icon.Media != "" && (len(icon.Sizes) == 0 || strings.HasSuffix(icon.Media, ".svg")) {
		b.Made("<link rel=\"icon\" href=\"" + markup.EscapeAttr(icon.Media) + "\">\n")
	}
	for _, side := range slices.SortedFunc(maps.Keys(icon.Sizes), func(a, b string) int {
		return cmp.Or(cmp.Compare(len(a), len(b)), cmp.Compare(a, b))
	}) {
		rel := "icon"
		if side == "180" { // what phones put on their home screens
			rel = "apple-touch-icon"
		}
		size := markup.EscapeAttr(side)
		b.Made("<link rel=\"" + rel + "\" sizes=\"" + size + "x" + size + "\" href=\"" +
			markup.EscapeAttr(icon.Sizes[side]) + "\">\n")
	}
	if icon.Media != "" {
		s.reachSetting("icon")
	}
	return nil
}

// siteTitle writes the site's title.
func (s *stage) siteTitle(b *sourcemap.Builder, title string) error {
	a := item.Address{Kind: item.Setting, Key: "title"}
	src, err := s.r.read(a)
	if err != nil || title == "" {
		return err
	}
	b.Add(s.rec.JSON(a, src, s.use(a, none, nil, 0)).Text("", title))
	return nil
}

// headStyles links the stylesheets that the page does not link itself.
func (s *stage) headStyles(b *sourcemap.Builder, has headFacts, h item.Head) error {
	styles, err := s.styles()
	if err != nil {
		return err
	}
	for _, a := range styles {
		if has.linked["/"+a.Path()] {
			continue
		}
		x, err := s.r.asset(a)
		if err != nil {
			return err
		}
		b.Made("<link rel=\"stylesheet\" href=\"" + x.Path + "\">\n")
	}
	width, err := s.widthStyle(h, slices.Clone(styles), has.linked)
	if err != nil {
		return err
	}
	if width != "" {
		s.styleOnce(width)
	}
	if len(s.css) > 0 {
		b.Made("<style>" + strings.Join(s.css, "") + "</style>\n")
	}
	return nil
}

// headScripts writes the components' scripts, and ours for overlays and the search.
func (s *stage) headScripts(b *sourcemap.Builder, _ headFacts, _ item.Head) error {
	script := func(path string, src []byte) {
		kind := `type="module"`
		if s.r.links.File && !IsModule(src) {
			kind = "defer" // the same moment, and browsers load it from disk
		}
		b.Made("<script " + kind + " src=\"" + path + "\"></script>\n")
	}
	for _, a := range s.scripts {
		x, err := s.r.asset(a)
		if err != nil {
			return err
		}
		var src []byte
		if s.r.links.File {
			if src, err = s.r.read(a); err != nil {
				return err
			}
		}
		script(x.Path, src)
	}
	if len(s.overlays) > 0 {
		script(s.r.script("overlay.js", overlayScript).Path, overlayScript)
	}
	if s.searches && s.r.Static {
		script(s.r.script("search.js", searchScript).Path, searchScript)
	}
	return nil
}

// IsModule tells that a script does what only a module can.
func IsModule(src []byte) bool { return imports.Match(src) }

var imports = regexp.MustCompile(`(?m)^\s*(import|export)\b|\bimport\s*\(|\bimport\.meta\b`)

// headRobots keeps search engines off a site that wants so.
func (s *stage) headRobots(b *sourcemap.Builder, has headFacts, _ item.Head) error {
	hidden, err := s.r.Hidden()
	if err != nil {
		return err
	}
	if hidden && !has.robots {
		b.Made("<meta name=\"robots\" content=\"noindex\">\n")
		s.reachSetting("robots")
	}
	return nil
}
