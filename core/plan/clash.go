package plan

import (
	"fmt"
	"slices"
	"strings"

	"compactparcel/core/facts"
	"compactparcel/core/item"
)

// Clash is a class, a custom property, an animation or a font that both sides define, or a
// class of the kit's markup that only the site does. Rules that are equal clash, too: the
// kit's, which come behind, would win over what the site has after its own.
type Clash struct {
	Key   string `json:"key"`   // of a decision about it alone
	Group string `json:"group"` // the key of its group, which decides for all
	// Kind says what sort of name it is: a class, a property, an animation or a font.
	Kind     QuestionKind `json:"kind"`
	Name     string       `json:"name"`
	Kit      string       `json:"kit"`  // the kit's rules
	Site     string       `json:"site"` // the site's
	Decision Decision     `json:"decision,omitempty"`
	Becomes  string       `json:"becomes,omitempty"`
	// Fixed says why the kit's cannot be renamed.
	Fixed   string   `json:"fixed,omitempty"`
	Choices []Choice `json:"choices"`
}

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

// ScriptMention is a place of a script that may name something.
type ScriptMention struct {
	Item   item.Address `json:"item"`
	OnSite bool         `json:"onSite"` // of the site's, else of the kit's
	Line   int          `json:"line,omitempty"`
	// Literal is what stands there; empty when the script is not read.
	Literal string `json:"literal,omitempty"`
	// Name is the name that it may mean; empty: any.
	Name string `json:"name,omitempty"`
}

func (s ScriptMention) String() string {
	of := "the kit's "
	if s.OnSite {
		of = "the site's "
	}
	at := of + s.Item.String()
	if s.Line > 0 {
		at += fmt.Sprintf(", line %d", s.Line)
	}
	if s.Literal == "" {
		return at + ", runs a script that is not read here and may name anything"
	}
	return fmt.Sprintf("%s, may name %q by %q", at, s.Name, s.Literal)
}

// maxClashes bounds how many names of a group are listed with their rules.
const maxClashes = 100

// clashes finds the names that both sides define, and keeps the kit's apart, group by group, where
// that changes nothing for either side.
func (m *maker) clashes() error {
	ours, err := m.kitDefinitions()
	if err != nil || len(ours) == 0 {
		return err
	}
	theirs, err := m.siteDefinitions()
	if err != nil {
		return err
	}
	groups, err := m.groups(ours, theirs)
	if err != nil {
		return err
	}
	for _, names := range groups {
		both := slices.DeleteFunc(slices.Clone(names), func(n facts.Name) bool { return len(theirs[n]) == 0 })
		if len(both) == 0 {
			continue
		}
		if err := m.settle(&nameGroup{names: both, of: len(names), ours: ours, theirs: theirs}); err != nil {
			return err
		}
	}
	return nil
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
		fmt.Fprintf(&b, "%s %s\n%s\n%s\n", n.Space, n.Name, g.ours.text(n), g.theirs.text(n))
	}
	return item.DigestOf([]byte(b.String()))
}

// sameFramework tells whether both sides plainly use the same framework: most of the group's
// names, and many, are defined on both.
func (g *nameGroup) sameFramework() bool { return len(g.names) >= 12 && 2*len(g.names) >= g.of }

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
func (m *maker) settle(g *nameGroup) error {
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
	if err := m.findMentions(g); err != nil {
		return err
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
			m.plan.Clashes = append(m.plan.Clashes, c)
		}
	}
	m.plan.Groups = append(m.plan.Groups, g.NameGroup)
	return nil
}

func (m *maker) groupChoices(g *nameGroup) []Choice {
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
	if g.sameFramework() {
		out = append(out, Choice{Decision: Wear,
			Effect: "the kit's pieces wear the site's look: the kit's own rules " +
				"for these names stay out"})
	}
	return out
}

