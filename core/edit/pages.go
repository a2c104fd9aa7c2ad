package edit

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// pages folds pages into one, each as a section with an anchor, or makes a page of one's section.
func (e *editor) pages(op Operation) (string, error) {
	if op.Op == PageSplit {
		return e.splitPage(op)
	}
	into, err := e.pageAt(op.Page)
	if err != nil {
		return "", err
	}
	src, err := item.Read(e.over, into)
	if err != nil {
		return "", err
	}
	taken := idsOf(src)
	var added bytes.Buffer
	anchors := map[string]string{}
	var gone []item.Head
	for _, slug := range strings.Fields(op.Value) {
		h, err := e.pageAt(slug)
		if err != nil {
			return "", err
		}
		if h.Address == into.Address ||
			slices.ContainsFunc(gone, func(g item.Head) bool { return g.Address == h.Address }) {
			return "", refuse("%s is named twice", slug)
		}
		text, err := e.contentOf(h)
		if err != nil {
			return "", err
		}
		if text, err = renamed(text, taken); err != nil {
			return "", err
		}
		if text, err = shifted(text, 1); err != nil { // what headed a page heads a section
			return "", err
		}
		id := free(taken, item.MakeKey(strings.ReplaceAll(strings.Trim(slug, "/"), "/", "-")))
		anchors[h.Meta.Slug] = id
		fmt.Fprintf(&added, "<section id=\"%s\">\n%s\n</section>\n", markup.EscapeAttr(id),
			bytes.TrimSpace(text))
		into.Meta.Styles = withStyles(into.Meta.Styles, h.Meta.Styles...)
		gone = append(gone, h)
	}
	if len(gone) == 0 {
		return "", refuse("name the pages that are folded in, by their addresses")
	}
	main := mainOf(markup.Parse(src, ""))
	if main == nil || !main.Closed {
		return "", refuse("%s has no main or body with an end tag: edit its source", into.Address)
	}
	at := span.Span{Start: main.Inner.End, End: main.Inner.End}
	if src, err = span.Apply(src, []span.Edit{{Span: at, New: added.Bytes()}}); err != nil {
		return "", err
	}
	if err := e.put(into, src); err != nil {
		return "", err
	}
	for _, h := range gone {
		e.drop(h.Address)
	}
	for slug, id := range anchors {
		if err := e.relink(slug, into.Meta.Slug, func(fragment string) (string, bool) {
			return id, fragment == ""
		}); err != nil {
			return "", err
		}
	}
	return fmt.Sprintf("folded %d pages into %s", len(gone), into.Address), nil
}

// splitPage makes a section of a page a page of its own.
func (e *editor) splitPage(op Operation) (string, error) {
	if err := e.freeSlug(op.Value); err != nil {
		return "", err
	}
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if p, err = e.asUsed(p); err != nil {
		return "", err
	}
	if p.head.Address.Kind != item.Page {
		return "", refuse("it is of %s, and stays there", p.head.Address)
	}
	if err := p.whole(); err != nil {
		return "", err
	}
	tree := markup.Parse(p.src, "")
	main := mainOf(tree)
	if main == nil || !main.Closed || p.own.Start.Start < main.Inner.Start || p.own.End.End > main.Inner.End {
		return "", refuse("it does not stand in the page's main")
	}
	title := headingOf(p.own)
	if op.Label != "" {
		title = op.Label
	}
	if title == "" {
		return "", refuse("it has no heading: give the page a title")
	}
	h := item.Head{Address: e.freeKey(item.Page, op.Value), Meta: p.head.Meta}
	h.Meta.Title, h.Meta.Slug = title, op.Value
	content, err := raised(p.own.Outer().Of(p.src))
	if err != nil {
		return "", err
	}
	edits := []span.Edit{{Span: main.Inner, New: append(append([]byte("\n"), content...), '\n')}}
	if t := tree.Find(func(n *markup.Node) bool { return n.Own && n.Tag == "title" && n.Space == "" }); t != nil {
		edits = append([]span.Edit{{Span: t.Inner, New: []byte(markup.EscapeText(title))}}, edits...)
	}
	text, err := span.Apply(p.src, edits)
	if err != nil {
		return "", err
	}
	moved := idsOf(p.own.Outer().Of(p.src))
	outer := p.own.Outer()
	outer.Start -= len(p.indent())
	if err := e.change(p, span.Edit{Span: outer}); err != nil {
		return "", err
	}
	if err := e.put(h, text); err != nil {
		return "", err
	}
	says := fmt.Sprintf("made %s of a section of %s", op.Value, p.head.Address)
	return says, e.relinkWithin(p.head.Meta.Slug, moved, op.Value)
}

// contentOf gives what stands in a page's main.
func (e *editor) contentOf(h item.Head) ([]byte, error) {
	src, err := item.Read(e.over, h)
	if err != nil {
		return nil, err
	}
	main := mainOf(markup.Parse(src, ""))
	if main == nil {
		return nil, refuse("%s has neither main nor body: edit its source", h.Address)
	}
	return main.Inner.Of(src), nil
}

