package repeat

import (
	"bytes"
	"encoding/json"
	"fmt"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
	"compactparcel/core/tokens"

	lex "github.com/tdewolff/parse/v2/css"
)

// siteTokens is the item that a proposal of tokens would make.
var siteTokens = item.Address{Kind: item.Tokens, Key: "site"}

const tokenSheet = "site.css" // under which the engine serves it

// found is one value that could be a token.
type found struct {
	name  string // without the dashes
	typ   string
	value any
	says  string
	// edits turn the sheets' own text into uses of the token.
	edits map[item.Address][]span.Edit
	uses  int
}

// tokenFind is what the stylesheets offer as tokens.
type tokenFind struct {
	list   []*found
	sheets map[item.Address]bool
	custom bool // from custom properties; else from the values used most
}

const (
	maxTokens  = 200
	minUses    = 3 // of a literal value
	maxLiteral = 12
)

// findTokens looks for custom properties of :root and, where there are none, for the
// colours and type used most; nil when there is nothing to propose.
func findTokens(c item.Collection) (*tokenFind, error) {
	t := &tokenFind{sheets: map[item.Address]bool{}, custom: true}
	if _, ok := c.Find(siteTokens); ok {
		return nil, nil
	}
	sheets := map[item.Address]*css.Sheet{}
	var order []item.Address
	for _, h := range c.Heads() {
		if h.Address.Kind == item.Tokens {
			return nil, nil // the site has tokens of its own
		}
		if h.Address.Kind == item.Stylesheet {
			b, err := item.Read(c, h)
			if err != nil {
				return nil, err
			}
			sheets[h.Address] = css.Parse(b)
			order = append(order, h.Address)
		}
	}
	t.properties(sheets, order)
	if len(t.list) == 0 {
		t.custom = false
		t.literals(sheets, order)
	}
	if len(t.list) < 2 {
		return nil, nil
	}
	for _, f := range t.list {
		for a := range f.edits {
			t.sheets[a] = true
		}
	}
	return t, nil
}

// properties takes the custom properties that are set once, on :root, at the top of a
// sheet: elsewhere the order of things would matter.
func (t *tokenFind) properties(sheets map[item.Address]*css.Sheet, order []item.Address) {
	times := map[string]int{}
	for _, a := range order {
		for _, r := range sheets[a].Rules {
			if !isRoot(sheets[a], r) {
				continue
			}
			for _, d := range r.Decls {
				times[d.Name]++
			}
		}
	}
	for _, a := range order {
		s := sheets[a]
		for _, r := range s.Rules {
			if !isRoot(s, r) {
				continue
			}
			for _, d := range r.Decls {
				if !strings.HasPrefix(d.Name, "--") || times[d.Name] > 1 || d.Important || len(t.list) >= maxTokens {
					continue
				}
				typ, value, ok := typed(strings.TrimSpace(string(d.Value.Of(s.Source))))
				if !ok {
					continue
				}
				at := d.Span
				for at.End < len(s.Source) && strings.IndexByte("; \t\r\n\f", s.Source[at.End]) >= 0 {
					at.End++
					if s.Source[at.End-1] == ';' {
						break
					}
				}
				t.list = append(
					t.list,
					&found{
						name:  strings.TrimPrefix(d.Name, "--"),
						typ:   typ,
						value: value,
						uses:  1,
						edits: map[item.Address][]span.Edit{a: {{Span: at}}},
					},
				)
			}
		}
	}
}

func isRoot(s *css.Sheet, r *css.Rule) bool {
	if r.At != "" || len(r.Selectors) != 1 {
		return false
	}
	text := string(r.Selectors[0].Of(s.Source))
	return text == ":root" || text == "html"
}

// typed reads a value as a token's: a colour, a dimension, a family of fonts or a number.
func typed(v string) (typ string, value any, ok bool) {
	if _, is := tokens.ParseColour(v); is {
		return "color", v, true
	}
	toks := css.Lex([]byte(v))
	if len(toks) == 1 {
		switch toks[0].Type {
		case lex.DimensionToken:
			i := strings.IndexFunc(v, func(r rune) bool { return !strings.ContainsRune("+-.0123456789", r) })
			if n := json.Number(number(v[:i])); i > 0 && n != "" {
				return "dimension", map[string]any{"value": n, "unit": v[i:]}, true
			}
		case lex.NumberToken:
			if n := number(v); n != "" {
				return "number", json.Number(n), true
			}
		}
	}
	if names, is := families(v); is {
		return "fontFamily", names, true
	}
	return "", nil, false
}

// number writes a CSS number as JSON has it; "" when it cannot.
func number(s string) string {
	s = strings.TrimPrefix(s, "+")
	if strings.HasPrefix(s, ".") {
		s = "0" + s
	}
	s = strings.Replace(s, "-.", "-0.", 1)
	if json.Valid([]byte(s)) {
		return s
	}
	return ""
}

var genericFamilies = map[string]bool{
	"serif":         true,
	"sans-serif":    true,
	"monospace":     true,
	"system-ui":     true,
	"cursive":       true,
	"ui-serif":      true,
	"ui-sans-serif": true,
	"ui-monospace":  true,
}

// families reads a list of font families that ends in a generic one.
func families(v string) ([]string, bool) {
	var out []string
	for _, f := range strings.Split(v, ",") {
		f = strings.Join(strings.Fields(strings.Trim(strings.TrimSpace(f), `"'`)), " ")
		if f == "" || strings.ContainsAny(f, "()\"'\\") {
			return nil, false
		}
		out = append(out, f)
	}
	return out, len(out) > 1 && genericFamilies[out[len(out)-1]]
}

