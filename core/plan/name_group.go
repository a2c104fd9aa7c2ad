package plan

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// NameGroup is a group of the kit's names that meet, some of which the site defines, too:
// they are kept apart or shared together.
type NameGroup struct {
	Key string `json:"key"`
	// Classes, Properties, Animations and Fonts count the names that both sides define.
	Classes    int `json:"classes"`
	Properties int `json:"properties"`
	Animations int `json:"animations"`
	Fonts      int `json:"fonts"`
	// Script is what may name one of them, so that they are not renamed.
	Script        *ScriptMention `json:"script,omitempty"`
	Decision      Decision       `json:"decision,omitempty"` // empty: a question
	DecidedBy     DecidedBy      `json:"decidedBy,omitempty"`
	Choices       []Choice       `json:"choices"`
	SubjectDigest item.Digest    `json:"subjectDigest"`
}

// nameGroup is a group while it is settled.
type nameGroup struct {
	NameGroup
	names        []facts.Name // those that both sides define
	of           int          // how many the kit's group has in all
	ours, theirs definitions
	named        map[facts.Name]ScriptMention // those that a script may name
}

// subject is the digest of what a decision about the group decides: its names, and what both
// sides make of them.
func (g *nameGroup) subject() item.Digest {
	var b strings.Builder
	for _, n := range g.names {
		fmt.Fprintf(&b, "%s %s %s %s\n", n.Space, n.Name, g.ours.digest(n), g.theirs.digest(n))
	}
	return item.DigestOf([]byte(b.String()))
}

// sameFramework tells whether both sides plainly use the same framework: most of the group's
// names, and many, are defined on both.
func (g *nameGroup) sameFramework() bool { return len(g.names) >= 12 && 2*len(g.names) >= g.of }

// bringsPages tells that pages come new: they show no sheets but those that they name, so they
// could not wear the site's.
func (m *namer) bringsPages() bool {
	return slices.ContainsFunc(m.list, func(row *Row) bool {
		return row.Address.Kind == item.Page && comesIn(row) && row.Base == ""
	})
}

// onlyClasses tells whether scripts name classes of the group alone.
func (g *nameGroup) onlyClasses() bool {
	for n := range g.named {
		if n.Space != facts.Class {
			return false
		}
	}
	return true
}

// settle decides about a group, or asks.
func (m *namer) settle(g *nameGroup) error {
	g.Key, g.SubjectDigest = Key(AboutGroup, g.names[0].Name), g.subject()
	for _, n := range g.names {
		switch n.Space {
		case facts.Class:
			g.Classes++
		case facts.Property:
			g.Properties++
		case facts.Animation:
			g.Animations++
		case facts.Font:
			g.Fonts++
		default:
		}
	}
	g.Choices = m.groupChoices(g)
	if err := m.decideGroup(g); err != nil {
		return err
	}
	for i, n := range g.names {
		c, err := m.decideName(g, n)
		if err != nil {
			return err
		}
		m.applyName(n, c)
		if i < maxClashes {
			c.Kit, c.Site = g.ours.text(n), g.theirs.text(n)
			m.clashes = append(m.clashes, c)
		}
	}
	m.groups = append(m.groups, g.NameGroup)
	return nil
}

func (m *namer) groupChoices(g *nameGroup) []Choice {
	apart := Choice{Decision: Apart, Effect: fmt.Sprintf("the kit's get names of their own (%s), in all its pieces; "+
		"both sides look as they do", m.ownName(g.names[0]))}
	mark := Choice{Decision: Mark, Effect: fmt.Sprintf("classes keep their names; every element of the kit gets the "+
		"class %q, and the kit's rules apply to those only", m.markClass())}
	share := Choice{Decision: Share, Effect: "both sides' rules apply to both sides' pieces, in the order of the " +
		"stylesheets"}
	var out []Choice
	switch {
	case len(g.named) == 0 && m.looksOnly(): // it is meant for the site's own pieces
		out = []Choice{share, apart, mark}
	case len(g.named) == 0:
		out = []Choice{apart, share, mark}
	case g.onlyClasses():
		out = []Choice{mark, share}
	default:
		out = []Choice{share, mark}
	}
	if g.sameFramework() && !m.bringsPages() {
		out = append(out, Choice{Decision: Wear,
			Effect: "the kit's pieces wear the site's look: the kit's own rules " +
				"for these names stay out"})
	}
	return out
}

