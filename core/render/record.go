package render

import (
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
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

func (s *stage) records(src []byte, n *markup.Node) (string, error) {
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
			return "", err
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
	var items []map[string]string
	for _, r := range rows {
		if len(items) == limit {
			break
		}
		s.reached[r.head.Address] = true
		items = append(items, r.values)
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

// repeat writes an element's content once per set of values, or its cp-empty.
func (s *stage) repeat(src []byte, n *markup.Node, items []map[string]string) (string, error) {
	inner := string(n.Inner.Of(src))
	empty := ""
	for _, c := range n.Children {
		if c.Tag == "cp-empty" && c.Own {
			empty = string(c.Inner.Of(src))
			inner = strings.Replace(inner, string(c.Outer().Of(src)), "", 1)
		}
	}
	if len(items) == 0 {
		return empty, nil
	}
	between := ""
	if trimmed := strings.TrimSpace(inner); trimmed != inner { // blocks without space between them stay so
		inner, between = trimmed, "\n"
	}
	tree := markup.Parse([]byte(inner), "")
	var out strings.Builder
	for _, values := range items {
		// A field that a record does not have is empty, and no sample of the template's.
		edits, err := markup.FillEdits(
			tree,
			"data-field",
			func(name string) (string, bool) { return values[name], true },
		)
		if err != nil {
			return "", err
		}
		edits = withoutPictures(tree, values, edits)
		text, err := span.Apply([]byte(inner), edits)
		if err != nil {
			return "", err
		}
		if text, err = s.expand(text, ""); err != nil {
			return "", err
		}
		out.Write(text)
		out.WriteString(between)
	}
	return out.String(), nil
}

// withoutPictures takes out the pictures for which a record has none.
func withoutPictures(tree *markup.Tree, values map[string]string, edits []span.Edit) []span.Edit {
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
			edits = append(kept, span.Edit{Span: n.Outer()})
			break
		}
	}
	return edits
}
