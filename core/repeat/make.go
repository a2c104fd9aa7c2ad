package repeat

import (
	"errors"
	"fmt"
	"strings"

	"compactparcel/core/markup"
	"compactparcel/core/render"
	"compactparcel/core/span"
	"compactparcel/core/workers"
)

// made is a group turned into a piece: its source, and how each page uses it.
type made struct {
	content []byte
	// values are what each occurrence that uses it has of its own, by occurrence.
	values map[int]string
	// own says why an occurrence stays the page's own copy.
	own map[int]string
}

// maxOwnValues bounds how much of its own a page may have in a linked piece.
const maxOwnValues = 24

var errTooDifferent = errors.New("too little of it is the same")

// place is one binding of the piece: an element by its number in document order, and
// what of it a page can set.
type place struct {
	element int
	target  string // "text" or an attribute
	name    string
}

// make turns a group into a piece whose differing places are fill-ins, or rules for
// the current page where that is what they mark.
func (f *finder) make(g *group) (*made, error) {
	base := 0
	best := -1
	for i, o := range g.occ {
		n := 0
		for k, v := range o.values {
			if v == g.common[k] {
				n++
			}
		}
		if n > best {
			base, best = i, n
		}
	}
	m := &maker{f: f, g: g, base: base, out: &made{values: map[int]string{}, own: map[int]string{}}}
	if err := m.read(); err != nil {
		return nil, err
	}
	if err := m.bind(); err != nil {
		return nil, err
	}
	m.markCurrent()
	if err := m.write(); err != nil {
		return nil, err
	}
	return m.out, nil
}

type maker struct {
	f      *finder
	g      *group
	base   int
	out    *made
	src    []byte // of the base's document
	elems  []*markup.Node
	list   []slot
	differ []int // slots that are not the same everywhere
	places []place
	links  map[int]bool // elements whose link tells whether a page is the current one
	seen   []view       // of each occurrence
	rules  map[int][]rule
}

// view is what an occurrence says at the differing places.
type view struct {
	slug   string
	slots  map[int]slot
	inner  map[int]string // element → its source, where its whole text is bound
	hrefs  map[int]string // element → where its link leads
	attrOf map[place]string
}

// rule marks an element for the current page.
type rule struct {
	attr, value string
	within      bool
}

func elements(n *markup.Node) []*markup.Node {
	out := []*markup.Node{n}
	for _, c := range n.Children {
		out = append(out, elements(c)...)
	}
	return out
}

func (m *maker) read() error {
	o := m.g.occ[m.base]
	d, err := open(m.f.c, m.f.heads[o.doc])
	if err != nil {
		return err
	}
	n := nodeAt(d.tree, o.at)
	if n == nil {
		return errTooDifferent
	}
	m.src, m.elems, m.list = d.src, elements(n), slots(d.src, n)
	for k := range m.list {
		for _, x := range m.g.occ {
			if x.values[k] != o.values[k] {
				m.differ = append(m.differ, k)
				break
			}
		}
	}
	return nil
}

func (m *maker) number(n *markup.Node) int {
	for i, e := range m.elems {
		if e == n {
			return i
		}
	}
	return -1
}

