// Package triples makes pages of the demo world and edits them on two sides as people do,
// with marks by which every edit is found again: for the tests of the blend and for the
// bench.
package triples

import (
	"fmt"
	"math/rand/v2"
	"strings"
)

// Triple is a page, what two sides made of it, and what each did.
type Triple struct {
	Base, Site, Kit string
	// Put are texts that an edit brought and that must stand in the result once.
	Put []string
	// Gone are texts that an edit took away.
	Gone []string
}

// el is an element of a page that is being edited; a text is an el without a tag.
type el struct {
	tag, text string
	attrs     [][2]string
	kids      []*el
}

func text(s string) *el { return &el{text: s} }

func tag(name string, kids ...*el) *el { return &el{tag: name, kids: kids} }

func (e *el) with(name, value string) *el {
	e.attrs = append(e.attrs, [2]string{name, value})
	return e
}

func (e *el) copy() *el {
	out := &el{tag: e.tag, text: e.text, attrs: append([][2]string(nil), e.attrs...)}
	for _, k := range e.kids {
		out.kids = append(out.kids, k.copy())
	}
	return out
}

var vocabulary = strings.Fields(
	"the hut is open all week from June until the first snow and there is soup at noon bread from the valley a " +
		"stove in the day room twelve bunks under the roof water comes from the spring behind the wall please " +
		"bring a sleeping bag carry your rubbish down the path is marked with red and white paint",
)

func sentence(r *rand.Rand, n int) []*el {
	var out []*el
	for range n {
		out = append(out, text(vocabulary[r.IntN(len(vocabulary))]))
	}
	return out
}

func page(r *rand.Rand, sections int) *el {
	main := tag("main")
	for i := range sections {
		list := tag("ul")
		for k := range 3 + r.IntN(4) {
			list.kids = append(list.kids,
				tag("li", append([]*el{text(fmt.Sprintf("thing%d.%d", i, k))}, sentence(r, 4)...)...))
		}
		para := tag("p", sentence(r, 12+r.IntN(20))...)
		para.kids = append(para.kids, tag("a", text("see"), text("more")).with("href", fmt.Sprintf("/to-%d/", i)),
			text("soon."))
		s := tag("section", tag("h2", append([]*el{text(fmt.Sprintf("head%d", i))}, sentence(r, 2)...)...), para,
			tag("img").with("src", fmt.Sprintf("/media/view-%d.png", i)).with("alt", "a view"),
			list).with("class", fmt.Sprintf("band kind-%d", r.IntN(3)))
		main.kids = append(main.kids, s)
	}
	return main
}

// write gives the page's text; style 0 is indented, 1 has other quotes and white space.
func (e *el) write(b *strings.Builder, depth, style int) {
	indent := "\n" + strings.Repeat([]string{"  ", "\t"}[style], depth)
	if e.tag == "" {
		b.WriteString(e.text)
		return
	}
	quote := []string{`"`, `'`}[style]
	b.WriteString("<" + e.tag)
	for _, a := range e.attrs {
		b.WriteString(" " + a[0] + "=" + quote + a[1] + quote)
	}
	b.WriteString(">")
	if e.tag == "img" {
		return
	}
	inline := len(e.kids) > 0 && (e.kids[0].tag == "" || e.tag == "b")
	for i, k := range e.kids {
		switch {
		case inline && i > 0:
			b.WriteString(" ")
		case !inline:
			b.WriteString(indent)
		}
		k.write(b, depth+1, style)
	}
	if !inline {
		b.WriteString("\n" + strings.Repeat([]string{"  ", "\t"}[style], depth-1))
	}
	b.WriteString("</" + e.tag + ">")
}

func (e *el) String(style int) string {
	var b strings.Builder
	e.write(&b, 1, style)
	return b.String() + "\n"
}

// editor is one side at work.
type editor struct {
	r    *rand.Rand
	name string
	n    int
	put  []string
	gone []string
}

func (x *editor) mark() string {
	x.n++
	m := fmt.Sprintf("%s-mark-%d.", x.name, x.n)
	x.put = append(x.put, m)
	return m
}

func pick[T any](r *rand.Rand, list []T) T { return list[r.IntN(len(list))] }

// sectionsOf finds the sections, also those in wrappers.
func sectionsOf(main *el) []*el {
	var out []*el
	for _, k := range main.kids {
		if k.tag == "section" {
			out = append(out, k)
		} else {
			out = append(out, sectionsOf(k)...)
		}
	}
	return out
}

