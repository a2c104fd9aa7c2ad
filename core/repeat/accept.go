package repeat

import (
	"errors"
	"fmt"
	"slices"
	"sort"

	"compactparcel/core/item"
	"compactparcel/core/render"
	"compactparcel/core/span"
	"compactparcel/core/workers"
)

// Item is an item to put, with its content.
type Item struct {
	Head    item.Head
	Content []byte
}

// Accepted is what accepting proposals changes.
type Accepted struct {
	Items []Item
	// Took names the proposals that were taken.
	Took []item.Address
	// Notes say what stays as it is, and why.
	Notes []Note
	// Left are the proposals that were not taken.
	Left []Proposal
}

// Note is a finding about one item or proposal.
type Note struct {
	Address item.Address `json:"address"`
	Message string       `json:"message"`
}

// Accept turns proposals into items that the pages use: those that are wanted by
// name, or all sure ones. Every page that is touched is shown before and after; one
// that would come out otherwise stays as it is.
func Accept(c item.Collection, wanted []item.Address, sure bool) (*Accepted, error) {
	f, err := find(c)
	if err != nil {
		return nil, err
	}
	a := &acceptor{
		f:      f,
		out:    &Accepted{},
		wanted: map[item.Address]bool{},
		edits:  map[int][]span.Edit{},
		uses:   map[int]map[item.Role]bool{},
		items:  map[item.Address]Item{},
	}
	for _, w := range wanted {
		a.wanted[w] = true
	}
	known := map[item.Address]bool{}
	var roles []item.Role
	first := map[item.Role]bool{}
	for _, g := range f.groups {
		known[g.address] = true
		if !a.wanted[g.address] && !(sure && g.like >= Sure) {
			continue
		}
		ok, err := a.group(g, first)
		if err != nil {
			return nil, err
		}
		if ok && g.role != "" && !first[g.role] {
			first[g.role] = true
			roles = append(roles, g.role)
		}
	}
	for _, r := range f.runs {
		known[r.address] = true
		if a.wanted[r.address] {
			if err := a.run(r); err != nil {
				return nil, err
			}
		}
	}
	t, err := findTokens(c)
	if err != nil {
		return nil, err
	}
	if t != nil && a.wanted[siteTokens] {
		known[siteTokens] = true
		if err := a.tokens(t); err != nil {
			return nil, err
		}
	}
	for _, w := range wanted {
		if !known[w] {
			return nil, fmt.Errorf("%s is not one of the proposals", w)
		}
	}
	if err := a.settle(roles); err != nil {
		return nil, err
	}
	all, err := f.proposals()
	if err != nil {
		return nil, err
	}
	a.out.Left = []Proposal{}
	for _, p := range all {
		if !slices.Contains(a.out.Took, p.Address) {
			a.out.Left = append(a.out.Left, p)
		}
	}
	return a.out, nil
}

type acceptor struct {
	f      *finder
	out    *Accepted
	wanted map[item.Address]bool
	edits  map[int][]span.Edit        // of documents
	uses   map[int]map[item.Role]bool // the roles that a document places itself
	items  map[item.Address]Item
}

func (a *acceptor) note(at item.Address, format string, args ...any) {
	a.out.Notes = append(a.out.Notes, Note{at, fmt.Sprintf(format, args...)})
}

// put lays an item in; its normalized digest is left to who keeps it.
func (a *acceptor) put(h item.Head, content []byte) {
	h.NormalizedDigest = ""
	h.Doc, h.Bytes = item.DigestOf(content), int64(len(content))
	a.items[h.Address] = Item{h, content}
}

// edit lays an edit into a document unless it meets one that is there.
func (a *acceptor) edit(doc int, e span.Edit) bool {
	for _, o := range a.edits[doc] {
		if e.Start < o.End && o.Start < e.End {
			return false
		}
	}
	a.edits[doc] = append(a.edits[doc], e)
	return true
}

// group makes a part or a section and lets the pages use it.
func (a *acceptor) group(g *group, first map[item.Role]bool) (bool, error) {
	m, err := a.f.make(g)
	if errors.Is(err, errTooDifferent) {
		a.note(g.address, "is not taken: %v", err)
		return false, nil
	}
	if err != nil {
		return false, err
	}
	h := item.Head{Address: g.address, Meta: item.Meta{Title: label(g.address.Key), Role: g.role}}
	open, shut := `<cp-section name="`+g.address.Key+`">`, "</cp-section>"
	if g.role != "" {
		open, shut = `<cp-part role="`+string(g.role)+`">`, "</cp-part>"
	}
	var on []string
	for i, o := range g.occ {
		head := a.f.heads[o.doc]
		if why := m.own[i]; why != "" {
			a.note(head.Address, "keeps its own copy of %s: %s", g.address, why)
			continue
		}
		if !a.edit(o.doc, span.Edit{Span: o.at, New: []byte(open + m.values[i] + shut)}) {
			continue
		}
		if g.role != "" {
			if a.uses[o.doc] == nil {
				a.uses[o.doc] = map[item.Role]bool{}
			}
			a.uses[o.doc][g.role] = true
			if head.Address.Kind == item.Page {
				on = append(on, "page:"+head.Meta.Slug)
			} else {
				on = append(on, "not-found")
			}
		}
	}
	if g.role != "" && first[g.role] { // another part of the role: on its own pages
		h.Meta.Placement = &item.Placement{Where: on}
	}
	a.put(h, m.content)
	a.out.Took = append(a.out.Took, g.address)
	return true, nil
}

