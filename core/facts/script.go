package facts

import (
	"bytes"
	"maps"
	"slices"
	"strings"
	"unicode"

	"compactparcel/core/span"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/js"
)

// maxMention is the longest string literal, in bytes, that is kept as it is; of a longer
// one, such as the styles of a shadow root, the words are kept.
const maxMention = 300

// script notes the string literals of a script: what it may name by class, id or
// address. place gives the document's place of source[from:to].
func (c *collector) script(source []byte, place func(from, to int) span.Span) {
	in := parse.NewInputBytes(append(make([]byte, 0, len(source)+1), source...))
	l := js.NewLexer(in)
	at, last := 0, js.SemicolonToken
	var literal *Join // the token before, if it was one
	for {
		typ, text := l.Next()
		if typ == js.ErrorToken {
			c.join(literal)
			return
		}
		if (typ == js.DivToken || typ == js.DivEqToken) && !endsOperand(last) {
			typ, text = l.RegExp()
		}
		from := at
		at += len(text)
		before := last
		if typ != js.WhitespaceToken && typ != js.LineTerminatorToken && typ != js.CommentToken &&
			typ != js.CommentLineTerminatorToken {
			last = typ
			if literal != nil && typ == js.AddToken {
				literal.Behind = true
			}
			c.join(literal)
			literal = nil
		}
		switch typ {
		case js.StringToken, js.TemplateToken, js.TemplateStartToken, js.TemplateMiddleToken, js.TemplateEndToken:
		default:
			continue
		}
		inner := bytes.Trim(text, "\"'`${}")
		if len(inner) == 0 {
			continue
		}
		literal = &Join{
			Text: string(inner[max(0, len(inner)-maxMention):]),
			Before: before == js.AddToken || before == js.AddEqToken || typ == js.TemplateMiddleToken ||
				typ == js.TemplateEndToken,
			Behind: typ == js.TemplateStartToken || typ == js.TemplateMiddleToken,
		}
		lead := from + bytes.Index(text, inner)
		if len(inner) <= maxMention {
			c.mention(string(inner), Where{In: InScript}, place(lead, lead+len(inner)))
			continue
		}
		for _, w := range wordsOf(string(inner)) {
			c.mention(w.text, Where{In: InScript}, place(lead+w.at, lead+w.at+len(w.text)))
		}
	}
}

// MaxMentions is how many different literals of a script are kept. One with more of them
// may name anything.
const MaxMentions = 100_000

// mention notes a text that may name a class, an id or an address, where it stands first.
func (c *collector) mention(s string, where Where, at span.Span) {
	if c.mentioned[s] || c.facts.Unread {
		return
	}
	if len(c.mentioned) == MaxMentions {
		c.facts.Unread = true
		return
	}
	if c.mentioned == nil {
		c.mentioned = map[string]bool{}
	}
	c.mentioned[s] = true
	c.facts.Mentions = append(c.facts.Mentions, s)
	c.add(Ref{Space: Mention, Name: s, Where: where, At: at, write: fixed})
}

// Join is a literal of a script to which something is joined: by "+", in a template, or by what a hyphen or underscore
// at its end is for.
type Join struct {
	Text string `json:"text"`
	// Before and Behind tell at which of its ends.
	Before bool `json:"before,omitempty"`
	Behind bool `json:"behind,omitempty"`
}

// join notes a literal to which something is joined; nil is none.
func (c *collector) join(j *Join) {
	if j == nil || len(c.facts.Joins) >= MaxMentions {
		return
	}
	open := func(b byte) bool { return b == '-' || b == '_' }
	j.Before = j.Before || open(j.Text[0])
	j.Behind = j.Behind || open(j.Text[len(j.Text)-1])
	if (j.Before || j.Behind) && !c.joined[*j] {
		if c.joined == nil {
			c.joined = map[Join]bool{}
		}
		c.joined[*j] = true
		c.facts.Joins = append(c.facts.Joins, *j)
	}
}

// endsOperand tells whether a slash behind the token divides; else it begins a
// regular expression (ECMAScript, section 12.9).
func endsOperand(t js.TokenType) bool {
	switch t {
	case js.CloseParenToken,
		js.CloseBracketToken,
		js.CloseBraceToken,
		js.StringToken,
		js.TemplateToken,
		js.TemplateEndToken,
		js.RegExpToken,
		js.ThisToken,
		js.IncrToken,
		js.DecrToken:
		return true
	}
	return js.IsNumeric(t) || js.IsIdentifier(t)
}

