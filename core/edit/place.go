package edit

import (
	"slices"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/core/sourcemap"
)

// Waits tells whether a page's own source has a place for a section that the site does not have: it shows what
// stands in that place until the section comes.
func Waits(s Site, slug string, section item.Address) (bool, error) {
	page, ok := s.PageAt(slug)
	if _, there := s.Find(section); there || !ok || section.Kind != item.Section {
		return false, nil
	}
	h, _ := s.Find(page)
	src, err := item.Read(s, h)
	if err != nil {
		return false, err
	}
	return markup.Parse(src, "").Find(func(n *markup.Node) bool {
		return n.Own && n.Tag == "cp-section" && n.Value("name") == section.Key
	}) != nil, nil
}

// standing is where an element's start tag stands in a source, and as which of those on the page that come from there.
type standing struct {
	item item.Address
	at   int
	nth  int
}

// Follow finds the element of a page that somebody pointed at, as a site was, on the same page as the site is now, and
// gives its selector there. An element that is no more is followed by the nearest one around it; same is false then.
// Its error is a *RefusedError where the selector named no element.
func Follow(was, is Site, slug, selector string) (now string, same bool, err error) {
	before, err := render.New(was).Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return "", false, err
	}
	after, err := render.New(is).Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return "", false, err
	}
	tree := markup.Parse(before.Body, "")
	n, err := css.QueryOne(tree, selector)
	if err != nil {
		return "", false, &RefusedError{1, Show, says.New("%v", err)}
	}
	from, to := standings(before, tree), map[standing]*markup.Node{}
	for node, s := range standings(after, markup.Parse(after.Body, "")) {
		to[s] = node
	}
	for same = true; n != nil; n, same = n.Parent, false {
		s, ok := from[n]
		if !ok {
			continue
		}
		if found := to[s]; found != nil {
			return css.PathTo(found), same, nil
		}
	}
	return selector, false, nil
}

// EndOf gives where what comes to a page stands that is put nowhere else: within its main at the end; on a page that
// writes none, after its last element that is no footer or script of its own, or in its empty body. Its error is a
// *RefusedError where the page holds no element.
func EndOf(is Site, slug string) (selector string, place Place, err error) {
	out, err := render.New(is).Page(render.PageRequest{Slug: slug, Mapped: true})
	if err != nil {
		return "", "", err
	}
	tree := markup.Parse(out.Body, "")
	within := mainOf(tree)
	if within != nil && within.Tag == "main" {
		return css.PathTo(within), Inside, nil
	}
	if last := lastOf(out, tree); last != nil {
		return css.PathTo(last), After, nil
	}
	if within != nil {
		return css.PathTo(within), Inside, nil
	}
	return "", "", &RefusedError{1, Show, says.New("%s has no element yet: edit its source", slug)}
}

// lastOf gives the last element of a page's own that stands in its body and ends its content: a footer, or a script,
// only where there is nothing else.
func lastOf(out *render.Output, tree *markup.Tree) *markup.Node {
	var tops []*markup.Node
	for n, s := range standings(out, tree) {
		if s.item.Kind == item.Page && n.Parent != nil && n.Parent.Tag == "body" {
			tops = append(tops, n)
		}
	}
	slices.SortFunc(tops, func(a, b *markup.Node) int { return a.Start.Start - b.Start.Start })
	var last *markup.Node
	for _, n := range tops {
		role, _ := n.Attr("role")
		ends := n.Tag == "footer" || n.Tag == "script" || role.Value == "contentinfo"
		if last == nil || !ends {
			last = n
		}
	}
	return last
}

// standings gives where each element of a page comes from that is copied from a source.
func standings(out *render.Output, tree *markup.Tree) map[*markup.Node]standing {
	found, count := map[*markup.Node]standing{}, map[standing]int{}
	for _, n := range tree.All {
		if !n.Own {
			continue
		}
		seg, ok := out.Map.At(n.Start.Start)
		a, known := out.Map.Item(seg)
		if !ok || !known || seg.Kind != sourcemap.Copied {
			continue
		}
		s := standing{item: a, at: seg.Place.Span.Start + n.Start.Start - seg.Start}
		s.nth = count[s]
		count[standing{item: s.item, at: s.at}]++
		found[n] = s
	}
	return found
}