// edit makes one edit, as people make them.
func (x *editor) edit(main *el) {
	r := x.r
	all := sectionsOf(main)
	if len(all) == 0 {
		return
	}
	s := pick(r, all)
	at := func() int {
		for i, k := range main.kids {
			if k == s {
				return i
			}
		}
		return -1
	}
	child := func(name string) *el {
		for _, k := range s.kids {
			if k.tag == name {
				return k
			}
		}
		return nil
	}
	switch r.IntN(13) {
	case 0, 1, 2: // a word reworded
		if p := child("p"); p != nil {
			i := r.IntN(len(p.kids))
			if p.kids[i].tag == "" && !strings.Contains(p.kids[i].text, "mark") {
				p.kids[i] = text(x.mark())
			}
		}
	case 3: // words put in
		if p := child("p"); p != nil {
			i := r.IntN(len(p.kids) + 1)
			p.kids = append(p.kids[:i:i], append([]*el{text("and"), text(x.mark())}, p.kids[i:]...)...)
		}
	case 4: // a heading reworded
		if h := child("h2"); h != nil && len(h.kids) > 1 {
			h.kids[1] = text(x.mark())
		}
	case 5: // a class added
		if len(s.attrs) > 0 {
			s.attrs[0][1] += " " + x.mark()
		}
	case 6: // a link changed
		if p := child("p"); p != nil {
			for _, k := range p.kids {
				if k.tag == "a" && !strings.Contains(k.attrs[0][1], "mark") {
					k.attrs[0][1] = "/" + x.mark() + "/"
				}
			}
		}
	case 7: // an entry put into a list
		if l := child("ul"); l != nil {
			i := r.IntN(len(l.kids) + 1)
			l.kids = append(
				l.kids[:i:i],
				append([]*el{tag("li", append([]*el{text(x.mark())}, sentence(r, 3)...)...)}, l.kids[i:]...)...)
		}
	case 8: // an entry taken out
		if l := child("ul"); l != nil && len(l.kids) > 2 {
			i := r.IntN(len(l.kids))
			if first := l.kids[i].kids[0].text; strings.HasPrefix(first, "thing") {
				x.gone = append(x.gone, first)
				l.kids = append(l.kids[:i:i], l.kids[i+1:]...)
			}
		}
	case 9: // a section put in
		i := r.IntN(len(main.kids) + 1)
		made := tag("section", tag("h2", text(x.mark())), tag("p", sentence(r, 15)...)).with("class", "band")
		main.kids = append(main.kids[:i:i], append([]*el{made}, main.kids[i:]...)...)
	case 10: // a section moved
		if i := at(); i >= 0 {
			main.kids = append(main.kids[:i:i], main.kids[i+1:]...)
			k := r.IntN(len(main.kids) + 1)
			main.kids = append(main.kids[:k:k], append([]*el{s}, main.kids[k:]...)...)
		}
	case 11: // a wrapper put round a section
		if i := at(); i >= 0 {
			main.kids[i] = tag("div", s).with("class", x.mark())
		}
	case 12: // a picture exchanged
		if p := child("img"); p != nil && !strings.Contains(p.attrs[0][1], "mark") {
			p.attrs[0][1] = "/media/" + x.mark() + "png"
		}
	}
}

// Make gives the triple of a seed: a page of a few sections, with up to n edits on each
// side. Every fourth site is written out by another editor, with its own white space.
func Make(seed uint64, n int) Triple {
	r := rand.New(rand.NewPCG(seed, 7))
	base := page(r, 3+r.IntN(6))
	t := Triple{Base: base.String(0)}
	side := func(name string, style int) string {
		x := &editor{r: r, name: name}
		mine := base.copy()
		for range 1 + r.IntN(n) {
			x.edit(mine)
		}
		out := mine.String(style)
		for _, m := range x.put { // what the side itself took away again is no edit
			if strings.Count(out, m) == 1 {
				t.Put = append(t.Put, m)
			}
		}
		t.Gone = append(t.Gone, x.gone...)
		return out
	}
	style := 0
	if r.IntN(4) == 0 {
		style = 1
	}
	t.Site = side("site", style)
	t.Kit = side("kit", 0)
	return t
}

// Wrong lists the edits that a result lost or doubled, and those that it undid. told are
// the texts of the conflicts that were reported: what stands in one is not lost.
func (t Triple) Wrong(result string, told []string) []string {
	all := strings.Join(told, "\n")
	var out []string
	for _, m := range t.Put {
		switch n := strings.Count(result, m); {
		case n > 1:
			out = append(out, "doubled "+m)
		case n == 0 && !strings.Contains(all, m):
			out = append(out, "lost "+m)
		}
	}
	for _, m := range t.Gone {
		if strings.Contains(result, m) && !strings.Contains(all, m) {
			out = append(out, "back again "+m)
		}
	}
	return out
}
