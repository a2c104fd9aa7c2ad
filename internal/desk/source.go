package desk

import (
	"bytes"
	"context"
	"slices"

	"compactparcel/core/blend"
	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/plan"
	"compactparcel/core/render"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// SourceAsk names a place of a page: a line, or an element by a CSS selector.
type SourceAsk struct {
	Slug    string
	Draft   int64 // 0: the live state
	Line    int
	Element string
}

// SourcePlace is a run of bytes of a page and where it comes from.
type SourcePlace struct {
	Text       string
	Line       int
	Kind       sourcemap.Kind
	Item       item.Address
	SourceLine int
	Field      string
	Through    []item.Address // the uses that brought it, the page first
	Pages      int            // that show the item
	Reason     string
	Inputs     []item.Address
}

// PageSource says whose the bytes of a line or an element of a page are.
func (d *Desk) PageSource(ctx context.Context, p Person, site string, ask SourceAsk) ([]SourcePlace, error) {
	v, err := d.Look(ctx, p, site, ask.Draft)
	if err != nil {
		return nil, err
	}
	what := site + ask.Slug
	o, err := render.New(v).Page(render.PageRequest{Slug: ask.Slug, Mapped: true})
	if err != nil {
		return nil, explain(what, err)
	}
	if o.Status != 200 {
		return nil, problem(NotFound, ask.Slug, To(ShowItems, "site", site), "%s has no page at this address", site)
	}
	at, err := placeOf(o.Body, ask)
	if err != nil {
		return nil, explain(what, err)
	}
	pages := map[item.Address]int{}
	var out []SourcePlace
	for i := at.Start; i < at.End; {
		s, ok := o.Map.At(i)
		if !ok {
			break
		}
		shown := span.Span{Start: i, End: min(s.End, at.End)}
		if len(bytes.TrimSpace(shown.Of(o.Body))) == 0 {
			i = s.End
			continue
		}
		x := SourcePlace{Text: blend.Brief(string(shown.Of(o.Body))), Kind: s.Kind, Reason: s.Reason, Inputs: s.Inputs}
		x.Line, _ = span.Line(o.Body, i)
		if a, known := o.Map.Item(s); known {
			if err := whose(v, o.Map, s, shown, a, &x); err != nil {
				return nil, explain(what, err)
			}
			if _, counted := pages[a]; !counted {
				h, _ := v.Find(a)
				if pages[a], err = plan.PagesShowing(v, h); err != nil {
					return nil, explain(what, err)
				}
			}
			x.Pages = pages[a]
		}
		x.Inputs = slices.DeleteFunc(slices.Clone(x.Inputs), item.Address.IsZero)
		out, i = append(out, x), s.End
	}
	return out, nil
}

// whose fills in what is known of a segment's source.
func whose(v item.Collection, m *sourcemap.Map, s sourcemap.Segment, shown span.Span, a item.Address,
	x *SourcePlace) error {
	x.Item, x.Field = a, s.Place.Field
	for _, o := range m.Chain(s.Place.Occurrence) {
		x.Through = append(x.Through, o.Item)
	}
	h, ok := v.Find(a)
	if !ok || s.Place.Field != "" {
		return nil
	}
	src, err := item.Read(v, h)
	if err != nil {
		return err
	}
	offset := s.Place.Span.Start
	if s.Kind == sourcemap.Copied {
		offset += shown.Start - s.Start
	}
	x.SourceLine, _ = span.Line(src, offset)
	return nil
}

// placeOf gives the place of a line, or of an element, in a page.
func placeOf(body []byte, ask SourceAsk) (span.Span, error) {
	if ask.Element != "" {
		n, err := css.QueryOne(markup.Parse(body, ""), ask.Element)
		if err != nil {
			return span.Span{}, problem(Refused, ask.Slug, To(CheckOptions), "%v", err)
		}
		return n.Outer(), nil
	}
	line, from := 1, 0
	for i, c := range body {
		if line == ask.Line && c == '\n' {
			return span.Span{Start: from, End: i}, nil
		}
		if c == '\n' {
			line, from = line+1, i+1
		}
	}
	if line == ask.Line {
		return span.Span{Start: from, End: len(body)}, nil
	}
	return span.Span{}, problem(Refused, ask.Slug, To(CheckOptions), "the page has %d lines, and line %d is asked for",
		line, ask.Line)
}