func (m *namer) decideGroup(g *nameGroup) error {
	fits := func(d Decided) bool {
		return slices.ContainsFunc(g.Choices, func(c Choice) bool { return c.Decision == d.Decision })
	}
	d, ok := m.decided(g.Key, g.SubjectDigest)
	_, asked := m.ask.Decisions[g.Key]
	if all, said := m.ask.Decisions[allGroups]; said && !asked {
		d, ok, asked = all, fits(all), fits(all)
	}
	if one, all := m.oneByOne(g); all && !asked {
		d, ok, asked = Decided{Decision: one}, true, true
		g.Choices = append(g.Choices, missing(g.Choices, one)...)
	}
	switch {
	case ok && !fits(d) && asked:
		return &DecisionError{g.Key, strings.TrimPrefix(g.fixed()+"; ", "; ") + "choose " + choiceWords(g.Choices),
			g.Choices}
	case ok && fits(d):
		g.Decision, g.DecidedBy = d.Decision, ByPrior
		if asked {
			g.DecidedBy = ByPerson
		}
	case m.ask.Policy == Restyle: // the site is to look like the kit
		g.Decision, g.DecidedBy = Share, ByPolicy
	case len(g.named) == 0 && !m.looksOnly():
		g.Decision, g.DecidedBy = Apart, ByRule
	case len(g.named) > 0 && g.onlyClasses():
		g.Decision, g.DecidedBy = Mark, ByRule
	case m.ask.Policy.asksNothing():
		g.Decision, g.DecidedBy = Mark, ByPolicy
	default: // asked for with the others
	}
	return nil
}

// allGroups is the key of a decision about all groups of which nobody decided alone.
var allGroups = Key(AboutGroup, "*")

// askForGroups asks for the groups that are open, all in one question.
func (m *namer) askForGroups(groups []*nameGroup) {
	var open []*nameGroup
	for _, g := range groups {
		if g.Decision == "" {
			open = append(open, g)
		}
	}
	if len(open) == 0 {
		return
	}
	first, key, names := open[0], open[0].Key, 0
	choices := slices.Clone(first.Choices)
	for _, g := range open {
		names += len(g.names)
		choices = slices.DeleteFunc(choices, func(c Choice) bool { return missing(g.Choices, c.Decision) != nil })
	}
	says := fmt.Sprintf("The name %q is defined on the site and in the kit", first.names[0].Name)
	if names > 1 {
		says = fmt.Sprintf("%d names, such as %q, are defined on the site and in the kit", names, first.names[0].Name)
	}
	if first.Script != nil { // else it is a kit of looks alone
		says += ", and " + first.Script.String()
	}
	if len(open) > 1 {
		key = allGroups
		says = fmt.Sprintf("%s. They form %d groups, which can be decided one by one", says, len(open))
		for i, c := range choices {
			choices[i] = Choice{Decision: c.Decision, Effect: groupEffects[c.Decision]}
		}
	}
	m.question(key, AboutGroup, says+".", choices)
}

// groupEffects say what a decision does for all groups.
var groupEffects = map[Decision]string{
	Apart: "the kit's get names of their own, in all its pieces; both sides look as they do",
	Mark: "classes keep their names; every element of the kit gets a class of its own, and the kit's rules " +
		"apply to those only",
	Share: "both sides' rules apply to both sides' pieces, in the order of the stylesheets",
	Wear:  "the kit's pieces wear the site's look: the kit's own rules for these names stay out",
}

// oneByOne gives what was decided about all of the group's names, if each was decided alone.
func (in *inputs) oneByOne(g *nameGroup) (Decision, bool) {
	of := map[Decision]bool{}
	for _, n := range g.names {
		d, ok := in.ask.Decisions[Key(aboutName[n.Space], n.Name)]
		if !ok {
			return "", false
		}
		of[d.Decision] = true
	}
	switch {
	case len(of) == 1 && of[Mark]:
		return Mark, true
	case of[Rename]:
		return Apart, true
	}
	return Share, true
}

// missing gives a choice for a decision that is none of some.
func missing(choices []Choice, d Decision) []Choice {
	if slices.ContainsFunc(choices, func(c Choice) bool { return c.Decision == d }) {
		return nil
	}
	return []Choice{{Decision: d, Effect: "as each name was decided alone"}}
}

func (g *nameGroup) fixed() string {
	if g.Script == nil {
		return ""
	}
	return g.Script.String()
}

// forName is what the group's decision means for one name.
func (g *nameGroup) forName(n facts.Name) Decision {
	_, named := g.named[n]
	switch {
	case g.Decision == Apart:
		return Rename
	case g.Decision == Mark && n.Space != facts.Class && !named:
		return Rename
	case g.Decision == Mark && n.Space != facts.Class:
		return Share
	}
	return g.Decision
}
