// Package css reads stylesheets, matches their rules against markup and says
// which rules a piece uses.
//
// tdewolff's lexer cuts the text into tokens (CSS Syntax Module Level 3); the
// grammar above it is ours, since nesting, @container, @scope and @layer must be
// understood and every rule must keep its place in the source. What is not
// understood is kept and never guessed at.
package css

import (
	"bytes"
	"strings"
	"sync"

	"compactparcel/core/span"

	"github.com/tdewolff/parse/v2"
	lex "github.com/tdewolff/parse/v2/css"
)

// Token is one token with its place.
type Token struct {
	Type lex.TokenType
	span.Span
}

// Lex cuts src into tokens whose spans cover it without gaps. Text that the
// lexer cannot go on with is one last token of type ErrorToken.
func Lex(src []byte) []Token {
	out := make([]Token, 0, len(src)/4)
	stream(src, func(t Token) { out = append(out, t) })
	return out
}

// stream gives the tokens one by one.
func stream(src []byte, each func(Token)) {
	l := lex.NewLexer(parse.NewInputBytes(append(make([]byte, 0, len(src)+1), src...)))
	at := 0
	for {
		typ, text := l.Next()
		if typ == lex.ErrorToken {
			if at < len(src) {
				each(Token{lex.ErrorToken, span.Span{Start: at, End: len(src)}})
			}
			return
		}
		each(Token{typ, span.Span{Start: at, End: at + len(text)}})
		at += len(text)
	}
}

// Rule is a style rule or an at-rule.
type Rule struct {
	span.Span
	// At is the at-rule's name in lower case without "@"; empty for a style rule.
	At string
	// Prelude is what stands before the block or the semicolon.
	Prelude span.Span
	// Body is what stands within the braces; HasBody is false for "@import x;".
	Body    span.Span
	HasBody bool
	Decls   []Decl
	Rules   []*Rule
	// Selectors are those of a style rule, one for each of its list.
	Selectors []Selector
}

// Decl is one declaration.
type Decl struct {
	span.Span
	Name      string // lower case but for custom properties
	NameAt    span.Span
	Value     span.Span
	Important bool
}

// Sheet is a parsed stylesheet or, for a style attribute, a list of declarations.
type Sheet struct {
	Source []byte
	Tokens []Token
	Rules  []*Rule
	Decls  []Decl // of a style attribute
	// Opaque tells that there are more than MaxRules rules: none is read, and only
	// the addresses are found.
	Opaque bool

	framing sync.Once
	framed  []framer
	counted sync.Once
	styles  int
}

// styleRules counts the style rules.
func (s *Sheet) styleRules() int {
	s.counted.Do(func() {
		s.Walk(func(r *Rule, _ []*Rule) {
			if r.At == "" && r.HasBody {
				s.styles++
			}
		})
	})
	return s.styles
}

// MaxRules is how many rules a stylesheet may have to be read rule by rule.
const MaxRules = 100_000

// Parse reads a stylesheet. It never fails: a broken rule ends where the
// standard's error handling says.
func Parse(src []byte) *Sheet {
	if bytes.Count(src, []byte("{")) > MaxRules {
		return &Sheet{Source: src, Opaque: true}
	}
	s := &Sheet{Source: src, Tokens: Lex(src)}
	p := &parser{sheet: s, toks: s.Tokens}
	s.Rules, _ = p.body(false, "")
	return s
}

// ParseDeclarations reads the content of a style attribute.
func ParseDeclarations(src []byte) *Sheet {
	s := &Sheet{Source: src, Tokens: Lex(src)}
	p := &parser{sheet: s, toks: s.Tokens}
	s.Rules, s.Decls = p.body(true, "style")
	return s
}

type parser struct {
	sheet *Sheet
	toks  []Token
	i     int
	depth int
}

// maxNesting bounds how deep rules may stand within rules.
const maxNesting = 64

