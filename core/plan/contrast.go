package plan

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// ContrastRow is a text on a ground as a rule of the kit shows it, with the contrast
// (WCAG 2) under the site's values of the tokens and under the kit's.
type ContrastRow struct {
	Where  string  `json:"where"` // the stylesheet and the rule, states included
	Text   string  `json:"text"`
	Ground string  `json:"ground"`
	Site   float64 `json:"site"`
	Kit    float64 `json:"kit"`
	// As is the contrast as it was decided.
	As float64 `json:"as"`
}

// EnoughContrast is what WCAG 2 asks of texts (1.4.3, level AA).
const EnoughContrast = 4.5

var (
	varIn   = regexp.MustCompile(`^var\(\s*(--[^\s,)]+)\s*(?:,[^)]*)?\)$`)
	stateIn = regexp.MustCompile(`:(hover|focus|focus-visible|focus-within|active|visited|disabled|checked)\b`)
	noText  = regexp.MustCompile(`(?:^|[\s>+~])(?:img|video|picture|iframe|canvas|svg|hr|audio)(?:[:.\[][^\s]*)?$`)
	literal = regexp.MustCompile(`#[0-9a-fA-F]{3,8}\b|\b(?:rgb|rgba|hsl|hsla|oklch|oklab)\([^)]*\)`)
)

// colours is what a rule says of its text and ground.
type colours struct{ text, ground string }

// contrasts lists the pairs of text and ground that the kit's stylesheets really use, and
// the colours and fonts that pass the tokens by.
func contrasts(g given, rows rowList, decided []TokenRow, writes []PlannedWrite) ([]ContrastRow, []string, error) {
	m := &contraster{given: g}
	err := m.all(rows, decided, writes)
	return m.contrasts, m.literals, err
}

// contraster is the stage that reads colours.
type contraster struct {
	given
	contrasts []ContrastRow
	literals  []string
}

func (m *contraster) all(rows rowList, compared []TokenRow, writes []PlannedWrite) error {
	site, err := siteTokens(m.given, rows)
	if err != nil {
		return err
	}
	kitValue, err := m.kitValues()
	if err != nil {
		return err
	}
	siteValue, decided := map[string]string{}, map[string]string{}
	for p, t := range site {
		siteValue[p] = t.css
	}
	for p, v := range kitValue {
		decided[p] = v
		if s, ok := siteValue[p]; ok {
			decided[p] = s
		}
	}
	for _, t := range compared {
		if t.Decision == Take {
			decided[t.Property] = t.Kit
		}
	}
	merged := func(first, second map[string]string) func(string) string {
		return func(p string) string {
			if v, ok := first[p]; ok {
				return v
			}
			return second[p]
		}
	}
	worn, scripts, err := m.wornBy(writes)
	if err != nil {
		return err
	}
	asSite, asKit, asDecided := merged(siteValue, kitValue), merged(kitValue, siteValue), merged(decided, siteValue)
	for _, p := range writes {
		if p.Head.Address.Kind != item.Stylesheet || p.KitAddress.IsZero() {
			continue
		}
		src, err := m.textOf(p)
		if err != nil {
			return err
		}
		rules, page := m.coloursOf(p.KitAddress, src)
		worn := putOn(worn, scripts, rules)
		for _, sel := range sortedKeys(rules) {
			c := rules[sel]
			if noText.MatchString(sel) || !reached(sel, worn) {
				continue
			}
			from := rules[stateIn.ReplaceAllString(sel, "")]
			text, ground := firstOf(c.text, from.text, page.text), firstOf(c.ground, from.ground, page.ground)
			row := ContrastRow{Where: p.KitAddress.String() + " " + sel, Text: text, Ground: ground}
			ok := text != "" && ground != "" // else it stands on something that no rule here tells
			for _, x := range []struct {
				value func(string) string
				into  *float64
			}{{asSite, &row.Site}, {asKit, &row.Kit}, {asDecided, &row.As}} {
				a, okA := resolved(text, x.value, 0)
				b, okB := resolved(ground, x.value, 0)
				if ok = ok && okA && okB; ok {
					*x.into = math.Round(tokens.Contrast(a, b)*100) / 100
				}
			}
			if ok {
				m.contrasts = append(m.contrasts, row)
			}
		}
	}
	sort.SliceStable(m.contrasts, func(i, j int) bool { return m.contrasts[i].As < m.contrasts[j].As })
	return nil
}

