// Package tokens reads design tokens in the W3C Design Tokens format and works
// with colours: distance in OKLab, contrast by WCAG 2.
package tokens

import (
	"bytes"
	"encoding/json"
	"fmt"
	"sort"
	"strings"
)

// Token is one token with its alias followed.
type Token struct {
	Path  string // groups and name joined by "."
	Type  string // color, dimension, fontFamily, number, …; inherited from its groups
	Alias string // path of the token it points at, if any
	Value any    // the value with aliases resolved
	Says  string // $description
}

// Property is the custom property that carries the token: "color.ink" becomes "--color-ink".
func (t Token) Property() string { return "--" + strings.ReplaceAll(t.Path, ".", "-") }

// Set is a token document, its tokens sorted by path.
type Set struct {
	List   []Token
	byPath map[string]int
}

// Find gives a token by its path.
func (s *Set) Find(path string) (Token, bool) {
	i, ok := s.byPath[path]
	if !ok {
		return Token{}, false
	}
	return s.List[i], true
}

// Parse reads a token document. An alias that leads nowhere or in a circle is an error
// that names the chain.
func Parse(src []byte) (*Set, error) {
	var doc map[string]any
	dec := json.NewDecoder(bytes.NewReader(src))
	dec.UseNumber()
	if err := dec.Decode(&doc); err != nil {
		return nil, fmt.Errorf("tokens are not readable as JSON: %w", err)
	}
	s := &Set{byPath: map[string]int{}}
	collect(s, doc, "", "")
	sort.Slice(s.List, func(i, j int) bool { return s.List[i].Path < s.List[j].Path })
	for i, t := range s.List {
		s.byPath[t.Path] = i
	}
	for i := range s.List {
		v, err := s.resolve(s.List[i].Value, []string{s.List[i].Path})
		if err != nil {
			return nil, err
		}
		s.List[i].Value = v
	}
	return s, nil
}

func collect(s *Set, group map[string]any, path, typ string) {
	if t, ok := group["$type"].(string); ok {
		typ = t
	}
	if v, ok := group["$value"]; ok {
		t := Token{Path: path, Type: typ, Value: v}
		t.Says, _ = group["$description"].(string)
		if a, ok := alias(v); ok {
			t.Alias = a
		}
		s.List = append(s.List, t)
		return
	}
	for name, child := range group {
		if g, ok := child.(map[string]any); ok && !strings.HasPrefix(name, "$") {
			p := name
			if path != "" {
				p = path + "." + name
			}
			collect(s, g, p, typ)
		}
	}
}

func alias(v any) (string, bool) {
	s, ok := v.(string)
	if ok && len(s) > 2 && s[0] == '{' && s[len(s)-1] == '}' {
		return s[1 : len(s)-1], true
	}
	return "", false
}

func (s *Set) resolve(v any, chain []string) (any, error) {
	if a, ok := alias(v); ok {
		for _, c := range chain {
			if c == a {
				return nil, fmt.Errorf("token aliases run in a circle: %s", strings.Join(append(chain, a), " → "))
			}
		}
		i, ok := s.byPath[a]
		if !ok {
			return nil, fmt.Errorf("token %s points at {%s}, which is not there", chain[len(chain)-1], a)
		}
		return s.resolve(s.List[i].Value, append(chain, a))
	}
	switch x := v.(type) {
	case []any:
		out := make([]any, len(x))
		for i := range x {
			r, err := s.resolve(x[i], chain)
			if err != nil {
				return nil, err
			}
			out[i] = r
		}
		return out, nil
	case map[string]any:
		out := map[string]any{}
		for k := range x {
			r, err := s.resolve(x[k], chain)
			if err != nil {
				return nil, err
			}
			out[k] = r
		}
		return out, nil
	}
	return v, nil
}

// CSS writes a token's value as a CSS value; an alias stays one, by var().
func (s *Set) CSS(t Token) string {
	if t.Alias != "" {
		if to, ok := s.Find(t.Alias); ok {
			return "var(" + to.Property() + ")"
		}
	}
	return cssValue(t.Type, t.Value)
}

func cssValue(typ string, v any) string {
	switch x := v.(type) {
	case string:
		return x
	case json.Number:
		return x.String()
	case bool:
		return fmt.Sprint(x)
	case []any:
		var parts []string
		for _, e := range x {
			p := cssValue(typ, e)
			if typ == "fontFamily" && strings.Contains(p, " ") {
				p = `"` + strings.Trim(p, `"'`) + `"`
			}
			parts = append(parts, p)
		}
		if typ == "cubicBezier" {
			return "cubic-bezier(" + strings.Join(parts, ", ") + ")"
		}
		return strings.Join(parts, ", ")
	case map[string]any:
		if unit, ok := x["unit"].(string); ok {
			return cssValue(typ, x["value"]) + unit
		}
		if hex, ok := x["hex"].(string); ok {
			return hex
		}
		if typ == "shadow" {
			var parts []string
			for _, k := range []string{"offsetX", "offsetY", "blur", "spread", "color"} {
				if p, ok := x[k]; ok {
					parts = append(parts, cssValue("", p))
				}
			}
			return strings.Join(parts, " ")
		}
		if space, ok := x["colorSpace"].(string); ok {
			if cs, ok := x["components"].([]any); ok {
				var parts []string
				for _, c := range cs {
					parts = append(parts, cssValue("", c))
				}
				return "color(" + space + " " + strings.Join(parts, " ") + ")"
			}
		}
	}
	return ""
}

// Sheet writes all tokens as custom properties of :root.
func (s *Set) Sheet() []byte {
	var b bytes.Buffer
	b.WriteString(":root {\n")
	for _, t := range s.List {
		if v := s.CSS(t); v != "" {
			fmt.Fprintf(&b, "  %s: %s;\n", t.Property(), v)
		}
	}
	b.WriteString("}\n")
	return b.Bytes()
}