// literals takes the colours and families that the declarations name most.
func (t *tokenFind) literals(sheets map[item.Address]*css.Sheet, order []item.Address) {
	all := map[string]*found{}
	var seen []string
	note := func(a item.Address, at span.Span, key, role, typ string, value any) {
		f := all[key]
		if f == nil {
			f = &found{name: role, typ: typ, value: value, edits: map[item.Address][]span.Edit{}}
			all[key] = f
			seen = append(seen, key)
		}
		f.uses++
		f.edits[a] = append(f.edits[a], span.Edit{Span: at})
	}
	for _, a := range order {
		s := sheets[a]
		s.Walk(func(r *css.Rule, _ []*css.Rule) {
			if r.At == "font-face" || r.At == "property" {
				return
			}
			for _, d := range r.Decls {
				value := string(d.Value.Of(s.Source))
				if d.Name == "font-family" {
					if names, ok := families(value); ok {
						note(a, d.Value, strings.ToLower(strings.Join(names, ",")), "type", "fontFamily", names)
					}
					continue
				}
				for _, at := range colours(s, d) {
					text := string(at.Of(s.Source))
					note(a, at, strings.ToLower(text), colourRole(d.Name), "color", text)
				}
			}
		})
	}
	sort.SliceStable(seen, func(i, j int) bool { return all[seen[i]].uses > all[seen[j]].uses })
	names := map[string]int{}
	for _, k := range seen {
		f := all[k]
		if f.uses < minUses && f.typ == "color" || len(t.list) >= maxLiteral {
			continue
		}
		if names[f.name]++; names[f.name] > 1 {
			f.name = fmt.Sprintf("%s-%d", f.name, names[f.name])
		}
		f.says = fmt.Sprintf("used %d times", f.uses)
		for _, edits := range f.edits {
			for i := range edits {
				edits[i].New = []byte("var(--" + f.name + ")")
			}
		}
		t.list = append(t.list, f)
	}
}

// colours gives the places of the literal colours in a declaration's value.
func colours(s *css.Sheet, d css.Decl) []span.Span {
	if strings.HasPrefix(d.Name, "--") {
		return nil
	}
	var out []span.Span
	depth := 0
	for _, t := range css.Lex(d.Value.Of(s.Source)) {
		switch t.Type {
		case lex.FunctionToken, lex.LeftParenthesisToken:
			depth++
		case lex.RightParenthesisToken:
			depth--
		case lex.HashToken:
			at := t.Shift(d.Value.Start)
			if _, ok := tokens.ParseColour(string(at.Of(s.Source))); ok && depth == 0 {
				out = append(out, at)
			}
		}
	}
	return out
}

func colourRole(property string) string {
	switch {
	case property == "color":
		return "ink"
	case strings.HasPrefix(property, "background"):
		return "ground"
	case strings.HasPrefix(property, "border") || strings.HasPrefix(property, "outline"):
		return "line"
	}
	return "colour"
}

func (t *tokenFind) proposal() Proposal {
	from := "the most used colours and type"
	if t.custom {
		from = "the custom properties of :root"
	}
	p := Proposal{
		Address:  siteTokens,
		Likeness: 1,
		Message:  fmt.Sprintf("%d tokens from %s", len(t.list), from),
		Stands:   []Stand{},
		Differs:  []Difference{},
	}
	for a := range t.sheets {
		p.Stands = append(p.Stands, Stand{Address: a, Line: 1})
	}
	sort.Slice(p.Stands, func(i, j int) bool { return p.Stands[i].Address.Less(p.Stands[j].Address) })
	for _, f := range t.list {
		text, _ := f.value.(string)
		if text == "" {
			text = string(jsonText(f.value))
		}
		p.Differs = append(p.Differs, Difference{"--" + f.name + ": " + text, f.uses})
	}
	return p
}

// items gives the tokens and the stylesheets that use them.
func (t *tokenFind) items(c item.Collection) ([]Item, error) {
	doc := map[string]any{}
	for _, f := range t.list {
		v := map[string]any{"$type": f.typ, "$value": f.value}
		if f.says != "" {
			v["$description"] = f.says
		}
		doc[f.name] = v
	}
	var text bytes.Buffer
	if err := json.Indent(&text, jsonText(doc), "", "  "); err != nil {
		return nil, err
	}
	out := []Item{
		{
			Head:    item.Head{Address: siteTokens, Meta: item.Meta{Title: "Site tokens"}},
			Content: append(text.Bytes(), '\n'),
		},
	}
	for a := range t.sheets {
		h, _ := c.Find(a)
		b, err := item.Read(c, h)
		if err != nil {
			return nil, err
		}
		var edits []span.Edit
		for _, f := range t.list {
			edits = append(edits, f.edits[a]...)
		}
		if b, err = span.Apply(b, edits); err != nil {
			return nil, fmt.Errorf("putting tokens into %s: %w", a, err)
		}
		out = append(out, Item{Head: h, Content: b})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Head.Address.Less(out[j].Head.Address) })
	return out, nil
}

// link gives the edit that lets a document take the tokens before its first
// stylesheet; ok is false for one that has none.
func (t *tokenFind) link(d *document) (span.Edit, bool) {
	for _, n := range d.tree.All {
		sheet := n.Tag == "style" || n.Tag == "link" && strings.Contains(strings.ToLower(n.Value("rel")), "stylesheet")
		if sheet && n.Own && n.Parent.Tag == "head" {
			at := span.Span{Start: n.Start.Start, End: n.Start.Start}
			return span.Edit{
				Span: at,
				New:  []byte(`<link rel="stylesheet" href="/` + markup.EscapeAttr(siteTokens.Path()) + `">` + "\n"),
			}, true
		}
	}
	return span.Edit{}, false
}

func jsonText(v any) []byte {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // only plain values are given
	}
	return b
}