// bind decides which places pages can set. A text that stands beside elements is set
// with them, as the whole of what its element holds.
func (m *maker) bind() error {
	whole := map[int]bool{}
	for _, k := range m.differ {
		if s := m.list[k]; s.attr == "" {
			if e := m.number(s.node); e == 0 {
				return errTooDifferent
			} else {
				whole[e] = true
			}
		}
	}
	covered := func(n *markup.Node) bool {
		for up := n.Parent; up != nil && up != m.elems[0].Parent; up = up.Parent {
			if whole[m.number(up)] {
				return true
			}
		}
		return false
	}
	names := map[string]int{}
	done := map[string]bool{}
	kept := m.differ[:0]
	for _, k := range m.differ {
		s := m.list[k]
		if covered(s.node) {
			continue
		}
		kept = append(kept, k)
		if isMark(s.node, s.attr) {
			continue
		}
		p := place{element: m.number(s.node), target: s.attr}
		if s.attr == "" {
			p.target = "text"
		}
		if id := fmt.Sprint(p.element, p.target); done[id] {
			continue
		} else {
			done[id] = true
		}
		p.name = valueName(s)
		if names[p.name]++; names[p.name] > 1 {
			p.name = fmt.Sprintf("%s-%d", p.name, names[p.name])
		}
		m.places = append(m.places, p)
	}
	m.differ = kept
	m.links = map[int]bool{}
	for _, k := range m.differ {
		if s := m.list[k]; isMark(s.node, s.attr) {
			if e := m.linkOf(m.number(s.node)); e >= 0 {
				m.links[e] = true
			}
		}
	}
	m.seen = make([]view, len(m.g.occ))
	lost := make([]bool, len(m.g.occ))
	err := workers.Each(len(m.g.occ), func(_, i int) error {
		var err error
		m.seen[i], lost[i], err = m.look(m.g.occ[i])
		return err
	})
	for i := range lost {
		if lost[i] {
			m.out.own[i] = "it was not found again"
		}
	}
	return err
}

// look reads what an occurrence says at the differing places.
func (m *maker) look(o occurrence) (v view, lost bool, err error) {
	d, err := open(m.f.c, m.f.heads[o.doc])
	if err != nil {
		return v, false, err
	}
	n := nodeAt(d.tree, o.at)
	if n == nil {
		return v, true, nil
	}
	elems, list := elements(n), slots(d.src, n)
	v = view{
		slug:   m.f.heads[o.doc].Meta.Slug,
		slots:  map[int]slot{},
		inner:  map[int]string{},
		hrefs:  map[int]string{},
		attrOf: map[place]string{},
	}
	for _, k := range m.differ {
		v.slots[k] = slot{attr: list[k].attr, value: list[k].value, has: list[k].has}
	}
	for _, p := range m.places {
		if p.target == "text" {
			v.inner[p.element] = string(elems[p.element].Inner.Of(d.src))
		} else {
			v.attrOf[p] = elems[p.element].Value(p.target)
		}
	}
	for e := range m.links {
		v.hrefs[e] = elems[e].Value("href")
	}
	return v, false, nil
}

// valueName names a place for people.
func valueName(s slot) string {
	tag := s.node.Tag
	switch {
	case s.attr == "" && len(tag) == 2 && tag[0] == 'h' && tag[1] >= '1' && tag[1] <= '6':
		return "heading"
	case s.attr == "" && tag == "a":
		return "link-text"
	case s.attr == "" && tag == "time":
		return "date"
	case s.attr == "":
		return "text"
	case s.attr == "href":
		return "link"
	case s.attr == "src" && tag == "img":
		return "picture"
	case s.attr == "alt":
		return "picture-alt"
	}
	return tag + "-" + s.attr
}

// markCurrent finds out which of the differing classes and states mark the current
// page: those set just where the element's link leads to the page at hand, or to a
// page above it.
func (m *maker) markCurrent() {
	m.rules = map[int][]rule{}
	for _, k := range m.differ {
		s := m.list[k]
		if !isMark(s.node, s.attr) {
			continue
		}
		e := m.number(s.node)
		if r, ok := m.currentRule(k, m.linkOf(e)); ok {
			m.rules[e] = append(m.rules[e], r)
			continue
		}
		want := m.seen[m.base].slots[k]
		for i, v := range m.seen {
			if got := v.slots[k]; got.value != want.value || got.has != want.has {
				m.out.own[i] = "its " + s.attr + " on <" + s.node.Tag + "> follows no rule"
			}
		}
	}
}

// linkOf gives the element's own link or the first within it, or -1.
func (m *maker) linkOf(e int) int {
	for _, n := range elements(m.elems[e]) {
		if n.Tag == "a" {
			if _, ok := n.Attr("href"); ok {
				return m.number(n)
			}
		}
	}
	return -1
}

