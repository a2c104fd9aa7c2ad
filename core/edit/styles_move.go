package edit

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// maxProved bounds on how many pages a move of styles is proved.
const maxProved = 200

// stylesMove is the move of a piece's own rules, which stand in <style> elements of its source, into a
// stylesheet of the site. A rule that is about elements outside of the piece on one of the pages that show it
// stays where it is.
type stylesMove struct {
	e     *editor
	head  item.Head
	src   []byte
	tree  *markup.Tree
	sheet item.Address
	class string
	// before are the pages that show the piece, as they are shown.
	before []*shownPage
	rules  []movedRule
	stay   int
	had    bool // the stylesheet held rules before
}

// movedRule is a rule on its way: where it stands, what it becomes, and the conditions around it.
type movedRule struct {
	style *markup.Node
	rule  *css.Rule
	text  string
	when  []string
}

// shownPage is a page with the stylesheets that it has, in their order.
type shownPage struct {
	out    *render.Output
	tree   *markup.Tree
	inside []span.Span // where the piece stands
	sheets []usedSheet
}

// usedSheet is a stylesheet of the site, by its address, or a <style> element of the page.
type usedSheet struct {
	address item.Address
	text    []byte
	own     bool // of the piece
}

// moveStyles moves a piece's own rules into a stylesheet of the site.
func (e *editor) moveStyles(op Operation) (string, error) {
	m := &stylesMove{e: e, class: "of-" + op.Item.Key}
	if err := m.read(op); err != nil {
		return "", err
	}
	var err error
	if m.before, err = m.pages(); err != nil {
		return "", err
	}
	m.choose()
	if len(m.rules) == 0 {
		return "", refuse("none of its rules can move: each is about more than %s, or is no plain rule", op.Item)
	}
	if err := m.write(); err != nil {
		return "", err
	}
	after, err := m.pages()
	if err != nil {
		return "", err
	}
	if err := m.prove(after); err != nil {
		return "", err
	}
	done := fmt.Sprintf("moved %s of %s to %s, the same on %s", says.Count(len(m.rules), "rule"), op.Item, m.sheet,
		says.Count(len(after), "page"))
	if m.stay > 0 {
		done += fmt.Sprintf("; %s about more stay", says.Count(m.stay, "rule"))
	}
	return done, nil
}

func (m *stylesMove) read(op Operation) error {
	h, ok := m.e.over.Find(op.Item)
	if !ok || op.Item.Kind != item.Section && op.Item.Kind != item.Part {
		return refuse("name a section or part of the site: %s is none", op.Item)
	}
	a, err := item.ParseAddress(op.Value)
	if err != nil || a.Kind != item.Stylesheet || item.CheckKey(a.Key) != nil {
		return refuse("name the stylesheet, as stylesheet/site: %q is none", op.Value)
	}
	src, err := item.Read(m.e.over, h)
	if err != nil {
		return err
	}
	m.head, m.src, m.sheet, m.tree = h, src, a, markup.Parse(src, h.Meta.Context)
	if len(m.styles(m.tree)) == 0 {
		return refuse("%s has no <style> of its own", op.Item)
	}
	return nil
}

// styles are the style elements of a tree whose rules hold at any width.
func (m *stylesMove) styles(t *markup.Tree) (out []*markup.Node) {
	for _, n := range t.ByTag("style") {
		if _, narrow := n.Attr("media"); n.Own && n.Closed && !narrow {
			out = append(out, n)
		}
	}
	return out
}

// pages renders the pages that show the piece. Where there are more than can be proved, the move is refused.
func (m *stylesMove) pages() (out []*shownPage, err error) {
	r := render.New(m.e.over)
	slugs := make([]string, 0, len(r.Pages()))
	for slug := range r.Pages() {
		slugs = append(slugs, slug)
	}
	made, err := r.GeneratedPages()
	if err != nil {
		return nil, err
	}
	for _, g := range made {
		slugs = append(slugs, g.Slug)
	}
	slices.Sort(slugs)
	anywhere, err := m.namedElsewhere()
	if err != nil {
		return nil, err
	}
	for _, slug := range slices.Compact(slugs) {
		if may, err := m.mayShow(r, slug, anywhere); err != nil || !may {
			if err != nil {
				return nil, err
			}
			continue
		}
		p, err := r.Page(render.PageRequest{Slug: slug, Mapped: true})
		if err != nil {
			return nil, err
		}
		if p.Map == nil || !slices.Contains(p.Reached, m.head.Address) {
			continue
		}
		if len(out) == maxProved {
			return nil, refuse("it stands on more than %d pages: edit the source, and look at them", maxProved)
		}
		shown := &shownPage{out: p, tree: markup.Parse(p.Body, ""), inside: p.Map.Stands(m.head.Address)}
		if err := shown.readSheets(m.e, r); err != nil {
			return nil, err
		}
		out = append(out, shown)
	}
	return out, nil
}

