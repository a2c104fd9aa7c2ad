package faults

import (
	"fmt"
	"net/url"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
)

// seenPage is what was seen of one page as it is shown.
type seenPage struct {
	faults  []Fault
	ids     map[string]bool
	links   []anchorLink
	reached []item.Address
	page    item.Address
}

// anchorLink is a link to a place of a page.
type anchorLink struct {
	from           item.Address
	line           int
	slug, fragment string
}

// pageLook is the look at one page.
type pageLook struct {
	seenPage
	r      *render.Renderer
	o      Options
	shown  *render.Output
	tree   *markup.Tree
	lines  map[item.Address][]int // where the lines of a source begin
	labels map[string]bool        // ids that a <label> names
	err    error                  // the first source that could not be read
	remote bool                   // one of the page's sheets lies elsewhere
	// cascades are those of earlier pages of the same worker, by their sheets.
	cascades map[string]*css.Cascade
}

// look renders a page with its map and holds it against all rules that concern one page.
func look(r *render.Renderer, slug string, o Options, cascades map[string]*css.Cascade) (*seenPage, error) {
	shown, err := r.Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return nil, err
	}
	l := &pageLook{r: r, o: o, shown: shown, tree: markup.Parse(shown.Body, ""),
		seenPage: seenPage{ids: map[string]bool{}, reached: shown.Reached, page: shown.Page},
		lines:    map[item.Address][]int{}, labels: map[string]bool{},
		cascades: cascades}
	if l.tree.Opaque {
		return &l.seenPage, nil // told of its source
	}
	l.document()
	for _, name := range shown.Unfilled {
		l.faults = append(l.faults, Fault{Kind: Missing, Address: shown.Page,
			Message: fmt.Sprintf("it fills the region %q, which no part on the page has", name),
			Remedy:  "open the region in a part that stands on the page, or take the filling out"})
	}
	l.landmarks()
	l.headings()
	for _, n := range l.tree.All {
		if to := n.Value("for"); n.Tag == "label" && to != "" {
			l.labels[to] = true
		}
	}
	for _, n := range l.tree.All {
		l.id(n)
		if n.Own && n.Space == "" {
			l.anchor(n, slug)
			l.names(n)
			l.texts(n)
		}
	}
	if err := l.contrasts(); err != nil {
		return nil, err
	}
	return &l.seenPage, l.err
}

// tell notes a fault at an element.
func (l *pageLook) tell(kind Kind, n *markup.Node, remedy, format string, args ...any) {
	at := 0
	if n != nil {
		at = n.Start.Start
	}
	a, line := l.place(at)
	l.faults = append(l.faults, Fault{Kind: kind, Address: a, Line: line, Message: fmt.Sprintf(format, args...),
		Remedy: remedy})
}

// place gives the item and the line of its source where a byte of the page comes from; of what the
// engine wrote itself, the item that it wrote it from.
func (l *pageLook) place(at int) (item.Address, int) {
	s, ok := l.shown.Map.At(at)
	if !ok {
		return l.shown.Page, 0
	}
	a, known := l.shown.Map.Item(s)
	if !known {
		for _, in := range s.Inputs {
			if !in.IsZero() {
				return in, 0
			}
		}
		return l.shown.Page, 0
	}
	if s.Place.Field != "" {
		return a, 0
	}
	offset := s.Place.Span.Start
	if s.Kind == sourcemap.Copied {
		offset += at - s.Start
	}
	return a, sort.SearchInts(l.linesOf(a), offset+1)
}

// linesOf gives where the lines of a source begin.
func (l *pageLook) linesOf(a item.Address) []int {
	if list, ok := l.lines[a]; ok {
		return list
	}
	src, err := l.r.SourceOf(a)
	if err != nil && l.err == nil {
		l.err = err
	}
	list := []int{0}
	for i, c := range src {
		if c == '\n' {
			list = append(list, i+1)
		}
	}
	l.lines[a] = list
	return list
}

// document looks at what stands in the head.
func (l *pageLook) document() {
	title := l.tree.Find(func(n *markup.Node) bool { return n.Tag == "title" && n.Space == "" })
	if title == nil || strings.TrimSpace(title.Text()) == "" {
		l.tell(Title, title, "give the page a title", "the page has no title")
	}
	html := l.tree.Find(func(n *markup.Node) bool { return n.Tag == "html" })
	if !l.o.Partial && (html == nil || strings.TrimSpace(html.Value("lang")) == "") {
		l.tell(Title, html, "say the language of the site, or write lang on <html>",
			"the page does not say its language")
	}
}

// landmarks looks at what divides the page (WCAG 2.2, 1.3.1; ARIA landmarks).
func (l *pageLook) landmarks() {
	for _, x := range []struct {
		what string
		list []*markup.Node
	}{{"banners", l.tree.Banners()}, {"parts that say what the page is at its foot", l.tree.Contentinfos()}} {
		if len(x.list) > 1 {
			l.tell(Landmark, x.list[1], "leave one of them out on this page", "the page has %d %s", len(x.list),
				x.what)
		}
	}
	main := 0
	for _, n := range l.tree.All {
		if n.Own && (n.Tag == "main" && n.Space == "" || n.Value("role") == "main") && !unseen(n) {
			if main++; main == 2 {
				l.tell(Landmark, n, "keep one <main>", "the page has two main parts")
			}
		}
	}
	if main == 0 {
		l.tell(Landmark, nil, "put the content into <main>", "the page has no main part")
	}
}