// literalWord is a word of a literal that may be a name or a piece of one.
type literalWord struct {
	text string
	at   int
}

// wordsOf cuts a literal into words of letters, digits, "-" and "_".
func wordsOf(s string) []literalWord {
	var out []literalWord
	from := -1
	for i := 0; i <= len(s); i++ {
		in := i < len(s) && (s[i] == '-' || s[i] == '_' || s[i] >= 0x80 || isAlnum(s[i]))
		switch {
		case in && from < 0:
			from = i
		case !in && from >= 0:
			out = append(out, literalWord{s[from:i], from})
			from = -1
		}
	}
	return out
}

func isAlnum(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// NamedBy is a name and the literal by which a script may name it.
type NamedBy struct {
	Name string
	Ref  Ref
}

// MayName gives those of the names that a script may name, each with the first literal of
// the document by which it may: as a whole word, or as the beginning or the end of a name
// that is put together ("btn-" + size). Whether all of the scripts are known is said by
// Unread.
func (f *Facts) MayName(names map[string]bool) []NamedBy {
	pieces := piecesOf(names)
	var out []NamedBy
	seen := map[string]bool{}
	found := func(r Ref, list ...string) {
		for _, n := range list {
			if !seen[n] {
				seen[n] = true
				out = append(out, NamedBy{n, r})
			}
		}
	}
	for _, r := range f.Refs {
		if r.Space != Mention {
			continue
		}
		for _, cut := range []func(rune) bool{unicode.IsSpace, endsName} { // names with other letters: md:flex, w-1/2
			for _, w := range strings.FieldsFunc(r.Name, cut) {
				if names[w] {
					found(r, w)
				}
			}
		}
		words := wordsOf(r.Name)
		for i, w := range words {
			if names[w.text] {
				found(r, w.text)
			}
			if i == len(words)-1 {
				found(r, pieces.begin[w.text]...)
			}
			if i == 0 {
				found(r, pieces.end[w.text]...)
			}
		}
	}
	return out
}

// MayPutOn gives those of the names that a script may put on an element: those that are bare words of its literals, and
// those that begin or end with what it joins something to ("sl-" + part). A name behind a dot is looked up, not put on.
func (f *Facts) MayPutOn(names map[string]bool) map[string]bool {
	out := map[string]bool{}
	if f.Unread {
		return names
	}
	for _, m := range f.Mentions {
		for _, w := range strings.Fields(m) {
			if names[w] {
				out[w] = true
			}
		}
	}
	if len(f.Joins) == 0 {
		return out
	}
	pieces := piecesOf(names)
	for _, j := range f.Joins {
		words := wordsOf(j.Text)
		if len(words) == 0 {
			continue
		}
		if last := words[len(words)-1]; j.Behind && last.at+len(last.text) == len(j.Text) {
			for _, n := range pieces.begin[last.text] {
				out[n] = true
			}
		}
		if first := words[0]; j.Before && first.at == 0 {
			for _, n := range pieces.end[first.text] {
				out[n] = true
			}
		}
	}
	return out
}

type namePieces struct{ begin, end map[string][]string }

// piecesOf gives the pieces by which names may be put together: those that end, or begin,
// where a name has a joint.
func piecesOf(names map[string]bool) namePieces {
	out := namePieces{map[string][]string{}, map[string][]string{}}
	for _, n := range slices.Sorted(maps.Keys(names)) {
		for i := 1; i < len(n); i++ {
			if joint(n[i-1], n[i]) && strings.ContainsFunc(n[:i], unicode.IsLetter) || n[:i] == "--" {
				out.begin[n[:i]] = append(out.begin[n[:i]], n)
			}
			if joint(n[i-1], n[i]) && strings.ContainsFunc(n[i:], unicode.IsLetter) {
				out.end[n[i:]] = append(out.end[n[i:]], n)
			}
		}
	}
	return out
}

// joint tells whether a name is put together at a place: at a hyphen or an underscore,
// before or behind a digit, before a capital.
func joint(a, b byte) bool {
	digit := func(c byte) bool { return c >= '0' && c <= '9' }
	sep := func(c byte) bool { return c == '-' || c == '_' }
	return sep(a) || sep(b) || digit(a) != digit(b) || b >= 'A' && b <= 'Z' && a >= 'a' && a <= 'z'
}
