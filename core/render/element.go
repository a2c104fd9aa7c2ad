package render

import (
	"encoding/json"
	"fmt"
	"html"
	"sort"
	"strconv"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// stage is the rendering of one document.
type stage struct {
	r        *Renderer
	spot     Spot
	ask      Ask
	record   item.Head
	reached  map[item.Address]bool
	styled   map[item.Address]bool
	scripts  []item.Address
	placed   map[item.Role]bool
	standing map[item.Role]item.Head
	variant  map[item.Role]string
	stack    []item.Address // sections and parts being written out
}

// contentMark stands in a wrapper's text where the page's content goes.
const contentMark = "<!--cp-content-->"

func (s *stage) reach(h item.Head) {
	s.reached[h.Address] = true
	if s.styled == nil {
		s.styled = map[item.Address]bool{}
	}
	for _, a := range h.Meta.Styles {
		s.styled[a] = true
	}
}

func (s *stage) reachSetting(key string) {
	a := item.Address{Kind: item.Setting, Key: key}
	if _, ok := s.r.c.Find(a); ok {
		s.reached[a] = true
	}
}

// expand writes the cp- elements of a source text out.
func (s *stage) expand(src []byte, context string) ([]byte, error) {
	tree := markup.Parse(src, context)
	if tree.Opaque {
		return src, nil
	}
	var edits []span.Edit
	for i := 0; i < len(tree.All); i++ {
		n := tree.All[i]
		if !n.Own || !strings.Contains(n.Tag, "-") || n.Space != "" {
			continue
		}
		if !strings.HasPrefix(n.Tag, "cp-") {
			s.component(n.Tag)
			continue
		}
		text, ok, err := s.element(src, tree, n)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		edits = append(edits, span.Edit{Span: n.Outer(), New: []byte(text)})
		for i+1 < len(tree.All) && tree.All[i+1].Own && tree.All[i+1].Start.Start < n.End.End {
			i++ // what stands within was the element's own business
		}
	}
	return span.Apply(src, edits)
}

// component notes that a custom element is used.
func (s *stage) component(tag string) {
	a := item.Address{Kind: item.Component, Key: tag}
	if h, ok := s.r.c.Find(a); ok && !s.reached[a] {
		s.reach(h)
		s.scripts = append(s.scripts, a)
	}
}

func (s *stage) element(src []byte, tree *markup.Tree, n *markup.Node) (string, bool, error) {
	switch n.Tag {
	case "cp-section":
		t, err := s.section(src, n)
		return t, true, err
	case "cp-part":
		role := item.Role(n.Value("role"))
		s.placed[role] = true
		part, ok := s.standing[role]
		if !ok {
			return "", true, nil
		}
		t, err := s.part(part)
		return t, true, err
	case "cp-menu":
		return s.menu(n.Value("name"), n.Value("label")), true, nil
	case "cp-form":
		return s.form(n.Value("name")), true, nil
	case "cp-title", "cp-tagline":
		key := strings.TrimPrefix(n.Tag, "cp-")
		s.reachSetting(key)
		var v string
		if s.r.setting(key, &v) && v != "" {
			return markup.EscapeText(v), true, nil
		}
		return string(n.Inner.Of(src)), true, nil
	case "cp-logo":
		t, err := s.logo(n.Inner.Of(src))
		return t, true, err
	case "cp-content":
		if !s.record.Address.IsZero() {
			b, _ := s.r.read(s.record.Address)
			s.reach(s.record)
			return string(b), true, nil
		}
		return contentMark, true, nil
	case "cp-records":
		t, err := s.records(src, n)
		return t, true, err
	case "cp-search":
		return s.search(n.Value("label")), true, nil
	case "cp-results":
		t, err := s.results(src, n)
		return t, true, err
	}
	return "", false, nil
}

func (s *stage) enter(a item.Address) error {
	for _, x := range s.stack {
		if x == a {
			var chain []string
			for _, y := range append(s.stack, a) {
				chain = append(chain, y.String())
			}
			return fmt.Errorf("pieces stand within each other in a circle: %s", strings.Join(chain, " → "))
		}
	}
	s.stack = append(s.stack, a)
	return nil
}

func (s *stage) section(src []byte, n *markup.Node) (string, error) {
	a := item.Address{Kind: item.Section, Key: n.Value("name")}
	h, ok := s.r.c.Find(a)
	if !ok { // what the page shows meanwhile
		text := string(n.Inner.Of(src))
		for _, c := range n.Children {
			if c.Tag == "cp-value" {
				text = strings.Replace(text, string(c.Outer().Of(src)), "", 1)
			}
		}
		return strings.TrimSpace(text), nil
	}
	if err := s.enter(a); err != nil {
		return "", err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	values := map[string]string{}
	for _, c := range n.Children {
		if c.Tag == "cp-value" && c.Own {
			values[c.Value("for")] = strings.TrimSpace(string(c.Inner.Of(src)))
		}
	}
	body, _ := s.r.read(a)
	if len(values) > 0 {
		tree := markup.Parse(body, h.Meta.Context)
		edits, err := valueEdits(tree, values)
		if err != nil {
			return "", fmt.Errorf("own values of %s: %w", a, err)
		}
		if body, err = span.Apply(body, edits); err != nil {
			return "", err
		}
	}
	out, err := s.expand(body, h.Meta.Context)
	return strings.TrimRight(string(out), "\n"), err
}

// valueEdits fills own values in: markup in text places, plain text in attributes.
func valueEdits(tree *markup.Tree, values map[string]string) ([]span.Edit, error) {
	edits, err := markup.FillEdits(tree, "data-fill", func(name string) (string, bool) {
		v, ok := values[name]
		return html.UnescapeString(v), ok
	})
	if err != nil {
		return nil, err
	}
	for i, e := range edits {
		for _, n := range tree.All {
			if n.Own && n.Inner == e.Span && n.Inner.Len() > 0 {
				for _, b := range markup.Bindings(tree.Source, n, "data-fill") {
					if v, ok := values[b.Name]; ok && b.Target == "text" && b.Pattern == "" {
						edits[i].New = []byte(v)
					}
				}
			}
		}
	}
	return edits, nil
}

func (s *stage) part(h item.Head) (string, error) {
	if err := s.enter(h.Address); err != nil {
		return "", err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	src, _ := s.r.read(h.Address)
	if v := s.variant[h.Meta.Role]; v != "" {
		tree := markup.Parse(src, h.Meta.Context)
		if len(tree.Root.Children) > 0 && tree.Root.Children[0].Own {
			var err error
			if src, err = span.Apply(src, []span.Edit{markup.SetAttr(tree.Root.Children[0], "data-variant", v)}); err != nil {
				return "", err
			}
		}
	}
	out, err := s.expand(src, h.Meta.Context)
	return strings.TrimRight(string(out), "\n"), err
}

// MenuEntry is one entry of a menu's JSON.
type MenuEntry struct {
	Label   string      `json:"label"`
	To      string      `json:"to"`
	Entries []MenuEntry `json:"entries,omitempty"`
}

func (s *stage) menu(name, label string) string {
	a := item.Address{Kind: item.Menu, Key: name}
	b, ok := s.r.read(a)
	var m struct {
		Title   string      `json:"title"`
		Entries []MenuEntry `json:"entries"`
	}
	if !ok || json.Unmarshal(b, &m) != nil {
		return ""
	}
	s.reached[a] = true
	if label == "" {
		label = m.Title
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<nav class="cp-menu" aria-label="%s"><details class="cp-menu-fold"><summary>Menu</summary></details>`, markup.EscapeAttr(label))
	s.entries(&out, m.Entries, "cp-menu-list")
	out.WriteString("</nav>")
	return out.String()
}

func (s *stage) entries(out *strings.Builder, entries []MenuEntry, class string) {
	fmt.Fprintf(out, `<ul class="%s">`, class)
	for _, e := range entries {
		current := ""
		if e.To == s.spot.Slug {
			current = ` aria-current="page"`
		}
		fmt.Fprintf(out, `<li><a href="%s"%s>%s</a>`, markup.EscapeAttr(e.To), current, markup.EscapeText(e.Label))
		if len(e.Entries) > 0 {
			s.entries(out, e.Entries, "cp-menu-sub")
		}
		out.WriteString("</li>")
	}
	out.WriteString("</ul>")
}

// logo shows the site's mark; a site without one gets what stands in the element.
func (s *stage) logo(instead []byte) (string, error) {
	s.reachSetting("logo")
	s.reachSetting("title")
	var l struct {
		Media string         `json:"media"`
		Alt   string         `json:"alt"`
		Width map[string]int `json:"width"`
	}
	title := s.r.Title()
	if !s.r.setting("logo", &l) || l.Media == "" {
		out, err := s.expand(instead, "")
		return string(out), err
	}
	if a, ok := item.AddressOfPath(l.Media); ok {
		s.reached[a] = true
	}
	if l.Alt == "" {
		l.Alt = title
	}
	width := ""
	if w := l.Width["1280"]; w > 0 {
		width = fmt.Sprintf(` width="%d"`, w)
	}
	return fmt.Sprintf(`<img class="cp-logo" src="%s" alt="%s"%s>`, markup.EscapeAttr(l.Media), markup.EscapeAttr(l.Alt), width), nil
}

func (s *stage) form(name string) string {
	a := item.Address{Kind: item.Form, Key: name}
	b, ok := s.r.read(a)
	var f struct {
		Title  string `json:"title"`
		Submit string `json:"submit"`
		Schema struct {
			Properties map[string]struct {
				Title     string   `json:"title"`
				Type      string   `json:"type"`
				Format    string   `json:"format"`
				Enum      []string `json:"enum"`
				MaxLength int      `json:"maxLength"`
				Minimum   *float64 `json:"minimum"`
				Maximum   *float64 `json:"maximum"`
			} `json:"properties"`
			Required []string `json:"required"`
		} `json:"schema"`
		Order []string `json:"order"`
	}
	if !ok || json.Unmarshal(b, &f) != nil {
		return ""
	}
	s.reached[a] = true
	required := map[string]bool{}
	for _, r := range f.Schema.Required {
		required[r] = true
	}
	names := f.Order
	if len(names) == 0 {
		for n := range f.Schema.Properties {
			names = append(names, n)
		}
		sort.Strings(names)
	}
	var out strings.Builder
	fmt.Fprintf(&out, `<form class="cp-form" method="post" action="%sform/%s">`, AssetRoot, markup.EscapeAttr(name))
	for _, n := range names {
		p, ok := f.Schema.Properties[n]
		if !ok {
			continue
		}
		req := ""
		if required[n] {
			req = " required"
		}
		fmt.Fprintf(&out, `<label class="cp-field"><span>%s</span>`, markup.EscapeText(p.Title))
		attrs := fmt.Sprintf(` name="%s"%s`, markup.EscapeAttr(n), req)
		switch {
		case len(p.Enum) > 0:
			out.WriteString("<select" + attrs + ">")
			for _, e := range p.Enum {
				out.WriteString("<option>" + markup.EscapeText(e) + "</option>")
			}
			out.WriteString("</select>")
		case p.Type == "boolean":
			out.WriteString(`<input type="checkbox"` + attrs + ">")
		case p.Type == "string" && p.MaxLength > 200:
			out.WriteString(`<textarea rows="4"` + attrs + "></textarea>")
		default:
			kind := map[string]string{"email": "email", "date": "date", "uri": "url"}[p.Format]
			if p.Type == "integer" || p.Type == "number" {
				kind = "number"
				if p.Minimum != nil {
					attrs += fmt.Sprintf(` min="%g"`, *p.Minimum)
				}
				if p.Maximum != nil {
					attrs += fmt.Sprintf(` max="%g"`, *p.Maximum)
				}
			}
			if kind == "" {
				kind = "text"
			}
			out.WriteString(`<input type="` + kind + `"` + attrs + ">")
		}
		out.WriteString("</label>")
	}
	submit := f.Submit
	if submit == "" {
		submit = "Send"
	}
	out.WriteString("<button>" + markup.EscapeText(submit) + "</button></form>")
	return out.String()
}

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
	inner = strings.TrimSpace(inner)
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
		out.WriteByte('\n')
	}
	return out.String(), nil
}

func (s *stage) search(label string) string {
	if label == "" {
		label = "Search this site"
	}
	return fmt.Sprintf(`<form class="cp-search" role="search" method="get" action="/search/"><label><span>%s</span><input type="search" name="q" value="%s"></label><button>Search</button></form>`,
		markup.EscapeText(label), markup.EscapeAttr(s.ask.Query))
}

func (s *stage) results(src []byte, n *markup.Node) (string, error) {
	words := facts.Words(s.ask.Query)
	var items []map[string]string
	slugs := make([]string, 0, len(s.r.pages))
	for slug := range s.r.pages {
		slugs = append(slugs, slug)
	}
	sort.Strings(slugs)
	for _, slug := range slugs {
		h := s.r.pages[slug]
		body, _ := s.r.read(h.Address)
		f := facts.Of(item.Page, "", body)
		hit := len(words) > 0
		for _, w := range words {
			i := sort.SearchStrings(f.Terms, w)
			hit = hit && i < len(f.Terms) && strings.HasPrefix(f.Terms[i], w)
		}
		if hit {
			title := h.Meta.Title
			if title == "" {
				title = f.Title
			}
			items = append(items, map[string]string{"title": title, "url": slug})
		}
	}
	return s.repeat(src, n, items)
}
