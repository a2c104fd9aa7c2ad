package repeat

import (
	"fmt"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/span"
)

// Proposal is something that a site could hold once instead of many times.
type Proposal struct {
	// Address is the item that accepting would make; it names the proposal, too.
	Address item.Address `json:"address"`
	Role    item.Role    `json:"role,omitempty"`
	Message string       `json:"message"`
	// Likeness is the share of places that are equal wherever it stands, from 0 to 1.
	Likeness float64 `json:"likeness"`
	Stands   []Stand `json:"stands"`
	// Differs says what would be a page's own.
	Differs []Difference `json:"differs"`
	// Sure tells that it is taken without being asked for.
	Sure bool `json:"sure"`
}

// Stand is one place where a proposal's content stands now.
type Stand struct {
	Address item.Address `json:"address"`
	Slug    string       `json:"slug,omitempty"`
	Line    int          `json:"line"`
}

// Difference is one place whose value is not the same everywhere.
type Difference struct {
	What   string `json:"what"`   // "the text of <h1>", "href of <a>"
	Values int    `json:"values"` // how many there are
}

// Sure is the likeness from which a part or section is taken without a question.
const Sure = 0.8

// least is the likeness below which nothing is proposed.
const least = 0.5

// document is one page, or a part that is a whole document.
type document struct {
	head item.Head
	src  []byte
	tree *markup.Tree
}

// documents gives a collection's pages and the parts that are whole documents.
func documents(c item.Collection) []item.Head {
	var out []item.Head
	for _, h := range c.Heads() {
		if h.Address.Kind == item.Page || h.Address.Kind == item.Part && h.Meta.Role == item.NotFound {
			out = append(out, h)
		}
	}
	return out
}

func open(c item.Collection, h item.Head) (*document, error) {
	b, err := item.Read(c, h)
	if err != nil {
		return nil, err
	}
	return &document{h, b, markup.Parse(b, h.Meta.Context)}, nil
}

// occurrence is one place of a group.
type occurrence struct {
	doc    int
	at     span.Span
	line   int
	values []shape // digests of the slots' values
}

// group is all that has one shape.
type group struct {
	shape shape
	tag   string
	named called // by what all occurrences can be named
	role  item.Role
	order int // how early it stands in its documents, for naming
	occ   []occurrence
	like  float64
	// common is the digest of each slot's most common value.
	common  []shape
	address item.Address
}

// Find proposes what repeats in a collection. The cost is two readings of its pages;
// memory is bounded whatever their number.
func Find(c item.Collection) ([]Proposal, error) {
	f, err := find(c)
	if err != nil {
		return nil, err
	}
	return f.proposals()
}

func (f *finder) proposals() ([]Proposal, error) {
	out := []Proposal{}
	for _, g := range f.groups {
		p, err := f.proposal(g)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	for _, r := range f.runs {
		out = append(out, r.proposal(f))
	}
	t, err := findTokens(f.c)
	if err != nil {
		return nil, err
	}
	if t != nil {
		out = append(out, t.proposal())
	}
	return out, nil
}

func (f *finder) proposal(g *group) (Proposal, error) {
	p := Proposal{
		Address:  g.address,
		Role:     g.role,
		Likeness: g.like,
		Sure:     g.like >= Sure,
		Stands:   []Stand{},
		Differs:  []Difference{},
	}
	for _, o := range g.occ {
		h := f.heads[o.doc]
		p.Stands = append(p.Stands, Stand{h.Address, h.Meta.Slug, o.line})
	}
	what := "a band"
	switch {
	case g.role != "":
		what = "the " + string(g.role)
	case g.tag != "div" && g.tag != "section":
		what = "a <" + g.tag + ">"
	}
	p.Message = fmt.Sprintf("%s on %d of %d pages", what, len(g.occ), len(f.heads))
	doc, err := open(f.c, f.heads[g.occ[0].doc])
	if err != nil {
		return p, err
	}
	n := nodeAt(doc.tree, g.occ[0].at)
	if n == nil {
		return p, nil
	}
	for k, s := range slots(doc.src, n) {
		seen := map[shape]bool{}
		for _, o := range g.occ {
			seen[o.values[k]] = true
		}
		if len(seen) > 1 {
			p.Differs = addDifference(p.Differs, Difference{s.describe(), len(seen)})
		}
	}
	return p, nil
}

// addDifference lists each sort of place once, with the most values that one has.
func addDifference(list []Difference, d Difference) []Difference {
	for i := range list {
		if list[i].What == d.What {
			list[i].Values = max(list[i].Values, d.Values)
			return list
		}
	}
	return append(list, d)
}

func (s slot) describe() string {
	if isMark(s.node, s.attr) {
		return "mark of the current page"
	}
	if s.attr == "" {
		return "the text of <" + s.node.Tag + ">"
	}
	return s.attr + " of <" + s.node.Tag + ">"
}

func nodeAt(t *markup.Tree, at span.Span) *markup.Node {
	i := sort.Search(len(t.All), func(i int) bool { return t.All[i].Own && t.All[i].Start.Start >= at.Start })
	for ; i < len(t.All); i++ {
		if n := t.All[i]; n.Own && n.Outer() == at {
			return n
		}
	}
	return t.Find(func(n *markup.Node) bool { return n.Own && n.Outer() == at })
}
