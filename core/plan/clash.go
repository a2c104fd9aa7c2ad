package plan

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"compactparcel/core/css"
	"compactparcel/core/item"
)

// clashes finds classes and custom properties that both sides define in different ways.
func (m *maker) clashes() error {
	ours, err := m.rulesOf(
		m.parcel.Collection.Heads(),
		func(h item.Head) ([]byte, error) { return item.Read(m.parcel.Collection, h) },
		func(h item.Head) bool {
			row := m.rows[h.Address]
			return row != nil && (comesIn(row) || row.Decision == "") && row.Base == "" && row.Standing != Newer &&
				row.Standing != Older
		},
	)
	if err != nil || len(ours) == 0 {
		return err
	}
	replaced := map[item.Address]bool{}
	for _, row := range m.list {
		if row.Site != nil && row.Decision == Take {
			replaced[row.Site.Address] = true
		}
	}
	for _, o := range m.origins { // the kit's own, delivered earlier
		replaced[o.Item] = true
	}
	theirs, err := m.rulesOf(
		m.site.Sheets(),
		func(h item.Head) ([]byte, error) { return readSite(m.site, h) },
		func(h item.Head) bool { return !replaced[h.Address] },
	)
	if err != nil {
		return err
	}
	names := make([]string, 0, len(ours))
	for n := range ours {
		names = append(names, n)
	}
	sort.Strings(names)
	for _, n := range names {
		if theirs[n] == "" || theirs[n] == ours[n] || strings.HasPrefix(n, "--") {
			continue
		}
		c, err := m.clash(n, ours[n], theirs[n])
		if err != nil {
			return err
		}
		m.plan.Clashes = append(m.plan.Clashes, c)
	}
	return m.propertyClashes(ours, theirs)
}

// clash settles one class that both sides have, or asks.
func (m *maker) clash(class, ours, theirs string) (Clash, error) {
	key := Key(AboutClass, class)
	c := Clash{Key: key, Class: class, Kit: ours, Site: theirs}
	free := m.ownName(class)
	choices := []Choice{
		{Decision: Rename, Effect: fmt.Sprintf("the kit's class becomes %q, in all its pieces", free)},
		{Decision: Share, Effect: "both rules apply to both sides' pieces, in the order of the stylesheets"},
		{Decision: Mark, Effect: fmt.Sprintf(
			"every element of the kit gets the class %q, and all rules of the kit apply to those only",
			m.markClass())},
	}
	by, err := m.mentioned(class)
	if err != nil {
		return c, err
	}
	if by != "" {
		choices = choices[1:]
		c.Fixed = fmt.Sprintf("%s names it in a script, so it cannot be renamed", by)
	}
	c.Choices = choices
	if d, ok := m.decided(key, ""); ok {
		if !slices.ContainsFunc(choices, func(c Choice) bool { return c.Decision == d.Decision }) {
			return c, &DecisionError{key, strings.TrimPrefix(c.Fixed+"; choose ", "; ") + choiceWords(choices),
				choices}
		}
		c.Decision = d.Decision
	} else if m.ask.Policy == Unattended {
		if c.Decision = Rename; c.Fixed != "" {
			c.Decision = Mark
		}
	} else {
		m.question(key, AboutClass,
			fmt.Sprintf("The class %q means different things on the site and in the kit.", class), choices)
	}
	switch c.Decision {
	case Rename:
		c.Becomes = free
		m.classes[class] = free
	case Mark:
		m.marked = true
	default:
	}
	return c, nil
}

// propertyClashes finds custom properties that stylesheets of both sides define in
// different ways; tokens are compared by themselves.
func (m *maker) propertyClashes(ours, theirs map[string]string) error {
	names := make([]string, 0, len(ours))
	for n := range ours {
		if p, ok := strings.CutPrefix(n, "--"); ok && p != "" && theirs[n] != "" && theirs[n] != ours[n] {
			names = append(names, n)
		}
	}
	sort.Strings(names)
	for _, n := range names {
		key := Key(AboutProperty, n)
		free := m.ownName(n)
		c := Clash{
			Key:   key,
			Class: n,
			Kit:   ours[n],
			Site:  theirs[n],
			Choices: []Choice{
				{Decision: Rename, Effect: fmt.Sprintf("the kit's property becomes %s, in all its pieces", free)},
				{Decision: Share, Effect: "the last stylesheet decides, for both sides' pieces"},
			},
		}
		d, ok := m.decided(key, "")
		switch {
		case ok && d.Decision != Rename && d.Decision != Share:
			return &DecisionError{key, "choose rename or share", c.Choices}
		case ok:
			c.Decision = d.Decision
		case m.ask.Policy.asksNothing():
			c.Decision = Rename
		default:
			m.question(key, AboutProperty,
				fmt.Sprintf("The custom property %s has one value on the site and another in the kit.", n), c.Choices)
		}
		if c.Decision == Rename {
			c.Becomes = free
			m.props[n] = free
		}
		m.plan.Clashes = append(m.plan.Clashes, c)
	}
	return nil
}

// ownName is what a class or a custom property of the kit becomes when it is renamed.
func (m *maker) ownName(n string) string {
	if p, ok := strings.CutPrefix(n, "--"); ok {
		return "--" + m.plan.Kit + "-" + p
	}
	return m.plan.Kit + "-" + n
}

func readSite(s Site, h item.Head) ([]byte, error) {
	return item.Read(opener{s}, h)
}

// opener lets item.Read read from a Site.
type opener struct{ Site }

func (o opener) Heads() []item.Head { return nil }

// rulesOf gives, for every class that the sheets define, its rules in normalised form, and for
// every custom property its values.
func (m *maker) rulesOf(
	heads []item.Head,
	read func(item.Head) ([]byte, error),
	counts func(item.Head) bool,
) (map[string]string, error) {
	out := map[string][]string{}
	for _, h := range heads {
		if h.Address.Kind != item.Stylesheet || !counts(h) {
			continue
		}
		b, err := read(h)
		if err != nil {
			return nil, err
		}
		css.Parse(b).Walk(func(r *css.Rule, around []*css.Rule) {
			if r.At != "" {
				return
			}
			for _, d := range r.Decls {
				if strings.HasPrefix(d.Name, "--") {
					out[d.Name] = append(out[d.Name], strings.TrimSpace(string(css.Normalize(d.Value.Of(b)))))
				}
			}
			seen := map[string]bool{}
			for _, s := range r.Selectors {
				for _, p := range s.Parts {
					for _, x := range p.Simple {
						if x.Type == css.ByClass && !strings.HasPrefix(x.Name, "cp-") && !seen[x.Name] {
							seen[x.Name] = true
							ctx := ""
							for _, a := range around {
								ctx += "@" + a.At + " " + string(a.Prelude.Of(b)) + " "
							}
							out[x.Name] = append(out[x.Name], ctx+string(css.Normalize(r.Of(b))))
						}
					}
				}
			}
		})
	}
	joined := map[string]string{}
	for n, rules := range out {
		sort.Strings(rules)
		joined[n] = strings.Join(rules, "\n")
	}
	return joined, nil
}
