package kit

import (
	"bytes"
	"fmt"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/faults"
	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"

	lex "github.com/tdewolff/parse/v2/css"
)

// checkText finds what belongs to somebody, or was never meant to stay, in a piece of
// markup (but for what cp- elements show meanwhile): filler, samples of fill-ins outside their
// places, mail addresses and phones.
func checkText(tree *markup.Tree, fillins []Fillin, add func(line int, remedy, format string, args ...any)) {
	lines := &lines{src: tree.Source, line: 1}
	for _, n := range tree.All {
		if !n.Own || n.Tag == "script" || n.Tag == "style" || strings.HasPrefix(n.Tag, "cp-") || blank(n) {
			continue
		}
		own := strings.Join(strings.Fields(strings.Join(n.Texts(), " ")), " ")
		line := lines.of(n.Start.Start)
		if m := faults.FillerIn(own); m != "" {
			add(line, "write the real text, or mark a blank", "it holds filler: %q", m)
		}
		for _, f := range fillins {
			if s := strings.TrimSpace(f.Sample); len(s) > 3 && strings.Contains(own, s) {
				add(line, "mark it as the fill-in "+f.Name+", or reword it",
					"the sample %q of the fill-in %s stands here as text", s, f.Name)
			}
		}
		href := n.Value("href")
		for _, who := range []string{faults.MailIn(own), faults.PhoneIn(own)} {
			if who != "" {
				add(line, "mark a blank for it", "it names %s, which is personal", who)
			}
		}
		if rest, ok := strings.CutPrefix(href, "mailto:"); ok && !strings.Contains(own, rest) {
			add(line, "mark a blank for the link", "it links to the mail address %s, which is personal", rest)
		}
		if rest, ok := strings.CutPrefix(href, "tel:"); ok && !strings.Contains(own, rest) {
			add(line, "mark a blank for the link", "it links to the phone number %s, which is personal", rest)
		}
	}
}

// RunsWhatIsFilled tells of a blank's target and pattern whether browsers would run what
// is filled in: handlers, documents in attributes, addresses of scripts.
func RunsWhatIsFilled(target, pattern string) bool {
	scheme, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(pattern)), "{")
	scheme = strings.TrimSpace(scheme)
	return strings.HasPrefix(target, "on") || target == "srcdoc" || strings.HasPrefix(scheme, "javascript:") ||
		strings.HasPrefix(scheme, "vbscript:") ||
		strings.HasPrefix(scheme, "data:")
}

// blank tells whether an element, or one around it, is a place of a fill-in.
func blank(n *markup.Node) bool {
	for up := n; up != nil; up = up.Parent {
		if _, ok := up.Attr("data-fill"); ok {
			return true
		}
		if _, ok := up.Attr("data-field"); ok {
			return true
		}
	}
	return false
}

// lines counts lines up to places that mostly rise.
type lines struct {
	src      []byte
	at, line int
}

func (l *lines) of(at int) int {
	if at < l.at {
		l.at, l.line = 0, 1
	}
	l.line += bytes.Count(l.src[l.at:at], []byte("\n"))
	l.at = at
	return l.line
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