// kitValues gives the values of the kit's tokens, by their custom properties.
func (m *contraster) kitValues() (map[string]string, error) {
	out := map[string]string{}
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Tokens {
			continue
		}
		b, err := item.Read(m.parcel.Collection, h)
		if err != nil {
			return nil, err
		}
		if set, err := tokens.Parse(b); err == nil {
			for _, t := range set.List {
				out[t.Property()] = set.CSS(t)
			}
		}
	}
	return out, nil
}

// wornBy gives the classes of all elements that come with a delivery, nil where styles come alone, and the facts of
// what comes with scripts of its own, which may put on more.
func (m *contraster) wornBy(writes []PlannedWrite) (worn map[string]bool, scripts []*facts.Facts, err error) {
	for _, p := range writes {
		if p.Head.Address.Kind == item.Stylesheet {
			continue
		}
		f, err := m.factsOf(p)
		if err != nil {
			return nil, nil, err
		}
		if len(f.Mentions) > 0 || len(f.Joins) > 0 || f.Unread {
			scripts = append(scripts, f)
		}
		if !p.Head.Address.Kind.IsMarkup() {
			continue
		}
		if worn == nil {
			worn = map[string]bool{}
		}
		for _, r := range f.Refs {
			if r.Space == facts.Class {
				worn[r.Name] = true
			}
		}
	}
	return worn, scripts, nil
}

// putOn adds to the classes that elements have those of a stylesheet's rules that a script may put on.
func putOn(worn map[string]bool, scripts []*facts.Facts, rules map[string]colours) map[string]bool {
	if worn == nil || len(scripts) == 0 {
		return worn
	}
	names := map[string]bool{}
	for sel := range rules {
		for _, c := range classIn.FindAllStringSubmatch(sel, -1) {
			names[c[1]] = true
		}
	}
	all := maps.Clone(worn)
	for _, f := range scripts {
		maps.Copy(all, f.MayPutOn(names))
	}
	return all
}

var (
	negated = regexp.MustCompile(`:not\([^()]*\)`)
	classIn = regexp.MustCompile(`\.(-?[A-Za-z_][\w-]*)`)
)

// reached tells whether an element that comes may be one that a rule is for: one of its selectors names no class that
// none has. The engine's own elements have classes of theirs.
func reached(list string, worn map[string]bool) bool {
	if worn == nil {
		return true
	}
	for _, sel := range strings.Split(negated.ReplaceAllString(list, ""), ",") {
		if strings.Contains(sel, `\`) { // a name that is written with escapes may be any
			return true
		}
		missing := slices.ContainsFunc(classIn.FindAllStringSubmatch(sel, -1), func(c []string) bool {
			return !worn[c[1]] && !strings.HasPrefix(c[1], "cp-")
		})
		if !missing {
			return true
		}
	}
	return false
}

func firstOf(list ...string) string {
	for _, s := range list {
		if s != "" {
			return s
		}
	}
	return ""
}

// resolved follows custom properties to a colour.
func resolved(v string, value func(string) string, depth int) (tokens.Colour, bool) {
	if x := varIn.FindStringSubmatch(v); x != nil && depth < 20 {
		return resolved(value(x[1]), value, depth+1)
	}
	return tokens.ParseColour(v)
}

// coloursOf reads what a stylesheet's rules say of texts and grounds; page is what it says
// of the whole page.
func (m *contraster) coloursOf(of item.Address, src []byte) (rules map[string]colours, page colours) {
	rules = map[string]colours{}
	css.Parse(src).Walk(func(r *css.Rule, _ []*css.Rule) {
		if r.At != "" {
			return
		}
		sel := string(css.Normalize(r.Prelude.Of(src)))
		c := rules[sel]
		for _, d := range r.Decls {
			v := strings.TrimSpace(string(d.Value.Of(src)))
			switch d.Name {
			case "color":
				c.text = v
			case "background", "background-color":
				c.ground = v
			case "font-family":
				if !strings.Contains(v, "var(") && v != "inherit" {
					m.literals = append(m.literals, fmt.Sprintf("%s %s: font-family %s", of, sel, v))
				}
			}
			if !strings.HasPrefix(d.Name, "--") {
				for _, l := range literal.FindAllString(v, -1) {
					m.literals = append(m.literals, fmt.Sprintf("%s %s: %s %s", of, sel, d.Name, l))
				}
			}
		}
		if c != (colours{}) {
			rules[sel] = c
		}
		switch sel {
		case "body", "html", ":root", ".page", "html,body":
			page = colours{firstOf(c.text, page.text), firstOf(c.ground, page.ground)}
		}
	})
	return rules, page
}