// mayShow tells whether a page can show the piece: a section is named by what shows it.
func (m *stylesMove) mayShow(r *render.Renderer, slug string, anywhere bool) (bool, error) {
	if m.head.Address.Kind == item.Part || anywhere {
		return true, nil
	}
	a, ok := r.PageAt(slug)
	if !ok {
		return true, nil
	}
	src, err := r.SourceOf(a)
	return err != nil || bytes.Contains(src, []byte(m.head.Address.Key)), err
}

// namedElsewhere tells whether another section, a part or a record names the piece: then any page may show it.
func (m *stylesMove) namedElsewhere() (bool, error) {
	for _, kind := range []item.Kind{item.Section, item.Part, item.Record} {
		for _, h := range m.e.over.OfKind(kind) {
			if h.Address == m.head.Address {
				continue
			}
			b, err := item.Read(m.e.over, h)
			if err != nil || bytes.Contains(b, []byte(`"`+m.head.Address.Key+`"`)) {
				return true, err
			}
		}
	}
	return false, nil
}

// readSheets lists the stylesheets of a page as they stand in it.
func (p *shownPage) readSheets(e *editor, r *render.Renderer) error {
	for _, s := range css.LoadedSheets(p.tree) {
		n := s.Node
		if s.Own() {
			own := slices.ContainsFunc(p.inside, func(at span.Span) bool {
				return n.Start.Start >= at.Start && n.Start.Start < at.End
			})
			p.sheets = append(p.sheets, usedSheet{text: n.Inner.Of(p.out.Body), own: own})
			continue
		}
		x, found, err := r.AssetAt(s.Path)
		if err != nil {
			return err
		}
		if !found {
			return refuse("%s loads a stylesheet from elsewhere, which nobody can compare with", p.out.Page)
		}
		text, own := x.Rendered()
		if !own {
			if text, err = item.Read(e.over, x.Head); err != nil {
				return err
			}
		}
		p.sheets = append(p.sheets, usedSheet{address: x.Head.Address, text: text})
	}
	return nil
}

// choose finds the rules that are about the piece alone, on all pages that show it.
func (m *stylesMove) choose() {
	for _, style := range m.styles(m.tree) {
		text := style.Inner.Of(m.src)
		sheet := css.Parse(text)
		var walk func(list []*css.Rule, when []string)
		walk = func(list []*css.Rule, when []string) {
			for _, r := range list {
				if (r.At == "media" || r.At == "supports") && r.HasBody && len(r.Decls) == 0 {
					walk(r.Rules, append(slices.Clone(when),
						"@"+r.At+" "+strings.TrimSpace(string(r.Prelude.Of(text)))))
					continue
				}
				confined, ok := m.confined(text, r)
				if !ok {
					m.stay++
					continue
				}
				m.rules = append(m.rules, movedRule{style, r, confined, when})
			}
		}
		walk(sheet.Rules, nil)
	}
}

// confined writes a rule for the site's stylesheet; ok is false for one that cannot move.
func (m *stylesMove) confined(text []byte, r *css.Rule) (string, bool) {
	if r.At != "" || len(r.Rules) > 0 || len(r.Selectors) == 0 || !r.HasBody ||
		bytes.Contains(text, []byte("@layer")) {
		return "", false
	}
	var list []string
	for _, sel := range r.Selectors {
		s := sel.Confined(text, m.class)
		if s == "" || m.aboutMore(sel) {
			return "", false
		}
		list = append(list, s)
	}
	for _, ref := range css.Parse(r.Of(text)).Refs() {
		if ref.Space == css.URL && !strings.HasPrefix(ref.Name, "/") {
			return "", false // it would be read from elsewhere
		}
	}
	return strings.Join(list, ", ") + " {" + string(r.Body.Of(text)) + "}", true
}

// aboutMore tells whether a selector fits an element outside of the piece.
func (m *stylesMove) aboutMore(sel css.Selector) bool {
	for _, p := range m.before {
		for _, n := range p.tree.All {
			in := n.Own && slices.ContainsFunc(p.inside, func(at span.Span) bool {
				return n.Start.Start >= at.Start && n.Start.Start < at.End
			})
			if !in && sel.Fits(n, nil) {
				return true
			}
		}
	}
	return false
}

