package css

import (
	"bytes"
	"strconv"
	"strings"

	lex "github.com/tdewolff/parse/v2/css"
)

// rem gives the type size of html that a declaration sets: what a rem is at home;
// empty when it is the initial one, or when it sets another.
func (f frameRule) rem(d Decl) string {
	if f.depth != 0 || d.Name != "font-size" || f.inner != "" {
		return ""
	}
	var value strings.Builder
	for _, t := range f.sheet.within(d.Value) {
		v := strings.ToLower(string(t.Of(f.sheet.Source)))
		switch {
		case t.Type == lex.PercentageToken:
			share, _ := strconv.ParseFloat(strings.TrimSuffix(v, "%"), 64) // the lexer found a number
			value.WriteString("calc(" + strconv.FormatFloat(share/100, 'f', -1, 64) + " * 16px)")
		case t.Type == lex.DimensionToken && strings.HasSuffix(v, "rem"):
			value.WriteString("calc(" + v[:len(v)-3] + " * 16px)")
		case t.Type == lex.DimensionToken && strings.HasSuffix(v, "em"):
			value.WriteString("calc(" + v[:len(v)-2] + " * 16px)")
		case t.Type == lex.DelimToken && v == "!", v == "important":
		default:
			value.WriteString(v)
		}
	}
	switch s := strings.TrimSpace(value.String()); s {
	case "calc(1 * 16px)", "16px", "medium", "initial", "inherit", "unset", "revert":
		return ""
	default:
		return s
	}
}

// setsRem tells whether a rem at a piece's home is not the initial one.
func (c *subsetter) setsRem() bool {
	for _, f := range c.framing {
		for _, d := range f.decls {
			if f.rem(d) != "" {
				return true
			}
		}
	}
	return false
}

// usesRems tells whether a length of some sheet may be in rem.
func usesRems(sheets []SheetUse) bool {
	for _, u := range sheets {
		if bytes.Contains(bytes.ToLower(u.Sheet.Source), []byte("rem")) {
			return true
		}
	}
	return false
}

// inRems writes lengths that are relative to the type size of html so that they stay
// relative to the one at home: the host frame keeps it where it is not the initial one.
// What stands on :root stays as it is; the frame says it again for the pieces.
func inRems(text string) string {
	src := []byte(text)
	toks := Lex(src)
	var b strings.Builder
	prelude := false // of an at-rule
	depth, skip := 0, -1
	last := lex.RightBraceToken // the last token that is no white space
	for i, t := range toks {
		v := string(t.Of(src))
		switch t.Type {
		case lex.AtKeywordToken:
			prelude = true
			if strings.EqualFold(v, "@property") && skip < 0 {
				skip = depth
			}
		case lex.ColonToken:
			if (last == lex.RightBraceToken || last == lex.LeftBraceToken || last == lex.SemicolonToken) && skip < 0 &&
				i+3 < len(toks) &&
				string(toks[i+1].Of(src)) == "root" &&
				toks[i+3].Type == lex.LeftBraceToken {
				skip = depth
			}
		case lex.LeftBraceToken:
			prelude = false
			depth++
		case lex.RightBraceToken:
			if depth--; depth <= skip {
				skip = -1
			}
		case lex.SemicolonToken:
			prelude = false
		case lex.DimensionToken:
			if !prelude && skip < 0 && strings.HasSuffix(strings.ToLower(v), "rem") {
				v = "calc(" + v[:len(v)-3] + " * var(--cp-rem, 1rem))"
			}
		}
		if !skipped(t.Type) {
			last = t.Type
		}
		b.WriteString(v)
	}
	return b.String()
}
