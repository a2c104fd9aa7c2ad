package edit

import (
	"fmt"
	"regexp"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
	"compactparcel/core/span"
	"compactparcel/core/tokens"
)

// appearanceRule is one rule of the sheet of appearances.
type appearanceRule struct {
	class string
	state State
	width int // up to it; 0: always
	list  []declaration

	at *css.Rule
}

// appearanceSheet is the sheet of appearances while it is edited. What somebody wrote into it by hand stays.
type appearanceSheet struct {
	head   item.Head
	src    []byte
	failed error
}

// sheetHead begins the sheet.
const sheetHead = "/* What single elements look like, as it was chosen on their pages. */\n"

func (e *editor) appearances() (*appearanceSheet, error) {
	s := &appearanceSheet{head: item.Head{Address: AppearanceSheet, Meta: item.Meta{Title: "Appearance"}}}
	h, ok := e.over.Find(AppearanceSheet)
	if !ok {
		s.src = []byte(sheetHead)
		return s, nil
	}
	b, err := item.Read(e.over, h)
	s.head, s.src = h, b
	return s, err
}

// written is a selector of the sheet: its class, as often as the rules that it outdoes ask for, an id
// that nothing has for each of theirs, and a state.
var written = regexp.MustCompile(`^(?::is\(#own-\d+, \.own-\d+\))*((?:\.own-\d+)+)(\S*)$`)

var narrower = regexp.MustCompile(`^\(max-width: (\d+)px\)$`)

// pixels reads the figures that narrower found.
func pixels(s string) (n int) {
	for _, c := range s {
		n = min(n*10+int(c-'0'), 100_000)
	}
	return n
}

// rules lists the rules that are the sheet's own.
func (s *appearanceSheet) rules() []appearanceRule {
	sheet := css.Parse(s.src)
	var out []appearanceRule
	var read func(list []*css.Rule, width int)
	read = func(list []*css.Rule, width int) {
		for _, r := range list {
			prelude := strings.TrimSpace(string(r.Prelude.Of(s.src)))
			if m := narrower.FindStringSubmatch(prelude); r.At == "media" && m != nil && width == 0 {
				read(r.Rules, pixels(m[1]))
				continue
			}
			m := written.FindStringSubmatch(prelude)
			if r.At != "" || m == nil {
				continue
			}
			rule := appearanceRule{class: strings.Split(m[1], ".")[1], width: width, at: r}
			for st, p := range pseudo {
				if p == m[2] {
					rule.state = st
				}
			}
			if rule.state == "" && m[2] != "" {
				continue
			}
			for _, d := range r.Decls {
				v := strings.TrimSpace(string(d.Value.Of(s.src)))
				if d.Important {
					v += " !important"
				}
				rule.list = append(rule.list, declaration{d.Name, v})
			}
			out = append(out, rule)
		}
	}
	read(sheet.Rules, 0)
	return out
}

// find gives the rule for a class, state and width.
func (s *appearanceSheet) find(of appearanceRule) (appearanceRule, bool) {
	for _, r := range s.rules() {
		if r.class == of.class && r.state == of.state && r.width == of.width {
			return r, true
		}
	}
	return appearanceRule{}, false
}

// has tells whether anything is said of a class.
func (s *appearanceSheet) has(class string) bool {
	return slices.ContainsFunc(s.rules(), func(r appearanceRule) bool { return r.class == class })
}

// free gives a class that nothing is said of.
func (s *appearanceSheet) free() string {
	for n := 1; ; n++ {
		if c := fmt.Sprintf("own-%d", n); !strings.Contains(string(s.src)+".", "."+c+"{") && !s.has(c) {
			return c
		}
	}
}

// selector writes a rule's selector so that it outdoes a specificity.
func (r appearanceRule) selector(least [3]int) string {
	n := strings.TrimPrefix(r.class, "own-")
	var b strings.Builder
	for range least[0] {
		b.WriteString(":is(#own-" + n + ", .own-" + n + ")")
	}
	for range least[1] + 1 {
		b.WriteString(".own-" + n)
	}
	return b.String() + pseudo[r.state]
}

// weight is the specificity that a rule of the sheet has, its state aside, less the one class that it
// has over what it outdoes.
func (r appearanceRule) weight(src []byte) [3]int {
	prelude := string(r.at.Prelude.Of(src))
	return [3]int{strings.Count(prelude, ":is("),
		strings.Count(strings.ReplaceAll(prelude, ", .own", ""), ".own-") - 1, 0}
}

func (s *appearanceSheet) apply(edits ...span.Edit) error {
	sort.SliceStable(edits, func(i, j int) bool { return edits[i].Start < edits[j].Start })
	out, err := span.Apply(s.src, edits)
	if err == nil {
		s.src = out
	}
	return err
}

