package markup

import (
	"fmt"
	"strings"

	"compactparcel/core/span"
)

// Binding is one clause of a data-fill or data-field attribute: which place of
// the element takes the value, and by which pattern.
type Binding struct {
	// Target is "text", "html" or an attribute's name.
	Target string
	// Name is the fill-in's or field's name.
	Name string
	// Pattern is the whole value with {NAME} in it; empty when the value stands alone.
	Pattern string
	// At is the place of Name in the source, for renaming.
	At   span.Span
	Node *Node
}

// Bindings reads the bindings of an element in the attribute attr ("data-fill"
// or "data-field"). The grammar: clauses parted by ";", each "target:name" or
// "target:text with {name}"; only in the second form may a name stand in braces.
func Bindings(src []byte, n *Node, attr string) []Binding {
	a, ok := n.Attr(attr)
	if !ok {
		return nil
	}
	var out []Binding
	at := 0
	for _, clause := range strings.SplitAfter(a.Value, ";") {
		start := at
		at += len(clause)
		clause = strings.TrimSuffix(clause, ";")
		target, rest, ok := strings.Cut(clause, ":")
		if !ok {
			continue
		}
		b := Binding{Target: strings.ToLower(strings.TrimSpace(target)), Node: n}
		restAt := start + len(target) + 1
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			b.Name = strings.TrimSpace(rest)
			from := restAt + strings.Index(rest, b.Name)
			b.At = a.Offset(src, from, from+len(b.Name))
			if b.Name != "" {
				out = append(out, b)
			}
			continue
		}
		b.Pattern = strings.TrimSpace(rest)
		for open >= 0 {
			shut := strings.IndexByte(rest[open:], '}')
			if shut < 0 {
				break
			}
			c := b
			c.Name = rest[open+1 : open+shut]
			c.At = a.Offset(src, restAt+open+1, restAt+open+shut)
			out = append(out, c)
			next := strings.IndexByte(rest[open+shut:], '{')
			if next < 0 {
				break
			}
			open += shut + next
		}
	}
	return out
}

// Within gives the part of a whole value that the binding's name stands for in its
// pattern: "12" of "tel:12" for "tel:{phone}". What the pattern does not fit, or one with
// several names, is given as it is.
func (b Binding) Within(whole string) string {
	before, rest, ok := strings.Cut(b.Pattern, "{"+b.Name+"}")
	if !ok || strings.Contains(before+rest, "{") || len(whole) < len(before)+len(rest) ||
		!strings.HasPrefix(whole, before) ||
		!strings.HasSuffix(whole, rest) {
		return whole
	}
	return whole[len(before) : len(whole)-len(rest)]
}

// FillEdits gives the edits that put values in the places bound to them by attr.
// Places whose values are not given keep their samples. An "html" value must be
// clean already. An element without an end tag cannot take a text.
func FillEdits(t *Tree, attr string, value func(name string) (string, bool)) ([]span.Edit, error) {
	list, err := Fillings(t, attr, value)
	edits := make([]span.Edit, len(list))
	for i, f := range list {
		edits[i] = f.Edit
	}
	return edits, err
}

// Filling is a value that is put in its place.
type Filling struct {
	Binding
	Value string // as it is given, with its pattern filled
	Edit  span.Edit
}

// Fillings are what FillEdits does, each with its binding.
func Fillings(t *Tree, attr string, value func(name string) (string, bool)) ([]Filling, error) {
	var list []Filling
	for _, n := range t.All {
		done := map[string]bool{}
		for _, b := range Bindings(t.Source, n, attr) {
			if done[b.Target] || !n.Own {
				continue
			}
			v, ok := value(b.Name)
			if b.Pattern != "" {
				v, ok = fillPattern(b.Pattern, value)
			}
			if !ok {
				continue
			}
			done[b.Target] = true
			f := Filling{Binding: b, Value: v}
			switch b.Target {
			case "text", "html":
				if void[n.Tag] {
					return nil, fmt.Errorf("<%s> cannot hold the text %q: it has no content", n.Tag, b.Name)
				}
				if b.Target == "text" {
					v = EscapeText(v)
				}
				f.Edit = span.Edit{Span: n.Inner, New: []byte(v)}
			default:
				f.Edit = SetAttr(n, b.Target, v)
			}
			list = append(list, f)
		}
	}
	return dropNested(list), nil
}

// dropNested removes edits that lie within another: the outer text replaces them.
func dropNested(list []Filling) []Filling {
	var out []Filling
	for i, e := range list {
		inside := false
		for j, o := range list {
			if i != j && o.Edit.Start <= e.Edit.Start && e.Edit.End <= o.Edit.End && o.Edit.Len() > e.Edit.Len() {
				inside = true
			}
		}
		if !inside {
			out = append(out, e)
		}
	}
	return out
}

func fillPattern(p string, value func(string) (string, bool)) (string, bool) {
	var b strings.Builder
	for {
		open := strings.IndexByte(p, '{')
		if open < 0 {
			b.WriteString(p)
			return b.String(), true
		}
		shut := strings.IndexByte(p[open:], '}')
		if shut < 0 {
			b.WriteString(p)
			return b.String(), true
		}
		v, ok := value(p[open+1 : open+shut])
		if !ok {
			return "", false
		}
		b.WriteString(p[:open] + v)
		p = p[open+shut+1:]
	}
}

// SetAttr gives the edit that sets an attribute, in place or newly behind the
// tag's name.
func SetAttr(n *Node, name, value string) span.Edit {
	if a, ok := n.Attr(name); ok {
		switch {
		case a.Quote != 0:
			return span.Edit{Span: a.At, New: []byte(EscapeAttr(value))}
		default:
			return span.Edit{Span: a.All, New: []byte(name + `="` + EscapeAttr(value) + `"`)}
		}
	}
	at := n.Start.Start + 1 + len(n.Tag)
	return span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(" " + name + `="` + EscapeAttr(value) + `"`)}
}
