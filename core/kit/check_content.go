package kit

import (
	"fmt"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// RunsWhatIsFilled tells of a blank's target and pattern whether browsers would run what
// is filled in: handlers, documents in attributes, addresses of scripts.
func RunsWhatIsFilled(target, pattern string) bool {
	scheme, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(pattern)), "{")
	scheme = strings.TrimSpace(scheme)
	return strings.HasPrefix(target, "on") || target == "srcdoc" || strings.HasPrefix(scheme, "javascript:") ||
		strings.HasPrefix(scheme, "vbscript:") ||
		strings.HasPrefix(scheme, "data:")
}

var colourFunctions = map[string]bool{
	"rgb(":   true,
	"rgba(":  true,
	"hsl(":   true,
	"hsla(":  true,
	"hwb(":   true,
	"lab(":   true,
	"lch(":   true,
	"oklab(": true,
	"oklch(": true,
}

// checkColours counts the colours that a stylesheet writes out although there are
// tokens for them; the host frame's own do not count.
func checkColours(sheet *css.Sheet, add func(line int, remedy, format string, args ...any)) {
	count, first := 0, 0
	sheet.Walk(func(r *css.Rule, around []*css.Rule) {
		for _, g := range append(around, r) {
			if g.At == "layer" && strings.TrimSpace(string(g.Prelude.Of(sheet.Source))) == "cp-frame" {
				return
			}
		}
		for _, d := range r.Decls {
			if strings.HasPrefix(d.Name, "--") {
				continue
			}
			for _, t := range css.Lex(d.Value.Of(sheet.Source)) {
				text := string(t.Of(d.Value.Of(sheet.Source)))
				if t.Type == lex.HashToken || t.Type == lex.FunctionToken && colourFunctions[strings.ToLower(text)] {
					if count++; count == 1 {
						first, _ = span.Line(sheet.Source, d.Start)
					}
				}
			}
		}
	})
	if count > 0 {
		are := fmt.Sprintf("%d colours are", count)
		if count == 1 {
			are = "one colour is"
		}
		add(first, "name them by tokens, so that they follow the receiving site's",
			"%s written out instead of taken from the tokens", are)
	}
}

// hasTokens tells whether the kit brings tokens.
func hasTokens(list *PackingList) bool {
	for _, e := range list.Items {
		if e.Kind == item.Tokens {
			return true
		}
	}
	return false
}
