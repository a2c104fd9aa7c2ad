package render

import (
	"bytes"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

func recordSlug(h item.Head) string {
	if h.Meta.Slug != "" {
		return h.Meta.Slug
	}
	return "/" + h.Address.Key + "/"
}

// recordContext is a record's page as placement sees it.
func (r *Renderer) recordContext(h item.Head) (PageContext, error) {
	v, err := r.fieldsOf(h)
	return PageContext{Slug: recordSlug(h), Record: h.Meta.Type, Category: v["category"]}, err
}

// fieldsOf reads a record's values: its elements marked data-value.
func (r *Renderer) fieldsOf(h item.Head) (map[string]string, error) {
	src, err := r.read(h.Address)
	if err != nil {
		return nil, err
	}
	v := map[string]string{"title": h.Meta.Title, "url": recordSlug(h)}
	tree := markup.Parse(src, "")
	for _, n := range tree.All {
		for _, b := range markup.Bindings(src, n, "data-value") {
			switch b.Target {
			case "text":
				v[b.Name] = n.Text()
			case "html":
				v[b.Name] = string(n.Inner.Of(src))
			default:
				v[b.Name] = n.Value(b.Target)
			}
		}
	}
	return v, nil
}

func (s *stage) records(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	typ, limit, category := n.Value("type"), -1, n.Value("category")
	if x, err := strconv.Atoi(n.Value("limit")); err == nil {
		limit = x
	}
	listed := typ == "" && s.spot.Listing != "" // the page's own list, which can have pages
	if listed {
		typ, category = s.spot.Listing, s.spot.Category
	}
	if h, ok := s.r.c.Find(item.Address{Kind: item.RecordType, Key: typ}); ok {
		s.reached[h.Address] = true
	}
	type row struct {
		head   item.Head
		values map[string]string
	}
	var rows []row
	for _, h := range s.r.records {
		if h.Meta.Type != typ {
			continue
		}
		v, err := s.r.fieldsOf(h)
		if err != nil {
			return none, err
		}
		if category == "" || v["category"] == category {
			rows = append(rows, row{h, v})
		}
	}
	by := n.Value("sort")
	if by == "" {
		by = "date"
	}
	sort.SliceStable(rows, func(i, j int) bool {
		if n.Value("order") == "rising" {
			i, j = j, i
		}
		return larger(rows[i].values[by], rows[j].values[by])
	})
	if listed && limit > 0 {
		s.page, s.pages = max(s.spot.Page, 1), (len(rows)+limit-1)/limit
		rows = rows[min((s.page-1)*limit, len(rows)):]
	}
	var items []values
	for _, r := range rows {
		if len(items) == limit {
			break
		}
		s.reached[r.head.Address] = true
		items = append(items, values{of: r.head, plain: r.values})
	}
	return s.repeat(src, n, items)
}

// larger compares two values of a field: as numbers where both are, else as texts.
func larger(a, b string) bool {
	x, errX := strconv.ParseFloat(strings.TrimSpace(a), 64)
	y, errY := strconv.ParseFloat(strings.TrimSpace(b), 64)
	if errX == nil && errY == nil {
		return x > y
	}
	return a > b
}

// values are what one repetition of a template is filled with, by field, and of which item.
type values struct {
	of    item.Head
	plain map[string]string
}

// templateOf gives an element's content without its cp-empty, and the content of that.
func templateOf(src sourcemap.Text, n *markup.Node) (inner, empty sourcemap.Text, err error) {
	for _, c := range n.Children {
		if c.Tag == "cp-empty" && standsIn(n, c) {
			empty = src.Slice(c.Inner)
		}
	}
	inner, err = src.Slice(n.Inner).Apply(without(n, "cp-empty"))
	return inner, empty, err
}

// repeat writes an element's content once per set of values, or its cp-empty.
func (s *stage) repeat(src sourcemap.Text, n *markup.Node, items []values) (sourcemap.Text, error) {
	inner, empty, err := templateOf(src, n)
	if err != nil || len(items) == 0 {
		return empty, err
	}
	between := ""
	if trimmed := inner.TrimSpace(); len(trimmed.Bytes) != len(inner.Bytes) { // blocks without space stay so
		inner, between = trimmed, "\n"
	}
	tree := markup.Parse(inner.Bytes, "")
	out := s.rec.Build("repeated")
	for row, v := range items {
		// A field that a record does not have is empty, and no sample of the template's.
		list, err := markup.Fillings(
			tree,
			"data-field",
			func(name string) (string, bool) { return v.plain[name], true },
		)
		if err != nil {
			return none, err
		}
		fields, err := s.fieldTexts(v, src, n, row)
		if err != nil {
			return none, err
		}
		var edits []sourcemap.Edit
		for _, f := range list {
			edits = append(edits, sourcemap.Edit{Span: f.Edit.Span, New: fields.of(f)})
		}
		text, err := inner.Apply(sourcemap.Outermost(withoutPictures(tree, v.plain, edits)))
		if err != nil {
			return none, err
		}
		if text, err = s.expand(text, ""); err != nil {
			return none, err
		}
		out.Add(text).Made(between)
	}
	return out.Text(), nil
}

// fieldTexts are the fields of a record with their places in it.
type fieldTexts struct {
	s     *stage
	item  item.Address
	texts map[string]sourcemap.Text // as they stand in the record's source
	codec map[string]bool           // those that are attributes there
}

// fieldTexts reads where a record has its fields; nothing where nobody asks.
func (s *stage) fieldTexts(v values, src sourcemap.Text, n *markup.Node, row int) (fieldTexts, error) {
	out := fieldTexts{s: s, item: v.of.Address}
	if s.rec == nil || v.of.Address.Kind != item.Record {
		return out, nil
	}
	b, err := s.r.read(v.of.Address)
	if err != nil {
		return out, err
	}
	out.texts, out.codec = map[string]sourcemap.Text{}, map[string]bool{}
	occurrence := s.use(v.of.Address, src, n, row)
	record := s.rec.Source(b, occurrence)
	for _, x := range markup.Parse(b, "").All {
		for _, f := range markup.Bindings(b, x, "data-value") {
			switch a, has := x.Attr(f.Target); {
			case f.Target == "text" || f.Target == "html":
				out.texts[f.Name], out.codec[f.Name] = record.Slice(x.Inner), false
			case has && a.Quote != 0:
				out.texts[f.Name], out.codec[f.Name] = record.Slice(a.At), true
			}
		}
	}
	return out, nil
}

// of is what fills one place: the record's own markup, its value in another form, or made.
func (t fieldTexts) of(f markup.Filling) sourcemap.Text {
	v, ok := t.texts[f.Name]
	text := string(f.Edit.New)
	place, whole := v.From(span.Span{End: len(v.Bytes)})
	if !ok || !whole || f.Pattern != "" {
		return t.s.rec.Made(text, "field", t.item)
	}
	inAttr := t.codec[f.Name]
	switch {
	case f.Target == "html" && !inAttr:
		return v
	case f.Target == "html" || bytes.ContainsAny(v.Bytes, "<>"):
		return t.s.rec.Made(text, "field", t.item)
	case f.Target == "text" && inAttr:
		return t.s.rec.Encoded(text, place, sourcemap.AttrToText)
	case f.Target == "text":
		return t.s.rec.Encoded(text, place, sourcemap.HTMLToText)
	case inAttr:
		return t.s.filled(f, v, sourcemap.AttrToAttribute)
	}
	return t.s.filled(f, v, sourcemap.HTMLToAttr)
}

// withoutPictures takes out the pictures for which a record has none.
func withoutPictures(tree *markup.Tree, values map[string]string, edits []sourcemap.Edit) []sourcemap.Edit {
	for _, n := range tree.All {
		if n.Tag != "img" && n.Tag != "source" && n.Tag != "video" {
			continue
		}
		for _, b := range markup.Bindings(tree.Source, n, "data-field") {
			if (b.Target != "src" && b.Target != "srcset") || values[b.Name] != "" {
				continue
			}
			kept := edits[:0]
			for _, e := range edits {
				if e.Start < n.Start.Start || e.End > n.End.End {
					kept = append(kept, e)
				}
			}
			edits = append(kept, sourcemap.Edit{Span: n.Outer()})
			break
		}
	}
	return edits
}