func skipped(t lex.TokenType) bool {
	return t == lex.WhitespaceToken || t == lex.CommentToken || t == lex.CDOToken || t == lex.CDCToken
}

// body reads rules and, where decls is set, declarations up to the closing brace
// or the end.
func (p *parser) body(decls bool, within string) (rules []*Rule, ds []Decl) {
	for p.i < len(p.toks) {
		t := p.toks[p.i]
		switch {
		case skipped(t.Type) || t.Type == lex.SemicolonToken:
			p.i++
		case t.Type == lex.RightBraceToken:
			if p.depth > 0 {
				return rules, ds
			}
			p.i++
		case t.Type == lex.AtKeywordToken:
			rules = append(rules, p.atRule())
		case decls && !p.startsRule():
			if d, ok := p.declaration(); ok {
				ds = append(ds, d)
			}
		default:
			if r := p.styleRule(within); r != nil {
				rules = append(rules, r)
			}
		}
	}
	return rules, ds
}

// startsRule looks ahead: a brace before the next semicolon or closing brace
// means a nested rule, unless a custom property takes a braced value.
func (p *parser) startsRule() bool {
	if p.toks[p.i].Type == lex.CustomPropertyNameToken {
		return false
	}
	depth := 0
	for _, t := range p.toks[p.i:] {
		switch t.Type {
		case lex.LeftParenthesisToken, lex.LeftBracketToken, lex.FunctionToken:
			depth++
		case lex.RightParenthesisToken, lex.RightBracketToken:
			depth--
		case lex.LeftBraceToken:
			return true
		case lex.SemicolonToken:
			if depth <= 0 {
				return false
			}
		case lex.RightBraceToken:
			return false
		}
	}
	return false
}

// until moves to the first token of the given types outside brackets.
func (p *parser) until(stop ...lex.TokenType) {
	depth := 0
	for p.i < len(p.toks) {
		t := p.toks[p.i].Type
		if depth == 0 || t == lex.RightBraceToken && depth == 0 {
			for _, s := range stop {
				if t == s {
					return
				}
			}
		}
		switch t {
		case lex.LeftParenthesisToken, lex.LeftBracketToken, lex.FunctionToken:
			depth++
		case lex.RightParenthesisToken, lex.RightBracketToken:
			if depth > 0 {
				depth--
			}
		case lex.LeftBraceToken:
			if depth > 0 {
				depth = 0
				continue
			}
		}
		p.i++
	}
}

func (p *parser) offset() int {
	if p.i < len(p.toks) {
		return p.toks[p.i].Start
	}
	return len(p.sheet.Source)
}

func (p *parser) atRule() *Rule {
	t := p.toks[p.i]
	r := &Rule{At: strings.ToLower(string(t.Of(p.sheet.Source)[1:]))}
	r.Start = t.Start
	p.i++
	r.Prelude.Start = p.offset()
	p.until(lex.SemicolonToken, lex.LeftBraceToken, lex.RightBraceToken)
	r.Prelude.End = p.offset()
	r.Prelude = trim(p.sheet.Source, r.Prelude)
	if p.i < len(p.toks) && p.toks[p.i].Type == lex.LeftBraceToken {
		p.block(r)
	} else if p.i < len(p.toks) && p.toks[p.i].Type == lex.SemicolonToken {
		p.i++
	}
	r.Span.End = p.offset()
	if p.i > 0 && p.i <= len(p.toks) {
		r.Span.End = p.toks[p.i-1].Span.End
	}
	return r
}

// block reads "{ … }" into r.
func (p *parser) block(r *Rule) {
	p.i++
	r.HasBody = true
	r.Body.Start = p.offset()
	if p.depth < maxNesting {
		p.depth++
		r.Rules, r.Decls = p.body(r.At != "keyframes" && r.At != "-webkit-keyframes", r.At)
		p.depth--
	} else { // too deep: passed over whole
		open := 1
		for p.i < len(p.toks) {
			switch p.toks[p.i].Type {
			case lex.LeftBraceToken:
				open++
			case lex.RightBraceToken:
				open--
			}
			if open == 0 {
				break
			}
			p.i++
		}
	}
	r.Body.End = p.offset()
	if p.i < len(p.toks) {
		p.i++
	}
}