// headings looks at their order (WCAG 2.2, 1.3.1 and 2.4.6).
func (l *pageLook) headings() {
	last, first := 0, 0
	for _, n := range l.tree.All {
		level := 0
		if len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' && n.Space == "" && n.Own {
			level = int(n.Tag[1] - '0')
		}
		if level == 0 {
			continue
		}
		if level == 1 {
			first++
		}
		if last > 0 && level > last+1 {
			l.tell(Heading, n, "use the next level", "a heading of level %d follows one of level %d", level, last)
		}
		if strings.TrimSpace(n.Text()) == "" && !holdsName(n) {
			l.tell(Heading, n, "write it, or remove it", "a heading of level %d is empty", level)
		}
		last = level
	}
	if first == 0 {
		l.tell(Heading, nil, "make the page's heading an <h1>", "the page has no main heading")
	}
}

func (l *pageLook) id(n *markup.Node) {
	id := n.Value("id")
	if n.Tag == "a" && n.Value("name") != "" {
		l.ids[n.Value("name")] = true
	}
	if id == "" || !n.Own {
		return
	}
	if l.ids[id] && n.Value("name") != id {
		l.tell(DoubledID, n, "give one of them another id", "the id %q stands twice on a page", id)
	}
	l.ids[id] = true
}

// anchor notes a link to a place, of this page or another.
func (l *pageLook) anchor(n *markup.Node, slug string) {
	if n.Tag != "a" && n.Tag != "area" {
		return
	}
	href, ok := n.Attr("href")
	u, err := url.Parse(strings.TrimSpace(href.Value))
	if !ok || err != nil || u.Fragment == "" || u.Fragment == "top" || u.Scheme != "" || u.Host != "" ||
		strings.HasPrefix(u.Fragment, ":~:") || u.RawQuery != "" && u.Path == "" {
		return
	}
	to := u.Path
	if to == "" {
		to = slug
	}
	a, line := l.place(n.Start.Start)
	l.links = append(l.links, anchorLink{a, line, to, u.Fragment})
}

// fieldsWithoutLabel are inputs that say themselves what they are.
var fieldsWithoutLabel = map[string]bool{"hidden": true, "submit": true, "button": true, "reset": true, "image": true}

// names looks for what says nothing to who cannot see it (WCAG 2.2, 1.1.1, 2.4.4, 3.3.2, 4.1.2).
func (l *pageLook) names(n *markup.Node) {
	switch n.Tag {
	case "img":
		if _, ok := n.Attr("alt"); !ok && !unseen(n) && !labelled(n) {
			l.tell(Alternative, n, "write an alternative text, or alt=\"\" for mere decoration",
				"a picture has no alternative text")
		}
	case "a", "button":
		if _, leads := n.Attr("href"); (leads || n.Tag == "button") && !unseen(n) && !labelled(n) && !holdsName(n) {
			what := "link"
			if n.Tag == "button" {
				what = "button"
			}
			l.tell(Name, n, "write what it does", "a %s says nothing", what)
		}
	case "input", "select", "textarea":
		if n.Tag == "input" && fieldsWithoutLabel[strings.ToLower(n.Value("type"))] || unseen(n) || labelled(n) ||
			l.hasLabel(n) {
			return
		}
		l.tell(Name, n, "give it a <label>", "a field has no label")
	}
}

// labelled tells whether an element is named by an attribute.
func labelled(n *markup.Node) bool {
	return strings.TrimSpace(n.Value("aria-label")+n.Value("aria-labelledby")+n.Value("title")) != ""
}

// holdsName tells whether an element holds words, or a picture that has some.
func holdsName(n *markup.Node) bool {
	if strings.TrimSpace(n.Text()) != "" {
		return true
	}
	for _, c := range n.Children {
		if strings.TrimSpace(c.Value("alt")) != "" || labelled(c) || strings.Contains(c.Tag, "-") || holdsName(c) {
			return true
		}
	}
	return false
}

// unseen tells whether nobody is told of an element.
func unseen(n *markup.Node) bool {
	for up := n; up != nil; up = up.Parent {
		_, hidden := up.Attr("hidden")
		if role := up.Value("role"); hidden || up.Value("aria-hidden") == "true" || role == "presentation" ||
			role == "none" || up.Tag == "template" || up.Tag == "noscript" {
			return true
		}
	}
	return false
}

func (l *pageLook) hasLabel(n *markup.Node) bool {
	for up := n.Parent; up != nil; up = up.Parent {
		if up.Tag == "label" {
			return true
		}
	}
	return l.labels[n.Value("id")]
}

// texts looks for what was never meant to stay.
func (l *pageLook) texts(n *markup.Node) {
	if n.Tag == "script" || n.Tag == "style" || !n.HasText {
		return
	}
	own := strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " ")
	if m := FillerIn(own); m != "" {
		l.tell(Filler, n, "write the real text", "it holds filler: %q", m)
	}
	for _, s := range l.o.Samples {
		if s = strings.TrimSpace(s); len(s) > 3 && strings.Contains(own, s) {
			l.tell(Filler, n, "write the real text", "the sample %q of a blank still stands here", s)
		}
	}
	if l.o.Foreign == nil || len(l.o.Others) == 0 {
		return
	}
	if a, _ := l.place(n.Start.Start); !l.o.Foreign(a) {
		return
	}
	for _, w := range l.o.Others {
		if len(w) > 3 && strings.Contains(own, w) {
			l.tell(Personal, n, "reword it", "“%s” is what another site calls itself", w)
		}
	}
}
