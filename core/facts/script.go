package facts

import (
	"bytes"

	"compactparcel/core/span"

	"github.com/tdewolff/parse/v2"
	"github.com/tdewolff/parse/v2/js"
)

// maxMention is the longest string literal, in bytes, that is taken for a name.
const maxMention = 300

// script notes the string literals of a script: what it may name by class, id or
// address. place gives the document's place of source[from:to].
func (c *collector) script(source []byte, place func(from, to int) span.Span) {
	in := parse.NewInputBytes(append(make([]byte, 0, len(source)+1), source...))
	l := js.NewLexer(in)
	at, last := 0, js.SemicolonToken
	for {
		typ, text := l.Next()
		if typ == js.ErrorToken {
			return
		}
		if (typ == js.DivToken || typ == js.DivEqToken) && !endsOperand(last) {
			typ, text = l.RegExp()
		}
		from := at
		at += len(text)
		if typ != js.WhitespaceToken && typ != js.LineTerminatorToken && typ != js.CommentToken &&
			typ != js.CommentLineTerminatorToken {
			last = typ
		}
		switch typ {
		case js.StringToken, js.TemplateToken, js.TemplateStartToken, js.TemplateMiddleToken, js.TemplateEndToken:
		default:
			continue
		}
		inner := bytes.Trim(text, "\"'`${}")
		if len(inner) == 0 || len(inner) > maxMention {
			continue
		}
		s := string(inner)
		lead := bytes.Index(text, inner)
		c.mention(s, Where{In: InScript}, place(from+lead, from+lead+len(inner)))
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