// write puts the rules into the stylesheet, takes them out of the piece, and lets its elements be known.
func (m *stylesMove) write() error {
	var edits []span.Edit
	var text strings.Builder
	text.WriteString("\n/* of " + m.head.Address.String() + " */\n")
	left := map[*markup.Node][]span.Span{}
	for _, r := range m.rules {
		left[r.style] = append(left[r.style], r.rule.Shift(r.style.Inner.Start))
		for _, w := range r.when {
			text.WriteString(w + " { ")
		}
		text.WriteString(r.text + strings.Repeat(" }", len(r.when)) + "\n")
	}
	for _, style := range m.styles(m.tree) {
		rest := style.Inner.Of(m.src)
		for i := len(left[style]) - 1; i >= 0; i-- {
			at := left[style][i].Shift(-style.Inner.Start)
			if alone := (at.Start == 0 || rest[at.Start-1] == '\n') && at.End < len(rest) &&
				rest[at.End] == '\n'; alone {
				at.End++
			}
			rest = append(slices.Clone(rest[:at.Start]), rest[at.End:]...)
		}
		switch {
		case emptyOfRules(rest):
			at := style.Outer()
			if at.End < len(m.src) && m.src[at.End] == '\n' {
				at.End++
			}
			edits = append(edits, span.Edit{Span: at})
		case len(left[style]) > 0:
			edits = append(edits, span.Edit{Span: style.Inner, New: rest})
		}
	}
	for _, n := range m.tree.Root.Children {
		if n.Own && n.Tag != "style" && n.Tag != "script" && n.Tag != "link" && !strings.HasPrefix(n.Tag, "cp-") {
			edits = append(edits, markup.SetAttr(n, "class", strings.Join(append(n.Classes(), m.class), " ")))
		}
	}
	slices.SortFunc(edits, func(a, b span.Edit) int { return a.Start - b.Start })
	out, err := span.Apply(m.src, edits)
	if err != nil {
		return err
	}
	sh, ok := m.e.over.Find(m.sheet)
	var has []byte
	if !ok {
		sh = item.Head{Address: m.sheet, Meta: item.Meta{Title: m.sheet.Key}}
	} else if has, err = item.Read(m.e.over, sh); err != nil {
		return err
	}
	m.had = len(bytes.TrimSpace(has)) > 0
	if err := m.e.put(sh, append(slices.Clone(has), strings.TrimPrefix(text.String(), "\n")...)); err != nil {
		return err
	}
	m.head.Meta.Styles = withStyles(m.head.Meta.Styles, m.sheet)
	return m.e.put(m.head, out)
}

// emptyOfRules tells whether nothing but conditions without rules is left of a sheet.
func emptyOfRules(text []byte) bool {
	var holds func(list []*css.Rule) bool
	holds = func(list []*css.Rule) bool {
		for _, r := range list {
			if r.At != "media" && r.At != "supports" || len(r.Decls) > 0 || holds(r.Rules) {
				return true
			}
		}
		return false
	}
	return !holds(css.Parse(text).Rules)
}

// prove holds the pages against what they were: the sheet must stand on each, and what comes between its
// place and the old one must decide nothing that the moved rules decide, too.
func (m *stylesMove) prove(after []*shownPage) error {
	if len(after) != len(m.before) {
		return refuse("it would stand on other pages")
	}
	var moved bytes.Buffer
	for _, r := range m.rules {
		moved.WriteString(strings.Join(r.when, "{") + strings.Repeat("{", min(len(r.when), 1)) +
			string(r.rule.Of(r.style.Inner.Of(m.src))) + strings.Repeat("}", len(r.when)) + "\n")
	}
	sheet := css.Parse(moved.Bytes())
	for i, p := range m.before {
		to := slices.IndexFunc(after[i].sheets, func(u usedSheet) bool { return u.address == m.sheet })
		if to < 0 {
			return refuse("%s would not load %s", p.out.Page, m.sheet)
		}
		if m.had && !slices.ContainsFunc(p.sheets, func(u usedSheet) bool { return u.address == m.sheet }) {
			return refuse("%s does not load %s now, whose other rules it would get: choose another stylesheet, "+
				"or a new one",
				p.out.Page, m.sheet)
		}
		ahead := map[item.Address]bool{}
		for _, u := range after[i].sheets[:to] {
			ahead[u.address] = !u.address.IsZero()
		}
		last := 0
		for k, u := range p.sheets {
			if u.own {
				last = k
			}
		}
		var between [][]byte
		for _, u := range p.sheets[:last] {
			if !u.own && !ahead[u.address] && u.address != m.sheet {
				between = append(between, u.text)
			}
		}
		for _, style := range m.styles(m.tree) { // what stays of its own
			between = append(between, m.stays(style))
		}
		if c, found := sheet.Contests(p.tree, between...); found {
			return refuse("on %s, %s would lose against %s, which decides %s, too: choose a stylesheet that "+
				"comes later",
				p.out.Page, c.Selector, c.Other, c.Property)
		}
	}
	return nil
}

// stays is what stays in a style element.
func (m *stylesMove) stays(style *markup.Node) []byte {
	out := slices.Clone(style.Inner.Of(m.src))
	for _, r := range m.rules {
		if r.style == style {
			for k := r.rule.Start; k < r.rule.End; k++ {
				out[k] = ' '
			}
		}
	}
	return out
}