func (a *acceptor) run(r *run) error {
	d, err := open(a.f.c, a.f.heads[r.doc])
	if err != nil {
		return err
	}
	items, list, err := r.records(d, a.f.taken)
	if errors.Is(err, errTooDifferent) {
		a.note(r.address, "is not taken: %v", err)
		return nil
	}
	if err != nil {
		return err
	}
	if !a.edit(r.doc, span.Edit{Span: r.at, New: []byte(list)}) {
		a.note(r.address, "is not taken: it is inside something that is; accept it afterwards")
		return nil
	}
	for _, x := range items {
		a.put(x.Head, x.Content)
	}
	a.out.Took = append(a.out.Took, r.address)
	return nil
}

func (a *acceptor) tokens(t *tokenFind) error {
	items, err := t.items(a.f.c)
	if err != nil {
		return err
	}
	for _, x := range items {
		a.put(x.Head, x.Content)
	}
	for i, h := range a.f.heads {
		d, err := open(a.f.c, h)
		if err != nil {
			return err
		}
		if e, ok := t.link(d); ok {
			a.edit(i, e)
		}
	}
	a.out.Took = append(a.out.Took, siteTokens)
	return nil
}

// settle puts the changed documents, shows each before and after, and takes back
// what would change for a visitor.
func (a *acceptor) settle(roles []item.Role) error {
	without := func(i int, h item.Head) item.Head {
		for _, role := range roles {
			if a.uses[i][role] {
				h.Meta = h.Meta.Taking(role)
			} else {
				h.Meta = h.Meta.LeavingOut(map[item.Role]bool{role: true})
			}
		}
		return h
	}
	texts := make([][]byte, len(a.f.heads))
	err := workers.Each(len(a.f.heads), func(_, i int) error {
		if len(a.edits[i]) == 0 && len(roles) == 0 {
			return nil
		}
		b, err := item.Read(a.f.c, a.f.heads[i])
		if err != nil {
			return err
		}
		if texts[i], err = span.Apply(b, a.edits[i]); err != nil {
			return fmt.Errorf("rewriting %s: %w", a.f.heads[i].Address, err)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for i, b := range texts {
		if b != nil {
			a.put(without(i, a.f.heads[i]), b)
		}
	}
	if err := a.verify(without); err != nil {
		return err
	}
	for _, x := range a.items {
		a.out.Items = append(a.out.Items, x)
	}
	sort.Slice(
		a.out.Items,
		func(i, j int) bool { return a.out.Items[i].Head.Address.Less(a.out.Items[j].Head.Address) },
	)
	return nil
}

// verify shows every changed document before and after, and takes back what would
// change for a visitor.
func (a *acceptor) verify(without func(int, item.Head) item.Head) error {
	over := laidOver(a.f.c, a.items)
	before, after := make([]*render.Renderer, workers.Count()), make([]*render.Renderer, workers.Count())
	for w := range before {
		before[w], after[w] = render.New(a.f.c), render.New(over)
	}
	other := make([]bool, len(a.f.heads))
	err := workers.Each(len(a.f.heads), func(w, i int) error {
		h := a.f.heads[i]
		if _, changed := a.items[h.Address]; !changed {
			return nil
		}
		same, err := sameShown(before[w], after[w], h)
		other[i] = !same
		return err
	})
	if err != nil {
		return err
	}
	for i, h := range a.f.heads {
		if !other[i] {
			continue
		}
		b, err := item.Read(a.f.c, h)
		if err != nil {
			return err
		}
		a.note(h.Address, "stays as it is: it would look different with what was accepted")
		a.uses[i] = nil
		a.put(without(i, h), b)
	}
	return nil
}

func sameShown(before, after *render.Renderer, h item.Head) (bool, error) {
	slug := h.Meta.Slug
	if h.Address.Kind != item.Page {
		slug = render.NotFoundSlug
	}
	x, err := before.Page(render.PageRequest{Slug: slug, Bare: true})
	if err != nil {
		return false, err
	}
	y, err := after.Page(render.PageRequest{Slug: slug, Bare: true})
	if err != nil {
		return false, err
	}
	return canon(x.Body) == canon(y.Body), nil
}

// laidOver gives a collection with items laid over it.
func laidOver(c item.Collection, items map[item.Address]Item) *item.Over {
	over := item.NewOver(c)
	for _, x := range items {
		over.Set(x.Head, x.Content)
	}
	return over
}