func (p *parser) styleRule(within string) *Rule {
	r := &Rule{}
	r.Start = p.offset()
	r.Prelude.Start = r.Start
	from := p.i
	p.until(lex.LeftBraceToken, lex.RightBraceToken)
	r.Prelude.End = p.offset()
	to := p.i
	if p.i >= len(p.toks) || p.toks[p.i].Type != lex.LeftBraceToken {
		return nil // no block: the standard drops it
	}
	r.Prelude = trim(p.sheet.Source, r.Prelude)
	if within != "keyframes" && within != "-webkit-keyframes" {
		r.Selectors = parseSelectors(p.sheet.Source, p.toks[from:to])
	}
	p.block(r)
	r.Span.End = p.toks[p.i-1].Span.End
	return r
}

func (p *parser) declaration() (Decl, bool) {
	name := p.toks[p.i]
	d := Decl{NameAt: name.Span}
	d.Start = name.Start
	p.i++
	for p.i < len(p.toks) && skipped(p.toks[p.i].Type) {
		p.i++
	}
	ok := (name.Type == lex.IdentToken || name.Type == lex.CustomPropertyNameToken) && p.i < len(p.toks) &&
		p.toks[p.i].Type == lex.ColonToken
	if ok {
		p.i++
	}
	d.Value.Start = p.offset()
	if name.Type == lex.CustomPropertyNameToken {
		p.customValue()
	} else {
		p.until(lex.SemicolonToken, lex.RightBraceToken)
	}
	d.Value.End = p.offset()
	d.Span.End = d.Value.End
	d.Value = trim(p.sheet.Source, d.Value)
	if p.i < len(p.toks) && p.toks[p.i].Type == lex.SemicolonToken {
		p.i++
	}
	if !ok {
		return d, false
	}
	d.Name = string(name.Of(p.sheet.Source))
	if !strings.HasPrefix(d.Name, "--") {
		d.Name = strings.ToLower(d.Name)
	}
	low := bytes.ToLower(d.Value.Of(p.sheet.Source))
	if bang := bytes.LastIndexByte(low, '!'); bang >= 0 && string(bytes.TrimSpace(low[bang+1:])) == "important" {
		d.Important = true
	}
	return d, true
}

// customValue passes over the value of a custom property, which may hold braces.
func (p *parser) customValue() {
	open := 0
	for p.i < len(p.toks) {
		switch p.toks[p.i].Type {
		case lex.LeftBraceToken, lex.LeftParenthesisToken, lex.LeftBracketToken, lex.FunctionToken:
			open++
		case lex.RightParenthesisToken, lex.RightBracketToken:
			open--
		case lex.RightBraceToken:
			if open <= 0 {
				return
			}
			open--
		case lex.SemicolonToken:
			if open <= 0 {
				return
			}
		}
		p.i++
	}
}

func trim(src []byte, s span.Span) span.Span {
	for s.Start < s.End && isSpace(src[s.Start]) {
		s.Start++
	}
	for s.End > s.Start && isSpace(src[s.End-1]) {
		s.End--
	}
	return s
}

func isSpace(c byte) bool { return c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' }

// Walk visits every rule, outer before inner, with the rules around it.
func (s *Sheet) Walk(visit func(r *Rule, around []*Rule)) {
	var walk func(rules []*Rule, around []*Rule)
	walk = func(rules []*Rule, around []*Rule) {
		for _, r := range rules {
			visit(r, around)
			walk(r.Rules, append(around[:len(around):len(around)], r))
		}
	}
	walk(s.Rules, nil)
}
