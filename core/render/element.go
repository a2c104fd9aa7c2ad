package render

import (
	"cmp"
	"errors"
	"slices"
	"strings"

	"compactparcel/core/item"
	"compactparcel/core/markup"
	"compactparcel/core/sourcemap"
	"compactparcel/core/span"
)

// stage is the rendering of one document.
type stage struct {
	r        *Renderer
	spot     PageContext
	ask      PageRequest
	record   item.Head
	reached  map[item.Address]bool
	styled   map[item.Address]bool
	scripts  []item.Address
	placed   map[item.Role]bool
	standing map[item.Role]item.Head
	variant  map[item.Role]string
	stack    []item.Address // sections and parts being written out
	overlays []item.Head
	fillsBy  map[string]sourcemap.Text // what the page fills open regions with, by their names
	taken    map[string]bool           // those that a part had
	open     []string                  // regions being written out
	searches bool                      // a search's results are shown
	css      []string                  // rules of the engine's own
	page     int                       // of a listing with several, from 1
	pages    int                       // how many it has
	rec      *sourcemap.Recorder       // nil: nobody asks where things come from
	at       int                       // the occurrence that is being written out
}

// use notes the use of an item by an element of a source.
func (s *stage) use(a item.Address, src sourcemap.Text, n *markup.Node, row int) int {
	if s.rec == nil {
		return 0
	}
	if n == nil {
		return s.rec.Enter(a, -1, span.Span{}, row)
	}
	place, ok := src.From(n.Start)
	if !ok {
		place = sourcemap.Place{Occurrence: s.at}
	}
	return s.rec.Enter(a, place.Occurrence, place.Span, row)
}

// within writes out what stands in an occurrence.
func (s *stage) within(occurrence int, write func() (sourcemap.Text, error)) (sourcemap.Text, error) {
	outer := s.at
	s.at = occurrence
	t, err := write()
	s.at = outer
	return t, err
}

// none is nothing at all.
var none sourcemap.Text

// contentMark stands in a wrapper's text where the page's content goes.
const contentMark = "<!--cp-content-->"

func (s *stage) reach(h item.Head) {
	s.reached[h.Address] = true
	if s.styled == nil {
		s.styled = map[item.Address]bool{}
	}
	for _, a := range h.Meta.Styles {
		s.styled[a] = true
	}
}

func (s *stage) reachSetting(key string) {
	a := item.Address{Kind: item.Setting, Key: key}
	if _, ok := s.r.c.Find(a); ok {
		s.reached[a] = true
	}
}

// expand writes the cp- elements of a source text out.
func (s *stage) expand(src sourcemap.Text, context string) (sourcemap.Text, error) {
	if !markup.HasCustomTags(src.Bytes) {
		return src, nil
	}
	tree := markup.Parse(src.Bytes, context)
	if tree.Opaque {
		return src, nil
	}
	var edits []sourcemap.Edit
	end := 0
	for _, n := range inSource(tree) {
		if n.Start.Start < end || !strings.Contains(n.Tag, "-") || n.Space != "" {
			continue // what stands within an element that is written out was its own business
		}
		if !strings.HasPrefix(n.Tag, "cp-") {
			s.component(n.Tag)
			continue
		}
		text, ok, err := s.element(src, n)
		if err != nil {
			return none, err
		}
		if !ok {
			continue
		}
		edits = append(edits, sourcemap.Edit{Span: n.Outer(), New: text})
		end = n.Outer().End
	}
	return src.Apply(edits)
}

// inSource lists the elements that stand in the source, in its order: the tree has implied ones between them, and
// others moved out of tables.
func inSource(tree *markup.Tree) []*markup.Node {
	var out []*markup.Node
	for _, n := range tree.All {
		if n.Own {
			out = append(out, n)
		}
	}
	slices.SortStableFunc(out, func(a, b *markup.Node) int { return cmp.Compare(a.Start.Start, b.Start.Start) })
	return out
}

// component notes that a custom element is used.
func (s *stage) component(tag string) {
	a := item.Address{Kind: item.Component, Key: tag}
	if h, ok := s.r.c.Find(a); ok && !s.reached[a] {
		s.reach(h)
		s.scripts = append(s.scripts, a)
	}
}

func (s *stage) element(src sourcemap.Text, n *markup.Node) (t sourcemap.Text, ok bool, err error) {
	switch n.Tag {
	case "cp-section":
		t, err = s.section(src, n)
	case "cp-part":
		role := item.Role(n.Value("role"))
		s.placed[role] = true
		if part, ok := s.standing[role]; ok {
			t, err = s.part(part, src, n)
		}
	case "cp-region":
		t, err = s.region(src, n)
	case "cp-menu":
		t, err = s.menu(src, n)
	case "cp-form":
		t, err = s.form(n.Value("name"))
	case "cp-title", "cp-strapline":
		t, err = s.settingText(strings.TrimPrefix(n.Tag, "cp-"), src, n)
	case "cp-logo":
		t, err = s.logo(src, n)
	case "cp-profiles":
		t, err = s.profiles(src, n)
	case "cp-content":
		if s.record.Address.IsZero() {
			return s.rec.Made(contentMark, "content mark"), true, nil
		}
		var b []byte
		b, err = s.r.read(s.record.Address)
		s.reach(s.record)
		t = s.rec.Source(b, s.use(s.record.Address, src, n, 0))
	case "cp-records":
		t, err = s.records(src, n)
	case "cp-pages":
		t = s.rec.Made(s.listingPages(n.Value("label")), "pages of a listing")
	case "cp-search":
		t = s.rec.Made(s.search(n.Value("label")), "search")
	case "cp-results":
		t, err = s.results(src, n)
	default:
		return none, false, nil
	}
	return t, true, err
}