func (m *maker) decideGroup(g *nameGroup) error {
	fits := func(d Decided) bool {
		return slices.ContainsFunc(g.Choices, func(c Choice) bool { return c.Decision == d.Decision })
	}
	d, ok := m.decided(g.Key, g.SubjectDigest)
	_, asked := m.ask.Decisions[g.Key]
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
	default:
		says := fmt.Sprintf("The name %q is defined on the site and in the kit", g.names[0].Name)
		if n := len(g.names); n > 1 {
			says = fmt.Sprintf("%d names, such as %q, are defined on the site and in the kit", n, g.names[0].Name)
		}
		if g.Script != nil { // else it is a kit of looks alone
			says += ", and " + g.Script.String()
		}
		m.question(g.Key, AboutGroup, says+".", g.Choices)
	}
	return nil
}

// oneByOne gives what was decided about all of the group's names, if each was decided alone.
func (m *maker) oneByOne(g *nameGroup) (Decision, bool) {
	of := map[Decision]bool{}
	for _, n := range g.names {
		d, ok := m.ask.Decisions[Key(aboutName[n.Space], n.Name)]
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

// aboutName is the kind of a decision about one name of a group.
var aboutName = map[facts.Space]QuestionKind{
	facts.Class: AboutClass, facts.Property: AboutProperty, facts.Animation: AboutAnimation, facts.Font: AboutFont,
}

// decideName says what becomes of one name: what was decided about it alone, else what its
// group's decision means for it.
func (m *maker) decideName(g *nameGroup, n facts.Name) (Clash, error) {
	c := Clash{Key: Key(aboutName[n.Space], n.Name), Group: g.Key, Kind: aboutName[n.Space], Name: n.Name,
		Kit: g.ours.text(n), Site: g.theirs.text(n)}
	free := m.freeOwnName(g, n)
	share := Choice{Decision: Share, Effect: "both sides' rules for it apply to both sides' pieces"}
	if by, ok := g.named[n]; ok {
		c.Fixed = by.String()
		c.Choices = []Choice{share}
	} else {
		c.Choices = []Choice{{Decision: Rename, Effect: fmt.Sprintf("the kit's becomes %s, in all its pieces", free)},
			share}
	}
	if n.Space == facts.Class {
		c.Choices = append(c.Choices, Choice{Decision: Mark, Effect: fmt.Sprintf(
			"every element of the kit gets the class %q, and all rules of the kit apply to those only",
			m.markClass())})
	}
	if d, ok := m.decided(c.Key, about(c.Kit, c.Site)); ok {
		if !slices.ContainsFunc(c.Choices, func(x Choice) bool { return x.Decision == d.Decision }) {
			return c, &DecisionError{c.Key, strings.TrimPrefix(c.Fixed+"; ", "; ") + "choose " +
				choiceWords(c.Choices), c.Choices}
		}
		c.Decision = d.Decision
	} else {
		c.Decision = g.forName(n)
	}
	if c.Decision == Rename {
		c.Becomes = free
	}
	return c, nil
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

// applyName makes a decision part of T.
func (m *maker) applyName(n facts.Name, c Clash) {
	key := Key(aboutName[n.Space], n.Name)
	switch c.Decision {
	case Rename:
		m.names[n] = c.Becomes
		m.settled[key] = Decided{Decision: Rename, Name: c.Becomes}
	case Mark:
		m.marked = true
		m.settled[key] = Decided{Decision: Mark}
	case Wear:
		m.worn[n] = true
		m.settled[key] = Decided{Decision: Wear}
	default:
	}
}

// freeOwnName is a name's own name that neither side defines; the one of the last delivery
// stays.
func (m *maker) freeOwnName(g *nameGroup, n facts.Name) string {
	if d, ok := m.prior.Decisions[Key(aboutName[n.Space], n.Name)]; ok && d.Decision == Rename && d.Name != "" {
		return d.Name
	}
	own := m.ownName(n)
	for i := 2; ; i++ {
		as := facts.Name{Space: n.Space, Name: own}
		if len(g.theirs[as]) == 0 && len(g.ours[as]) == 0 {
			return own
		}
		own = fmt.Sprintf("%s-%d", m.ownName(n), i)
	}
}

// ownName is what a name of the kit becomes when it is kept apart.
func (m *maker) ownName(n facts.Name) string {
	if p, ok := strings.CutPrefix(n.Name, "--"); ok {
		return "--" + m.plan.Kit + "-" + p
	}
	return m.plan.Kit + "-" + n.Name
}
