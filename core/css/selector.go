package css

import (
	"strings"

	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// Selector is one complex selector (Selectors Level 4).
type Selector struct {
	span.Span
	// Parts are compounds from left to right; the last is the subject.
	Parts []Compound
	// Unknown tells that something in it is not understood: such a selector fits
	// everything, so that its rule is kept.
	Unknown bool
}

// Compound is one compound selector with the combinator before it.
type Compound struct {
	span.Span
	Combinator byte // 0 at the start, ' ', '>', '+', '~'
	Simple     []Simple
}

// Simple is one simple selector.
type Simple struct {
	Type  SimpleType
	Name  string // tag, id, class, attribute or pseudo name
	Op    string // of attributes: "", "=", "~=", "|=", "^=", "$=", "*="
	Value string
	Fold  bool // attribute flag i
	// Args are the selectors within :is, :where, :not, :has and of nth-child.
	Args []Selector
	// A and B are those of an+b.
	A, B int
	// At is the place of the name, for renaming.
	At span.Span
	// Whole is the place of a pseudo-class or pseudo-element with its colons and arguments.
	Whole span.Span
}

// SimpleType tells simple selectors apart.
type SimpleType byte

// The types of simple selectors.
const (
	ByTag SimpleType = iota
	ByAny
	ByID
	ByClass
	ByAttr
	ByPseudo
	ByElement // a pseudo-element
	ByParent  // the nesting selector &
)

// states are pseudo-classes that depend on the moment: an element may be in them.
var states = words(
	"hover active focus focus-visible focus-within visited link any-link target target-within enabled disabled " +
		"checked indeterminate default valid invalid user-valid user-invalid required optional in-range " +
		"out-of-range read-only read-write placeholder-shown autofill open modal popover-open fullscreen playing " +
		"paused defined current past future buffering seeking stalled muted volume-locked host " +
		"picture-in-picture local-link",
)

// legacyElements may be written with one colon.
var legacyElements = words("before after first-line first-letter")

func words(s string) map[string]bool {
	m := map[string]bool{}
	for _, w := range strings.Fields(s) {
		m[w] = true
	}
	return m
}

// Bounds of a selector: one beyond them is not understood, so that its rule is kept.
const (
	// MaxSelectorDepth is how deep :is, :not and their like stand within each other.
	MaxSelectorDepth = 24
	// MaxSelectorTokens is the length of one selector.
	MaxSelectorTokens = 2000
)

func parseSelectors(src []byte, toks []Token) []Selector { return parseWithin(src, toks, 0) }

// parseWithin is parseSelectors at a depth of functions.
func parseWithin(src []byte, toks []Token, depth int) []Selector {
	if depth > MaxSelectorDepth {
		return []Selector{{Unknown: true}}
	}
	var out []Selector
	for _, part := range splitCommas(toks) {
		out = append(out, parseSelector(src, part, false, depth))
	}
	return out
}

// splitCommas cuts a token list at its top-level commas.
func splitCommas(toks []Token) [][]Token {
	var out [][]Token
	depth, from := 0, 0
	for i, t := range toks {
		switch t.Type {
		case lex.LeftParenthesisToken, lex.LeftBracketToken, lex.FunctionToken:
			depth++
		case lex.RightParenthesisToken, lex.RightBracketToken:
			depth--
		case lex.CommaToken:
			if depth == 0 {
				out = append(out, toks[from:i])
				from = i + 1
			}
		}
	}
	return append(out, toks[from:])
}

type selectorParser struct {
	src  []byte
	toks []Token
	i    int
	bad  bool
	// depth counts the functions around.
	depth int
}

func (p *selectorParser) text(t Token) string { return string(t.Of(p.src)) }

func (p *selectorParser) peek() (Token, bool) {
	if p.i < len(p.toks) {
		return p.toks[p.i], true
	}
	return Token{}, false
}

func parseSelector(src []byte, toks []Token, relative bool, depth int) Selector {
	for len(toks) > 0 && skipped(toks[0].Type) {
		toks = toks[1:]
	}
	for len(toks) > 0 && skipped(toks[len(toks)-1].Type) {
		toks = toks[:len(toks)-1]
	}
	s := Selector{}
	if len(toks) == 0 {
		s.Unknown = true
		return s
	}
	s.Span = span.Span{Start: toks[0].Start, End: toks[len(toks)-1].End}
	if len(toks) > MaxSelectorTokens {
		s.Unknown = true
		return s
	}
	p := &selectorParser{src: src, toks: toks, depth: depth}
	comb := byte(0)
	if relative {
		comb = ' '
	}
	for p.i < len(p.toks) && !p.bad {
		t := p.toks[p.i]
		if skipped(t.Type) {
			if comb == 0 && len(s.Parts) > 0 {
				comb = ' '
			}
			p.i++
			continue
		}
		if t.Type == lex.DelimToken {
			if c := src[t.Start]; c == '>' || c == '+' || c == '~' {
				comb = c
				p.i++
				continue
			}
		}
		c := p.compound()
		c.Combinator = comb
		if comb == 0 && len(s.Parts) > 0 {
			p.bad = true
		}
		comb = 0
		s.Parts = append(s.Parts, c)
	}
	s.Unknown = p.bad || len(s.Parts) == 0 || comb != 0
	return s
}

func (p *selectorParser) compound() Compound {
	c := Compound{}
	c.Start = p.toks[p.i].Start
	for {
		t, ok := p.peek()
		if !ok || skipped(t.Type) || p.bad {
			break
		}
		text := p.text(t)
		switch {
		case t.Type == lex.IdentToken || t.Type == lex.CustomPropertyNameToken:
			if len(c.Simple) > 0 || p.bar(p.i+1) { // of a namespace that is not looked into
				p.bad = true
				return c
			}
			c.Simple = append(c.Simple, Simple{Type: ByTag, Name: strings.ToLower(unescape(text)), At: t.Span})
			p.i++
		case t.Type == lex.HashToken:
			c.Simple = append(c.Simple,
				Simple{Type: ByID, Name: unescape(text[1:]), At: span.Span{Start: t.Start + 1, End: t.End}})
			p.i++
		case t.Type == lex.LeftBracketToken:
			c.Simple = append(c.Simple, p.attribute())
		case t.Type == lex.ColonToken:
			x := p.pseudo()
			x.Whole = span.Span{Start: t.Start, End: p.toks[p.i-1].End}
			c.Simple = append(c.Simple, x)
		case t.Type == lex.DelimToken && text == "*" && p.bar(p.i+1): // *|name: of any namespace
			p.i += 2
		case t.Type == lex.DelimToken && text == "*":
			c.Simple = append(c.Simple, Simple{Type: ByAny, At: t.Span})
			p.i++
		case t.Type == lex.DelimToken && text == "&":
			c.Simple = append(c.Simple, Simple{Type: ByParent, At: t.Span})
			p.i++
		case t.Type == lex.DelimToken && text == ".":
			p.i++
			n, ok := p.peek()
			if !ok || n.Type != lex.IdentToken && n.Type != lex.CustomPropertyNameToken {
				p.bad = true
				return c
			}
			c.Simple = append(c.Simple, Simple{Type: ByClass, Name: unescape(p.text(n)), At: n.Span})
			p.i++
		case t.Type == lex.DelimToken && (text == ">" || text == "+" || text == "~"):
			c.Span.End = t.Start
			return c
		default: // namespaces, columns and what is to come
			p.bad = true
			return c
		}
		c.Span.End = p.toks[p.i-1].End
	}
	return c
}

// bar tells whether the token at i is the | of a namespace.
func (p *selectorParser) bar(i int) bool {
	return i < len(p.toks) && p.toks[i].Type == lex.DelimToken && p.text(p.toks[i]) == "|"
}

func (p *selectorParser) attribute() Simple {
	p.i++
	if t, ok := p.peek(); ok && p.text(t) == "*" && p.bar(p.i+1) {
		p.i += 2
	}
	s := Simple{Type: ByAttr}
	var parts []Token
	for p.i < len(p.toks) && p.toks[p.i].Type != lex.RightBracketToken {
		if !skipped(p.toks[p.i].Type) {
			parts = append(parts, p.toks[p.i])
		}
		p.i++
	}
	p.i = min(p.i+1, len(p.toks))
	if len(parts) == 0 || parts[0].Type != lex.IdentToken && parts[0].Type != lex.CustomPropertyNameToken {
		p.bad = true
		return s
	}
	s.Name = strings.ToLower(unescape(p.text(parts[0])))
	if len(parts) == 1 {
		return s
	}
	k := 2
	switch parts[1].Type {
	case lex.IncludeMatchToken,
		lex.DashMatchToken,
		lex.PrefixMatchToken,
		lex.SuffixMatchToken,
		lex.SubstringMatchToken:
		s.Op = p.text(parts[1])
	case lex.DelimToken:
		if s.Op = p.text(parts[1]); s.Op != "=" {
			p.bad = true
		}
	default:
		p.bad = true
	}
	if p.bad || k >= len(parts) {
		p.bad = true
		return s
	}
	v := p.text(parts[k])
	s.At = parts[k].Span
	if parts[k].Type == lex.StringToken && len(v) >= 2 {
		v = v[1 : len(v)-1]
		s.At = span.Span{Start: s.At.Start + 1, End: s.At.End - 1}
	}
	s.Value = unescape(v)
	if k+1 < len(parts) {
		s.Fold = strings.EqualFold(p.text(parts[k+1]), "i")
	}
	return s
}

// isState tells that a pseudo-class says of an element how it is at a moment. Those of one browser alone, as
// -moz-focusring, do, whatever they mean.
func isState(name string) bool { return states[name] || strings.HasPrefix(name, "-") }

func (p *selectorParser) pseudo() Simple {
	p.i++
	element := false
	if t, ok := p.peek(); ok && t.Type == lex.ColonToken {
		element = true
		p.i++
	}
	t, ok := p.peek()
	if !ok {
		p.bad = true
		return Simple{Type: ByPseudo}
	}
	name := strings.ToLower(strings.TrimSuffix(p.text(t), "("))
	s := Simple{Type: ByPseudo, Name: name, At: t.Span}
	if element || legacyElements[name] {
		s.Type = ByElement
	}
	p.i++
	if t.Type == lex.IdentToken {
		if s.Type == ByPseudo && !isState(name) && !structural[name] {
			p.bad = true
		}
		return s
	}
	if t.Type != lex.FunctionToken {
		p.bad = true
		return s
	}
	from, depth := p.i, 1
	for p.i < len(p.toks) && depth > 0 {
		switch p.toks[p.i].Type {
		case lex.LeftParenthesisToken, lex.FunctionToken:
			depth++
		case lex.RightParenthesisToken:
			depth--
		}
		p.i++
	}
	inner := p.toks[from:max(from, p.i-1)]
	if s.Type == ByElement {
		return s
	}
	switch name {
	case "is", "where", "not", "-webkit-any", "-moz-any", "matches":
		s.Args = parseWithin(p.src, inner, p.depth+1)
	case "has":
		for _, part := range splitCommas(inner) {
			s.Args = append(s.Args, parseSelector(p.src, part, true, p.depth+1))
		}
	case "nth-child", "nth-last-child", "nth-of-type", "nth-last-of-type":
		p.nth(&s, inner)
	case "lang", "dir", "state":
		s.Value = strings.Trim(p.slice(inner), `"' `)
	default:
		p.bad = true
	}
	for _, a := range s.Args {
		if a.Unknown {
			p.bad = true
		}
	}
	return s
}

func (p *selectorParser) slice(toks []Token) string {
	if len(toks) == 0 {
		return ""
	}
	return string(p.src[toks[0].Start:toks[len(toks)-1].End])
}

// nth reads an+b with an optional "of" list.
func (p *selectorParser) nth(s *Simple, toks []Token) {
	formula := toks
	for i, t := range toks {
		if t.Type == lex.IdentToken && strings.EqualFold(p.text(t), "of") {
			formula = toks[:i]
			s.Args = parseWithin(p.src, toks[i+1:], p.depth+1)
			break
		}
	}
	f := strings.ToLower(strings.Join(strings.Fields(p.slice(formula)), ""))
	switch f {
	case "odd":
		s.A, s.B = 2, 1
		return
	case "even":
		s.A, s.B = 2, 0
		return
	}
	a, b, hasN := strings.Cut(f, "n")
	if !hasN {
		a, b = "0", f
	}
	var ok bool
	if s.A, ok = signed(a, hasN); !ok {
		p.bad = true
	}
	if s.B, ok = signed(b, false); !ok && b != "" {
		p.bad = true
	}
}

func signed(s string, bare bool) (int, bool) {
	neg := strings.HasPrefix(s, "-")
	digits := strings.TrimLeft(s, "+-")
	if digits == "" {
		if !bare {
			return 0, s == ""
		}
		digits = "1"
	}
	n := 0
	for _, c := range digits {
		if c < '0' || c > '9' || n > 1<<24 {
			return 0, false
		}
		n = n*10 + int(c-'0')
	}
	if neg {
		n = -n
	}
	return n, true
}

// unescape resolves CSS escapes in an identifier or string.
func unescape(s string) string {
	if !strings.Contains(s, `\`) {
		return s
	}
	var b strings.Builder
	for i := 0; i < len(s); i++ {
		if s[i] != '\\' || i+1 >= len(s) {
			b.WriteByte(s[i])
			continue
		}
		i++
		n, k := rune(0), 0
		for k < 6 && i+k < len(s) && strings.IndexByte("0123456789abcdefABCDEF", s[i+k]) >= 0 {
			n = n*16 + rune(strings.IndexByte("0123456789abcdef", s[i+k]|0x20))
			if s[i+k] <= '9' {
				n = n - n%16 + rune(s[i+k]-'0')
			}
			k++
		}
		if k == 0 {
			b.WriteByte(s[i])
			continue
		}
		b.WriteRune(n)
		i += k - 1
		if i+1 < len(s) && isSpace(s[i+1]) {
			i++
		}
	}
	return b.String()
}

// EscapeIdent writes an identifier as CSS source (CSSOM, serialize an identifier).
func EscapeIdent(s string) string {
	var b strings.Builder
	for i, r := range s {
		switch {
		case r >= 'a' && r <= 'z',
			r >= 'A' && r <= 'Z',
			r == '_',
			r >= 0x80,
			r == '-' && len(s) > 1,
			r >= '0' && r <= '9' && i > 0:
			b.WriteRune(r)
		case r >= '0' && r <= '9':
			b.WriteString(`\3` + string(r) + " ")
		default:
			b.WriteString(`\` + string(r))
		}
	}
	return b.String()
}
