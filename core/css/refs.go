package css

import (
	"bytes"
	"strings"

	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// Space names what sort of name a reference is.
type Space string

// The name spaces of a stylesheet.
const (
	URL       Space = "url"
	Import    Space = "import"
	Class     Space = "class"
	ID        Space = "id"
	Prop      Space = "property" // custom property
	Animation Space = "animation"
	Layer     Space = "layer"
	Container Space = "container"
	Font      Space = "font"
	Counter   Space = "counter"
	Element   Space = "component" // a type selector with a dash
)

// Ref is one name with its place.
type Ref struct {
	Space   Space
	Name    string // unescaped
	At      span.Span
	Defines bool
	// Quoted tells that At stands within quotes; else a new name must be written
	// as an identifier or a bare address.
	Quoted bool
}

// Refs lists all names that a sheet defines and uses.
func (s *Sheet) Refs() []Ref {
	c := &collector{s: s}
	if s.Opaque {
		c.addresses()
		return c.out
	}
	c.findDefined()
	c.decls(s.Decls)
	s.Walk(func(r *Rule, around []*Rule) {
		switch r.At {
		case "":
			if len(around) == 0 || !strings.HasSuffix(around[len(around)-1].At, "keyframes") {
				c.selectors(r.Selectors)
			}
		case "import":
			c.imported(r)
		case "keyframes", "-webkit-keyframes":
			c.name(Animation, r.Prelude, true)
		case "layer":
			c.list(Layer, r.Prelude, true)
		case "property":
			c.name(Prop, r.Prelude, true)
		case "container":
			c.container(r)
		case "scope":
			start, limit := s.Scope(r)
			c.selectors(start)
			c.selectors(limit)
		case "supports", "media":
			c.values(r.Prelude)
		}
		c.decls(r.Decls)
	})
	return c.out
}

type collector struct {
	s   *Sheet
	out []Ref
	// animations and fonts are the names of those that the sheet defines.
	animations, fonts map[string]bool
}

// addresses finds the addresses alone, token by token, keeping none.
func (c *collector) addresses() {
	importing := false
	var images []bool // for each open parenthesis: whether it is an image function's
	stream(c.s.Source, func(t Token) {
		switch t.Type {
		case lex.URLToken, lex.StringToken:
			switch {
			case importing:
				c.url(t, Import)
			case t.Type == lex.URLToken, len(images) > 0 && images[len(images)-1]:
				c.url(t, URL)
			}
			importing = false
		case lex.AtKeywordToken:
			importing = strings.EqualFold(string(t.Of(c.s.Source)), "@import")
		case lex.FunctionToken, lex.LeftParenthesisToken:
			images = append(images, imageFunctions[strings.ToLower(string(t.Of(c.s.Source)))])
		case lex.RightParenthesisToken:
			images = images[:max(len(images)-1, 0)]
		case lex.LeftBraceToken, lex.RightBraceToken, lex.SemicolonToken:
			importing, images = false, images[:0]
		}
	})
}

func (c *collector) add(space Space, at span.Span, raw string, defines, quoted bool) {
	c.out = append(c.out, Ref{Space: space, Name: unescape(raw), At: at, Defines: defines, Quoted: quoted})
}

func (c *collector) name(space Space, at span.Span, defines bool) {
	if at.Len() > 0 {
		raw := string(at.Of(c.s.Source))
		if raw[0] == '"' || raw[0] == '\'' {
			at, raw = span.Span{Start: at.Start + 1, End: at.End - 1}, strings.Trim(raw, `"'`)
			c.add(space, at, raw, defines, true)
			return
		}
		c.add(space, at, raw, defines, false)
	}
}

// container notes the name that an @container rule begins with, if it has one (CSS Containment
// Level 3, 3.2).
func (c *collector) container(r *Rule) {
	tokens := c.within(r.Prelude)
	if len(tokens) == 0 || tokens[0].Type != lex.IdentToken {
		return
	}
	switch w := string(tokens[0].Of(c.s.Source)); w {
	case "not", "and", "or", "style":
	default:
		c.add(Container, tokens[0].Span, w, false, false)
	}
}

func (c *collector) list(space Space, at span.Span, defines bool) {
	for _, part := range splitCommas(c.within(at)) {
		for len(part) > 0 && skipped(part[0].Type) {
			part = part[1:]
		}
		for len(part) > 0 && skipped(part[len(part)-1].Type) {
			part = part[:len(part)-1]
		}
		if len(part) > 0 {
			c.name(space, span.Span{Start: part[0].Start, End: part[len(part)-1].End}, defines)
		}
	}
}

// within gives the tokens of a place, by binary search.
func (c *collector) within(at span.Span) []Token { return c.s.within(at) }

func (s *Sheet) within(at span.Span) []Token {
	lo, hi := 0, len(s.Tokens)
	for lo < hi {
		mid := (lo + hi) / 2
		if s.Tokens[mid].Start < at.Start {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	from := lo
	for lo < len(s.Tokens) && s.Tokens[lo].Start < at.End {
		lo++
	}
	return s.Tokens[from:lo]
}

func (c *collector) selectors(list []Selector) {
	for _, s := range list {
		for _, part := range s.Parts {
			for _, x := range part.Simple {
				switch x.Type {
				case ByClass:
					c.out = append(c.out, Ref{Space: Class, Name: x.Name, At: x.At, Defines: true})
				case ByID:
					c.out = append(c.out, Ref{Space: ID, Name: x.Name, At: x.At})
				case ByTag:
					if strings.Contains(x.Name, "-") {
						c.out = append(c.out, Ref{Space: Element, Name: x.Name, At: x.At})
					}
				case ByAttr:
					if x.Op == "=" && x.Name == "id" {
						c.out = append(c.out, Ref{Space: ID, Name: x.Value, At: x.At, Quoted: true})
					}
				default:
				}
				c.selectors(x.Args)
			}
		}
	}
}

func (c *collector) imported(r *Rule) {
	for _, t := range c.within(r.Prelude) {
		if t.Type == lex.StringToken || t.Type == lex.URLToken {
			c.url(t, Import)
			return
		}
	}
}

func (c *collector) url(t Token, space Space) {
	at := t.Span
	raw := string(at.Of(c.s.Source))
	quoted := true
	if t.Type == lex.URLToken {
		inner := raw[4:]
		at.Start += 4
		lead := len(inner) - len(strings.TrimLeft(inner, " \t\r\n\f"))
		at.Start += lead
		inner = strings.TrimSuffix(inner[lead:], ")")
		inner = strings.TrimRight(inner, " \t\r\n\f")
		at.End = at.Start + len(inner)
		raw = inner
		quoted = false
	}
	if len(raw) >= 2 && (raw[0] == '"' || raw[0] == '\'') {
		at, raw, quoted = span.Span{Start: at.Start + 1, End: at.End - 1}, raw[1:len(raw)-1], true
	}
	c.add(space, at, raw, false, quoted)
}

var fontWords = words(
	"serif sans-serif monospace cursive fantasy system-ui ui-serif ui-sans-serif ui-monospace ui-rounded math " +
		"emoji fangsong inherit initial unset revert revert-layer",
)

func (c *collector) decls(ds []Decl) {
	for _, d := range ds {
		if strings.HasPrefix(d.Name, "--") {
			c.add(Prop, d.NameAt, d.Name, true, false)
		}
		c.values(d.Value)
		switch d.Name {
		case "animation", "animation-name", "-webkit-animation", "-webkit-animation-name":
			for _, t := range c.within(d.Value) {
				if t.Type == lex.IdentToken {
					c.add(Animation, t.Span, string(t.Of(c.s.Source)), false, false)
				}
			}
		case "counter-reset", "counter-increment", "counter-set":
			for _, t := range c.within(d.Value) {
				if text := string(t.Of(c.s.Source)); t.Type == lex.IdentToken && text != "none" {
					c.add(Counter, t.Span, text, d.Name == "counter-reset", false)
				}
			}
		case "container-name", "container":
			for _, t := range c.within(d.Value) {
				if t.Type == lex.IdentToken {
					c.add(Container, t.Span, string(t.Of(c.s.Source)), true, false)
				} else if t.Type == lex.DelimToken {
					break
				}
			}
		case "font-family":
			c.families(splitCommas(c.within(d.Value)))
		case "font":
			if parts := splitCommas(c.within(d.Value)); len(parts) > 0 {
				parts[0] = behindSize(c.s.Source, parts[0])
				c.families(parts)
			}
		}
		if strings.HasPrefix(d.Name, "--") { // a family that a font-family may take from there
			for _, t := range c.within(d.Value) {
				switch text := string(t.Of(c.s.Source)); {
				case t.Type == lex.StringToken || t.Type == lex.IdentToken && c.fonts[text]:
					c.name(Font, t.Span, false)
				case t.Type == lex.IdentToken && c.animations[text]:
					c.add(Animation, t.Span, text, false, false)
				}
			}
		}
	}
}

// findDefined finds the animations and the fonts that the sheet defines, which the values of
// its custom properties may name.
func (c *collector) findDefined() {
	c.animations, c.fonts = map[string]bool{}, map[string]bool{}
	c.s.Walk(func(r *Rule, _ []*Rule) {
		if name, ok := r.Animation(c.s.Source); ok {
			c.animations[name] = true
		}
		if name, ok := r.FontFamily(c.s.Source); ok {
			c.fonts[name] = true
		}
	})
}

// Animation gives the name of the animation that a rule defines, without quotes.
func (r *Rule) Animation(src []byte) (string, bool) {
	if !strings.HasSuffix(r.At, "keyframes") {
		return "", false
	}
	return unquoted(r.Prelude.Of(src)), true
}

// FontFamily gives the family that an @font-face rule defines, without quotes.
func (r *Rule) FontFamily(src []byte) (string, bool) {
	if r.At != "font-face" {
		return "", false
	}
	for _, d := range r.Decls {
		if d.Name == "font-family" {
			return unquoted(d.Value.Of(src)), true
		}
	}
	return "", false
}

func unquoted(b []byte) string { return strings.Trim(strings.TrimSpace(string(b)), `"'`) }

// families notes the font families of a list, generic ones apart.
func (c *collector) families(list [][]Token) {
	for _, part := range list {
		for len(part) > 0 && skipped(part[0].Type) {
			part = part[1:]
		}
		for len(part) > 0 && skipped(part[len(part)-1].Type) {
			part = part[:len(part)-1]
		}
		if len(part) == 0 || part[0].Type == lex.FunctionToken {
			continue
		}
		at := span.Span{Start: part[0].Start, End: part[len(part)-1].End}
		if !fontWords[strings.ToLower(string(at.Of(c.s.Source)))] {
			c.name(Font, at, false)
		}
	}
}

// behindSize gives what follows the size, and the line height, of a font shorthand: its
// first family.
func behindSize(src []byte, part []Token) []Token {
	for i := len(part) - 1; i >= 0; i-- {
		switch t := part[i]; t.Type {
		case lex.DimensionToken, lex.PercentageToken, lex.NumberToken, lex.RightParenthesisToken:
			return part[i+1:]
		case lex.IdentToken:
			if sizeWords[strings.ToLower(string(t.Of(src)))] {
				return part[i+1:]
			}
		}
	}
	return nil
}

// imageFunctions take addresses as plain strings.
var imageFunctions = words("image-set( -webkit-image-set( image( src( url(")

func (c *collector) values(at span.Span) {
	toks := c.within(at)
	var open []string
	opens := false // the token is the first within its function
	for i, t := range toks {
		text := string(t.Of(c.s.Source))
		opens = i > 0 && (toks[i-1].Type == lex.FunctionToken || opens && skipped(toks[i-1].Type))
		switch t.Type {
		case lex.FunctionToken:
			open = append(open, strings.ToLower(text))
		case lex.LeftParenthesisToken:
			open = append(open, "(")
		case lex.RightParenthesisToken:
			if len(open) > 0 {
				open = open[:len(open)-1]
			}
		case lex.URLToken:
			c.url(t, URL)
		case lex.StringToken:
			if len(open) > 0 && imageFunctions[open[len(open)-1]] {
				c.url(t, URL)
			}
		case lex.CustomPropertyNameToken, lex.IdentToken:
			if strings.HasPrefix(text, "--") {
				c.add(Prop, t.Span, text, false, false)
			} else if n := len(open); n > 0 && (open[n-1] == "counter(" || open[n-1] == "counters(") && opens {
				c.add(Counter, t.Span, text, false, false)
			}
		}
	}
}

// Normalize gives the sheet with comments and needless white space set aside; a sheet that
// is too large to be read rule by rule as it is.
func Normalize(src []byte) []byte {
	if bytes.Count(src, []byte("{")) > MaxRules {
		return src
	}
	out := make([]byte, 0, len(src))
	space := false
	last := lex.SemicolonToken
	tight := func(t lex.TokenType) bool {
		switch t {
		case lex.SemicolonToken, lex.LeftBraceToken, lex.RightBraceToken, lex.CommaToken, lex.ColonToken:
			return true
		}
		return false
	}
	toks := Lex(src)
	blocks := blockFinder{toks: toks}
	for i, t := range toks {
		if skipped(t.Type) {
			space = true
			continue
		}
		// White space before a colon can be a combinator ("a :hover").
		if space && !tight(last) && (!tight(t.Type) || t.Type == lex.ColonToken && blocks.opens(i)) {
			out = append(out, ' ')
		}
		if t.Type == lex.RightBraceToken && last == lex.SemicolonToken {
			out = bytes.TrimSuffix(out, []byte(";"))
		}
		out = append(out, t.Of(src)...)
		last, space = t.Type, false
	}
	return bytes.TrimSuffix(out, []byte(";"))
}

// blockFinder tells whether a brace opens before a statement ends. It is asked with rising
// places, and looks at each token once.
type blockFinder struct {
	toks []Token
	to   int // up to here the answer is known
	yes  bool
}

func (b *blockFinder) opens(i int) bool {
	if i < b.to {
		return b.yes
	}
	for b.to, b.yes = i, false; b.to < len(b.toks); b.to++ {
		switch b.toks[b.to].Type {
		case lex.LeftBraceToken:
			b.yes = true
			return true
		case lex.SemicolonToken, lex.RightBraceToken:
			return false
		}
	}
	return false
}
