package plan

import (
	"regexp"
	"slices"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/facts"
	"compactparcel/core/item"
	"compactparcel/core/tokens"
)

// definitions says what stylesheets make of names: of classes, custom properties, animations
// and fonts, the rules in their order, normalised, each with what stands around it.
type definitions map[facts.Name][]*ruleText

// ruleText is the text of a rule, which all names that it is about share, with its digest.
type ruleText struct {
	text   string
	digest item.Digest
}

func textOfRule(s string) *ruleText { return &ruleText{s, item.DigestOf([]byte(s))} }

// text is what a person reads of a name: its rules, as far as maxRuleText.
func (d definitions) text(n facts.Name) string {
	var b strings.Builder
	for i, r := range d[n] {
		if i > 0 {
			b.WriteByte('\n')
		}
		if left := maxRuleText - b.Len(); len(r.text) > left {
			b.WriteString(strings.ToValidUTF8(r.text[:max(left, 0)], "") + "…")
			break
		}
		b.WriteString(r.text)
	}
	return b.String()
}

// maxRuleText bounds, in bytes, what is shown of the rules of a name.
const maxRuleText = 8 << 10

// digest is over all rules of a name.
func (d definitions) digest(n facts.Name) string {
	var b strings.Builder
	for _, r := range d[n] {
		b.WriteString(string(r.digest))
	}
	return string(item.DigestOf([]byte(b.String())))
}

// classesOf gives the classes of a selector, those within :is, :not and the like too.
func classesOf(s css.Selector) []string {
	var out []string
	for _, p := range s.Parts {
		for _, x := range p.Simple {
			if x.Type == css.ByClass && !strings.HasPrefix(x.Name, "cp-") {
				out = append(out, x.Name)
			}
			for _, arg := range x.Args {
				out = append(out, classesOf(arg)...)
			}
		}
	}
	return out
}

// read adds what one sheet defines.
func (d definitions) read(src []byte) {
	css.Parse(src).Walk(func(r *css.Rule, around []*css.Rule) {
		within := ""
		for _, a := range around {
			if _, ok := a.Animation(src); ok {
				return
			}
			if a.At != "" {
				within += "@" + a.At + " "
			}
			within += string(css.Normalize(a.Prelude.Of(src))) + " "
		}
		add := func(space facts.Space, name string, rule *ruleText) {
			n := facts.Name{Space: space, Name: name}
			d[n] = append(d[n], rule)
		}
		if name, ok := r.Animation(src); ok {
			add(facts.Animation, name, textOfRule(within+string(css.Normalize(r.Of(src)))))
			return
		}
		if name, ok := r.FontFamily(src); ok {
			add(facts.Font, name, textOfRule(within+string(css.Normalize(r.Of(src)))))
			return
		}
		if r.At != "" {
			return
		}
		for _, x := range r.Decls {
			if strings.HasPrefix(x.Name, "--") {
				add(facts.Property, x.Name,
					textOfRule(within+strings.TrimSpace(string(css.Normalize(x.Value.Of(src))))))
			}
		}
		var whole *ruleText
		seen := map[string]bool{}
		for _, s := range r.Selectors {
			for _, c := range classesOf(s) {
				if seen[c] {
					continue
				}
				if seen[c] = true; whole == nil {
					whole = textOfRule(within + string(css.Normalize(r.Of(src))))
				}
				add(facts.Class, c, whole)
			}
		}
	})
}

// comesNew tells whether an item of the kit comes to the site for the first time: one that
// came before has its names by the decisions of then.
func (m rowList) comesNew(h item.Head) bool {
	row := m.rows[h.Address]
	return row != nil && comesIn(row) && row.Base == "" && row.Standing != Newer && row.Standing != Older
}

// meets tells whether an item comes new and may stand beside something of the site's.
func (m *namer) meets(h item.Head) bool { return m.comesNew(h) && !m.alone[h.Address] }

// kitDefinitions is what the stylesheets that come in define, design tokens apart: their names
// are the same on all sites.
func (m *namer) kitDefinitions() (definitions, error) {
	out := definitions{}
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Stylesheet || !m.meets(h) {
			continue
		}
		b, err := item.Read(m.parcel.Collection, h)
		if err != nil {
			return nil, err
		}
		out.read(b)
	}
	if len(out) == 0 {
		return out, nil
	}
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Tokens {
			continue
		}
		b, err := item.Read(m.parcel.Collection, h)
		if err != nil {
			return nil, err
		}
		if set, err := tokens.Parse(b); err == nil { // what cannot be read sets nothing
			for _, t := range set.List {
				delete(out, facts.Name{Space: facts.Property, Name: t.Property()})
			}
		}
	}
	return out, nil
}

// siteDefinitions is what the site's stylesheets and tokens define, those apart that the
// delivery replaces or that this kit brought.
func (m *namer) siteDefinitions() (definitions, error) {
	replaced := map[item.Address]bool{}
	for _, row := range m.list {
		if row.Site != nil && row.Decision == Take {
			replaced[row.Site.Address] = true
		}
	}
	for _, o := range m.origins {
		replaced[o.Item] = true
	}
	out := definitions{}
	for _, h := range m.site.Sheets() {
		if replaced[h.Address] {
			continue
		}
		b, err := item.Read(m.site, h)
		if err != nil {
			return nil, err
		}
		switch h.Address.Kind {
		case item.Stylesheet:
			out.read(b)
		case item.Tokens:
			if set, err := tokens.Parse(b); err == nil { // what cannot be read sets nothing
				for _, t := range set.List {
					n := facts.Name{Space: facts.Property, Name: t.Property()}
					out[n] = append(out[n], textOfRule(set.CSS(t)))
				}
			}
		default:
		}
	}
	return out, nil
}

var varUse = regexp.MustCompile(`var\(\s*(--[\w-]+)`)

// kitNames are the kit's definitions, with its fonts at hand.
type kitNames struct {
	definitions
	fonts []facts.Name
}

func namesOf(d definitions) kitNames {
	out := kitNames{definitions: d}
	for n := range d {
		if n.Space == facts.Font {
			out.fonts = append(out.fonts, n)
		}
	}
	return out
}

// usesOf gives the custom properties, animations and fonts that a declaration names, of
// those that the kit defines.
func (d kitNames) usesOf(src []byte, x css.Decl) []facts.Name {
	var out []facts.Name
	value := string(x.Value.Of(src))
	for _, use := range varUse.FindAllStringSubmatch(value, -1) {
		out = append(out, facts.Name{Space: facts.Property, Name: use[1]})
	}
	own := strings.HasPrefix(x.Name, "--") // whose value another declaration may use
	if own || strings.HasSuffix(x.Name, "animation") || strings.HasSuffix(x.Name, "animation-name") {
		for _, w := range strings.FieldsFunc(value, func(r rune) bool { return strings.ContainsRune(" ,\"'", r) }) {
			out = append(out, facts.Name{Space: facts.Animation, Name: w})
		}
	}
	if own || x.Name == "font" || x.Name == "font-family" {
		for _, n := range d.fonts {
			if strings.Contains(value, n.Name) {
				out = append(out, n)
			}
		}
	}
	if own {
		out = append(out, facts.Name{Space: facts.Property, Name: x.Name})
	}
	return slices.DeleteFunc(out, func(n facts.Name) bool { return len(d.definitions[n]) == 0 })
}
