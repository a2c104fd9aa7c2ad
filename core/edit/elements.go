package edit

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/says"
	"compactparcel/core/span"
)

// structure inserts, copies, moves, wraps and removes elements.
func (e *editor) structure(op Operation) (string, error) {
	p, err := e.point(op.Page, op.Element)
	if err != nil {
		return "", err
	}
	if op.Place != Inside && op.Op != Tag {
		if p, err = e.asUsed(p); err != nil {
			return "", err
		}
	}
	in := " in " + p.head.Address.String()
	outer := p.own.Outer()
	if op.Op == Empty {
		op.Op = Insert
		if op.Value, err = e.emptyElement(op); err != nil {
			return "", err
		}
	}
	if op.Op == Show {
		op.Op = Insert
		if op.Value, err = e.shownBy(p, op.Item); err != nil {
			return "", err
		}
	}
	if op.Op == Insert {
		if err := canInsert(op.Value); err != nil {
			return "", err
		}
		at, err := p.beside(op.Place, op.Value)
		if err != nil {
			return "", err
		}
		return "put something into " + p.head.Address.String(), e.change(p, at)
	}
	if err := p.whole(); err != nil {
		return "", err
	}
	switch op.Op {
	case Duplicate:
		text, err := p.copied()
		if err != nil {
			return "", err
		}
		at, err := p.beside(After, text)
		if err != nil {
			return "", err
		}
		return "copied an element" + in, e.change(p, at)
	case Remove:
		outer.Start -= len(p.indent())
		return "took an element out" + in, e.change(p, span.Edit{Span: outer})
	case MoveElement:
		return "moved an element" + in, e.moveElement(p, op)
	case Wrap:
		if !slices.Contains(holders, op.Value) {
			return "", refuse("wrap it in one of %s", strings.Join(holders, ", "))
		}
		return "wrapped an element" + in, e.change(p,
			span.Edit{Span: span.Span{Start: outer.Start, End: outer.Start}, New: []byte("<" + op.Value + ">")},
			span.Edit{Span: span.Span{Start: outer.End, End: outer.End}, New: []byte("</" + op.Value + ">")})
	default:
		return "gave an element another tag" + in, e.retag(p, op.Value)
	}
}

// copied is the source of an element for another place of the page: its ids get other names, and what
// names them within follows.
func (p *pointed) copied() (string, error) {
	src := p.own.Outer().Of(p.src)
	f := facts.Extract(item.Block, "", src)
	taken := map[string]bool{}
	for _, n := range markup.Parse(p.page.Body, "").All {
		taken[n.Value("id")] = true
	}
	names := map[string]string{}
	for _, id := range f.Defines(facts.ID) {
		to := id
		for n := 2; taken[to]; n++ {
			to = fmt.Sprintf("%s-%d", id, n)
		}
		names[id], taken[to] = to, true
	}
	out, err := f.Replace(src, func(r facts.Ref) (string, bool) {
		to, ok := names[r.Name]
		return to, ok && r.Space == facts.ID
	})
	return string(out), err
}

// holders are elements that others are put into.
var holders = []string{"div", "section", "article", "aside", "figure", "header", "footer", "nav", "blockquote"}

// sorts are tags of which each can stand for the others.
var sorts = [][]string{{"h1", "h2", "h3", "h4", "h5", "h6", "p"}, holders, {"ul", "ol"},
	{"strong", "em", "b", "i", "span"}}

func (e *editor) retag(p *pointed, tag string) error {
	n := p.own
	if !slices.ContainsFunc(sorts, func(list []string) bool {
		return slices.Contains(list, n.Tag) && slices.Contains(list, tag)
	}) {
		return refuse("<%s> cannot become <%s>", says.TagName(n.Tag), tag)
	}
	return e.change(p,
		span.Edit{Span: span.Span{Start: n.Start.Start + 1, End: n.Start.Start + 1 + len(n.Tag)}, New: []byte(tag)},
		span.Edit{Span: span.Span{Start: n.End.Start + 2, End: n.End.Start + 2 + len(n.Tag)}, New: []byte(tag)})
}

// beside gives the edit that puts a text before, after or inside an element.
func (p *pointed) beside(where Place, text string) (span.Edit, error) {
	n := p.own
	at, put := n.Outer().Start, text
	switch where {
	case Before:
		if p.indent() != "" {
			put = text + p.indent()
		}
	case After:
		if err := p.whole(); err != nil {
			return span.Edit{}, err
		}
		at, put = n.Outer().End, p.indent()+text
	case Inside:
		if markup.IsVoid(n.Tag) || n.Tag == "script" || n.Tag == "style" || n.Tag == "textarea" {
			return span.Edit{}, refuse("<%s> can hold nothing", says.TagName(n.Tag))
		}
		if !n.Closed {
			return span.Edit{}, refuse("<%s> has no end tag in its source: edit the source of %s", says.TagName(n.Tag),
				p.head.Address)
		}
		at = n.Inner.End
	default:
		return span.Edit{}, refuse("the place is before, after or inside")
	}
	if where != Inside && (n.Tag == "html" || n.Tag == "head" || n.Tag == "body") {
		return span.Edit{}, refuse("<%s> is the page itself", says.TagName(n.Tag))
	}
	return span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(put)}, nil
}

// moveElement moves an element beside another of the same item.
func (e *editor) moveElement(p *pointed, op Operation) error {
	to, err := e.point(op.Page, op.Beside)
	if err != nil {
		return err
	}
	if op.Place != Inside {
		if to, err = e.asUsed(to); err != nil {
			return err
		}
	}
	outer := p.own.Outer()
	switch at := to.own.Start.Start; {
	case to.head.Address != p.head.Address:
		return refuse("one is of %s, the other of %s", p.head.Address, to.head.Address)
	case at >= outer.Start && at < outer.End:
		return refuse("it cannot stand beside what stands in it")
	}
	put, err := to.beside(op.Place, string(outer.Of(p.src)))
	if err != nil {
		return err
	}
	gone := outer
	if gone.Start -= len(p.indent()); put.Start > gone.Start && put.Start < gone.End {
		gone = outer
	}
	return e.change(p, span.Edit{Span: gone}, put)
}

// canInsert tells why a markup cannot be put in; nil when it can: it must be whole, and run nothing.
func canInsert(text string) error {
	list, ok := markup.Elements([]byte(text))
	if !ok {
		return refuse("it is nested too deeply")
	}
	for _, n := range list {
		if !n.Closed && !markup.IsVoid(n.Tag) && n.Space == "" {
			return refuse("<%s> is not closed", says.TagName(n.Tag))
		}
		if n.Tag == "html" || n.Tag == "head" || n.Tag == "body" {
			return refuse("<%s> is a page of its own", says.TagName(n.Tag))
		}
	}
	f := facts.Extract(item.Block, "", []byte(text))
	if len(f.Scripts) > 0 {
		return refuse("it would run %s: write scripts in the source", f.Scripts[0])
	}
	return nil
}
