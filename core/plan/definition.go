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
type definitions map[facts.Name][]string

func (d definitions) text(n facts.Name) string { return strings.Join(d[n], "\n") }

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

var familyQuotes = strings.NewReplacer(`"`, "", `'`, "")

// read adds what one sheet defines.
func (d definitions) read(src []byte) {
	css.Parse(src).Walk(func(r *css.Rule, around []*css.Rule) {
		within := ""
		for _, a := range around {
			if strings.HasSuffix(a.At, "keyframes") {
				return
			}
			if a.At == "" {
				within += string(css.Normalize(a.Prelude.Of(src))) + " "
			} else {
				within += "@" + a.At + " " + string(css.Normalize(a.Prelude.Of(src))) + " "
			}
		}
		add := func(space facts.Space, name, text string) {
			n := facts.Name{Space: space, Name: name}
			d[n] = append(d[n], within+text)
		}
		switch {
		case strings.HasSuffix(r.At, "keyframes"):
			add(facts.Animation, strings.TrimSpace(familyQuotes.Replace(string(r.Prelude.Of(src)))),
				string(css.Normalize(r.Of(src))))
			return
		case r.At == "font-face":
			for _, x := range r.Decls {
				if x.Name == "font-family" {
					add(facts.Font, strings.TrimSpace(familyQuotes.Replace(string(x.Value.Of(src)))),
						string(css.Normalize(r.Of(src))))
				}
			}
			return
		case r.At != "":
			return
		}
		for _, x := range r.Decls {
			if strings.HasPrefix(x.Name, "--") {
				add(facts.Property, x.Name, strings.TrimSpace(string(css.Normalize(x.Value.Of(src)))))
			}
		}
		seen := map[string]bool{}
		for _, s := range r.Selectors {
			for _, c := range classesOf(s) {
				if !seen[c] {
					seen[c] = true
					add(facts.Class, c, string(css.Normalize(r.Of(src))))
				}
			}
		}
	})
}

// comesNew tells whether an item of the kit comes to the site for the first time: one that
// came before has its names by the decisions of then.
func (m *maker) comesNew(h item.Head) bool {
	row := m.rows[h.Address]
	return row != nil && comesIn(row) && row.Base == "" && row.Standing != Newer && row.Standing != Older
}

// kitDefinitions is what the stylesheets that come in define, design tokens apart: their names
// are the same on all sites.
func (m *maker) kitDefinitions() (definitions, error) {
	out := definitions{}
	for _, h := range m.parcel.Heads() {
		if h.Address.Kind != item.Stylesheet || !m.comesNew(h) {
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
		if set, err := tokens.Parse(b); err == nil {
			for _, t := range set.List {
				delete(out, facts.Name{Space: facts.Property, Name: t.Property()})
			}
		}
	}
	return out, nil
}

// siteDefinitions is what the site's stylesheets and tokens define, those apart that the
// delivery replaces or that this kit brought.
func (m *maker) siteDefinitions() (definitions, error) {
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
		b, err := readSite(m.site, h)
		if err != nil {
			return nil, err
		}
		switch h.Address.Kind {
		case item.Stylesheet:
			out.read(b)
		case item.Tokens:
			if set, err := tokens.Parse(b); err == nil {
				for _, t := range set.List {
					n := facts.Name{Space: facts.Property, Name: t.Property()}
					out[n] = append(out[n], set.CSS(t))
				}
			}
		default:
		}
	}
	return out, nil
}

func readSite(s Site, h item.Head) ([]byte, error) {
	return item.Read(opener{s}, h)
}

// opener lets item.Read read from a Site.
type opener struct{ Site }

func (o opener) Heads() []item.Head { return nil }

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
	switch {
	case strings.HasSuffix(x.Name, "animation") || strings.HasSuffix(x.Name, "animation-name"):
		for _, w := range strings.FieldsFunc(value, func(r rune) bool { return r == ' ' || r == ',' }) {
			out = append(out, facts.Name{Space: facts.Animation, Name: familyQuotes.Replace(w)})
		}
	case x.Name == "font" || x.Name == "font-family" || strings.HasPrefix(x.Name, "--"):
		for _, n := range d.fonts {
			if strings.Contains(value, n.Name) {
				out = append(out, n)
			}
		}
	}
	if strings.HasPrefix(x.Name, "--") {
		out = append(out, facts.Name{Space: facts.Property, Name: x.Name})
	}
	return slices.DeleteFunc(out, func(n facts.Name) bool { return len(d.definitions[n]) == 0 })
}