// settingText writes a setting; a site without one gets what stands in the element.
func (s *stage) settingText(key string, src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	s.reachSetting(key)
	a := item.Address{Kind: item.Setting, Key: key}
	var v string
	if _, err := s.r.setting(key, &v); err != nil || v == "" {
		return src.Slice(n.Inner), err
	}
	b, err := s.r.read(a)
	return s.rec.JSON(a, b, s.use(a, src, n, 0)).Text("", v), err
}

// CircleError tells of pieces that stand within each other, so that none can be shown.
type CircleError struct{ Chain []item.Address }

func (e *CircleError) Error() string {
	var chain []string
	for _, a := range e.Chain {
		chain = append(chain, a.String())
	}
	return "pieces stand within each other in a circle: " + strings.Join(chain, " → ")
}

// IsUnshowable tells that a page cannot be rendered as it is written, and not that something could not be read.
func IsUnshowable(err error) bool {
	var read *item.ReadError
	return err != nil && !errors.As(err, &read)
}

func (s *stage) enter(a item.Address) error {
	for _, x := range s.stack {
		if x == a {
			return &CircleError{append(s.stack[:len(s.stack):len(s.stack)], a)}
		}
	}
	s.stack = append(s.stack, a)
	return nil
}

func (s *stage) section(src sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	a := item.Address{Kind: item.Section, Key: n.Value("name")}
	h, ok := s.r.c.Find(a)
	if !ok { // what the page shows meanwhile
		t, err := src.Slice(n.Inner).Apply(without(n, "cp-value"))
		return t.TrimSpace(), err
	}
	if err := s.enter(a); err != nil {
		return none, err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	body, err := s.r.read(a)
	if err != nil {
		return none, err
	}
	occurrence := s.use(a, src, n, 0)
	return s.within(occurrence, func() (sourcemap.Text, error) {
		t, err := s.valued(h, s.rec.Source(body, occurrence), ownValues(src, n))
		if err != nil {
			return none, err
		}
		t, err = s.expand(t, h.Meta.Context)
		return t.TrimRight("\n"), err
	})
}

// without are the edits that leave an element's own children of a tag out of its content.
func without(n *markup.Node, tag string) []sourcemap.Edit {
	var edits []sourcemap.Edit
	for _, c := range n.Children {
		if c.Tag == tag && standsIn(n, c) {
			edits = append(edits, sourcemap.Edit{Span: c.Outer().Shift(-n.Inner.Start)})
		}
	}
	return sourcemap.Outermost(edits)
}

// standsIn tells that a child of an element stands in it in the source, too: the tree has others that were written
// behind it (HTML Living Standard 13.2.6.4.7, the adoption agency).
func standsIn(n, c *markup.Node) bool {
	return c.Own && c.Start.Start >= n.Inner.Start && c.Outer().End <= n.Inner.End
}

// part writes a part out: where an element of a source names its role, or, without one, where
// it stands around the content.
func (s *stage) part(h item.Head, by sourcemap.Text, n *markup.Node) (sourcemap.Text, error) {
	if err := s.enter(h.Address); err != nil {
		return none, err
	}
	defer func() { s.stack = s.stack[:len(s.stack)-1] }()
	s.reach(h)
	src, err := s.r.read(h.Address)
	if err != nil {
		return none, err
	}
	var values map[string]sourcemap.Text
	if n != nil {
		values = ownValues(by, n)
	}
	occurrence := s.use(h.Address, by, n, 0)
	return s.within(occurrence, func() (sourcemap.Text, error) {
		t, err := s.valued(h, s.rec.Source(src, occurrence), values)
		if err != nil {
			return none, err
		}
		if v := s.variant[h.Meta.Role]; v != "" {
			if t, err = s.varied(t, h.Meta.Context, v); err != nil {
				return none, err
			}
		}
		t, err = s.expand(t, h.Meta.Context)
		return t.TrimRight("\n"), err
	})
}

// varied marks a piece's first element with a variant.
func (s *stage) varied(src sourcemap.Text, context, variant string) (sourcemap.Text, error) {
	tree := markup.Parse(src.Bytes, context)
	if len(tree.Root.Children) == 0 || !tree.Root.Children[0].Own {
		return src, nil
	}
	return src.Apply(s.made([]span.Edit{markup.SetAttr(tree.Root.Children[0], "data-variant", variant)}, "variant"))
}

// made are edits of the engine's own.
func (s *stage) made(edits []span.Edit, reason string, inputs ...item.Address) []sourcemap.Edit {
	out := make([]sourcemap.Edit, len(edits))
	for i, e := range edits {
		out[i] = sourcemap.Edit{Span: e.Span, New: s.rec.Made(string(e.New), reason, inputs...)}
	}
	return out
}

// ComponentScripts lists the addresses of the collection's components, up to a number: the
// scripts by which custom elements draw themselves.
func (r *Renderer) ComponentScripts(most int) ([]string, error) {
	var out []string
	for _, h := range r.c.OfKind(item.Component) {
		if len(out) == most {
			break
		}
		x, found, err := r.assetIfAny(h.Address)
		if err != nil {
			return nil, err
		}
		if found {
			out = append(out, x.Path)
		}
	}
	return out, nil
}
