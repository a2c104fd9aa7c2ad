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

// fieldsOf reads a record's values: its elements marked data-value.
func (r *Renderer) fieldsOf(h item.Head) map[string]string {
	src, _ := r.read(h.Address)
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
	return v
}

func (s *stage) records(src []byte, n *markup.Node) (string, error) {
	typ, limit := n.Value("type"), -1
	if x, err := strconv.Atoi(n.Value("limit")); err == nil {
		limit = x
	}
	if typ == "" {
		typ = s.spot.Listing
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
		if h.Meta.Type == typ {
			rows = append(rows, row{h, s.r.fieldsOf(h)})
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
		return rows[i].values[by] > rows[j].values[by]
	})
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
		edits, err := markup.FillEdits(tree, "data-field", func(name string) (string, bool) { v, ok := values[name]; return v, ok })
		if err != nil {
			return "", err
		}
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