// mainOf gives a page's main element; its body where it has none, nil where both are only implied.
func mainOf(t *markup.Tree) *markup.Node {
	for _, tag := range []string{"main", "body"} {
		if n := t.Find(func(n *markup.Node) bool { return n.Own && n.Tag == tag }); n != nil {
			return n
		}
	}
	return nil
}

func headingOf(n *markup.Node) string {
	if len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' {
		return strings.Join(strings.Fields(n.Text()), " ")
	}
	for _, c := range n.Children {
		if t := headingOf(c); t != "" {
			return t
		}
	}
	return ""
}

func idsOf(src []byte) map[string]bool {
	out := map[string]bool{}
	for _, id := range facts.Extract(item.Block, "", src).Defines(facts.ID) {
		out[id] = true
	}
	return out
}

// free gives a name that is not taken, and takes it.
func free(taken map[string]bool, name string) string {
	to := name
	for n := 2; taken[to]; n++ {
		to = fmt.Sprintf("%s-%d", name, n)
	}
	taken[to] = true
	return to
}

// renamed gives the ids of a text that are taken other names, and what names them within follows.
func renamed(src []byte, taken map[string]bool) ([]byte, error) {
	f := facts.Extract(item.Block, "", src)
	names := map[string]string{}
	for _, id := range f.Defines(facts.ID) {
		names[id] = free(taken, id)
	}
	return f.Replace(src, func(r facts.Ref) (string, bool) {
		to, ok := names[r.Name]
		return to, ok && r.Space == facts.ID
	})
}

// raised makes the first heading one of level 1, and lets the others follow.
func raised(src []byte) ([]byte, error) {
	for _, n := range markup.Parse(src, "").All {
		if n.Own && len(n.Tag) == 2 && n.Tag[0] == 'h' && n.Tag[1] >= '1' && n.Tag[1] <= '6' {
			return shifted(src, int('1')-int(n.Tag[1]))
		}
	}
	return src, nil
}

// shifted gives headings another level, within 1 to 6.
func shifted(src []byte, by int) ([]byte, error) {
	var edits []span.Edit
	for _, n := range markup.Parse(src, "").All {
		if !n.Own || !n.Closed || len(n.Tag) != 2 || n.Tag[0] != 'h' || n.Tag[1] < '1' || n.Tag[1] > '6' {
			continue
		}
		level := []byte{byte(min(max(int(n.Tag[1])+by, '1'), '6'))}
		edits = append(edits,
			span.Edit{Span: span.Span{Start: n.Start.Start + 2, End: n.Start.Start + 3}, New: level},
			span.Edit{Span: span.Span{Start: n.End.Start + 3, End: n.End.Start + 4}, New: level})
	}
	slices.SortFunc(edits, func(a, b span.Edit) int { return a.Start - b.Start })
	return span.Apply(src, edits)
}

// relink lets links to a page lead to another. anchor tells of each, by its fragment, whether it gets
// one, and which.
func (e *editor) relink(slug, to string, anchor func(fragment string) (string, bool)) error {
	list, err := e.linking(slug)
	if err != nil {
		return err
	}
	for _, a := range list {
		if err := e.replaceLinks(a, func(f *facts.Facts) []span.Edit {
			var edits []span.Edit
			for _, r := range f.Refs {
				if r.Space != facts.Address || r.Name != slug {
					continue
				}
				id, gets := anchor(r.Fragment)
				for _, x := range f.Edits(func(o facts.Ref) (string, bool) { return to, o.At == r.At }) {
					if gets {
						x.New = append(slices.Clone(x.New), "#"+id...)
					}
					edits = append(edits, x)
				}
			}
			return edits
		}); err != nil {
			return err
		}
	}
	return nil
}

// relinkWithin lets links to anchors of a page lead to another page, where these went.
func (e *editor) relinkWithin(slug string, anchors map[string]bool, to string) error {
	list, err := e.linking(slug)
	if err != nil {
		return err
	}
	for _, a := range list {
		if err := e.replaceLinks(a, func(f *facts.Facts) []span.Edit {
			return f.Edits(func(r facts.Ref) (string, bool) {
				return to, r.Space == facts.Address && r.Name == slug && anchors[r.Fragment]
			})
		}); err != nil {
			return err
		}
	}
	page, err := e.pageAt(slug)
	if err != nil {
		return err
	}
	src, err := item.Read(e.over, page)
	if err != nil {
		return err
	}
	var edits []span.Edit
	for _, n := range markup.Parse(src, "").All { // links to places of the page itself
		id, own := strings.CutPrefix(n.Value("href"), "#")
		if n.Own && n.Tag == "a" && own && anchors[id] {
			edits = append(edits, markup.SetAttr(n, "href", to+"#"+id))
		}
	}
	if len(edits) == 0 {
		return nil
	}
	if src, err = span.Apply(src, edits); err != nil {
		return err
	}
	return e.put(page, src)
}

func (e *editor) replaceLinks(a item.Address, edits func(*facts.Facts) []span.Edit) error {
	h, ok := e.over.Find(a)
	if !ok {
		return nil
	}
	src, err := item.Read(e.over, h)
	if err != nil {
		return err
	}
	out, err := span.Apply(src, edits(facts.Extract(a.Kind, h.Meta.Context, src)))
	if err != nil || bytes.Equal(out, src) {
		return err
	}
	return e.put(h, out)
}