// set writes a declaration.
func (s *appearanceSheet) set(of appearanceRule, d declaration, least [3]int) error {
	line := "  " + d.name + ": " + d.value + ";\n"
	r, there := s.find(of)
	if !there {
		return s.add(of, line, least)
	}
	var edits []span.Edit
	was := r.weight(s.src)
	most := [3]int{max(was[0], least[0]), max(was[1], least[1]), 0}
	if most != was {
		edits = append(edits, span.Edit{Span: r.at.Prelude, New: []byte(of.selector(most) + " ")})
	}
	if i := slices.IndexFunc(r.at.Decls, func(x css.Decl) bool { return x.Name == d.name }); i >= 0 {
		edits = append(edits, span.Edit{Span: r.at.Decls[i].Span, New: []byte(d.name + ": " + d.value)})
	} else {
		end := span.Span{Start: r.at.Body.End, End: r.at.Body.End}
		if of.width > 0 {
			line += "  " // of the brace
		}
		edits = append(edits, span.Edit{Span: end, New: []byte(line)})
	}
	return s.apply(edits...)
}

// add writes a new rule: those for all widths first, then the wider before the narrower, so that the
// narrowest that fits has the last word.
func (s *appearanceSheet) add(of appearanceRule, line string, least [3]int) error {
	rule := of.selector(least) + " {\n" + line + "}\n"
	sheet := css.Parse(s.src)
	at := len(s.src)
	for _, r := range sheet.Rules {
		m := narrower.FindStringSubmatch(strings.TrimSpace(string(r.Prelude.Of(s.src))))
		if r.At != "media" || m == nil {
			continue
		}
		n := pixels(m[1])
		if n == of.width {
			inner := "  " + strings.ReplaceAll(strings.TrimSuffix(rule, "\n"), "\n", "\n  ") + "\n"
			return s.apply(span.Edit{Span: span.Span{Start: r.Body.End, End: r.Body.End}, New: []byte(inner)})
		}
		if n < of.width || of.width == 0 {
			at = r.Start
			break
		}
	}
	if of.width > 0 {
		rule = fmt.Sprintf("@media (max-width: %dpx) {\n  %s\n}\n", of.width,
			strings.ReplaceAll(strings.TrimSuffix(rule, "\n"), "\n", "\n  "))
	}
	if at > 0 && s.src[at-1] != '\n' {
		rule = "\n" + rule
	}
	return s.apply(span.Edit{Span: span.Span{Start: at, End: at}, New: []byte(rule)})
}

// unset takes a declaration out, and its rule with the last one.
func (s *appearanceSheet) unset(of appearanceRule, name string) error {
	r, there := s.find(of)
	if !there {
		return nil
	}
	i := slices.IndexFunc(r.at.Decls, func(x css.Decl) bool { return x.Name == name })
	if i < 0 {
		return nil
	}
	if len(r.at.Decls) == 1 && len(r.at.Rules) == 0 {
		if err := s.apply(span.Edit{Span: s.line(r.at.Span)}); err != nil {
			return err
		}
		return s.withoutEmpty()
	}
	at := r.at.Decls[i].Span
	for at.End < len(s.src) && (s.src[at.End] == ';' || s.src[at.End] == ' ') {
		at.End++
	}
	return s.apply(span.Edit{Span: s.line(at)})
}

// withoutEmpty takes the conditions out that hold nothing any more.
func (s *appearanceSheet) withoutEmpty() error {
	for _, r := range css.Parse(s.src).Rules {
		if r.At == "media" && r.HasBody && len(strings.TrimSpace(string(r.Body.Of(s.src)))) == 0 {
			return s.apply(span.Edit{Span: s.line(r.Span)})
		}
	}
	return nil
}

// line widens a place to the lines that it stands on alone.
func (s *appearanceSheet) line(at span.Span) span.Span {
	from, to := at.Start, at.End
	for from > 0 && s.src[from-1] == ' ' {
		from--
	}
	if to < len(s.src) && s.src[to] == '\n' && (from == 0 || s.src[from-1] == '\n') {
		return span.Span{Start: from, End: to + 1}
	}
	return at
}

// stackAt is the width up to which columns stand below each other, until another is chosen.
const stackAt = 768

// stack lets columns stand below each other on narrow screens, where nothing is said of that yet.
func (s *appearanceSheet) stack(of appearanceRule) {
	r, there := s.find(of)
	narrow := appearanceRule{class: of.class, state: of.state, width: stackAt}
	if _, said := s.find(narrow); there && !said && s.failed == nil {
		s.failed = s.add(narrow, "  grid-template-columns: minmax(0, 1fr);\n", r.weight(s.src))
	}
}

// write lays the sheet over the site's.
func (s *appearanceSheet) write(e *editor) error {
	if s.failed != nil {
		return s.failed
	}
	return e.put(s.head, s.src)
}

// tokenSheet is the stylesheet that tokens are shown by.
func tokenSheet(b []byte) ([]byte, error) {
	set, err := tokens.Parse(b)
	if err != nil {
		return nil, err
	}
	return set.Sheet(), nil
}