func (m *maker) currentRule(k, link int) (rule, bool) {
	if link < 0 {
		return rule{}, false
	}
	for _, within := range []bool{false, true} {
		var on, off *slot
		fits := true
		for _, v := range m.seen {
			if v.slots == nil {
				continue
			}
			s := v.slots[k]
			here := &off
			if render.LeadsTo(v.hrefs[link], v.slug, within) {
				here = &on
			}
			if *here == nil {
				*here = &s
			} else if (*here).value != s.value || (*here).has != s.has {
				fits = false
			}
		}
		if !fits || on == nil || off == nil || !on.has {
			continue
		}
		r := rule{attr: on.attr, value: on.value, within: within}
		if on.attr != "class" {
			return r, !off.has
		}
		had := map[string]bool{}
		for _, c := range strings.Fields(off.value) {
			had[c] = true
		}
		var added []string
		for _, c := range strings.Fields(on.value) {
			if !had[c] {
				added = append(added, c)
			}
			delete(had, c)
		}
		if len(had) > 0 || len(added) == 0 {
			continue
		}
		r.value = strings.Join(added, " ")
		return r, true
	}
	return rule{}, false
}

// write gives the piece's source and each page's own values.
func (m *maker) write() error {
	var edits []span.Edit
	root := m.g.occ[m.base].at
	for e, n := range m.elems {
		var fills, now, inside []string
		for _, p := range m.places {
			if p.element == e {
				fills = append(fills, p.target+":"+p.name)
			}
		}
		for _, r := range m.rules[e] {
			if r.within {
				inside = append(inside, r.attr+":"+r.value)
			} else {
				now = append(now, r.attr+":"+r.value)
			}
			edits = append(edits, unmark(m.src, n, r)...)
		}
		var text string
		for _, a := range []struct {
			name string
			list []string
		}{{"data-fill", fills}, {"data-current", now}, {"data-current-within", inside}} {
			if len(a.list) > 0 {
				text += " " + a.name + `="` + markup.EscapeAttr(strings.Join(a.list, "; ")) + `"`
			}
		}
		if text != "" {
			at := n.Start.Start + 1 + len(n.Tag)
			edits = append(edits, span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(text)})
		}
	}
	for i := range edits {
		edits[i].Span = edits[i].Shift(-root.Start)
	}
	var err error
	if m.out.content, err = span.Apply(root.Of(m.src), edits); err != nil {
		return err
	}
	base := m.seen[m.base]
	for i, v := range m.seen {
		if m.out.own[i] != "" {
			continue
		}
		var b strings.Builder
		n := 0
		for _, p := range m.places {
			value, same := v.inner[p.element], base.inner[p.element]
			if p.target != "text" {
				value, same = markup.EscapeText(v.attrOf[p]), markup.EscapeText(base.attrOf[p])
			}
			if value != same {
				n++
				b.WriteString(`<cp-value for="` + p.name + `">` + value + `</cp-value>`)
			}
		}
		if n > maxOwnValues {
			m.out.own[i] = fmt.Sprintf("it would have %d values of its own", n)
			continue
		}
		m.out.values[i] = b.String()
	}
	if len(m.out.values) < 2 {
		return errTooDifferent
	}
	return nil
}

// unmark takes a current page's mark off the piece.
func unmark(src []byte, n *markup.Node, r rule) []span.Edit {
	a, ok := n.Attr(r.attr)
	if !ok {
		return nil
	}
	marked := map[string]bool{}
	for _, c := range strings.Fields(r.value) {
		marked[c] = true
	}
	var rest []string
	if r.attr == "class" {
		for _, c := range n.Classes() {
			if !marked[c] {
				rest = append(rest, c)
			}
		}
		if len(rest) == len(n.Classes()) {
			return nil
		}
	}
	if len(rest) > 0 {
		return []span.Edit{markup.SetAttr(n, r.attr, strings.Join(rest, " "))}
	}
	at := a.All
	for at.Start > 0 && strings.IndexByte(" \t\r\n\f", src[at.Start-1]) >= 0 {
		at.Start--
	}
	return []span.Edit{{Span: at}}
}
