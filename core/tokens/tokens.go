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
	Path        string // groups and name joined by "."
	Type        string // color, dimension, fontFamily, number, …; inherited from its groups
	Alias       string // path of the token it points at, if any
	Value       any    // the value with aliases resolved
	Description string // $description
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

// Bounds of a token document: beyond them Parse gives a *LimitError.
const (
	MaxTokens     = 20_000  // tokens in a document
	MaxDepth      = 32      // groups and values within each other
	MaxAliases    = 32      // aliases that lead to one value
	MaxValueParts = 200_000 // single values in all resolved tokens together
	MaxBytes      = 4 << 20 // of source
)

// LimitError tells which bound a token document goes beyond.
type LimitError struct {
	What  string
	Limit int
}

func (e *LimitError) Error() string {
	return fmt.Sprintf("the tokens have more than %d %s", e.Limit, e.What)
}

// Parse reads a token document. An alias that leads nowhere or in a circle is an error
// that names the chain. Each token is resolved once, so the work grows with the document
// and not with the ways through its aliases.
func Parse(src []byte) (*Set, error) {
	if len(src) > MaxBytes {
		return nil, &LimitError{"bytes", MaxBytes}
	}
	var doc map[string]any
	dec := json.NewDecoder(bytes.NewReader(src))
	dec.UseNumber()
	if err := dec.Decode(&doc); err != nil {
		return nil, fmt.Errorf("tokens are not readable as JSON: %w", err)
	}
	s := &Set{byPath: map[string]int{}}
	if err := collect(s, doc, "", "", 0); err != nil {
		return nil, err
	}
	sort.Slice(s.List, func(i, j int) bool { return s.List[i].Path < s.List[j].Path })
	for i, t := range s.List {
		s.byPath[t.Path] = i
	}
	r := &resolver{s: s, state: make([]resolution, len(s.List))}
	for i := range s.List {
		if err := r.token(i); err != nil {
			return nil, err
		}
	}
	return s, nil
}

func collect(s *Set, group map[string]any, path, typ string, depth int) error {
	if depth > MaxDepth {
		return &LimitError{"groups within each other", MaxDepth}
	}
	if t, ok := group["$type"].(string); ok {
		typ = t
	}
	if v, ok := group["$value"]; ok {
		t := Token{Path: path, Type: typ, Value: v}
		t.Description, _ = group["$description"].(string)
		if a, ok := alias(v); ok {
			t.Alias = a
		}
		if s.List = append(s.List, t); len(s.List) > MaxTokens {
			return &LimitError{"tokens", MaxTokens}
		}
		return nil
	}
	for name, child := range group {
		if g, ok := child.(map[string]any); ok && !strings.HasPrefix(name, "$") {
			p := name
			if path != "" {
				p = path + "." + name
			}
			if err := collect(s, g, p, typ, depth+1); err != nil {
				return err
			}
		}
	}
	return nil
}

// resolution is how far a token's value is resolved.
type resolution struct {
	begun, done bool
	parts       int // single values in it
}

// resolver follows aliases, each once.
type resolver struct {
	s     *Set
	state []resolution
	chain []string // tokens being resolved
	parts int
}

func (r *resolver) token(i int) error {
	t, x := &r.s.List[i], &r.state[i]
	if x.done {
		return nil
	}
	if x.begun {
		return fmt.Errorf("token aliases run in a circle: %s", strings.Join(append(r.chain, t.Path), " → "))
	}
	if len(r.chain) > MaxAliases {
		return &LimitError{"aliases in a row", MaxAliases}
	}
	x.begun = true
	r.chain = append(r.chain, t.Path)
	v, parts, err := r.value(t.Value, 0)
	if err != nil {
		return err
	}
	r.chain = r.chain[:len(r.chain)-1]
	t.Value, x.done, x.parts = v, true, parts
	return nil
}

// value gives a value with its aliases followed, and how many single values it holds.
// Values behind aliases are shared, and counted as often as they are named.
func (r *resolver) value(v any, depth int) (any, int, error) {
	if depth > MaxDepth {
		return nil, 0, &LimitError{"values within each other", MaxDepth}
	}
	if a, ok := alias(v); ok {
		i, ok := r.s.byPath[a]
		if !ok {
			return nil, 0, fmt.Errorf("token %s points at {%s}, which does not exist", r.chain[len(r.chain)-1], a)
		}
		if err := r.token(i); err != nil {
			return nil, 0, err
		}
		return r.s.List[i].Value, r.state[i].parts, r.count(r.state[i].parts)
	}
	total := 0
	part := func(v any) (any, error) {
		out, n, err := r.value(v, depth+1)
		total += n
		return out, err
	}
	switch x := v.(type) {
	case []any:
		out := make([]any, len(x))
		for i := range x {
			var err error
			if out[i], err = part(x[i]); err != nil {
				return nil, 0, err
			}
		}
		return out, total, nil
	case map[string]any:
		out := make(map[string]any, len(x))
		for k := range x {
			var err error
			if out[k], err = part(x[k]); err != nil {
				return nil, 0, err
			}
		}
		return out, total, nil
	}
	return v, 1, r.count(1)
}

// count adds to the single values of all tokens.
func (r *resolver) count(n int) error {
	if r.parts += n; r.parts > MaxValueParts {
		return &LimitError{"values when all aliases are followed", MaxValueParts}
	}
	return nil
}

func alias(v any) (string, bool) {
	s, ok := v.(string)
	if ok && len(s) > 2 && s[0] == '{' && s[len(s)-1] == '}' {
		return s[1 : len(s)-1], true
	}
	return "", false
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
