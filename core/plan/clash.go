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
	Fixed         string      `json:"fixed,omitempty"`
	Choices       []Choice    `json:"choices"`
	SubjectDigest item.Digest `json:"-"`
}

// maxClashes bounds how many names of a group are listed with their rules.
const maxClashes = 100

// namer is the stage that keeps names of both sides apart.
type namer struct {
	given
	rowList
	*transform
	alone   map[item.Address]bool // what meets nothing of the site's
	groups  []NameGroup
	clashes []Clash
}

// nameClashes finds the names that both sides define, and keeps the kit's apart, group by group,
// where that changes nothing for either side. It gives T with the names.
func nameClashes(g given, of decidedItems) ([]NameGroup, []Clash, *transform, error) {
	m := &namer{given: g, rowList: of.rowList, transform: of.t.clone()}
	var err error
	if m.alone, err = alone(g, of); err == nil {
		err = m.all()
	}
	if err == nil {
		err = m.apartIDs()
	}
	return m.groups, m.clashes, m.transform, err
}

func (m *namer) all() error {
	m.tellAlone()
	ours, err := m.kitDefinitions()
	if err != nil || len(ours) == 0 {
		return err
	}
	theirs, err := m.siteDefinitions()
	if err != nil {
		return err
	}
	groups, err := m.meeting(ours, theirs)
	if err != nil {
		return err
	}
	var meet []*nameGroup
	for _, names := range groups {
		both := slices.DeleteFunc(slices.Clone(names), func(n facts.Name) bool { return len(theirs[n]) == 0 })
		if len(both) > 0 {
			meet = append(meet, &nameGroup{names: both, of: len(names), ours: ours, theirs: theirs})
		}
	}
	if err := m.findMentions(meet); err != nil {
		return err
	}
	for _, g := range meet {
		if err := m.settle(g); err != nil {
			return err
		}
	}
	if _, ok := m.ask.Decisions[allGroups]; ok {
		m.used[allGroups] = true
	}
	m.askForGroups(meet)
	return nil
}

// aboutName is the kind of a decision about one name of a group.
var aboutName = map[facts.Space]QuestionKind{
	facts.Class: AboutClass, facts.Property: AboutProperty, facts.Animation: AboutAnimation, facts.Font: AboutFont,
	facts.ID: AboutID,
}

// decideName says what becomes of one name: what was decided about it alone, else what its
// group's decision means for it.
func (m *namer) decideName(g *nameGroup, n facts.Name) (Clash, error) {
	c := Clash{Key: Key(aboutName[n.Space], n.Name), Group: g.Key, Kind: aboutName[n.Space], Name: n.Name,
		SubjectDigest: about(g.ours.digest(n), g.theirs.digest(n))}
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
	if d, ok := m.decided(c.Key, c.SubjectDigest); ok {
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

// applyName makes a decision part of T.
func (m *namer) applyName(n facts.Name, c Clash) {
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
func (m *namer) freeOwnName(g *nameGroup, n facts.Name) string {
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
func (in *inputs) ownName(n facts.Name) string {
	if p, ok := strings.CutPrefix(n.Name, "--"); ok {
		return "--" + in.prefix() + "-" + p
	}
	return in.prefix() + "-" + n.Name
}
